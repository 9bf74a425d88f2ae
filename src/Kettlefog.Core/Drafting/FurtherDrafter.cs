using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Drafting;

/// <summary>
/// Drafts what a merge adds: rows for values that do not survive, a row for the master's timeline, linked merges.
/// </summary>
internal sealed class FurtherDrafter(DraftedType type, IReadOnlyList<DraftedType> types, DraftReport page)
{
    private const int MaxColumns = 8;
    private const int MinTextLength = 20;

    private static readonly string[] Others =
    [
        "other",
        "further",
        "secondary",
        "alternative",
        "sonstige",
        "weitere",
        "autre",
        "otro",
        "overig",
    ];

    private static readonly string[] Remarks =
    [
        "merge",
        "merged",
        "system",
        "note",
        "info",
        "comment",
        "other",
        "notiz",
        "nota",
        "sonstige",
        "autre",
        "otro",
    ];

    private IEnumerable<DraftedReference> Written =>
        type.References.Where(reference => reference.IsWritten && reference.Rows.Name != type.Table.Name);

    /// <summary>
    /// The related rows that take values which do not survive: a table of further e-mails or phones; null if none.
    /// </summary>
    /// <param name="kind">The kind of the field.</param>
    /// <returns>The line of the map.</returns>
    public string? OverflowRows(FieldKind kind)
    {
        if (kind is not (FieldKind.Email or FieldKind.Phone))
            return null;
        foreach (
            var reference in Written.Where(reference =>
                types.All(other => other.Table.Name != reference.Rows.Name)
                && reference.Rows.Columns.Count <= MaxColumns
            )
        )
        {
            var values = reference.Rows.Columns.Where(column => column.Kind == kind).ToList();
            if (
                values.Count != 1
                || reference.Rows.Columns.Any(column =>
                    column.Kind != kind && column.Kind is FieldKind.Email or FieldKind.Phone
                )
            )
                continue;
            if (Filled(reference, [values[0].Name], column => Chosen(column, Others)) is { } filled)
            {
                var others = filled.Count == 0 ? "" : $", values: {{ {Cells(filled)} }}";
                return $"{{ reference: {reference.Name}, column: {YamlScalar.Of(values[0].Name)}{others} }}";
            }
        }

        return null;
    }

    /// <summary>The row that a merge adds where the operational system shows what happened to a record.</summary>
    public void WriteTimeline()
    {
        foreach (var reference in Written.Where(reference => DraftWords.Of(reference.Rows.Stem).Contains("timeline")))
        {
            if (
                reference.Rows.Columns.FirstOrDefault(column =>
                    IsSaying(column) && !reference.Guess.Columns.ContainsIdentifier(column.Name)
                )
                is not { } said
            )
                continue;
            if (Filled(reference, [said.Name], InTimeline) is not { } filled)
            {
                page.Ask(
                    $"{reference.Rows.Name} looks as if it shows what happened to {type.Table.Name}, but some "
                        + "of its columns need values that cannot be guessed. If a merge should add a row there, "
                        + $"write 'timeline' to '{type.Name}'."
                );
                continue;
            }

            var referringColumns = reference.Guess.Columns.Select(
                (column, part) => (Column: column, Text: reference.Guess.As ?? "{key}")
            );
            if (reference.Guess.Columns.Count > 1)
                continue;
            page.Line(2, "timeline:", $"{reference.Rows.Name} shows what happened, by its name");
            page.Line(3, $"table: {YamlScalar.Of(reference.Rows.Name)}");
            var values = referringColumns
                .Concat(filled)
                .Append((Column: said.Name, Text: "Merged with {duplicates}: {reason}"));
            page.Line(3, $"values: {{ {Cells(values)} }}");
            foreach (
                var (column, text) in filled.Where(cell =>
                    cell.Column != reference.Guess.When?.Column
                    && !cell.Text.Contains('{', StringComparison.Ordinal)
                    && !Remarks.Contains(cell.Text.ToLowerInvariant())
                )
            )
                page.Ask(
                    $"A merge adds a row to {reference.Rows.Name} with {column} = '{text}', which stands there "
                        + "already. Would another value be better?"
                );
            return;
        }
    }

    private static string Cells(IEnumerable<(string Column, string Text)> cells) =>
        string.Join(", ", cells.Select(cell => $"{YamlScalar.Of(cell.Column)}: {YamlScalar.Of(cell.Text)}"));

    /// <summary>Children that may turn out to be duplicates once their parents are merged.</summary>
    public void WriteLinked()
    {
        var lines = new List<string>();
        foreach (var reference in Written)
        {
            if (types.FirstOrDefault(other => other.Table.Name == reference.Rows.Name) is { Same.Count: > 0 } child)
            {
                lines.Add(
                    $"{reference.Name}: {{ type: {child.Name}, through: {reference.Name}, same: {Groups(child)} }}"
                );
                continue;
            }

            foreach (
                var key in reference.Rows.Profile.Table.ForeignKeys.Where(key =>
                    !key.Columns.SequenceEqual(reference.Guess.Columns, StringComparer.OrdinalIgnoreCase)
                    && reference.IsLink(key.Columns)
                )
            )
            {
                if (
                    types.FirstOrDefault(other =>
                        other != type
                        && other.Table.Name == key.Target
                        && key.TargetColumns.SequenceEqual(other.Table.Key, StringComparer.OrdinalIgnoreCase)
                    ) is
                    { Same.Count: > 0 } linked
                )
                    lines.Add(
                        $"{NameWords.ForMap(linked.Table.Name)}: {{ type: {linked.Name}, through: "
                            + $"{reference.Name}, columns: {DraftReport.Scalars(key.Columns)}, same: "
                            + $"{Groups(linked)} }}"
                    );
            }
        }

        if (lines.Count == 0)
            return;
        page.Line(2, "linked:", "offered as linked merges, never done unasked");
        foreach (var line in lines.DistinctBy(line => line.Split(':')[0]))
            page.Line(3, line);
    }

    private static string Groups(DraftedType linked) =>
        $"[{string.Join(", ", linked.Same.Select(group => $"[{string.Join(", ", group)}]"))}]";

    /// <summary>Values for the other columns that a new row needs; null if no valid row can be guessed.</summary>
    private static List<(string Column, string Text)>? Filled(
        DraftedReference reference,
        IReadOnlyList<string> given,
        Func<ColumnReading, string?> value
    )
    {
        var table = reference.Rows.Profile.Table;
        if (table.PrimaryKey.Count == 0 || !table.PrimaryKey.All(part => table.Find(part)!.HasDefault))
            return null;
        var filled = new List<(string, string)>();
        if (reference.Guess.When is { } when)
            filled.Add((when.Column, when.Value));
        foreach (
            var column in reference.Rows.Columns.Where(column =>
                !given.Contains(column.Name)
                && !reference.Guess.Columns.Contains(column.Name)
                && reference.Guess.When?.Column != column.Name
                && !table.PrimaryKey.Contains(column.Name)
            )
        )
        {
            var needed = column.Profile.Column is { NotNull: true, HasDefault: false, Generated: false };
            var text = value(column);
            if (needed && text is null)
                return null;
            if (text is not null && (needed || text.Contains('{', StringComparison.Ordinal)))
                filled.Add((column.Name, text));
        }

        return filled;
    }

    private static string? InTimeline(ColumnReading column)
    {
        if (column.IsTime)
            return column.Kind == FieldKind.Timestamp ? "{at}" : "{date}";
        var isFreeText = column.Profile.Column is { Storage: StorageClass.Text, Allowed: null };
        return isFreeText && (column.FirstConcept is "author" or "owner") ? "{actor}" : Chosen(column, Remarks);
    }

    /// <summary>
    /// A value that the column already has, or may have: a neutral one if there is any, else the commonest.
    /// </summary>
    private static string? Chosen(ColumnReading column, string[] wanted)
    {
        var isFlag =
            column.Kind == FieldKind.Flag
            || (
                column.Kind == FieldKind.Integer
                && column.Profile.Distinct.Count > 0
                && column.Profile.Distinct.All(value => value is "0" or "1")
            );
        if (isFlag)
            return column.Profile.Column.DeclaredType.Contains("bool", StringComparison.OrdinalIgnoreCase)
                ? "false"
                : "0";
        var known = column.Profile.Column.Allowed ?? column.Profile.Distinct;
        if (known.FirstOrDefault(value => wanted.Contains(value.ToLowerInvariant())) is { } fitting)
            return fitting;
        return column.Kind == FieldKind.Code || column.Profile.Column.Allowed is not null
            ? column.Profile.Values.GroupBy(value => value).MaxBy(group => group.Count())?.Key
                ?? (known.Count > 0 ? known[0] : null)
            : null;
    }

    private static bool IsSaying(ColumnReading column) =>
        column.Profile.Column is { Storage: StorageClass.Text, Allowed: null }
        && !(column.Profile.Column.MaxLength < MinTextLength)
        && (column.IsAbout("saying") || column.Kind == FieldKind.LongText || column.IsAbout("long-text"));
}
