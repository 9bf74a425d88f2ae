using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>A database made of a few statements, with its map.</summary>
internal sealed class SmallWorld : IDisposable
{
    private readonly TempFolder _folder = new();

    private SmallWorld(Engine engine, string sql)
    {
        File = TestDatabase.Create(engine, _folder, "small");
        File.Execute(sql);
    }

    public TestDatabase File { get; }

    public OperationalDatabase Database { get; private set; } = null!;

    public static async Task<SmallWorld> OpenAsync(Engine engine, string sql, string recordTypes)
    {
        var world = new SmallWorld(engine, sql);
        try
        {
            await OwnTablesMaintenance.InitialiseAsync(world.File.Address, null, default);
            var map = MapReader.Read(TestMap.WithTypes(recordTypes), "small.yaml");
            world.Database = await OperationalDatabase.OpenAsync(
                world.File.Address,
                map,
                TimeSpan.FromSeconds(5),
                TimeProvider.System,
                default
            );
            return world;
        }
        catch
        {
            world.Dispose();
            throw;
        }
    }

    /// <summary>Records of a type by their keys in text form, the master first.</summary>
    public MergeChoices Choices(string type, params string[] keys)
    {
        var read = keys.Select(key => Database.Records.ReadKey(Database.Map.Map.Require(type), key)).ToList();
        return new MergeChoices(type, read[0], read[1..], new Dictionary<string, FieldChoice>());
    }

    public Task<MergePlan> PlanAsync(MergeChoices choices) => Database.Merges.PlanAsync(choices, default);

    public Task<MergePlan> PlanAsync(string type, params string[] keys) => PlanAsync(Choices(type, keys));

    /// <summary>Plans and applies a merge of records by their keys in text form, the master first.</summary>
    public async Task<long> MergeAsync(string type, params string[] keys) =>
        await Database.ApplyAsync(await PlanAsync(type, keys));

    /// <summary>The first column of a query's result, as text.</summary>
    public IEnumerable<string> Column(string sql) => File.Query(sql).Select(row => $"{row[0]}");

    public void Dispose()
    {
        Database?.Dispose();
        File.Dispose();
        _folder.Dispose();
    }
}
