using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Text;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Drafting;

/// <summary>Drafts one record type.</summary>
internal sealed class TypeDrafter(DraftedType type, IReadOnlyList<DraftedType> types, DraftReport page)
{
    private const int MaxPartitions = 20;

    private readonly TableReading table = type.Table;

    private string Title =>
        table.Stem.Count == 0
            ? table.Name
            : char.ToUpperInvariant(table.Stem[0][0]) + string.Join(' ', table.Stem)[1..];

    /// <summary>Writes the type.</summary>
    /// <param name="why">Why the table was taken for one of records.</param>
    public void Write(IReadOnlyList<string> why)
    {
        page.Line(1, $"{type.Name}:", $"from {string.Join(", ", why)}; {table.Profile.RowsInWords}");
        page.Line(2, $"title: {YamlScalar.Of(Title)}");
        page.Line(2, $"table: {YamlScalar.Of(table.Name)}");
        if (table.Profile.Table.PrimaryKey.Count == 0)
            page.Line(
                2,
                $"key: {DraftReport.Scalars(table.Key)}",
                table.HasUniqueKey
                    ? "there is no primary key; these are unique and never blank"
                    : "its values are all different today; nothing in the database keeps them so"
            );
        if (!table.HasUniqueKey)
            page.Ask(
                $"Does {string.Join(", ", table.Key)} identify a row of {table.Name}? The table has no primary key, "
                    + "and no unique columns that are never blank; if it does, create a unique index on it."
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
        new RetirementDrafter(type, page).Write();
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
                kind == FieldKind.Text ? null : $"{field.Confidence} %: {field.Why}"
            );
        }

        if (type.Fields.Any(field => KindOf(field) == FieldKind.Phone) && Country() is null)
            page.Ask(
                $"Which country do the phone numbers in {table.Name} without '+' belong to? "
                    + $"Add it to '{type.Name}' as 'matching: {{ country: GB }}'."
            );
    }

    /// <summary>
    /// The rule of a field for which the default, the master's value unless it is blank, is not suitable.
    /// </summary>
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

        // An opt-out on one record counts for the merged record.
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

    /// <summary>Whether a full name is a person's or an organisation's depends on the table.</summary>
    private FieldKind KindOf(ColumnReading field)
    {
        if (
            field.Kind is not (FieldKind.Text or FieldKind.PersonName or FieldKind.OrganisationName)
            || !table.Names.Contains(field)
        )
            return field.Kind;
        return table.Role switch
        {
            EntityRole.Household => FieldKind.HouseholdName,
            EntityRole.Person when field.Kind != FieldKind.OrganisationName => FieldKind.PersonName,
            EntityRole.Person => FieldKind.OrganisationName,
            _ => field.Kind == FieldKind.PersonName ? FieldKind.PersonName : FieldKind.OrganisationName,
        };
    }

    /// <summary>
    /// The further fields that take values which do not survive in the first of a kind: email_2, phone2.
    /// </summary>
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
                $"No column seems to refer to {table.Name}. If rows elsewhere belong to its records, name them "
                    + $"under 'references' of '{type.Name}'; otherwise a merge leaves them behind."
            );
            return;
        }

        page.Line(2, type.References.Any(reference => reference.IsWritten) ? "references:" : "references: {}");
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
            if (rows.Name == table.Name)
                parts.Add($"hierarchy: {(FormsTree(guess, rows) ? "true" : "false")}");
            if (!reference.HasUsableKey)
            {
                parts.Add("policy: block");
                if (reference.IsWritten)
                    page.Ask(
                        $"{rows.Name} has no primary key, and unique columns that may be blank, "
                            + "so its rows cannot be told "
                            + "apart: a merge of records that have some is blocked. Give the table a primary key."
                    );
            }

            var (collision, because) = reference.HasUsableKey ? Collision(reference) : (null, "");
            if (collision is not null)
                parts.Add($"collision: {collision}");
            if (collision is not null && Bookkeeping(reference) is { Count: > 0 } bookkeeping)
                parts.Add($"bookkeeping: {DraftReport.Scalars(bookkeeping)}");
            if (collision is not null && reference.Dependents.Count > 0)
                parts.Add(
                    $"dependents: {{ {string.Join(", ", reference.Dependents.Select(dependent => dependent.InMap))} }}"
                );
            if (rows.Name != table.Name && Amount(rows) is { } amount)
                parts.Add($"amount: {YamlScalar.Of(amount.Name)}");
            var measured =
                guess.Included is { } share ? $"; {share:0 %} of its values found"
                : guess.Declared ? ""
                : "; it has no values yet";
            var line = $"{reference.Name}: {{ {string.Join(", ", parts)} }}";
            var why = $"{(guess.Declared ? "" : $"{guess.Confidence} %: ")}{guess.Why}{measured}{because}";
            if (reference.IsWritten)
            {
                page.Line(3, line, why);
                if (!guess.Declared && guess.Included is null)
                    page.Ask(
                        $"Does {guess.Table}.{string.Join(", ", guess.Columns)} refer to {table.Name}? It is "
                            + "named like it, but has no values yet; it is in the draft."
                    );
                continue;
            }

            page.Line(3, $"# {line}", why);
            var doubt =
                guess.Included >= 0.95
                    ? "numbers may be among its keys by chance"
                    : $"only {guess.Included:0 %} of its values found";
            page.Ask(
                $"Does {guess.Table}.{string.Join(", ", guess.Columns)} refer to {table.Name}? It seems so "
                    + $"({guess.Why}), but {doubt}; the line is commented out under 'references' of '{type.Name}'."
            );
        }
    }

    /// <summary>
    /// True if a reference of a table to itself names a parent, by its name and by its values: a parent is never the
    /// record itself, while a last editor often is.
    /// </summary>
    private bool FormsTree(ReferenceGuess guess, TableReading rows)
    {
        var column = rows.Columns.FirstOrDefault(each => Identifiers.Same(each.Name, guess.Columns[^1]));
        var isParent = column?.IsAbout("parent") == true;
        if (isParent && guess.PointsAtItself != true)
            return true;
        page.Ask(
            $"{guess.Table}.{string.Join(", ", guess.Columns)} refers to the same table"
                + (guess.PointsAtItself == true ? ", and some rows refer to themselves" : "")
                + ". If it forms a tree, as a parent or a superior does, write 'hierarchy: true' there; "
                + "it is drafted as "
                + "one by which a record may refer to itself."
        );
        return false;
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
                $"A record has at most one row of {rows.Name} with {partial!.Filter}. Where both "
                    + "records have one, the merge is blocked until one of them no longer is; if the two should "
                    + $"become one row, add 'collision: combine' to '{reference.Name}'."
            );
            return (null, $"; two with {partial.Filter} block the merge");
        }

        var beside = keys.SelectMany(key => key)
            .Where(column => !guess.Columns.ContainsIdentifier(column))
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .ToList();

        // Two bills with one number need a person to decide, even if they are equal.
        if (Amount(rows) is not null)
            return (null, "; rows with the same unique values block the merge");
        var same = beside.Where(column => guess.When?.Column != column).ToList();
        if (!reference.IsLink(beside))
            AskIfWritten(
                (
                    same.Count == 0
                        ? $"A record has at most one row of {rows.Name}. Where both records have one, "
                            + "and the two differ, "
                        : $"Where both records have a row of {rows.Name} with the same "
                            + $"{string.Join(", ", same)}, and the "
                            + "two differ otherwise, "
                )
                    + $"the merge is blocked. To combine the two, write 'collision: combine' in '{reference.Name}'; "
                    + "to keep "
                    + "only the master's row, 'collision: keep'."
            );
        return ("keep-equal", "; of equal rows one is kept, and others block the merge");
    }

    /// <summary>The columns in which rows may differ without meaning different things.</summary>
    private static List<string> Bookkeeping(DraftedReference reference) =>
        [
            .. reference
                .Rows.Columns.Where(column =>
                    (column.IsTime && (column.IsAbout("created") || column.IsAbout("changed")))
                    || column.IsAbout("position")
                )
                .Select(column => column.Name),
        ];

    private void WriteFigures()
    {
        var figures = new List<(string Text, string Why)>();
        var sums = new List<string>();
        var taken = new HashSet<string>();
        foreach (
            var (reference, _, rows) in type.References.Where(reference =>
                reference.IsWritten && reference.Rows.Name != table.Name
            )
        )
        {
            if (Amount(rows) is { } amount)
            {
                sums.Add(MapDrafter.Free(taken, $"{reference}_{NameWords.ForMap(amount.Name)}"));
                figures.Add(
                    (
                        $"{sums[^1]}: {{ reference: {reference}, sum: {YamlScalar.Of(amount.Name)}, control: true }}",
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

        // With one sum there is nothing to choose.
        if (sums.Count > 1)
            page.Line(
                2,
                $"amount: {sums[0]}",
                $"what counts as the amount at stake; or: {string.Join(", ", sums[1..])}"
            );
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
            page.Line(3, $"country: {country}", "the country of most records");
        if (partition.Count > 0)
            page.Line(3, $"partition: {DraftReport.Scalars([.. partition.Select(column => type.FieldOf(column)!)])}");
    }

    private static bool IsPartition(ColumnReading column) =>
        column.FirstConcept == "partition" && column.Profile.Distinct.Count is > 0 and <= MaxPartitions;

    /// <summary>The country of most records, if one is of most.</summary>
    private string? Country()
    {
        if (table.Of(FieldKind.Country) is not { } column)
            return null;
        var codes = column.Profile.Values.Where(value => value.Trim().Length > 0).Select(Countries.CodeOf).ToList();
        var most = codes.GroupBy(code => code).MaxBy(group => group.Count());
        return most is { Key: { } code } && most.Count() * 2 > codes.Count ? code : null;
    }

    private static ColumnReading? Amount(TableReading rows) =>
        rows
            .Columns.Where(column => column.IsAmount && !rows.Profile.Table.PrimaryKey.Contains(column.Name))
            .OrderBy(column => column.FirstConcept == "money" ? 0 : 1)
            .FirstOrDefault();

    private string Label()
    {
        var parts = table.Names.Where(column => type.FieldOf(column) is not null).ToList();
        if (parts.Count == 0)
            parts = [.. type.Fields.OrderByDescending(DraftedType.IsWord).Take(1)];
        if (parts.Count == 0)
            return Title;
        var label = string.Join(' ', parts.Select(column => $"{{{type.FieldOf(column)}}}"));
        return table.Of(FieldKind.City) is { } city && type.FieldOf(city) is { } town ? $"{label}, {{{town}}}" : label;
    }
}
