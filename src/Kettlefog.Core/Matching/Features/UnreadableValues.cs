using System.Collections.Concurrent;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching.Features;

/// <summary>A value that could not be read, and counts as missing.</summary>
/// <param name="Record">The number of the record.</param>
/// <param name="What">What could not be read, such as <c>Phone</c>.</param>
/// <param name="Reason">Why, in the words of the error.</param>
/// <param name="Other">The number of the record that it could not be compared with; null for a single value.</param>
public sealed record UnreadableValue(int Record, string What, string Reason, int? Other = null);

/// <summary>
/// Values that no reader can cope with. One of them must not end a scan of a million records: it counts as missing, and
/// is reported. Used by several threads.
/// </summary>
internal sealed class UnreadableValues
{
    private const int MaxListed = 100;

    private readonly ConcurrentQueue<UnreadableValue> _listed = [];
    private long _count;

    /// <summary>How many there are.</summary>
    public long Count => Interlocked.Read(ref _count);

    /// <summary>The first hundred.</summary>
    public IReadOnlyList<UnreadableValue> Listed => [.. _listed.Take(MaxListed)];

    /// <summary>Prepares a record's values for a feature; nothing is appended if they cannot be read.</summary>
    /// <param name="feature">The feature.</param>
    /// <param name="record">The number of the record; negative if it has none.</param>
    /// <param name="row">The record's values.</param>
    /// <param name="words">A buffer of the calling thread.</param>
    /// <param name="into">Where the slice is appended.</param>
    public void Prepare(Feature feature, int record, IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        var start = into.Count;
        try
        {
            feature.Prepare(row, words, into);
        }
        catch (Exception error) when (error is not OutOfMemoryException)
        {
            into.RemoveRange(start, into.Count - start);
            Add(record, feature.Evidence[0].Title, error);
        }
    }

    /// <summary>Adds one.</summary>
    public void Add(int record, string what, Exception error, int? other = null)
    {
        if (record < 0)
            return;
        if (Interlocked.Increment(ref _count) <= MaxListed)
            _listed.Enqueue(new UnreadableValue(record, what, error.Message, other));
    }
}
