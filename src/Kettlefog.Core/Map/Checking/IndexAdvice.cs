using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Map.Checking;

/// <summary>An index that is missing: for the rows of a reference, or for a key.</summary>
/// <param name="Warning">The consequence, in a sentence.</param>
/// <param name="Statement">The statement that creates an index.</param>
public sealed record IndexAdvice(string Warning, string Statement)
{
    /// <summary>Looks for an index that leads from a record to its related rows.</summary>
    /// <param name="reference">The reference.</param>
    /// <param name="table">The table of the related rows.</param>
    /// <returns>Null if there is one.</returns>
    public static IndexAdvice? Of(Reference reference, TableSchema table)
    {
        ArgumentNullException.ThrowIfNull(reference);
        ArgumentNullException.ThrowIfNull(table);
        var useful = reference.Columns.Concat(reference.When.Keys).ToHashSet(StringComparer.OrdinalIgnoreCase);
        if (
            table.WholeIndexes.Any(index =>
                reference.Columns.All(index.TakeWhile(column => column is not null && useful.Contains(column)).Contains)
            )
        )
            return null;
        var columns = reference.When.Keys.Concat(reference.Columns).ToList();
        return new IndexAdvice(
            $"{reference.Title}: no index on {table.Name} ({string.Join(", ", columns)}), so the whole "
                + "table is read for every record.",
            CreationOf("INDEX", table, columns)
        );
    }

    /// <summary>Advises an index that keeps the key of a record type unique.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="table">Its table.</param>
    /// <returns>Null if the database keeps it unique.</returns>
    public static IndexAdvice? OfKey(RecordType type, TableSchema table)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(table);
        return type.HasUniqueKey
            ? null
            : new IndexAdvice(
                $"Nothing in the database makes {string.Join(", ", type.Key)} unique in '{table.Name}', so that every "
                    + "merge and reversal has to check it.",
                CreationOf("UNIQUE INDEX", table, type.Key)
            );
    }

    private static string CreationOf(string what, TableSchema table, IReadOnlyList<string> columns)
    {
        var name = table.Schema is null ? Quoted(table.Name) : $"{Quoted(table.Schema)}.{Quoted(table.BareName)}";
        return $"CREATE {what} {Quoted($"{table.Name.Replace('.', '_')}_{string.Join('_', columns)}")} ON {name} "
            + $"({string.Join(", ", columns.Select(Quoted))});";
    }

    private static string Quoted(string name) =>
        name.Length > 0
        && name.All(letter => char.IsAsciiLetterLower(letter) || char.IsAsciiDigit(letter) || letter == '_')
        && !char.IsAsciiDigit(name[0])
            ? name
            : $"\"{name.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
}
