using System.Diagnostics;
using Kettlefog.Contracts;
using Kettlefog.Core.History;
using Kettlefog.Core.Proving;
using Kettlefog.Testing;

namespace Kettlefog.Bench;

/// <summary>
/// Proofs of entries in a history of a million, over HTTP, beside a floor: reading an entry of the same history.
/// </summary>
internal static class Proofs
{
    private const int Entries = 1_000_000;
    private const int MostMilliseconds = 50;
    private const int MostToVerify = 5;

    public static async Task<bool> RunAsync()
    {
        await using var service = await RunningService.StartAsync(10);
        await service.KillAsync();
        var sample = Enumerable.Range(1, 20).Select(each => each * (Entries / 20)).ToHashSet();
        var previous = HistoryEntry.NoHash;
        foreach (var part in Enumerable.Range(1, Entries).Chunk(1_000))
            service.Database.Execute(
                "INSERT INTO kettlefog_history (number, kind, record_type, master, at, actor, reason, rule, details, "
                    + "journal_digest, previous_hash, hash, journal) VALUES "
                    + string.Join(", ", part.Select(Row))
            );
        string Row(int number)
        {
            var entry = new HistoryEntry(
                number,
                EntryKind.NonDuplicates,
                "vendor",
                "1001",
                DateTimeOffset.UnixEpoch,
                "c.weeks",
                "",
                "by hand",
                null,
                null,
                """{"records":[{"key":"1001","label":"A"},{"key":"1002","label":"B"}],"cluster":null}""",
                HistoryEntry.NoHash,
                previous
            );
            previous = entry.ComputeHash();
            return $"({number}, 'non-duplicates', 'vendor', '1001', '1970-01-01T00:00:00.000000Z', 'c.weeks', '', "
                + $"'by hand', '{entry.Details}', '{entry.JournalDigest}', '{entry.PreviousHash}', '{previous}', "
                + $"{number})";
        }

        await service.ServeAsync("--checkpoint-hours", "0");
        var clock = Stopwatch.StartNew();
        var checkpoint = await service.Client.SignCheckpointAsync();
        Console.WriteLine($"a checkpoint of {checkpoint.Size} entries: {clock.ElapsedMilliseconds} ms");
        clock.Restart();
        await service.Client.ProveEntryAsync(1, checkpoint.Text);
        Console.WriteLine($"the first proof after a start: {clock.ElapsedMilliseconds} ms");
        var key = NoteKey.TryRead((await service.Client.CheckpointKeyAsync()).Key)!;
        var (floor, made, verified) = (new Times(), new Times(), new Times());
        foreach (var number in sample)
        {
            await floor.MeasureAsync(() => service.Client.EntryAsync(number));
            var proof = (EntryProofView?)null;
            await made.MeasureAsync(async () => proof = await service.Client.ProveEntryAsync(number, checkpoint.Text));
            await verified.MeasureAsync(() =>
            {
                EntryProof.Verify(proof!, key);
                return Task.CompletedTask;
            });
        }

        Console.WriteLine(
            $"a proof, median (95th percentile): {made.Median:F1} ms ({made.P95:F1}; at most {MostMilliseconds}); "
                + $"reading the entry, the floor: {floor.Median:F1} ms; verified: {verified.Median:F1} ms "
                + $"({verified.P95:F1}; at most {MostToVerify})"
        );
        return made.P95 <= MostMilliseconds && verified.P95 <= MostToVerify;
    }
}
