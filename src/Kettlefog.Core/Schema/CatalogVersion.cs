using Kettlefog.Core.Values;

namespace Kettlefog.Core.Schema;

/// <summary>Identifies the state of some tables' definitions.</summary>
public static class CatalogVersion
{
    private const int Digits = 16;

    /// <summary>
    /// The first 16 hexadecimal digits of a SHA-256 over everything of the tables that can matter to a merge: columns,
    /// keys, foreign keys and triggers. Indexes that are not unique do not matter.
    /// </summary>
    /// <param name="tables">The tables, in any order.</param>
    public static string Of(IEnumerable<TableSchema> tables)
    {
        ArgumentNullException.ThrowIfNull(tables);
        using var digest = new Sha256Digest();
        foreach (
            var table in tables
                .OrderBy(table => table.Name, StringComparer.Ordinal)
                .ThenBy(table => table.Schema, StringComparer.Ordinal)
        )
            Add(digest, table);
        return Convert.ToHexStringLower(digest.Finish())[..Digits];
    }

    private static void Add(Sha256Digest digest, TableSchema table)
    {
        digest
            .Add(table.Schema)
            .Add(table.Name)
            .Add(table.IsView ? 1 : 0)
            .Add(table.HidesRows ? 1 : 0)
            .Add(table.Columns.Count);
        foreach (var column in table.Columns)
        {
            digest
                .Add(column.Name)
                .Add(column.DeclaredType)
                .Add(column.NotNull ? 1 : 0)
                .Add(column.Generated ? 1 : 0)
                .Add(column.HasDefault ? 1 : 0);
            Add(digest, column.Allowed ?? []);
        }

        Add(digest, table.PrimaryKey);
        digest.Add(table.UniqueKeys.Count);
        foreach (var key in table.UniqueKeys.OrderBy(key => key.Name, StringComparer.Ordinal))
        {
            digest.Add(key.Name).Add(key.Filter).Add(key.NullsCollide ? 1 : 0).Add(key.Parts.Count);
            foreach (var part in key.Parts)
                digest.Add(part.Column).Add(part.Expression).Add(part.Collation);
        }

        digest.Add(table.ForeignKeys.Count);
        foreach (var key in table.ForeignKeys.OrderBy(Describe, StringComparer.Ordinal))
            digest.Add(Describe(key)).Add((long)key.OnDelete).Add((long)key.OnUpdate);
        digest.Add(table.Triggers.Count);
        foreach (var trigger in table.Triggers.OrderBy(trigger => trigger.Name, StringComparer.Ordinal))
            digest.Add(trigger.Name).Add((long)trigger.On).Add(trigger.Body);
    }

    private static void Add(Sha256Digest digest, IReadOnlyList<string> texts)
    {
        digest.Add(texts.Count);
        foreach (var text in texts)
            digest.Add(text);
    }

    private static string Describe(ForeignKey key) =>
        $"{string.Join(", ", key.Columns)} → {key.Target} ({string.Join(", ", key.TargetColumns)})";
}
