using Kettlefog.Core.Values;

namespace Kettlefog.Core.History;

/// <summary>What an entry of the history records.</summary>
public enum EntryKind
{
    /// <summary>Records were merged.</summary>
    Merge,

    /// <summary>A merge was reversed.</summary>
    Reversal,

    /// <summary>Records were marked as not duplicates.</summary>
    NonDuplicates,

    /// <summary>Such a decision was reopened.</summary>
    Reopened,
}

/// <summary>
/// One entry of the history. Entries are never changed and never removed; each holds the hash of the one before.
/// </summary>
/// <param name="Number">Its number, counted from 1 without gaps; also the number of the merge or reversal.</param>
/// <param name="Kind">What it records.</param>
/// <param name="RecordType">The name of the record type.</param>
/// <param name="Master">The master's key, in its text form.</param>
/// <param name="At">When, in UTC, to the microsecond.</param>
/// <param name="Actor">Who did it.</param>
/// <param name="Reason">Why, in the actor's words; empty if none was given.</param>
/// <param name="Rule">By which rule or file line; <c>by hand</c> if an operator picked the records.</param>
/// <param name="ApprovedBy">With whose approval, or null if none was needed.</param>
/// <param name="Reverses">The number of the merge that it reverses, or null.</param>
/// <param name="Details">All that was decided and done, as JSON text.</param>
/// <param name="JournalDigest">SHA-256 of the journal rows that belong to the entry, in hexadecimal digits.</param>
/// <param name="PreviousHash">The hash of the entry before; 64 zeros for the first.</param>
public sealed record HistoryEntry(
    long Number,
    EntryKind Kind,
    string RecordType,
    string Master,
    DateTimeOffset At,
    string Actor,
    string Reason,
    string Rule,
    string? ApprovedBy,
    long? Reverses,
    string Details,
    string JournalDigest,
    string PreviousHash
)
{
    /// <summary>The previous hash of the first entry.</summary>
    public static readonly string NoHash = new('0', 64);

    /// <summary>SHA-256 over every part of the entry, the previous hash included, in hexadecimal digits.</summary>
    public string ComputeHash()
    {
        using var digest = new Sha256Digest();
        digest
            .Add(PreviousHash)
            .Add(Number)
            .Add((long)Kind)
            .Add(RecordType)
            .Add(Master)
            .Add(At.UtcTicks)
            .Add(Actor)
            .Add(Reason)
            .Add(Rule)
            .Add(ApprovedBy)
            .Add(Reverses ?? 0)
            .Add(Details)
            .Add(JournalDigest);
        return Convert.ToHexStringLower(digest.Finish());
    }
}

/// <summary>An entry with the hash that is stored beside it.</summary>
/// <param name="Entry">The entry.</param>
/// <param name="Hash">The stored hash.</param>
public sealed record ChainedEntry(HistoryEntry Entry, string Hash);
