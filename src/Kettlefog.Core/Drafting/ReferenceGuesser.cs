using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Drafting;

/// <summary>
/// Finds what may refer to a table: declared foreign keys, names, and where neither helps, sampled values that look
/// like its keys. A guess is confirmed against all values later, by the drafting service.
/// </summary>
internal static class ReferenceGuesser
{
    private const int MaxTypes = 40;

    private const int MinValues = ReferenceGuess.MinValues;

    /// <summary>The confidence that values alone can give, in percent.</summary>
    private const int ValuesOnlyConfidence = 80;

    /// <summary>Numbers may be among the keys by chance: such a reference is only asked about.</summary>
    private const int QuestionOnlyConfidence = 40;

    /// <summary>Names of a key column beside a type column: model and record_id.</summary>
    private static readonly string[] Leads =
    [
        "res",
        "object",
        "record",
        "entity",
        "target",
        "item",
        "row",
        "ref",
        "owner",
        "subject",
        "parent",
        "related",
        "source",
        "model",
        "resource",
    ];

    /// <summary>Generic names of a key column beside a type column: table and key.</summary>
    private static readonly string[] Alone =
    [
        "key",
        "record",
        "schluessel",
        "sleutel",
        "clave",
        "chiave",
        "cle",
        "nyckel",
    ];

    /// <summary>The possible references to a table.</summary>
    /// <param name="target">The table.</param>
    /// <param name="all">All tables, the target among them.</param>
    public static IEnumerable<ReferenceGuess> Of(TableReading target, IReadOnlyList<TableReading> all)
    {
        var key = target.Key;
        var shapes = key.Count == 1 ? ReferenceValues.ShapesOf(target, key[0]) : [];
        var others = all.Where(table => table.Stem.Count > 0 && !Identifiers.Same(table.Name, target.Name))
            .Select(table => table.Stem[^1])
            .ToHashSet();
        foreach (var table in all)
        {
            var declared = table
                .Profile.Table.ForeignKeys.Where(foreign => Identifiers.Same(foreign.Target, target.Name))
                .ToList();
            foreach (var foreign in declared)
                yield return new ReferenceGuess(
                    table.Name,
                    foreign.Columns,
                    target.Name,
                    foreign.TargetColumns,
                    null,
                    true,
                    "a foreign key of the database"
                );
            if (
                key.Count > 1
                && declared.Count == 0
                && !Identifiers.Same(table.Name, target.Name)
                && Together(table, target) is { } together
            )
                yield return together;
            if (key.Count != 1)
                continue;
            var taken = table
                .Profile.Table.ForeignKeys.SelectMany(foreign => foreign.Columns)
                .ToHashSet(StringComparer.OrdinalIgnoreCase);
            foreach (
                var column in table.Columns.Where(column =>
                    !taken.Contains(column.Name) && IsComparable(column, target, key[0])
                )
            )
            {
                var isOwnKey = table.Profile.Table.PrimaryKey.SequenceEqual([column.Name]);
                if (ReferenceNames.WhyOf(table, column, target, key[0]) is { } why)
                    yield return new ReferenceGuess(table.Name, [column.Name], target.Name, key, null, false, why)
                    {
                        // A key of its own that happens to be called alike is no reference; only a person knows.
                        Weak = isOwnKey,
                        MaxConfidence = isOwnKey ? QuestionOnlyConfidence : 95,
                        NamesOnlyKey = why == ReferenceNames.KeysName,
                    };
                else if (ReferenceNames.IsCalledAs(table, column, target, key[0]))
                    yield return new ReferenceGuess(
                        table.Name,
                        [column.Name],
                        target.Name,
                        key,
                        null,
                        false,
                        "it has the table's name, and the keys are texts"
                    )
                    {
                        Weak = true,
                    };
                else if (
                    ReferenceValues.LooksLikeKeys(table, column, shapes)
                    && !ReferenceNames.IsCalledAsOne(column, others)
                )
                    yield return new ReferenceGuess(
                        table.Name,
                        [column.Name],
                        target.Name,
                        key,
                        null,
                        false,
                        "its values look like the keys"
                    )
                    {
                        Weak = true,
                        MaxConfidence = ValuesOnlyConfidence,
                    };
                else if (
                    column.IsAbout("role")
                    && column.Profile.Column.Storage == StorageClass.Integer
                    && !table.Key.SequenceEqual([column.Name])
                )
                    yield return new ReferenceGuess(
                        table.Name,
                        [column.Name],
                        target.Name,
                        key,
                        null,
                        false,
                        "its name is a role"
                    )
                    {
                        Weak = true,
                        MaxConfidence = QuestionOnlyConfidence,
                    };
                else if (
                    !ReferenceNames.IsCalledAsOne(column, others) && ReferenceValues.MayHoldKeys(table, column, target)
                )
                    yield return ByValues(table, column, target, null);
                foreach (var guess in Within(table, column, target, shapes))
                    yield return guess;
            }

            foreach (var guess in Polymorphic(table, target, key[0], taken))
                yield return guess;
            foreach (var guess in Named(table, target, key[0], taken))
                yield return guess;
        }
    }

    /// <summary>Columns with the names of all columns of a composite key.</summary>
    private static ReferenceGuess? Together(TableReading table, TableReading target)
    {
        var columns = target
            .Key.Select(part =>
                table.Columns.FirstOrDefault(column => Identifiers.Same(column.Name, part))
                ?? table.Columns.FirstOrDefault(column => EndsWithPart(column.Name, part))
            )
            .ToList();
        return
            columns.All(column => column is not null)
            && columns.Distinct().Count() == columns.Count
            && columns.Zip(target.Key).All(pair => IsComparable(pair.First!, target, pair.Second))
            ? new ReferenceGuess(
                table.Name,
                [.. columns.Select(column => column!.Name)],
                target.Name,
                target.Key,
                null,
                false,
                "its columns have the names of the key's columns"
            )
            : null;
    }

    private static bool EndsWithPart(string column, string part)
    {
        var words = NameWords.Of(part);
        return NameWords.Of(column).TakeLast(words.Count).SequenceEqual(words);
    }

    private static bool IsComparable(ColumnReading column, TableReading target, string key)
    {
        var pointed = target.Profile.Table.Find(key)!;
        return !column.Profile.Column.Generated
            && column.Profile.Column.Storage != StorageClass.Blob
            && (column.Profile.Column.IsComparableWith(pointed) || column.Profile.Column.Storage == StorageClass.Text);
    }

    /// <summary>
    /// Rows that may belong to records of several types: one column names the type, another holds the key.
    /// </summary>
    private static IEnumerable<ReferenceGuess> Polymorphic(
        TableReading table,
        TableReading target,
        string key,
        HashSet<string> taken
    )
    {
        foreach (
            var type in table.Columns.Where(column =>
                column.IsAbout("type")
                && column.Profile.Distinct.Count is > 0 and <= MaxTypes
                && column.Profile.Column.Storage is StorageClass.Text or StorageClass.Integer or null
            )
        )
        {
            var isNumber = type.Profile.Column.Storage == StorageClass.Integer;
            var named = type.Profile.Distinct.FirstOrDefault(value => ReferenceNames.IsNamed(value, target));
            if (named is null && !isNumber)
                continue;
            var lead = NameWords.Of(type.Name).SkipLast(1).ToList();
            var id = table.Columns.FirstOrDefault(column =>
                !taken.Contains(column.Name)
                && !table.Profile.Table.PrimaryKey.SequenceEqual([column.Name])
                && IsComparable(column, target, key)
                && NameWords.Of(column.Name) is var words
                && (
                    (
                        words.Count == lead.Count + 1
                        && words.Take(lead.Count).SequenceEqual(lead)
                        && ReferenceNames.IsKeyWord(words[^1])
                    )
                    || (lead.Count > 0 && words.SequenceEqual(lead))
                    || (lead.Count == 0 && words.Count == 1 && Alone.Contains(words[0]))
                    || (
                        lead.Count == 0
                        && words.Count == 2
                        && Leads.Contains(words[0])
                        && ReferenceNames.IsKeyWord(words[1])
                    )
                )
            );
            if (id is not null && isNumber)
            {
                // Which number means which table, only the values can tell.
                foreach (var value in type.Profile.Distinct)
                    yield return ByValues(table, id, target, (type.Name, value));
            }
            else if (id is not null)
                yield return new ReferenceGuess(
                    table.Name,
                    [id.Name],
                    target.Name,
                    [key],
                    (type.Name, named!),
                    false,
                    $"'{type.Name}' says '{named}'"
                );
        }
    }

    /// <summary>
    /// Values beside a name: a table of settings, with 'vendor_id' in one column and a key, perhaps as text, in
    /// another.
    /// </summary>
    private static IEnumerable<ReferenceGuess> Named(
        TableReading table,
        TableReading target,
        string key,
        HashSet<string> taken
    )
    {
        foreach (
            var name in table.Columns.Where(column =>
                column.Profile.Distinct.Count is > 0 and <= MaxTypes
                && column.Profile.Column.Storage is StorageClass.Text or null
                && !column.IsAbout("type")
            )
        )
        {
            var named = name.Profile.Distinct.FirstOrDefault(value =>
                NameWords.Of(value) is { Count: > 1 } words
                && ReferenceNames.IsKeyWord(words[^1])
                && ReferenceNames.IsNamed(string.Join(' ', words.SkipLast(1)), target)
            );
            foreach (
                var value in named is null
                    ? []
                    : table.Columns.Where(column =>
                        column != name
                        && !taken.Contains(column.Name)
                        && !table.Key.ContainsIdentifier(column.Name)
                        && !column.IsTime
                        && IsComparable(column, target, key)
                    )
            )
                yield return ByValues(table, value, target, (name.Name, named!));
        }
    }

    private static ReferenceGuess ByValues(
        TableReading table,
        ColumnReading column,
        TableReading target,
        (string Column, string Value)? when
    ) =>
        new(
            table.Name,
            [column.Name],
            target.Name,
            target.Key,
            when,
            false,
            when is var (name, value) ? $"its values are keys where '{name}' is '{value}'" : "all its values are keys"
        )
        {
            Weak = true,
            ByValues = true,
            MaxConfidence = QuestionOnlyConfidence,
        };

    /// <summary>
    /// Texts around a key, such as <c>vendor:1001</c>: the prefix names the table, or the rest looks
    /// like its keys.
    /// </summary>
    private static IEnumerable<ReferenceGuess> Within(
        TableReading table,
        ColumnReading column,
        TableReading target,
        HashSet<string> shapes
    )
    {
        if (
            column.Profile.Column.Storage is not (StorageClass.Text or null)
            || column.IsTime
            || column.Kind == FieldKind.Email
        )
            yield break;
        var parts = column
            .Profile.Distinct.Select(Parted)
            .OfType<(string Before, string After)>()
            .GroupBy(part => part.Before, part => part.After)
            .Where(group => group.Count() >= MinValues);
        foreach (var group in parts.Take(MaxTypes))
        {
            var named = ReferenceNames.IsNamed(group.Key, target);
            if (named || (shapes.Count > 0 && ReferenceValues.MatchShapes([.. group], shapes)))
                yield return new ReferenceGuess(
                    table.Name,
                    [column.Name],
                    target.Name,
                    target.Key,
                    null,
                    false,
                    $"its texts start with '{group.Key}'"
                )
                {
                    Weak = true,
                    Prefix = group.Key,
                    MaxConfidence = named ? 95 : ValuesOnlyConfidence,
                };
            else if (shapes.Count == 0 && group.All(rest => ReferenceValues.Number(rest) is not null))
                yield return ByValues(table, column, target, null) with
                {
                    Prefix = group.Key,
                    Why = $"after '{group.Key}' all its values are keys",
                };
        }
    }

    /// <summary>
    /// Splits a text after its last separator, if the prefix has letters and no brace, and the rest no space; null
    /// if it does not have that form.
    /// </summary>
    private static (string Before, string After)? Parted(string text)
    {
        var at = text.LastIndexOfAny([':', '/', '#', '|', '=']) + 1;
        return
            at > 1
            && at < text.Length
            && !text.AsSpan(at).ContainsAny(" \t\r\n")
            && !text.AsSpan(0, at).Contains('{')
            && text.Take(at).Any(char.IsLetter)
            ? (text[..at], text[at..])
            : null;
    }
}
