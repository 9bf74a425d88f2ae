using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Drafting;

/// <summary>Drafts how duplicates of a record type are retired.</summary>
internal sealed class RetirementDrafter(DraftedType type, DraftReport page)
{
    private static readonly string[] Ended =
    [
        "merged",
        "inactive",
        "closed",
        "archived",
        "obsolete",
        "retired",
        "disabled",
        "deleted",
        "inaktiv",
        "geschlossen",
        "archiviert",
        "geloescht",
        "gelöscht",
        "inactif",
        "ferme",
        "fermé",
        "archive",
        "archivé",
        "baja",
        "inactivo",
        "cerrado",
        "vervallen",
        "inactief",
        "cancelled",
        "ended",
        "former",
    ];

    private readonly TableReading table = type.Table;

    /// <summary>Writes the retirement: a column that marks a record as no longer used, else deletion.</summary>
    public void Write()
    {
        bool Has(ColumnReading column) => type.FieldOf(column) is not null;
        string Truth(ColumnReading column, bool value) =>
            column.Profile.Column.DeclaredType.Contains("bool", StringComparison.OrdinalIgnoreCase)
                ? (value ? "\"true\"" : "\"false\"")
            : value ? "1"
            : "0";
        void Mark(ColumnReading column, string value, string why) =>
            page.Line(2, $"retire: {{ mark: {{ {YamlScalar.Of(column.Name)}: {value} }} }}", why);
        if (table.About("deleted", column => column.Kind == FieldKind.Flag && Has(column)) is { } deleted)
        {
            Mark(deleted, Truth(deleted, true), "by its name and values");
        }
        else if (
            table
                .Columns.Where(column => column.IsAbout("status") && DraftedType.IsWord(column) && Has(column))
                .Select(column =>
                    (
                        Column: column,
                        Value: (column.Profile.Column.Allowed ?? column.Profile.Distinct).FirstOrDefault(value =>
                            Ended.Contains(value.ToLowerInvariant())
                        )
                    )
                )
                .FirstOrDefault(each => each.Value is not null) is
            { Column: not null } status
        )
        {
            Mark(
                status.Column,
                YamlScalar.Of(status.Value!),
                status.Column.Profile.Column.Allowed is { } allowed
                    ? $"a check constraint allows it: {string.Join(", ", allowed.Take(8))}"
                    : $"a value that it has already: {string.Join(", ", status.Column.Profile.Distinct.Take(5))}"
            );
        }
        else if (table.About("active", column => column.Kind == FieldKind.Flag && Has(column)) is { } active)
        {
            Mark(active, Truth(active, false), "by its name and values");
        }
        else if (EndedByLookup() is { } looked)
        {
            Mark(looked.Status, looked.Key, looked.Why);
        }
        else if (
            (
                table.About("deleted-at", column => column.IsTime && Has(column))
                ?? table.About("deleted", column => column.IsTime && Has(column))
            ) is
            { } moment
        )
        {
            Mark(
                moment,
                moment.Kind == FieldKind.Date ? "\"1970-01-01\"" : "\"1970-01-01 00:00:00\"",
                "any timestamp marks it as deleted"
            );
            page.Ask(
                $"Duplicates among {table.Name} are marked by {moment.Name} = 1970-01-01. Would another timestamp "
                    + "be better?"
            );
        }
        else
        {
            page.Line(
                2,
                "retire: { delete: true }",
                "no column marks a record as no longer used; deleted records stay in the journal"
            );
            var standing = table.Columns.FirstOrDefault(column => column.IsAbout("status") && Has(column));
            var known = standing is null
                ? ""
                : $" ({standing.Name} holds: {string.Join(", ", standing.Profile.Distinct.Take(6))})";
            page.Ask(
                $"Nothing in {table.Name} marks a record as no longer used{known}, so duplicates "
                    + "are deleted (and kept in the journal). To keep the row, name a column and a value "
                    + $"that it may have: 'retire: {{ mark: {{ "
                    + $"{(standing is null ? "status" : YamlScalar.Of(standing.Name))}: merged }} }}'."
            );
        }
    }

    /// <summary>The status that a status table calls ended, where the column refers to such a table.</summary>
    private (ColumnReading Status, string Key, string Why)? EndedByLookup()
    {
        foreach (
            var status in table.Columns.Where(column => column.IsAbout("status") && type.FieldOf(column) is not null)
        )
        {
            var foreign = table.Profile.Table.ForeignKeys.FirstOrDefault(key =>
                key.Columns.Count == 1 && Identifiers.Same(key.Columns[0], status.Name)
            );
            if (
                foreign is null
                || type.All.FirstOrDefault(each => Identifiers.Same(each.Name, foreign.Target)) is not { } states
            )
                continue;

            // Only for columns without blanks does the sample keep the values of a row together.
            var keys = states
                .Columns.First(column => Identifiers.Same(column.Name, foreign.TargetColumns[0]))
                .Profile.Values;
            foreach (
                var words in states
                    .Columns.Where(column => column.Profile.Values.Count == keys.Count)
                    .Select(column => column.Profile.Values)
            )
            {
                if (
                    Ended.Select(ended => words.IndexOfIdentifier(ended)).FirstOrDefault(at => at >= 0, -1)
                    is >= 0
                        and var found
                )
                    return (status, YamlScalar.Of(keys[found]), $"{states.Name} calls it {words[found]}");
            }
        }

        return null;
    }
}
