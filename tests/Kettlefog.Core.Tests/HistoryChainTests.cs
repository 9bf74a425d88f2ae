using CsCheck;
using Kettlefog.Core.History;

namespace Kettlefog.Core.Tests;

public class HistoryChainTests
{
    [Fact]
    public void A_chain_left_alone_is_whole()
    {
        var check = Check(Chain(5));
        check.Faults.ShouldBeEmpty();
        check.Entries.ShouldBe(5);
        check.Head.ShouldBe(Chain(5)[^1].Hash);
    }

    [Fact]
    public void Whatever_is_altered_in_an_entry_is_found() =>
        Gen.Select(Gen.Int[0, 4], Gen.Int[0, Alterations.Length - 1])
            .Sample(
                (at, how) =>
                {
                    var chain = Chain(5);
                    chain[at] = chain[at] with { Entry = Alterations[how](chain[at].Entry) };
                    return Check(chain).Faults.Count > 0;
                }
            );

    [Fact]
    public void An_entry_forged_with_its_own_hash_breaks_the_next_one()
    {
        var chain = Chain(5);
        var forged = chain[2].Entry with { Reason = "another" };
        chain[2] = new ChainedEntry(forged, forged.ComputeHash());
        Check(chain).Faults.ShouldBe(["Entry 4 does not follow the entry before it."]);
    }

    [Fact]
    public void An_entry_taken_out_is_found()
    {
        var chain = Chain(5);
        chain.RemoveAt(2);
        Check(chain).Faults[0].ShouldBe("Entry 3 is missing; entry 4 is in its place.");
    }

    [Fact]
    public void An_altered_journal_is_found() =>
        Check(Chain(3), digest: entry => entry.Number == 2 ? "other" : "digest")
            .Faults.ShouldBe(["The journal of entry 2 was altered."]);

    private static readonly Func<HistoryEntry, HistoryEntry>[] Alterations =
    [
        entry => entry with { Kind = EntryKind.Reversal },
        entry => entry with { RecordType = "account" },
        entry => entry with { Master = "2" },
        entry => entry with { At = entry.At.AddTicks(10) },
        entry => entry with { Actor = "somebody.else" },
        entry => entry with { Reason = "" },
        entry => entry with { Rule = "rule 7" },
        entry => entry with { ApprovedBy = "somebody" },
        entry => entry with { Reverses = 1 },
        entry => entry with { Details = "{ }" },
    ];

    [Fact]
    public void A_check_continues_from_an_entry_that_was_checked_before()
    {
        var chain = Chain(5);
        var after = (Number: 3L, chain[2].Hash);
        var rest = Check(chain[3..], after);
        (rest.Entries, rest.Last, rest.Head).ShouldBe((2, 5, chain[4].Hash));
        rest.Faults.ShouldBeEmpty();
        Check(chain[4..], after).Faults[0].ShouldBe("Entry 4 is missing; entry 5 is in its place.");
        Check(chain[3..], after with { Hash = chain[1].Hash })
            .Faults.ShouldBe(["Entry 4 does not follow the entry before it."]);
        var verifier = new ChainVerifier(3, chain[2].Hash);
        verifier.EnsureStartsAt(chain[1].Hash);
        verifier.Result.Faults.Single().ShouldStartWith("Entry 3 has another hash than it had");
    }

    private static ChainCheck Check(
        IEnumerable<ChainedEntry> chain,
        (long Number, string Hash)? after = null,
        Func<HistoryEntry, string>? digest = null
    )
    {
        var verifier = new ChainVerifier(after?.Number ?? 0, after?.Hash ?? HistoryEntry.NoHash);
        foreach (var entry in chain)
            verifier.Add(entry, digest?.Invoke(entry.Entry) ?? "digest");
        return verifier.Result;
    }

    private static List<ChainedEntry> Chain(int length)
    {
        var chain = new List<ChainedEntry>();
        var previous = HistoryEntry.NoHash;
        for (var number = 1; number <= length; number++)
        {
            var entry = new HistoryEntry(
                number,
                EntryKind.Merge,
                "vendor",
                "1",
                DateTimeOffset.UnixEpoch.AddDays(number),
                "c.weeks",
                "same firm",
                "by hand",
                null,
                null,
                "{}",
                "digest",
                previous
            );
            previous = entry.ComputeHash();
            chain.Add(new ChainedEntry(entry, previous));
        }

        return chain;
    }
}
