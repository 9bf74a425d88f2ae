using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Map.Checking;

/// <summary>Checks a record type, and fills in what the file leaves to the database.</summary>
internal sealed class RecordTypeCheck(
    RecordType type,
    MapDocument document,
    DatabaseCatalog catalog,
    MapProblems problems
) : CatalogCheck(document, catalog, problems)
{
    private readonly string _path = $"record_types.{type.Name}";

    private readonly ReferenceCheck _references = new(type, document, catalog, problems);

    /// <summary>The record type as it fits the database; mistakes are added to the problems.</summary>
    public RecordType Run()
    {
        if (Table(type.Table, $"{_path}.table") is not { } table)
            return type;
        if (table.IsView)
            Problem(
                $"{_path}.table",
                $"'{table.Name}' is a view or a virtual table, whose rows cannot be merged.",
                "Name the table behind it."
            );
        var key = Key(type.Key, table, $"{_path}.key", $"{_path}.table", mustBeUnique: false);
        foreach (
            var part in key.Select(table.Find).OfType<ColumnSchema>().Where(part => part.Storage == StorageClass.Real)
        )
            Problem(
                $"{_path}.key",
                $"'{part.Name}' is {Type(part)}, a type whose values are not exact and so cannot be keys.",
                "Name other columns that are unique together, or give the table a key of whole numbers or text."
            );
        foreach (
            var (column, name) in new[]
            {
                (type.Created, "created"),
                (type.Changed, "changed"),
                (type.Source, "source"),
                (type.Owner, "owner"),
            }
        )
        {
            if (column is not null)
                Column(column, table, $"{_path}.{name}");
        }

        foreach (var field in type.Fields)
            CheckField(field, table, key);
        foreach (var (column, text) in type.Retirement.Mark)
            CheckText(column, text, table, $"{_path}.retire.mark.{column}");
        var references = type.References.Select(reference => _references.Check(reference, table, key)).ToList();
        foreach (var figure in type.Figures)
            CheckFigure(figure);
        _references.CheckForeignKeys(table, references);
        var blockers = type.Blockers with { AtMostOne = [.. type.Blockers.AtMostOne.Select(CheckAtMostOne)] };
        var timeline = CheckTimeline();
        return type with
        {
            Linked = [.. type.Linked.Select(linked => CheckLinked(linked, table))],
            Timeline = timeline,
            Blockers = blockers,
            Table = table.Name,
            Key = key,
            HasUniqueKey = IsUnique(key, table),
            Created = Spelt(type.Created, table),
            Changed = Spelt(type.Changed, table),
            Source = Spelt(type.Source, table),
            Owner = Spelt(type.Owner, table),
            Fields =
            [
                .. type.Fields.Select(field =>
                    field with
                    {
                        Column = Spelt(field.Column, table)!,
                        OverflowRows = Spelt(field.OverflowRows),
                    }
                ),
            ],
            References = references,
            Figures =
            [
                .. type.Figures.Select(figure =>
                    figure with
                    {
                        Column = Spelt(
                            figure.Column,
                            Catalog.Find(type.References.First(known => known.Name == figure.Reference).Table)
                        ),
                    }
                ),
            ],
            Retirement = type.Retirement with { Mark = Spelt(type.Retirement.Mark, table) },
        };
    }

    private OverflowRows? Spelt(OverflowRows? rows) =>
        rows is null || Catalog.Find(type.RequireReference(rows.Reference).Table) is not { } table
            ? rows
            : rows with
            {
                Column = Spelt(rows.Column, table)!,
                Values = Spelt(rows.Values, table),
            };

    private void CheckField(Field field, TableSchema table, IReadOnlyList<string> key)
    {
        var path = $"{_path}.fields.{field.Name}";
        if (Column(field.Column, table, path) is not { } column)
            return;
        if (key.ContainsIdentifier(column.Name))
            Problem(path, $"'{column.Name}' is part of the key, which is always the master's.", "Leave the field out.");
        if (column.Generated)
            Problem(
                path,
                $"'{column.Name}' is computed by the database and cannot be written.",
                "Leave the field out."
            );
        if (field.OverflowRows is { } rows && Catalog.Find(type.RequireReference(rows.Reference).Table) is { } rowTable)
            CheckOverflowRows(rows, type.RequireReference(rows.Reference), rowTable, $"{path}.overflow_rows");
    }

    private void CheckOverflowRows(OverflowRows rows, Reference reference, TableSchema table, string path)
    {
        if (table.PrimaryKey.Count == 0)
            Problem(
                path,
                $"'{table.Name}' has no primary key, so its rows cannot be identified.",
                "Give the table a primary key."
            );
        if (Column(rows.Column, table, path) is { Generated: true } generated)
            Problem(
                path,
                $"'{generated.Name}' is computed by the database and cannot be written.",
                "Name another column."
            );
        foreach (var (name, text) in rows.Values)
            CheckText(name, text, table, path);
        CheckRequiredColumns(table, [.. reference.Columns, rows.Column, .. rows.Values.Keys], path);
        foreach (
            var (name, text) in reference.When.Where(when =>
                !rows.Values.TryGetValue(when.Key, out var value) || value != when.Value
            )
        )
            Problem(
                path,
                $"A row would not be one of '{reference.Name}', which has {name} = {text}.",
                $"Write '{name}: {text}' under 'values'."
            );
    }

    private void CheckFigure(Figure figure)
    {
        var reference = type.References.First(known => known.Name == figure.Reference);
        if (figure.Column is not null && Catalog.Find(reference.Table) is { } table)
            Column(figure.Column, table, $"{_path}.figures.{figure.Name}");
    }

    private AtMostOneRule CheckAtMostOne(AtMostOneRule rule)
    {
        if (Catalog.Find(type.RequireReference(rule.Reference).Table) is not { } table)
            return rule;
        var path = $"{_path}.blockers.at_most_one";
        foreach (var (name, text) in rule.When.Concat(rule.End))
        {
            if (Column(name, table, path) is { } column && text is null && column.NotNull)
                Problem(path, $"'{table.Name}.{column.Name}' is never blank.", "Write the value that it has.");
            else if (text is not null)
                CheckText(
                    name,
                    text.Replace(AtMostOneRule.DatePlaceholder, "2026-01-31", StringComparison.Ordinal),
                    table,
                    path
                );
        }

        foreach (
            var referring in rule.End.Keys.Where(name =>
                type.RequireReference(rule.Reference).Columns.ContainsIdentifier(name)
            )
        )
            Problem(
                path,
                $"'{referring}' refers to the record, and cannot be the column that ends a row.",
                "Name the columns that mark the row as ended."
            );
        return rule with
        {
            When = rule.When.ToDictionary(cell => Spelt(cell.Key, table)!, cell => cell.Value),
            End = rule.End.ToDictionary(cell => Spelt(cell.Key, table)!, cell => cell.Value),
        };
    }

    private Timeline? CheckTimeline()
    {
        var path = $"{_path}.timeline";
        if (type.Timeline is not { } timeline || Table(timeline.Table, $"{path}.table") is not { } table)
            return type.Timeline;
        if (table.IsView || table.PrimaryKey.Count == 0)
            Problem(
                $"{path}.table",
                $"'{table.Name}' {(table.IsView ? "is a view" : "has no primary key")}, so the row "
                    + "cannot be identified.",
                "Name a table with a primary key."
            );
        foreach (var (column, text) in timeline.Values)
        {
            if (!Timeline.WordsIn(text).Any())
                CheckText(column, text, table, $"{path}.values.{column}");
            else if (Column(column, table, $"{path}.values.{column}") is { Generated: true } generated)
                Problem(
                    $"{path}.values.{column}",
                    $"'{generated.Name}' is computed by the database and cannot be written.",
                    "Name another column."
                );
        }

        CheckRequiredColumns(table, [.. timeline.Values.Keys], $"{path}.values");
        return new Timeline(table.Name, Spelt(timeline.Values, table));
    }

    private LinkedRecords CheckLinked(LinkedRecords linked, TableSchema own)
    {
        var path = $"{_path}.linked.{linked.Name}";
        var other = Document.Map.Require(linked.Type);
        var through = linked.Through is null ? own : Catalog.Find(type.RequireReference(linked.Through).Table);
        if (through is null || Catalog.Find(other.Table) is not { } target)
            return linked;
        if (linked.Columns.Count == 0)
        {
            if (!Identifiers.Same(through.Name, target.Name))
                Problem(
                    path,
                    $"The rows of '{linked.Through}' are of the table '{through.Name}', not of '{target.Name}'.",
                    $"Name the columns that hold the {other.Title.ToLowerInvariant()}'s key, as in "
                        + $"'columns: {other.Name}_id'."
                );
            return linked;
        }

        var key = other.Key.Count > 0 ? other.Key : target.PrimaryKey;
        CheckReferringColumns(
            [.. linked.Columns.Select(name => Column(name, through, $"{path}.columns"))],
            through,
            key,
            target,
            path
        );
        return linked with { Columns = [.. linked.Columns.Select(column => Spelt(column, through)!)] };
    }
}
