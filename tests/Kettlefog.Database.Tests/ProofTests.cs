using System.Globalization;
using System.Text.Json;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Proving;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>Checkpoints of the history, and proofs of its entries.</summary>
public abstract class ProofTests(Engine engine)
{
    private readonly NoteSigner _signer = NoteSigner.Create("kettlefog.0123abcd");

    [Fact]
    public async Task Every_entry_is_proven_by_every_checkpoint_that_has_it()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var checkpoints = new List<string> { await SignAsync(ledger) };
        foreach (var keys in new[] { (1L, 2L), (3L, 4L), (5L, 6L) })
        {
            await ledger.MergeAsync(keys.Item1, keys.Item2);
            checkpoints.Add(await SignAsync(ledger));
        }

        await ledger.ReverseAsync(2);
        checkpoints.Add(await SignAsync(ledger));
        foreach (var checkpoint in checkpoints)
        {
            var known = Checkpoint.Read(checkpoint);
            (await ledger.Database.History.VerifyAsync(null, known, default)).Faults.ShouldBeEmpty();
            for (var number = 1; number <= known.Size; number++)
            {
                var proof = await ledger.Database.History.ProveAsync(number, checkpoint, default);
                EntryProof.Verify(Sent(proof), _signer.Public).ShouldBe(known);
            }

            if (known.Size < 4)
                (
                    await ledger.RefusedAsync(() =>
                        ledger.Database.History.ProveAsync(known.Size + 1, checkpoint, default)
                    )
                ).Message.ShouldContain("is younger than the checkpoint");
        }
    }

    [Fact]
    public async Task A_proof_of_which_anything_was_altered_does_not_hold()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        await ledger.MergeAsync(1, 2);
        await ledger.MergeAsync(3, 4);
        await ledger.MergeAsync(5, 6);
        var proof = await ledger.Database.History.ProveAsync(2, await SignAsync(ledger), default);
        var (entry, other) = (proof.Entry, await ledger.Database.History.ProveAsync(3, proof.Checkpoint, default));
        EntryProofView[] altered =
        [
            proof with
            {
                Entry = entry with { Number = 1 },
            },
            proof with
            {
                Entry = entry with { Number = 0 },
            },
            proof with
            {
                Entry = entry with { Kind = "reversal" },
            },
            proof with
            {
                Entry = entry with { Kind = "x" },
            },
            proof with
            {
                Entry = entry with { RecordType = "x" },
            },
            proof with
            {
                Entry = entry with { Master = "5" },
            },
            proof with
            {
                Entry = entry with { At = entry.At.AddMicroseconds(1) },
            },
            proof with
            {
                Entry = entry with { Actor = "nobody" },
            },
            proof with
            {
                Entry = entry with { Reason = entry.Reason + " " },
            },
            proof with
            {
                Entry = entry with { Rule = "x" },
            },
            proof with
            {
                Entry = entry with { ApprovedBy = "" },
            },
            proof with
            {
                Entry = entry with { Reverses = 1 },
            },
            proof with
            {
                Entry = entry with { Details = entry.Details + " " },
            },
            proof with
            {
                Entry = entry with { JournalDigest = other.Entry.JournalDigest },
            },
            proof with
            {
                Entry = entry with { PreviousHash = other.Entry.PreviousHash },
            },
            proof with
            {
                Entry = other.Entry,
            },
            proof with
            {
                Path = other.Path,
            },
            proof with
            {
                Path = [.. proof.Path, proof.Path[0]],
            },
            proof with
            {
                Path = [.. proof.Path.Skip(1)],
            },
            proof with
            {
                Path = ["x"],
            },
        ];
        foreach (var bad in altered)
            Should
                .Throw<KettlefogException>(() => EntryProof.Verify(Sent(bad), _signer.Public))
                .Message.ShouldStartWith("The proof does not hold: this entry is not in the history");
        void Refused(EntryProofView bad, NoteKey key, string why) =>
            Should
                .Throw<KettlefogException>(() => EntryProof.Verify(bad, key))
                .Message.ShouldStartWith($"The proof does not hold: {why}");
        Refused(proof, NoteSigner.Create("kettlefog.0123abcd").Public, "its checkpoint is not signed by the key");
        var bent = proof.Checkpoint.Replace("\n3\n", "\n4\n", StringComparison.Ordinal);
        Refused(proof with { Checkpoint = bent }, _signer.Public, "its checkpoint was altered after it was signed");
        Refused(proof with { Entry = entry with { Number = 9 } }, _signer.Public, "its checkpoint has no such entry");
    }

    [Fact]
    public async Task A_long_history_is_proven_by_blocks()
    {
        using var ledger = await Ledger.OpenAsync(engine);
        var hash = HistoryEntry.NoHash;
        var rows = new List<string>();
        for (var number = 1; number <= 3_100; number++)
        {
            var entry = new HistoryEntry(
                number,
                EntryKind.NonDuplicates,
                "vendor",
                "1",
                DateTimeOffset.UnixEpoch,
                "c.weeks",
                "",
                "by hand",
                null,
                null,
                "{}",
                new string('0', 64),
                hash
            );
            hash = entry.ComputeHash();
            rows.Add(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"({number}, 'non-duplicates', 'vendor', '1', '1970-01-01T00:00:00.000000Z', 'c.weeks', '', "
                ) + $"'by hand', '{{}}', '{entry.JournalDigest}', '{entry.PreviousHash}', '{hash}', {number})"
            );
        }

        foreach (var part in rows.Chunk(500))
            ledger.File.Execute(
                $"INSERT INTO {ledger.File.Own("history")} (number, kind, record_type, master, at, actor, reason, "
                    + $"rule, details, journal_digest, previous_hash, hash, journal) VALUES {string.Join(", ", part)}"
            );
        var roots = new Dictionary<long, byte[]>();
        foreach (var size in new long[] { 1, 1_023, 1_024, 1_025, 2_047, 2_048, 3_100 })
        {
            var (all, _, root) = await ledger.Database.History.ReadRootsAsync(size, default);
            all.ShouldBe(3_100);
            roots[size] = root!;
            var checkpoint = Signed(size, root!);
            foreach (var number in new long[] { 1, 2, 1_023, 1_024, 1_025, 2_048, 2_049, 3_072, 3_073, 3_100 })
                if (number <= size)
                    EntryProof.Verify(
                        Sent(await ledger.Database.History.ProveAsync(number, checkpoint, default)),
                        _signer.Public
                    );
        }

        (await ledger.Database.History.ReadRootsAsync(3_101, default)).Earlier.ShouldBeNull();
    }

    public sealed class OnSqlite() : ProofTests(Engine.Sqlite)
    {
        [Fact]
        public async Task A_history_that_was_rewritten_as_a_whole_is_found_by_a_checkpoint_only()
        {
            using var ledger = await Ledger.OpenAsync();
            await ledger.MergeAsync(1, 2);
            await ledger.MergeAsync(3, 4);
            var note = await SignAsync(ledger);
            var checkpoint = Checkpoint.Read(note);
            await ledger.MergeAsync(5, 6);
            (await ledger.Database.History.VerifyAsync(null, checkpoint, default)).Faults.ShouldBeEmpty();
            ledger.File.Execute("DROP TRIGGER kettlefog_history_is_not_changed");
            var previous = HistoryEntry.NoHash;
            foreach (var number in new long[] { 1, 2, 3 })
            {
                var entry = (await ledger.Database.History.ReadAsync(number, default)).Entry;
                var forged = entry with { PreviousHash = previous, Actor = number == 1 ? "m.ashe" : entry.Actor };
                previous = forged.ComputeHash();
                ledger.File.Execute(
                    "UPDATE kettlefog_history SET actor = ?1, previous_hash = ?2, hash = ?3 WHERE number = ?4",
                    forged.Actor,
                    forged.PreviousHash,
                    previous,
                    number
                );
            }

            (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty("each entry fits the others");
            (await ledger.Database.History.VerifyAsync(null, checkpoint, default)).Faults.ShouldBe([
                "The history does not begin with the 2 entries of the checkpoint: it was rewritten since.",
            ]);
            (await ledger.RefusedAsync(() => ledger.Database.History.ProveAsync(2, note, default))).Code.ShouldBe(
                ErrorCode.NotProven
            );
        }

        [Fact]
        public async Task Entries_that_were_removed_at_the_end_are_missed_by_a_checkpoint()
        {
            using var ledger = await Ledger.OpenAsync();
            await ledger.MergeAsync(1, 2);
            await ledger.MergeAsync(3, 4);
            var checkpoint = Checkpoint.Read(await SignAsync(ledger));
            ledger.File.Execute(
                "PRAGMA foreign_keys = OFF; DROP TRIGGER kettlefog_history_is_not_removed; "
                    + "DELETE FROM kettlefog_history WHERE number = 2"
            );
            (await ledger.Database.History.VerifyAsync(default)).Faults.ShouldBeEmpty("what is left is whole");
            (await ledger.Database.History.VerifyAsync(null, checkpoint, default)).Faults.ShouldBe([
                "The checkpoint has 2 entries, and the history only 1: some were removed at the end.",
            ]);
            ledger.File.Execute("DELETE FROM kettlefog_history");
            (await ledger.Database.History.VerifyAsync(null, checkpoint, default)).Faults.ShouldHaveSingleItem();
        }

        [Fact]
        public async Task A_row_that_replaces_another_does_not_get_past_the_guards()
        {
            using var ledger = await Ledger.OpenAsync();
            await ledger.MergeAsync(1, 2);
            await ledger.ReverseAsync(1);
            var before = ledger.File.DumpAll();
            foreach (
                var (table, unique) in new[] { ("history", "number"), ("history", "journal"), ("history", "reverses") }
            )
            {
                var columns = ledger
                    .File.Query($"SELECT name FROM pragma_table_info('kettlefog_{table}')")
                    .Select(row => $"{row[0]}")
                    .ToList();
                var values = columns.Select(column =>
                    column == unique ? column
                    : column is "number" or "journal" ? "99"
                    : column == "actor" ? "'m.ashe'"
                    : column is "reverses" ? "NULL"
                    : column
                );
                Should
                    .Throw<Exception>(() =>
                        ledger.File.Execute(
                            $"INSERT OR REPLACE INTO kettlefog_{table} ({string.Join(", ", columns)}) SELECT "
                                + $"{string.Join(", ", values)} FROM kettlefog_{table} WHERE number = 2"
                        )
                    )
                    .Message.ShouldContain("append-only", Case.Insensitive, $"by {unique}");
            }

            ledger.File.DumpAll().ShouldBe(before);
        }
    }

    public sealed class OnPostgres() : ProofTests(Engine.Postgres);

    private protected async Task<string> SignAsync(Ledger ledger)
    {
        var (size, root, _) = await ledger.Database.History.ReadRootsAsync(0, default);
        return Signed(size, root);
    }

    private string Signed(long size, byte[] root) =>
        _signer.Sign(
            new Checkpoint(
                _signer.Public.Name,
                size,
                Convert.ToHexStringLower(root),
                new DateTimeOffset(2026, 4, 1, 8, 0, 0, TimeSpan.Zero)
            ).Text
        );

    /// <summary>What arrives when a proof is sent as a file.</summary>
    private static EntryProofView Sent(EntryProofView proof) =>
        JsonSerializer.Deserialize<EntryProofView>(
            JsonSerializer.Serialize(proof, ContractJson.Options),
            ContractJson.Options
        )!;
}
