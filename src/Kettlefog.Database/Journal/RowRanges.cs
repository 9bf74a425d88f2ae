namespace Kettlefog.Database.Journal;

/// <summary>
/// Splits the rows of a journal step, which are numbered from 1, into ranges that are processed together.
/// </summary>
internal static class RowRanges
{
    /// <summary>Fewer rows than this are moved in one statement.</summary>
    public const long MinRowsPerMove = 50_000;
    private const int MaxMoveParts = 10;

    /// <summary>The ranges of a step's rows.</summary>
    public static IEnumerable<(long First, long Last)> Parts(long rows) =>
        Of(rows, Math.Max(MinRowsPerMove, rows / MaxMoveParts));

    /// <summary>The ranges of a step's rows, of the given size.</summary>
    public static IEnumerable<(long First, long Last)> Of(long rows, long size)
    {
        for (var first = 1L; first <= rows; first += size)
            yield return (first, Math.Min(rows, first + size - 1));
    }
}
