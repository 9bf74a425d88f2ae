namespace Kettlefog.Core.Schema;

/// <summary>Says in words how tables changed.</summary>
public static class CatalogChanges
{
    /// <summary>The changes between two states of some tables, one sentence each.</summary>
    /// <param name="before">The tables before.</param>
    /// <param name="after">
    /// The tables after; those that are new to the list were created or began to refer to one.
    /// </param>
    public static IReadOnlyList<string> Between(IReadOnlyList<TableSchema> before, IReadOnlyList<TableSchema> after)
    {
        ArgumentNullException.ThrowIfNull(before);
        ArgumentNullException.ThrowIfNull(after);
        var changes = new List<string>();
        foreach (var old in before)
        {
            if (after.FirstOrDefault(table => AreSame(old, table)) is { } now)
                Add(changes, old, now);
            else
                changes.Add($"The table {old.Name} is gone, or no longer refers to a record.");
        }

        foreach (var table in after.Where(table => !before.Any(old => AreSame(old, table))))
            changes.Add($"The table {table.Name} refers to {string.Join(", ", TargetsOf(table))} now.");
        return changes;
    }

    private static void Add(List<string> changes, TableSchema old, TableSchema now)
    {
        var count = changes.Count;
        foreach (var column in now.Columns.Where(column => old.Find(column.Name) is null))
            changes.Add($"{now.Name} has a new column {column.Name}.");
        foreach (var column in old.Columns)
        {
            if (now.Find(column.Name) is not { } same)
                changes.Add($"{now.Name} no longer has a column {column.Name}.");
            else if (same.DeclaredType != column.DeclaredType)
                changes.Add($"The type of {now.Name}.{column.Name} is {same.DeclaredType} now.");
            else if (same.NotNull != column.NotNull)
                changes.Add($"{now.Name}.{column.Name} {(same.NotNull ? "must not" : "may")} be blank now.");
        }

        if (!old.PrimaryKey.SequenceEqual(now.PrimaryKey))
            changes.Add($"The primary key of {now.Name} is {Joined(now.PrimaryKey)} now.");
        if (!Names(old.UniqueKeys).SequenceEqual(Names(now.UniqueKeys)))
            changes.Add($"The unique keys of {now.Name} changed.");
        if (!TargetsOf(old).SequenceEqual(TargetsOf(now)))
            changes.Add($"{now.Name} refers to {Joined(TargetsOf(now))} now.");
        if (!TriggersOf(old).SequenceEqual(TriggersOf(now)))
            changes.Add($"The triggers of {now.Name} changed.");
        if (changes.Count == count && CatalogVersion.Of([old]) != CatalogVersion.Of([now]))
            changes.Add($"The definition of the table {now.Name} changed.");
    }

    private static bool AreSame(TableSchema one, TableSchema other) =>
        Identifiers.Same(one.Name, other.Name) && one.Schema == other.Schema;

    private static IEnumerable<string> Names(IReadOnlyList<UniqueKey> keys) =>
        keys.Select(key => key.Name).Order(StringComparer.Ordinal);

    private static IEnumerable<string> TargetsOf(TableSchema table) =>
        table.ForeignKeys.Select(key => key.Target).Distinct().Order(StringComparer.Ordinal);

    private static IEnumerable<(string, RowChanges, string?)> TriggersOf(TableSchema table) =>
        table.Triggers.Select(trigger => (trigger.Name, trigger.On, trigger.Body)).Order();

    private static string Joined(IEnumerable<string> names) =>
        string.Join(", ", names) is { Length: > 0 } joined ? joined : "nothing";
}
