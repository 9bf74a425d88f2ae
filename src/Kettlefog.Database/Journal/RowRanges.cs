namespace Kettlefog.Database.Journal;

/// <summary>
/// Splits the rows of a journal step, which are numbered from 1, into ranges that are handled at once.
/// </summary>
internal static class RowRanges
{
    /// <summary>Fewer rows than these are moved in one statement.</summary>
    public const long MinRowsPerMove = 50_000;
    private const int MaxMoveParts = 10;

    /// <summary>The rows of a step in parts that are moved at once.</summary>
    public static IEnumerable<(long First, long Last)> Parts(long rows) =>
        Of(rows, Math.Max(MinRowsPerMove, rows / MaxMoveParts));

    /// <summary>The rows of a step, so many at once.</summary>
    public static IEnumerable<(long First, long Last)> Of(long rows, long size)
    {
        for (var first = 1L; first <= rows; first += size)
            yield return (first, Math.Min(rows, first + size - 1));
    }
}
