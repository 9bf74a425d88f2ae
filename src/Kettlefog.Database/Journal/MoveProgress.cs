namespace Kettlefog.Database.Journal;

/// <summary>The progress of a merge or a reversal.</summary>
/// <param name="Moved">The related rows moved so far.</param>
/// <param name="Total">How many there are to move.</param>
public readonly record struct MoveProgress(long Moved, long Total);

/// <summary>Counts rows as they are moved, and reports progress.</summary>
/// <param name="progress">Receives the progress; null for nobody.</param>
internal sealed class RowCounter(IProgress<MoveProgress>? progress)
{
    private long _moved;
    private long _toMove;

    /// <summary>Adds rows that are to be moved.</summary>
    public void Expect(long rows)
    {
        _toMove += rows;
        progress?.Report(new MoveProgress(_moved, _toMove));
    }

    /// <summary>Adds rows that were moved.</summary>
    public void Add(long rows)
    {
        _moved += rows;
        progress?.Report(new MoveProgress(_moved, _toMove));
    }
}
