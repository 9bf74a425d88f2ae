using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Map.Checking;

/// <summary>Checks the references of a record type.</summary>
internal sealed class ReferenceCheck(
    RecordType type,
    MapDocument document,
    DatabaseCatalog catalog,
    MapProblems problems
) : CatalogCheck(document, catalog, problems)
{
    private readonly string _path = $"record_types.{type.Name}";

    /// <summary>Checks a reference, and fills in what the file leaves to the database.</summary>
    public Reference Check(Reference reference, TableSchema target, IReadOnlyList<string> targetKey)
    {
        var path = $"{_path}.references.{reference.Name}";
        if (Table(reference.Table, $"{path}.table") is not { } table)
            return reference;
        if (table.IsView)
            Problem(
                $"{path}.table",
                $"'{table.Name}' is a view or a virtual table, whose rows cannot be reassigned.",
                "Name the table behind it."
            );
        var columns = reference.Columns.Select(name => Column(name, table, $"{path}.columns")).ToList();
        var to = reference.To.Count == 0 ? [] : Key(reference.To, target, $"{path}.to", $"{path}.to");
        var isOwnTable = Identifiers.Same(table.Name, target.Name);
        if (reference.Hierarchy == true && !isOwnTable)
            Problem(
                $"{path}.hierarchy",
                $"'{table.Name}' is another table than '{target.Name}', so that its rows form no hierarchy of records.",
                "Leave 'hierarchy' out."
            );
        if (isOwnTable && reference.Collision != CollisionPolicy.Block)
            Problem(
                $"{path}.collision",
                $"Colliding rows of '{table.Name}' would be records, which are removed only by merging them.",
                "Leave 'collision' out."
            );
        if (to.Count > 0 && isOwnTable && reference.Hierarchy == true)
            Problem(
                $"{path}.to",
                $"The hierarchy of '{target.Name}' must refer to the key, not to {string.Join(", ", to)}.",
                "Leave 'to' out."
            );
        if (reference.Template is null)
            CheckReferringColumns(columns, table, to.Count == 0 ? targetKey : to, target, path);
        else if (columns is [{ Storage: not StorageClass.Text }])
            Problem(
                $"{path}.as",
                $"'{table.Name}.{columns[0]!.Name}' is {Type(columns[0]!)}, which holds no text.",
                "Name a text column, or leave 'as' out."
            );

        foreach (var (column, text) in reference.When)
            CheckText(column, text, table, $"{path}.when.{column}");
        if (reference.Amount is not null)
            Column(reference.Amount, table, $"{path}.amount");
        foreach (var column in reference.Show)
            Column(column, table, $"{path}.show");
        foreach (var column in reference.Combine.Keys)
            Column(column, table, $"{path}.combine.{column}");
        foreach (var column in reference.Bookkeeping)
            Column(column, table, $"{path}.bookkeeping");
        return reference with
        {
            Table = table.Name,
            Columns = [.. reference.Columns.Select(column => Spelt(column, table)!)],
            To = [.. to],
            Key = RowKey(reference, table, path),
            Dependents = CheckDependents(reference, table, path),
            When = Spelt(reference.When, table),
            Amount = Spelt(reference.Amount, table),
            Combine = reference.Combine.ToDictionary(rule => Spelt(rule.Key, table)!, rule => rule.Value),
            Bookkeeping = [.. reference.Bookkeeping.Select(column => Spelt(column, table)!)],
            Show = [.. reference.Show.Select(column => Spelt(column, table)!)],
        };
    }

    private List<DependentReference> CheckDependents(Reference reference, TableSchema table, string path)
    {
        var dependents = new List<DependentReference>();
        foreach (var dependent in reference.Dependents)
        {
            var at = $"{path}.dependents.{dependent.Name}";
            if (Table(dependent.Table, $"{at}.table") is not { } other)
                continue;
            var to = dependent.To.Count > 0 ? dependent.To : table.PrimaryKey;
            if (to.Count == 0)
                Problem(at, $"'{table.Name}' has no primary key.", "Name the columns that are referred to with 'to'.");
            var columns = dependent.Columns.Select(name => Column(name, other, $"{at}.columns")).ToList();
            var targets = to.Select(name => Column(name, table, $"{at}.to")).ToList();
            if (columns.Count != to.Count)
                Problem(
                    $"{at}.columns",
                    $"There are {columns.Count} columns that refer to {to.Count}.",
                    $"Name one column for each of: {string.Join(", ", to)}."
                );
            foreach (var (column, target) in columns.Zip(targets))
            {
                if (column is not null && target is not null && !column.IsComparableWith(target))
                    Problem(
                        $"{at}.columns",
                        $"'{other.Name}.{column.Name}' is {Type(column)}, but '{table.Name}.{target.Name}' is "
                            + $"{Type(target)}.",
                        "Name the column that holds the value in the same type."
                    );
            }

            foreach (var (column, text) in dependent.When)
                CheckText(column, text, other, $"{at}.when.{column}");
            dependents.Add(
                dependent with
                {
                    Table = other.Name,
                    Columns = [.. dependent.Columns.Select(column => Spelt(column, other)!)],
                    To = [.. to.Select(column => Spelt(column, table)!)],
                    When = Spelt(dependent.When, other),
                }
            );
        }

        return dependents;
    }

    /// <summary>Checks that every foreign key to the record type is named as a reference.</summary>
    public void CheckForeignKeys(TableSchema target, List<Reference> references)
    {
        foreach (var table in Catalog.Tables)
        {
            foreach (var foreignKey in table.ForeignKeys.Where(key => Identifiers.Same(key.Target, target.Name)))
            {
                var named = references.Any(reference =>
                    Identifiers.Same(reference.Table, table.Name)
                    && reference
                        .Columns.Order(StringComparer.OrdinalIgnoreCase)
                        .SequenceEqual(
                            foreignKey.Columns.Order(StringComparer.OrdinalIgnoreCase),
                            StringComparer.OrdinalIgnoreCase
                        )
                );
                if (!named)
                {
                    var columns = string.Join(", ", foreignKey.Columns);
                    Problem(
                        $"{_path}.references",
                        $"The database has a foreign key {table.Name} ({columns}) to '{target.Name}', "
                            + "which the map does not name.",
                        $"Add under 'references': '{table.Name}: {{table: {table.Name}, columns: "
                            + $"[{columns}], policy: reassign}}', or policy 'leave' or 'block'."
                    );
                }
            }
        }
    }

    /// <summary>The key of related rows; empty where the table has no key at all and no conflict is possible.</summary>
    private IReadOnlyList<string> RowKey(Reference reference, TableSchema table, string path)
    {
        if (reference.Key.Count > 0 || table.PrimaryKey.Count > 0 || table.IsView)
            return Key(reference.Key, table, $"{path}.key", $"{path}.table");
        if (
            table.UniqueKeys.FirstOrDefault(key =>
                key.Filter is null && key.Columns.All(column => column is not null && table.Find(column)!.NotNull)
            ) is
            { } unique
        )
            return [.. unique.Columns.Select(column => column!)];

        // Rows that are not moved need not be told apart.
        if (reference.Policy != ReferencePolicy.Reassign)
            return [];
        if (table.UniqueKeys.Count > 0)
            Problem(
                $"{path}.table",
                $"The table '{table.Name}' has no primary key, but unique columns by which its rows could collide.",
                "Make them NOT NULL, or name columns that are unique together with 'key: [...]'."
            );
        if (type.References.Count(other => Identifiers.Same(other.Table, reference.Table)) > 1)
            Problem(
                $"{path}.table",
                $"The table '{table.Name}' has no key to tell its rows apart, and several " + "references use it.",
                "Give the table a primary key."
            );
        if (type.Blockers.AtMostOne.Any(rule => rule.Reference == reference.Name && rule.End.Count > 0))
            Problem(
                $"{path}.table",
                $"The table '{table.Name}' has no key, so its rows cannot be ended one by one.",
                "Give the table a primary key, or leave 'end' out."
            );
        return [];
    }
}
