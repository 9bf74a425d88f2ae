using System.Globalization;
using Kettlefog.Demo;

if (args is not [var folder, ..] || folder.StartsWith('-'))
{
    Console.Error.WriteLine("usage: kettlefog-demo FOLDER [VENDORS [SEED]]");
    return 2;
}

var vendors = args.Length > 1 ? int.Parse(args[1], CultureInfo.InvariantCulture) : 420;
var seed = args.Length > 2 ? int.Parse(args[2], CultureInfo.InvariantCulture) : 20260302;
Directory.CreateDirectory(folder);
var file = Path.Combine(folder, "saltmarrow.db");
if (File.Exists(file))
{
    Console.Error.WriteLine($"{file} exists already.");
    return 1;
}

// Made under another name first, so that a broken-off run is not taken for a whole world.
var unfinished = file + ".unfinished";
File.Delete(unfinished);
World.Make(unfinished, vendors, seed);
File.Move(unfinished, file);
File.WriteAllText(Path.Combine(folder, "saltmarrow.map.yaml"), World.Resource("saltmarrow.map.yaml"));
return 0;
