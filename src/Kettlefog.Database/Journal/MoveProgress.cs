namespace Kettlefog.Database.Journal;

/// <summary>How far a merge or a reversal has come.</summary>
/// <param name="Moved">The related rows that were moved, or returned, so far.</param>
/// <param name="Total">How many there are to move.</param>
public readonly record struct MoveProgress(long Moved, long Total);

/// <summary>Counts rows as they are moved, and tells whoever wants to know.</summary>
/// <param name="progress">Is told; null for nobody.</param>
internal sealed class RowCounter(IProgress<MoveProgress>? progress)
{
    private long _moved;
    private long _toMove;

    /// <summary>So many rows more are to be moved.</summary>
    public void Expect(long rows)
    {
        _toMove += rows;
        progress?.Report(new MoveProgress(_moved, _toMove));
    }

    /// <summary>So many rows more were moved.</summary>
    public void Add(long rows)
    {
        _moved += rows;
        progress?.Report(new MoveProgress(_moved, _toMove));
    }
}
