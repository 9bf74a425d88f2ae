using CsCheck;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Core.Values;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>The invariants on random schemas, random data and random choices.</summary>
public class RandomMergeTests
{
    private static readonly AuditContext Who = new("c.weeks", "random");

    private int _merged;
    private long _moved;
    private int _ended;
    private int _takenOut;

    [Theory]
    [InlineData(Engine.Sqlite, 450)]
    [InlineData(Engine.Postgres, 100)]
    public void A_merge_moves_what_an_independent_model_says_and_its_reversal_restores_every_byte(
        Engine engine,
        int cases
    )
    {
        cases = RandomCases.Of(cases);
        Gen.Select(Gen.Int[0, int.MaxValue - 1], Gen.Int[0, 5])
            .Sample((seed, size) => RunAsync(engine, seed, size).GetAwaiter().GetResult(), iter: cases, threads: 2);
        _merged.ShouldBeGreaterThan(cases / 3, "most random merges are not blocked");
        _moved.ShouldBeGreaterThan(cases, "and they move rows");

        // Far below what is expected: few cases a run, each from another seed, vary a lot.
        _ended.ShouldBeGreaterThan(cases / 70, "some of which collide");
        _takenOut.ShouldBeGreaterThan(cases / 70, "and records come out of merges one by one");
    }

    private async Task RunAsync(Engine engine, int seed, int size)
    {
        using var folder = new TempFolder();
        using var file = Prepared.Create(engine, folder, "world");
        var world = new RandomWorld(seed, size, file);
        using var database = await Open(file, world.Yaml);
        var before = file.Dump();

        // Reading all of Kettlefog's tables takes as long as everything else: it is done for every tenth world.
        var everything = seed % 10 == 0 ? file.DumpAll() : null;
        void NothingElseIsWritten(string what)
        {
            if (everything is not null)
                file.DumpAll().ShouldBe(everything, what);
        }

        var choices = world.Choose();

        var plan = await database.Merges.PlanAsync(choices, default);
        (await database.Merges.PlanAsync(choices, default)).Fingerprint.Text.ShouldBe(
            plan.Fingerprint.Text,
            "the same input gives the same plan"
        );
        NothingElseIsWritten("planning writes nothing");

        if (seed % 5 == 0)
        {
            // Another program changes the tables: what was planned before is not done.
            world.AddColumn("later");
            var stale = new MergeRequest(choices, plan.Fingerprint.Text, Who, "stale");
            (
                await Should.ThrowAsync<KettlefogException>(() => database.Merges.ApplyAsync(stale, default))
            ).Code.ShouldBeOneOf(ErrorCode.PlanStale, ErrorCode.PlanBlocked);
            before = file.Dump();
            everything = everything is null ? null : file.DumpAll();
            plan = await database.Merges.PlanAsync(choices, default);
        }

        var tables = Tables(world);
        var texts = world.HasInvalidText ? TextsOf(file) : [];
        var request = new MergeRequest(choices, plan.Fingerprint.Text, Who, "key");
        if (plan.Blockers.Count > 0)
        {
            (
                await Should.ThrowAsync<KettlefogException>(() => database.Merges.ApplyAsync(request, default))
            ).Code.ShouldBe(ErrorCode.PlanBlocked);
            NothingElseIsWritten("a blocked merge changes nothing");
            return;
        }

        await database.Merges.ApplyAsync(request with { DryRun = true }, default);
        NothingElseIsWritten("a rehearsal leaves nothing behind");

        var entry = (await database.Merges.ApplyAsync(request, default)).Entry;
        Interlocked.Increment(ref _merged);
        Interlocked.Add(
            ref _moved,
            plan.Moves.Where(move => move.Reference.Policy == ReferencePolicy.Reassign).Sum(move => move.Count)
        );
        foreach (var (table, rows) in tables)
        {
            var (now, expected) = (Lines(Read(file, table)), Lines(Expected(world, plan, table, rows)));
            var ended = plan
                .Moves.Where(move => move.Table.Name == world.NameOf(table))
                .SelectMany(move => move.Collisions)
                .ToList();
            if (ended.Count == 0)
                now.ShouldBe(expected, $"{table} is as an independent reading expects");
            now.Count.ShouldBe(
                expected.Count - ended.Sum(collision => collision.Removed.Count),
                $"of {table} only what gave way is gone"
            );
            if (ended.Sum(collision => collision.Changes.Count) == 0)
                now.Except(expected).ShouldBeEmpty($"what is left of {table} is as an independent reading expects");
            Interlocked.Add(ref _ended, ended.Count);
        }

        if (world.HasInvalidText)
            TextsOf(file).Except(texts).ShouldBeEmpty("no text is rewritten on its way to the master");
        foreach (var duplicate in choices.Duplicates)
            (await database.Records.FindRedirectAsync("party", duplicate.ToString(), default))!.Master.ShouldBe(
                choices.Master.ToString(),
                "old keys lead on"
            );
        EveryOldValueCanBeRead(
            await database.History.ReadAsync(entry.Number, default),
            tables["party"],
            choices,
            world
        );
        (await database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();

        if (seed % 7 == 0)
        {
            await ReverseAfterChangesAsync(database, world, tables, entry.Number);
            return;
        }

        var back = await database.Reversals.PlanAsync(new ReversalChoices(entry.Number, false), default);
        back.Reversals.Single().Drift.ShouldBeEmpty();
        await database.Reversals.ApplyAsync(
            new ReversalRequest(new ReversalChoices(entry.Number, false), back.Fingerprint.Text, Who, "back"),
            default
        );
        file.Dump().ShouldBe(before, "the reversal restores every table byte for byte");
        foreach (var duplicate in choices.Duplicates)
            (await database.Records.FindRedirectAsync("party", duplicate.ToString(), default)).ShouldBeNull();
        (await database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
        if (choices.Duplicates.Count > 1 && seed % 3 == 0)
            await OneByOneAsync(database, file, before, choices);
    }

    /// <summary>
    /// The tables change between a merge and its reversal: what the new tables have no place for is not restored, and
    /// everything else is.
    /// </summary>
    private static async Task ReverseAfterChangesAsync(
        OperationalDatabase database,
        RandomWorld world,
        Dictionary<string, List<Dictionary<string, ColumnValue>>> before,
        long merge
    )
    {
        world.AddColumn("since");
        var renamed = world.RenameColumn();
        (await database.TakeBackAsync(merge)).ShouldAllBe(drift =>
            drift.Contains("default value of since", StringComparison.Ordinal)
            || drift.Contains("default value of renamed", StringComparison.Ordinal)
            || drift.Contains("extra", StringComparison.Ordinal)
        );
        foreach (var (table, rows) in Tables(world))
        {
            var columns = before[table].SelectMany(row => row.Keys).ToHashSet();
            columns.ExceptWith(table == renamed ? ["extra", "renamed"] : []);
            List<string> Of(IEnumerable<Dictionary<string, ColumnValue>> some) =>
                Lines([
                    .. some.Select(row =>
                        row.Where(cell => columns.Contains(cell.Key)).ToDictionary(cell => cell.Key, cell => cell.Value)
                    ),
                ]);
            Of(rows).ShouldBe(Of(before[table]), $"{table} is as it was, as far as its columns still exist");
        }

        (await database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    /// <summary>The bytes of the first column of each record.</summary>
    private static HashSet<string> TextsOf(TestDatabase file) =>
        [.. file.Query("SELECT DISTINCT typeof(f0) || hex(f0) FROM party").Select(row => (string)row[0]!)];

    /// <summary>The same merge again, reversed one record after the other.</summary>
    private async Task OneByOneAsync(
        OperationalDatabase database,
        TestDatabase file,
        List<string> before,
        MergeChoices choices
    )
    {
        var entry = await database.ApplyAsync(await database.Merges.PlanAsync(choices, default));
        foreach (var duplicate in choices.Duplicates.Skip(1))
        {
            try
            {
                (
                    await database.TakeBackAsync(new ReversalChoices(entry) { Only = duplicate.ToString() })
                ).ShouldBeEmpty();
            }
            catch (KettlefogException entangled)
                when (entangled.Message.Contains("cannot be reversed for", StringComparison.Ordinal))
            {
                continue;
            }

            Interlocked.Increment(ref _takenOut);
            (await database.Records.FindRedirectAsync("party", duplicate.ToString(), default)).ShouldBeNull();
        }

        (await database.TakeBackAsync(entry)).ShouldBeEmpty();
        file.Dump().ShouldBe(before, "one after the other they restore every table byte for byte");
        (await database.History.VerifyAsync(default)).Faults.ShouldBeEmpty();
    }

    /// <summary>The expected content of a table, computed without the code under test.</summary>
    private static List<Dictionary<string, ColumnValue>> Expected(
        RandomWorld world,
        MergePlan plan,
        string table,
        List<Dictionary<string, ColumnValue>> rows
    )
    {
        bool Is(Dictionary<string, ColumnValue> row, IReadOnlyList<string> columns, RecordKey key) =>
            columns.Select((column, part) => !row[column].IsNull && row[column] == key.Parts[part]).All(same => same);
        if (table == "party")
        {
            var expected = rows.Select(row => new Dictionary<string, ColumnValue>(row)).ToList();
            foreach (var field in plan.Fields)
            {
                var master = expected.Single(row => Is(row, world.KeyColumns, plan.Choices.Master));
                if (
                    plan.Choices.Fields.TryGetValue(field.Field.Name, out var choice)
                    && choice is FieldChoice.FromRecord(var from)
                )
                    master[field.Field.Column] = rows.Single(row => Is(row, world.KeyColumns, from))[
                        field.Field.Column
                    ];
                else
                    master[field.Field.Column] = field.Value;
            }

            foreach (var duplicate in plan.Choices.Duplicates)
            {
                var row = expected.Single(candidate => Is(candidate, world.KeyColumns, duplicate));
                if (world.MarkRetires)
                    row["status"] = ColumnValue.Of("merged");
                else
                    expected.Remove(row);
            }

            return expected;
        }

        var child = world.Children.Single(candidate => candidate.Table == table);
        return rows.Select(row =>
            {
                var after = new Dictionary<string, ColumnValue>(row);
                foreach (
                    var reference in child.References.Where(reference =>
                        reference.Policy == "reassign"
                        && (!reference.Polymorphic || row["kind"] == ColumnValue.Of("party"))
                    )
                )
                {
                    if (
                        !plan.Choices.Duplicates.Any(duplicate =>
                            Is(row, reference.Columns, world.PointedAt(reference, duplicate))
                        )
                    )
                        continue;
                    foreach (
                        var (column, value) in reference.Columns.Zip(
                            world.PointedAt(reference, plan.Choices.Master).Parts
                        )
                    )
                        after[column] = value;
                }

                return after;
            })
            .ToList();
    }

    private static void EveryOldValueCanBeRead(
        RecordedEntry recorded,
        List<Dictionary<string, ColumnValue>> parties,
        MergeChoices choices,
        RandomWorld world
    )
    {
        var details = DetailsJson.Read<MergeDetails>(recorded.Entry.Details);
        var keys = choices.Keys.ToList();
        for (var index = 0; index < keys.Count; index++)
        {
            var row = parties.Single(candidate =>
                world
                    .KeyColumns.Select((column, part) => candidate[column] == keys[index].Parts[part])
                    .All(same => same)
            );
            foreach (var column in row.Keys.Where(column => column.StartsWith('f') || column == "status"))
                details
                    .Fields.Single(field => field.Name == column)
                    .Values[index]
                    .ShouldBe(row[column].ToText(), $"{column} as it was");
        }
    }

    private static Dictionary<string, List<Dictionary<string, ColumnValue>>> Tables(RandomWorld world) =>
        world
            .Children.Select(child => child.Table)
            .Append("party")
            .ToDictionary(table => table, table => Read(world.File, table));

    private static List<Dictionary<string, ColumnValue>> Read(TestDatabase file, string table) =>
        [
            .. file.Rows(table)
                .Select(row => row.ToDictionary(cell => cell.Key, cell => ColumnValue.FromDriver(cell.Value))),
        ];

    private static List<string> Lines(List<Dictionary<string, ColumnValue>> rows) =>
        [
            .. rows.Select(row =>
                    string.Join(" ¦ ", row.Select(cell => $"{cell.Key}={cell.Value.Storage}:{cell.Value}"))
                )
                .Order(StringComparer.Ordinal),
        ];

    private static async Task<OperationalDatabase> Open(TestDatabase file, string yaml)
    {
        return await OperationalDatabase.OpenAsync(
            file.Address,
            MapReader.Read(yaml, "random.yaml"),
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            default
        );
    }
}
