using System.Globalization;
using Kettlefog.Demo;
using Kettlefog.Demo.Truth;

if (args is ["people" or "organisations", var truthFolder, ..])
{
    TruthWorld.Make(args[0], truthFolder, Number(2, 100_000), Number(3, 7));
    return 0;
}

if (args is not [var folder, ..] || folder.StartsWith('-'))
{
    Console.Error.WriteLine("usage: kettlefog-demo FOLDER [VENDORS [SEED]]");
    Console.Error.WriteLine("       kettlefog-demo people|organisations FOLDER [RECORDS [SEED]]");
    return 2;
}

var vendors = Number(1, 420);
var seed = Number(2, 20260302);
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

int Number(int place, int usual) => args.Length > place ? int.Parse(args[place], CultureInfo.InvariantCulture) : usual;
