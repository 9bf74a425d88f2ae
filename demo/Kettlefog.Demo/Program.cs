using System.Globalization;
using Kettlefog.Demo;
using Kettlefog.Demo.Truth;

const int DefaultVendors = 420;
const int DefaultSeed = 20260302;
const string MapFile = "saltmarrow.map.yaml";

if (args is ["people" or "organisations", var truthFolder, ..])
{
    TruthWorld.Make(args[0], truthFolder, Number(2, 100_000), Number(3, 7));
    return 0;
}

if (args is ["postgres", var connection, var postgresFolder, ..])
{
    Directory.CreateDirectory(postgresFolder);
    var copied = Path.Combine(postgresFolder, "saltmarrow.copied.db");
    File.Delete(copied);
    World.Make(copied, Number(3, DefaultVendors), Number(4, DefaultSeed));
    PostgresCopy.Run(copied, connection);
    File.Delete(copied);
    File.WriteAllText(Path.Combine(postgresFolder, MapFile), World.Resource(MapFile));
    return 0;
}

if (args is not [var folder, ..] || folder.StartsWith('-'))
{
    Console.Error.WriteLine("usage: kettlefog-demo FOLDER [VENDORS [SEED]]");
    Console.Error.WriteLine("       kettlefog-demo postgres CONNECTION-STRING FOLDER [VENDORS [SEED]]");
    Console.Error.WriteLine("       kettlefog-demo people|organisations FOLDER [RECORDS [SEED]]");
    return 2;
}

var vendors = Number(1, DefaultVendors);
var seed = Number(2, DefaultSeed);
Directory.CreateDirectory(folder);
var file = Path.Combine(folder, "saltmarrow.db");
if (File.Exists(file))
{
    Console.Error.WriteLine($"{file} exists already.");
    return 1;
}

// Made under a temporary name first, so that an interrupted run does not leave an incomplete world.
var unfinished = file + ".unfinished";
File.Delete(unfinished);
World.Make(unfinished, vendors, seed);
File.Move(unfinished, file);
File.WriteAllText(Path.Combine(folder, MapFile), World.Resource(MapFile));
return 0;

int Number(int place, int fallback) =>
    args.Length > place ? int.Parse(args[place], CultureInfo.InvariantCulture) : fallback;
