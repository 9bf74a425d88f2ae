using System.Globalization;
using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Drafting;

/// <summary>A column with a sample of its values.</summary>
/// <param name="Column">The column.</param>
/// <param name="Values">
/// Values of the sampled rows in text form, without blanks; a value may occur more than once.
/// </param>
public sealed record ColumnProfile(ColumnSchema Column, IReadOnlyList<string> Values)
{
    /// <summary>The distinct values.</summary>
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

    /// <summary>
    /// Of a table without a primary key, the columns whose values are all given and all different.
    /// </summary>
    public IReadOnlyList<string> UniqueColumns { get; init; } = [];

    /// <summary>The number of rows for people.</summary>
    public string RowsInWords =>
        Rows == 1 ? "1 row"
        : Rows < MaxCounted ? string.Create(CultureInfo.InvariantCulture, $"{Rows} rows")
        : string.Create(CultureInfo.InvariantCulture, $"{MaxCounted} rows or more");
}

/// <summary>A database, as the drafter sees it.</summary>
/// <param name="Name">The name of the database.</param>
/// <param name="Tables">The tables with samples; views are left out.</param>
public sealed record DatabaseProfile(string Name, IReadOnlyList<TableProfile> Tables);
