using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Map.Checking;

/// <summary>Checks a map against the catalog of its database.</summary>
public static class MapCheck
{
    /// <summary>
    /// Checks that every table and column is there, that keys are unique, and that no foreign key of the database
    /// points at a record without being named as a reference.
    /// </summary>
    /// <param name="document">The map, as read.</param>
    /// <param name="catalog">The database's tables.</param>
    /// <returns>The map with the keys filled in that the file leaves to the database.</returns>
    /// <exception cref="KettlefogException">
    /// The map does not fit; every mistake is in the details with its line.
    /// </exception>
    public static CheckedMap Against(MapDocument document, DatabaseCatalog catalog) =>
        Report(document, catalog).RequireMap();

    /// <summary>Does the same, and finds what is risky besides; see <see cref="MapRisks"/>.</summary>
    /// <param name="document">The map, as read.</param>
    /// <param name="catalog">The database's tables.</param>
    public static MapReport Report(MapDocument document, DatabaseCatalog catalog)
    {
        ArgumentNullException.ThrowIfNull(document);
        ArgumentNullException.ThrowIfNull(catalog);
        var problems = new MapProblems(document.File);
        var types = document
            .Map.RecordTypes.Select(type => new TypeCheck(type, document, catalog, problems).Run())
            .ToList();
        if (!problems.None)
            return MapReport.Of(document.File, null, problems.All);
        var map = new CheckedMap(document.Map with { RecordTypes = types }, catalog);
        return MapReport.Of(document.File, map, MapRisks.Of(map, document));
    }

    private sealed class TypeCheck(RecordType type, MapDocument document, DatabaseCatalog catalog, MapProblems problems)
    {
        private readonly string _path = $"record_types.{type.Name}";

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
            var key = Key(type.Key, table, $"{_path}.key", $"{_path}.table");
            foreach (
                var part in key.Select(table.Find)
                    .OfType<ColumnSchema>()
                    .Where(part => part.Storage == StorageClass.Real)
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
            var references = type.References.Select(reference => CheckReference(reference, table, key)).ToList();
            foreach (var figure in type.Figures)
                CheckFigure(figure);
            CheckForeignKeys(table, references);
            var blockers = type.Blockers with { AtMostOne = [.. type.Blockers.AtMostOne.Select(CheckAtMostOne)] };
            var timeline = CheckTimeline();
            return type with
            {
                Linked = [.. type.Linked.Select(linked => CheckLinked(linked, table))],
                Timeline = timeline,
                Blockers = blockers,
                Table = table.Name,
                Key = key,
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
                                catalog.Find(type.References.First(known => known.Name == figure.Reference).Table)
                            ),
                        }
                    ),
                ],
                Retirement = type.Retirement with { Mark = Spelt(type.Retirement.Mark, table) },
            };
        }

        /// <summary>A name as the catalog spells it: some engines tell capitals from small letters.</summary>
        private static string? Spelt(string? column, TableSchema? table) =>
            column is null ? null : table?.Find(column)?.Name ?? column;

        private static Dictionary<string, string> Spelt(IReadOnlyDictionary<string, string> cells, TableSchema table) =>
            cells.ToDictionary(cell => Spelt(cell.Key, table)!, cell => cell.Value);

        private OverflowRows? Spelt(OverflowRows? rows) =>
            rows is null || catalog.Find(type.RequireReference(rows.Reference).Table) is not { } table
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
                Problem(
                    path,
                    $"'{column.Name}' is part of the key, which is the master's and not chosen.",
                    "Leave the field out."
                );
            if (column.Generated)
                Problem(
                    path,
                    $"'{column.Name}' is computed by the database and cannot be written.",
                    "Leave the field out."
                );
            if (
                field.OverflowRows is { } rows
                && catalog.Find(type.RequireReference(rows.Reference).Table) is { } rowTable
            )
                CheckOverflowRows(rows, type.RequireReference(rows.Reference), rowTable, $"{path}.overflow_rows");
        }

        private void CheckOverflowRows(OverflowRows rows, Reference reference, TableSchema table, string path)
        {
            if (table.PrimaryKey.Count == 0)
                Problem(
                    path,
                    $"'{table.Name}' has no primary key, so that a row could not be found again.",
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
            CheckWhole(table, [.. reference.Columns, rows.Column, .. rows.Values.Keys], path);
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

        private Reference CheckReference(Reference reference, TableSchema target, IReadOnlyList<string> targetKey)
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
            if (to.Count > 0 && Identifiers.Same(table.Name, target.Name))
                Problem(
                    $"{path}.to",
                    $"The hierarchy of '{target.Name}' must point at the key, not at {string.Join(", ", to)}.",
                    "Leave 'to' out."
                );
            if (reference.Template is null)
                CheckPointing(columns, table, to.Count == 0 ? targetKey : to, target, path);
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
            return reference with
            {
                Table = table.Name,
                Columns = [.. reference.Columns.Select(column => Spelt(column, table)!)],
                To = [.. to],
                Key = RowKey(reference, table, path),
                When = Spelt(reference.When, table),
                Amount = Spelt(reference.Amount, table),
                Combine = reference.Combine.ToDictionary(rule => Spelt(rule.Key, table)!, rule => rule.Value),
                Show = [.. reference.Show.Select(column => Spelt(column, table)!)],
            };
        }

        /// <summary>
        /// What tells related rows apart; nothing where the table has no key at all and nothing can collide.
        /// </summary>
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
            if (table.UniqueKeys.Count > 0)
                Problem(
                    $"{path}.table",
                    $"The table '{table.Name}' has no primary key, but unique columns by which its rows could collide.",
                    "Make them NOT NULL, or name columns that are unique together with 'key: [...]'."
                );
            if (type.References.Count(other => Identifiers.Same(other.Table, reference.Table)) > 1)
                Problem(
                    $"{path}.table",
                    $"The table '{table.Name}' has no key by which its rows could be told apart, and several "
                        + "references lead through it.",
                    "Give the table a primary key."
                );
            if (type.Blockers.AtMostOne.Any(rule => rule.Reference == reference.Name && rule.End.Count > 0))
                Problem(
                    $"{path}.table",
                    $"The table '{table.Name}' has no key, so that its rows cannot be ended one by one.",
                    "Give the table a primary key, or leave 'end' out."
                );
            return [];
        }

        /// <summary>Columns must fit what they point at; a text column holds any key in text form.</summary>
        private void CheckPointing(
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

        private void CheckFigure(Figure figure)
        {
            var reference = type.References.First(known => known.Name == figure.Reference);
            if (figure.Column is not null && catalog.Find(reference.Table) is { } table)
                Column(figure.Column, table, $"{_path}.figures.{figure.Name}");
        }

        private AtMostOneRule CheckAtMostOne(AtMostOneRule rule)
        {
            if (catalog.Find(type.RequireReference(rule.Reference).Table) is not { } table)
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
                var pointing in rule.End.Keys.Where(name =>
                    type.RequireReference(rule.Reference).Columns.ContainsIdentifier(name)
                )
            )
                Problem(
                    path,
                    $"'{pointing}' points at the record, and cannot be how a row ends.",
                    "Name the columns that say that it has ended."
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
                    $"'{table.Name}' {(table.IsView ? "is a view" : "has no primary key")}, so that the row "
                        + "could not be found again.",
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

            CheckWhole(table, [.. timeline.Values.Keys], $"{path}.values");
            return new Timeline(table.Name, Spelt(timeline.Values, table));
        }

        /// <summary>A new row needs a value in every column that is never blank and gets none by itself.</summary>
        private void CheckWhole(TableSchema table, IReadOnlyList<string> given, string path)
        {
            // A name that is wrong is told already, and may be meant for the one that is missing.
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

        private LinkedRecords CheckLinked(LinkedRecords linked, TableSchema own)
        {
            var path = $"{_path}.linked.{linked.Name}";
            var other = document.Map.Require(linked.Type);
            var through = linked.Through is null ? own : catalog.Find(type.RequireReference(linked.Through).Table);
            if (through is null || catalog.Find(other.Table) is not { } target)
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
            CheckPointing(
                [.. linked.Columns.Select(name => Column(name, through, $"{path}.columns"))],
                through,
                key,
                target,
                path
            );
            return linked with { Columns = [.. linked.Columns.Select(column => Spelt(column, through)!)] };
        }

        private void CheckForeignKeys(TableSchema target, List<Reference> references)
        {
            foreach (var table in catalog.Tables)
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

        private IReadOnlyList<string> Key(IReadOnlyList<string> named, TableSchema table, string path, string tablePath)
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
            var unique = table
                .UniqueKeys.Where(key => key.Filter is null && key.Columns.All(column => column is not null))
                .Select(key => key.Columns.Select(column => column!))
                .Append(table.PrimaryKey)
                .Any(key =>
                    key.Any()
                    && key.Order(StringComparer.OrdinalIgnoreCase)
                        .SequenceEqual(named.Order(StringComparer.OrdinalIgnoreCase), StringComparer.OrdinalIgnoreCase)
                );
            if (!unique)
                Problem(
                    path,
                    $"Nothing makes {string.Join(", ", named)} unique in '{table.Name}'.",
                    table.PrimaryKey.Count > 0
                        ? $"Name the primary key: {string.Join(", ", table.PrimaryKey)}."
                        : "Create a unique index on them first."
                );
            return columns.Select(column => column!.Name).ToList();
        }

        private void CheckText(string name, string text, TableSchema table, string path)
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
            if (column.MaxLength < text.Length)
                Problem(
                    path,
                    $"'{text}' is longer than '{column.Name}' allows ({column.MaxLength} characters).",
                    "Write a shorter text."
                );
        }

        private TableSchema? Table(string name, string path)
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

        private ColumnSchema? Column(string name, TableSchema table, string path)
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

        private void Problem(string path, string message, string instead) =>
            problems.Add(document.LineOf(path), message, instead);

        private static string Type(ColumnSchema column) =>
            column.DeclaredType.Length > 0 ? column.DeclaredType : "of no declared type";
    }
}
