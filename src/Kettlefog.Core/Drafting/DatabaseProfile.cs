using System.Globalization;
using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Drafting;

/// <summary>What a sample of a column's values looks like.</summary>
/// <param name="Column">The column.</param>
/// <param name="Values">
/// Values of the sampled rows in text form, blank ones left out; the same value may stand there more than once.
/// </param>
public sealed record ColumnProfile(ColumnSchema Column, IReadOnlyList<string> Values)
{
    /// <summary>The different values.</summary>
    public IReadOnlyList<string> Distinct { get; } = [.. Values.Distinct(StringComparer.Ordinal)];
}

/// <summary>A table with a sample of its rows.</summary>
/// <param name="Table">The table.</param>
/// <param name="Columns">Its columns, in the order of the table.</param>
public sealed record TableProfile(TableSchema Table, IReadOnlyList<ColumnProfile> Columns)
{
    /// <summary>More rows are not counted.</summary>
    public const long MaxCounted = 10_000;

    /// <summary>How many rows it has, up to <see cref="MaxCounted"/>.</summary>
    public long Rows { get; init; }

    /// <summary>The number of rows for people.</summary>
    public string RowsInWords =>
        Rows == 1 ? "1 row"
        : Rows < MaxCounted ? string.Create(CultureInfo.InvariantCulture, $"{Rows} rows")
        : string.Create(CultureInfo.InvariantCulture, $"{MaxCounted} rows or more");
}

/// <summary>A database as a draft of its map is made from it.</summary>
/// <param name="Name">What the database is called.</param>
/// <param name="Tables">The tables with samples; views are left out.</param>
public sealed record DatabaseProfile(string Name, IReadOnlyList<TableProfile> Tables);
