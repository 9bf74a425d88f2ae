using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Map.Checking;

/// <summary>Finds the tables and columns that a map names, and reports those that are missing or do not fit.</summary>
internal abstract class CatalogCheck(MapDocument document, DatabaseCatalog catalog, MapProblems problems)
{
    /// <summary>The map, as read.</summary>
    protected MapDocument Document => document;

    /// <summary>The database's tables.</summary>
    protected DatabaseCatalog Catalog => catalog;

    /// <summary>The table of that name; null, with a problem reported, if there is none.</summary>
    protected TableSchema? Table(string name, string path)
    {
        if (catalog.Find(name) is { } table)
            return table;
        Problem(
            path,
            $"The database has no table '{name}'.",
            Spelling.Instead(name, catalog.Tables.Select(known => known.Name))
        );
        return null;
    }

    /// <summary>The column of that name; null, with a problem reported, if there is none.</summary>
    protected ColumnSchema? Column(string name, TableSchema table, string path)
    {
        if (table.Find(name) is { } column)
            return column;
        Problem(
            path,
            $"The table '{table.Name}' has no column '{name}'.",
            Spelling.Instead(name, table.Columns.Select(known => known.Name))
        );
        return null;
    }

    /// <summary>The key columns: those named, or the primary key.</summary>
    protected IReadOnlyList<string> Key(
        IReadOnlyList<string> named,
        TableSchema table,
        string path,
        string tablePath,
        bool mustBeUnique = true
    )
    {
        if (named.Count == 0)
        {
            if (table.PrimaryKey.Count == 0)
                Problem(
                    tablePath,
                    $"The table '{table.Name}' has no primary key.",
                    "Name columns that are unique together with 'key: [...]'."
                );
            return table.PrimaryKey;
        }

        var columns = named.Select(name => Column(name, table, path)).ToList();
        if (columns.Any(column => column is null))
            return named;
        if (mustBeUnique && !IsUnique(named, table))
            Problem(
                path,
                $"Nothing makes {string.Join(", ", named)} unique in '{table.Name}'.",
                table.PrimaryKey.Count > 0
                    ? $"Name the primary key: {string.Join(", ", table.PrimaryKey)}."
                    : "Create a unique index on them first."
            );
        return columns.Select(column => column!.Name).ToList();
    }

    /// <summary>True if the database keeps columns unique together.</summary>
    protected static bool IsUnique(IReadOnlyList<string> columns, TableSchema table) =>
        table
            .UniqueKeys.Where(key => key.Filter is null && key.Columns.All(column => column is not null))
            .Select(key => key.Columns.Select(column => column!))
            .Append(table.PrimaryKey)
            .Any(key =>
                key.Any()
                && key.Order(StringComparer.OrdinalIgnoreCase)
                    .SequenceEqual(columns.Order(StringComparer.OrdinalIgnoreCase), StringComparer.OrdinalIgnoreCase)
            );

    /// <summary>Checks that a text of the map fits the column it is written to or compared with.</summary>
    protected void CheckText(string name, string text, TableSchema table, string path)
    {
        if (Column(name, table, path) is not { } column)
            return;
        if (column.Generated)
            Problem(
                path,
                $"'{column.Name}' is computed by the database and cannot be written.",
                "Name another column."
            );
        if (column.TryRead(text) is null)
            Problem(
                path,
                $"'{text}' is not what '{column.Name}' ({column.DeclaredType}) holds.",
                "Write a value of that type."
            );
        if (column.Allowed is { } allowed && !allowed.Contains(text))
            Problem(
                path,
                $"'{column.Name}' may only be {string.Join(", ", allowed.Select(each => $"'{each}'"))}, "
                    + $"not '{text}'.",
                "Write one of them."
            );
        if (!column.HasRoomFor(text))
            Problem(
                path,
                $"'{text}' is longer than '{column.Name}' allows ({column.MaxLength} characters).",
                "Write a shorter text."
            );
    }

    /// <summary>A new row needs a value in every column that is never blank and has no default.</summary>
    protected void CheckRequiredColumns(TableSchema table, IReadOnlyList<string> given, string path)
    {
        // A wrong name was reported already, and may be a misspelling of the missing one.
        if (given.Any(name => table.Find(name) is null))
            return;
        var missing = table
            .Columns.Where(column =>
                column is { NotNull: true, HasDefault: false, Generated: false }
                && !given.ContainsIdentifier(column.Name)
            )
            .Select(column => column.Name)
            .ToList();
        if (missing.Count > 0)
            Problem(
                path,
                $"A new row of '{table.Name}' needs a value for {string.Join(", ", missing)}.",
                $"Add {string.Join(", ", missing.Select(name => $"'{name}: ...'"))} to 'values'."
            );
    }

    /// <summary>Columns must match those they refer to; a text column holds any key in text form.</summary>
    protected void CheckReferringColumns(
        List<ColumnSchema?> columns,
        TableSchema table,
        IReadOnlyList<string> to,
        TableSchema target,
        string path
    )
    {
        if (columns.Count > 0 && columns.Count != to.Count)
            Problem(
                $"{path}.columns",
                $"The reference has {columns.Count} column(s), but the key of '{target.Name}' has {to.Count}.",
                $"Name one column for each of: {string.Join(", ", to)}."
            );
        foreach (var (column, name) in columns.Zip(to))
        {
            if (
                column is not null
                && target.Find(name) is { } key
                && column.Storage != StorageClass.Text
                && !column.IsComparableWith(key)
            )
                Problem(
                    $"{path}.columns",
                    $"'{table.Name}.{column.Name}' is {Type(column)}, but the key "
                        + $"'{target.Name}.{key.Name}' is {Type(key)}.",
                    "Name the column that holds the key in the same type, or as text."
                );
        }
    }

    /// <summary>A name as the catalog spells it: some engines tell capitals from small letters.</summary>
    protected static string? Spelt(string? column, TableSchema? table) =>
        column is null ? null : table?.Find(column)?.Name ?? column;

    protected static Dictionary<string, string> Spelt(IReadOnlyDictionary<string, string> cells, TableSchema table) =>
        cells.ToDictionary(cell => Spelt(cell.Key, table)!, cell => cell.Value);

    /// <summary>Reports a mistake at the line of a part of the map.</summary>
    protected void Problem(string path, string message, string instead) =>
        problems.Add(document.LineOf(path), message, instead);

    /// <summary>The declared type of a column, for messages.</summary>
    protected static string Type(ColumnSchema column) =>
        column.DeclaredType.Length > 0 ? column.DeclaredType : "of no declared type";
}
