using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Drafting;

/// <summary>Drafts one record type.</summary>
internal sealed class TypeDrafter(DraftedType type, IReadOnlyList<DraftedType> types, DraftReport page)
{
    private const int MaxPartitions = 20;

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

    private string Title =>
        table.Stem.Count == 0
            ? table.Name
            : char.ToUpperInvariant(table.Stem[0][0]) + string.Join(' ', table.Stem)[1..];

    /// <summary>Writes the type.</summary>
    /// <param name="why">What the table was taken for one of parties from.</param>
    public void Write(IReadOnlyList<string> why)
    {
        page.Line(1, $"{type.Name}:", $"from {string.Join(", ", why)}; {table.Profile.RowsInWords}");
        page.Line(2, $"title: {YamlScalar.Of(Title)}");
        page.Line(2, $"table: {YamlScalar.Of(table.Name)}");
        if (table.Profile.Table.PrimaryKey.Count == 0)
            page.Line(
                2,
                $"key: {DraftReport.Scalars(table.Key)}",
                "there is no primary key; these are unique and never blank"
            );
        page.Line(2, $"label: \"{Label()}\"");
        foreach (
            var (word, column) in new[]
            {
                ("created", type.Created),
                ("changed", type.Changed),
                ("source", type.Source),
                ("owner", type.Owner),
            }
        )
        {
            if (column is not null)
                page.Line(2, $"{word}: {YamlScalar.Of(column.Name)}", "by its name and type");
        }

        var further = new FurtherDrafter(type, types, page);
        WriteFields(further);
        WriteReferences();
        WriteFigures();
        WriteRetirement();
        further.WriteTimeline();
        WriteBlockers();
        further.WriteLinked();
    }

    private void WriteFields(FurtherDrafter further)
    {
        page.Line(2, "fields:");
        var currency = table.Of(FieldKind.Currency) is { } column ? type.FieldOf(column) : null;
        foreach (var field in type.Fields)
        {
            var kind = KindOf(field);
            var parts = new List<string>();
            var fieldName = type.FieldOf(field)!;
            if (!Identifiers.Same(fieldName, field.Name))
                parts.Add($"column: {YamlScalar.Of(field.Name)}");
            if (kind != FieldKind.Text)
                parts.Add($"kind: {EnumName.Of(kind)}");
            if (Survivorship(field, kind) is { } rule)
                parts.Add($"survivorship: {rule}");
            if (kind == FieldKind.Money && currency is not null)
                parts.Add($"currency: {currency}");
            if (Slots(field, kind) is { Count: > 0 } slots)
                parts.Add($"overflow: {DraftReport.Scalars(slots)}");
            if (table.Of(kind) == field && further.OverflowRows(kind) is { } rows)
                parts.Add($"overflow_rows: {rows}");
            page.Line(
                3,
                parts.Count == 0 ? $"{fieldName}:" : $"{fieldName}: {{ {string.Join(", ", parts)} }}",
                kind == FieldKind.Text ? null : $"{field.Sure} %: {field.Why}"
            );
        }

        if (type.Fields.Any(field => KindOf(field) == FieldKind.Phone) && Country() is null)
            page.Ask(
                $"In which country are the phone numbers in {table.Name} at home that do not begin with '+'? "
                    + $"Write it as 'matching: {{ country: GB }}' to '{type.Name}'."
            );
    }

    /// <summary>The rule of a field, where the usual one, the master's value unless it is blank, does not do.</summary>
    private static string? Survivorship(ColumnReading field, FieldKind kind)
    {
        var isText = field.Profile.Column.Storage is StorageClass.Text;
        if (
            field.IsAbout("status")
            || field.IsAbout("active")
            || field.IsAbout("deleted")
            || field.IsAbout("deleted-at")
        )
            return EnumName.Of(SurvivorshipRule.Master);

        // Who does not want to be written to on one record does not want it on the other.
        if (
            field.FirstConcept == "consent"
            && field.Profile.Distinct.All(value => value is "0" or "1" or "true" or "false")
        )
            return EnumName.Of(SurvivorshipRule.Largest);
        if (field.FirstConcept == "tags" && isText)
            return EnumName.Of(SurvivorshipRule.Union);
        if (kind == FieldKind.LongText)
            return EnumName.Of(
                isText && field.Profile.Column.MaxLength is null ? SurvivorshipRule.Append : SurvivorshipRule.Longest
            );
        return null;
    }

    /// <summary>A whole name is a person's or an organisation's by what the table holds.</summary>
    private FieldKind KindOf(ColumnReading field)
    {
        if (
            field.Kind is not (FieldKind.Text or FieldKind.PersonName or FieldKind.OrganisationName)
            || !table.Names.Contains(field)
        )
            return field.Kind;
        return table.Sort switch
        {
            PartyRole.Household => FieldKind.HouseholdName,
            PartyRole.Person when field.Kind != FieldKind.OrganisationName => FieldKind.PersonName,
            PartyRole.Person => FieldKind.OrganisationName,
            _ => field.Kind == FieldKind.PersonName ? FieldKind.PersonName : FieldKind.OrganisationName,
        };
    }

    /// <summary>The further fields that take what loses in the first of a kind: email_2, phone2.</summary>
    private List<string> Slots(ColumnReading field, FieldKind kind)
    {
        if (kind is not (FieldKind.Email or FieldKind.Phone) || table.Of(kind) != field)
            return [];
        var core = Core(field);
        return
        [
            .. table
                .Columns.Where(column =>
                    column != field
                    && column.Kind == kind
                    && type.FieldOf(column) is not null
                    && Core(column).SequenceEqual(core)
                )
                .Select(column => type.FieldOf(column)!),
        ];
    }

    private static List<string> Core(ColumnReading column) =>
        [
            .. NameWords
                .Of(column.Name)
                .Where(word =>
                    !word.All(char.IsAsciiDigit)
                    && word
                        is not (
                            "second"
                            or "secondary"
                            or "other"
                            or "alt"
                            or "alternative"
                            or "primary"
                            or "main"
                            or "further"
                        )
                ),
        ];

    private void WriteReferences()
    {
        if (type.References.Count == 0)
        {
            page.Ask(
                $"Nothing seems to point at {table.Name}. If rows elsewhere belong to its records, name them "
                    + $"under 'references' of '{type.Name}': else they would be left behind."
            );
            return;
        }

        page.Line(2, "references:");
        foreach (var reference in type.References)
        {
            var (guess, rows) = (reference.Guess, reference.Rows);
            var parts = new List<string>
            {
                $"table: {YamlScalar.Of(guess.Table)}",
                $"columns: {DraftReport.Scalars(guess.Columns)}",
            };
            if (!guess.TargetColumns.SequenceEqual(table.Key, StringComparer.OrdinalIgnoreCase))
                parts.Add($"to: {DraftReport.Scalars(guess.TargetColumns)}");
            if (guess.As is { } within)
                parts.Add($"as: {YamlScalar.Of(within)}");
            if (guess.When is { } when)
                parts.Add($"when: {{ {YamlScalar.Of(when.Column)}: {YamlScalar.Of(when.Value)} }}");
            var (collision, because) = Collision(reference);
            if (collision is not null)
                parts.Add($"collision: {collision}");
            if (rows.Name != table.Name && Amount(rows) is { } amount)
                parts.Add($"amount: {YamlScalar.Of(amount.Name)}");
            var measured =
                guess.Included is { } share ? $"; {share:0 %} of its values are there"
                : guess.Declared ? ""
                : "; it has no values yet";
            var line = $"{reference.Name}: {{ {string.Join(", ", parts)} }}";
            var why = $"{(guess.Declared ? "" : $"{guess.Sure} %: ")}{guess.Why}{measured}{because}";
            if (reference.IsWritten)
            {
                page.Line(3, line, why);
                if (!guess.Declared && guess.Included is null)
                    page.Ask(
                        $"Does {guess.Table}.{string.Join(", ", guess.Columns)} point at {table.Name}? It is "
                            + "named like this, but has no values; it is in the draft."
                    );
                continue;
            }

            page.Line(3, $"# {line}", why);
            page.Ask(
                $"Does {guess.Table}.{string.Join(", ", guess.Columns)} point at {table.Name}? So it seems "
                    + $"({guess.Why}), but "
                    + $"{(guess.Included >= 0.95 ? "numbers may be among its keys by chance"
                        : $"only {guess.Included:0 %} of its values are there")}; "
                    + $"the line waits under 'references' of '{type.Name}'."
            );
        }
    }

    /// <summary>How conflicts between rows are resolved, by the unique keys of their table.</summary>
    private (string? Policy, string Because) Collision(DraftedReference reference)
    {
        var (guess, rows) = (reference.Guess, reference.Rows);
        void AskIfWritten(string question)
        {
            if (reference.IsWritten)
                page.Ask(question);
        }

        bool IsIn(IReadOnlyList<string> key) => guess.Columns.All(column => key.ContainsIdentifier(column));
        var keys = rows
            .Profile.Table.UniqueKeys.Where(key => key.Filter is null)
            .Select(key => key.Columns.OfType<string>().ToList())
            .Append([.. rows.Profile.Table.PrimaryKey])
            .Where(IsIn)
            .ToList();
        var partial = rows.Profile.Table.UniqueKeys.FirstOrDefault(key =>
            key.Filter is not null && IsIn([.. key.Columns.OfType<string>()])
        );
        if (rows.Name == table.Name || (keys.Count == 0 && partial is null))
            return (null, "");
        if (keys.Count == 0)
        {
            AskIfWritten(
                $"Of the rows of {rows.Name} with {partial!.Filter} a record has one at most. Where both "
                    + "records have one, the merge is blocked until one of the two is none any more; should the two "
                    + $"become one row, write 'collision: combine' to '{reference.Name}'."
            );
            return (null, $"; two with {partial.Filter} block the merge");
        }

        var beside = keys.SelectMany(key => key)
            .Where(column => !guess.Columns.ContainsIdentifier(column))
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .ToList();
        if (beside.All(column => guess.When?.Column == column))
            return ("combine", "; one row a record: two become one");

        if (reference.IsLink(beside))
            return ("keep", "; it links two things, once is enough");

        // Two bills of one number are for people to sort out; two addresses of one kind are met at every merge.
        if (Amount(rows) is null)
            AskIfWritten(
                $"Where both records have a row of {rows.Name} with the same {string.Join(", ", beside)}, the "
                    + "merge is blocked. Should the master's row stay, write 'collision: keep' to "
                    + $"'{reference.Name}'; should the two become one, 'collision: combine'."
            );
        return (null, "; rows alike in a unique key block the merge");
    }

    private void WriteFigures()
    {
        var figures = new List<(string Text, string Why)>();
        var taken = new HashSet<string>();
        foreach (
            var (reference, _, rows) in type.References.Where(reference =>
                reference.IsWritten && reference.Rows.Name != table.Name
            )
        )
        {
            if (Amount(rows) is { } amount)
            {
                figures.Add(
                    (
                        $"{MapDrafter.Free(taken, $"{reference}_{NameWords.ForMap(amount.Name)}")}: {{ "
                            + $"reference: {reference}, sum: {YamlScalar.Of(amount.Name)}, control: true }}",
                        "must be the same before and after"
                    )
                );
                figures.Add(
                    (
                        $"{MapDrafter.Free(taken, $"{reference}_count")}: {{ reference: {reference}, count: true }}",
                        "how many"
                    )
                );
            }

            if (
                rows.Columns.FirstOrDefault(column =>
                    column.IsTime
                    && column.Kind != FieldKind.BirthDate
                    && !column.IsAbout("deleted")
                    && !column.IsAbout("deleted-at")
                    && !rows.Profile.Table.PrimaryKey.Contains(column.Name)
                )
                    is { } day
                && figures.Count < 12
            )
                figures.Add(
                    (
                        $"{MapDrafter.Free(taken, $"{reference}_last")}: {{ reference: {reference}, last: "
                            + $"{YamlScalar.Of(day.Name)} }}",
                        "the last one"
                    )
                );
        }

        if (figures.Count == 0)
            return;
        page.Line(2, "figures:");
        foreach (var (text, why) in figures)
            page.Line(3, text, why);
    }

    private void WriteRetirement()
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
                    ? $"a check allows it: {string.Join(", ", allowed.Take(8))}"
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
                "any moment says that it is gone"
            );
            page.Ask(
                $"Duplicates among {table.Name} are marked by {moment.Name} = 1970-01-01. Would another moment "
                    + "be better?"
            );
        }
        else
        {
            page.Line(
                2,
                "retire: { delete: true }",
                "no column says that a record is not used any more; what is deleted stays in the journal"
            );
            var standing = table.Columns.FirstOrDefault(column => column.IsAbout("status") && Has(column));
            var known = standing is null
                ? ""
                : $" ({standing.Name} holds: {string.Join(", ", standing.Profile.Distinct.Take(6))})";
            page.Ask(
                $"Nothing in {table.Name} says that a record is not used any more{known}, so that duplicates "
                    + "are deleted (and kept in the journal). If the row should stay, name a column and a value "
                    + $"that it may have: 'retire: {{ mark: {{ "
                    + $"{(standing is null ? "status" : YamlScalar.Of(standing.Name))}: merged }} }}'."
            );
        }
    }

    /// <summary>The state that a table of states calls ended, where the status is a key of one.</summary>
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

            // Only of columns without blanks does the sample say which values stand in one row.
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

    private void WriteBlockers()
    {
        var agree = table
            .Columns.Where(column =>
                type.FieldOf(column) is not null && (column.Kind == FieldKind.Currency || IsPartition(column))
            )
            .ToList();
        var partition = agree.Where(IsPartition).ToList();
        if (agree.Count > 0)
            page.Line(
                2,
                $"blockers: {{ must_agree: "
                    + $"{DraftReport.Scalars([.. agree.Select(column => type.FieldOf(column)!)])} }}",
                "records that differ in it are not merged"
            );
        var country = Country();
        if (partition.Count + (country is null ? 0 : 1) == 0)
            return;
        page.Line(2, "matching:");
        if (country is not null)
            page.Line(3, $"country: {country}", "most records are there");
        if (partition.Count > 0)
            page.Line(3, $"partition: {DraftReport.Scalars([.. partition.Select(column => type.FieldOf(column)!)])}");
    }

    private static bool IsPartition(ColumnReading column) =>
        column.FirstConcept == "partition" && column.Profile.Distinct.Count is > 0 and <= MaxPartitions;

    private string? Country() =>
        table
            .Of(FieldKind.Country)
            ?.Profile.Values.Where(value => value.Length == 2 && value.All(char.IsAsciiLetterUpper))
            .GroupBy(value => value)
            .MaxBy(group => group.Count())
            ?.Key;

    private static ColumnReading? Amount(TableReading rows) =>
        rows
            .Columns.Where(column => column.IsAmount && !rows.Profile.Table.PrimaryKey.Contains(column.Name))
            .OrderBy(column => column.FirstConcept == "money" ? 0 : 1)
            .FirstOrDefault();

    private string Label()
    {
        var parts = table.Names.Select(column => $"{{{type.FieldOf(column)}}}").ToList();
        var label = string.Join(' ', parts);
        return table.Of(FieldKind.City) is { } city && type.FieldOf(city) is { } town ? $"{label}, {{{town}}}" : label;
    }
}
