using System.Globalization;
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
    private const double MinMatchingShare = 0.9;

    /// <summary>Shorter zero-padded numbers may be anything.</summary>
    private const int MinFilled = 5;

    /// <summary>The confidence that values alone can give, in percent.</summary>
    private const int ValuesOnlyConfidence = 80;

    /// <summary>Numbers may be among the keys by chance: such a reference is only asked about.</summary>
    private const int QuestionOnlyConfidence = 40;

    /// <summary>Where more of the numbers between two keys are keys, any small number is one.</summary>
    private const double MaxSparseShare = 0.2;

    private const string KeysName = "it has the key's name";

    private static readonly string[] KeyWords =
    [
        "id",
        "key",
        "nr",
        "no",
        "num",
        "number",
        "code",
        "ref",
        "uuid",
        "guid",
        "fk",
        "pk",
        "oid",
        "nummer",
        "numero",
        "sid",
        "fid",
        "nro",
    ];

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
        var shapes = key.Count == 1 ? ShapesOf(target, key[0]) : [];
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
                if (Named(table, column, target, key[0]) is { } why)
                    yield return new ReferenceGuess(table.Name, [column.Name], target.Name, key, null, false, why)
                    {
                        // A key of its own that happens to be called alike is no reference; only a person knows.
                        Weak = isOwnKey,
                        MaxConfidence = isOwnKey ? QuestionOnlyConfidence : 95,
                        NamesOnlyKey = why == KeysName,
                    };
                else if (IsCalledAs(table, column, target, key[0]))
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
                else if (LooksLikeKeys(table, column, shapes) && !IsCalledAsOne(column, others))
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
                else if (!IsCalledAsOne(column, others) && MayHoldKeys(table, column, target))
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

    /// <summary>Why the name of a column suggests a reference to a table, or null if it does not.</summary>
    private static string? Named(TableReading table, ColumnReading column, TableReading target, string key)
    {
        var itself = Identifiers.Same(table.Name, target.Name);
        if (itself && target.Key.ContainsIdentifier(column.Name))
            return null;
        var isOwnKey =
            table.Profile.Table.PrimaryKey.Count == 1
            && Identifiers.Same(table.Profile.Table.PrimaryKey[0], column.Name);
        var words = NameWords.Of(column.Name);

        // customer_no in both tables, or bill_to_customer_no: keys named after what they identify.
        var keyWords = NameWords.Of(key);
        if (
            !itself
            && keyWords.Any(word => !KeyWords.Contains(word))
            && (
                words.TakeLast(keyWords.Count).SequenceEqual(keyWords)
                || string.Concat(words) == string.Concat(keyWords)
            )
        )
            return KeysName;
        if (isOwnKey && !itself)
            return null;
        if (itself)
            return
                column.IsAbout("parent")
                && column.Profile.Column.IsComparableWith(target.Profile.Table.Find(key)!)
                && column.Kind != FieldKind.Flag
                ? "its name mentions a parent"
                : null;
        var core = words.Where(word => !KeyWords.Contains(word) && !int.TryParse(word, out _)).ToList();
        var hasKeyWord = core.Count < words.Count || words.Any(EndsWithKeyWord);
        if (core.Count == 0 || target.Stem.Count == 0)
            return null;
        var end = core.TakeLast(target.Stem.Count).ToList();
        if (end.Count == target.Stem.Count && end.Zip(target.Stem).All(pair => IsSame(pair.First, pair.Second)))
            return
                hasKeyWord
                || column.Profile.Column.Storage == StorageClass.Integer
                || column.Profile.Column.TextType == "uuid"
                ? "its name"
                : null;
        return hasKeyWord && target.Stem.Count > 1 && IsSame(core[^1], target.Stem[^1]) ? "its name" : null;
    }

    /// <summary>
    /// True if a text column has the name of a table whose key is a text: its values may be keys, or only names.
    /// </summary>
    private static bool IsCalledAs(TableReading table, ColumnReading column, TableReading target, string key) =>
        !Identifiers.Same(table.Name, target.Name)
        && column.Profile.Column.Storage == StorageClass.Text
        && target.Profile.Table.Find(key)!.Storage == StorageClass.Text
        && NameWords.Of(column.Name) is var words
        && words.Count >= target.Stem.Count
        && words.TakeLast(target.Stem.Count).Zip(target.Stem).All(pair => IsSame(pair.First, pair.Second));

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
            var named = type.Profile.Distinct.FirstOrDefault(value => IsNamed(value, target));
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
                        && KeyWords.Contains(words[^1])
                    )
                    || (lead.Count > 0 && words.SequenceEqual(lead))
                    || (lead.Count == 0 && words.Count == 1 && Alone.Contains(words[0]))
                    || (lead.Count == 0 && words.Count == 2 && Leads.Contains(words[0]) && KeyWords.Contains(words[1]))
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
                && KeyWords.Contains(words[^1])
                && IsNamed(string.Join(' ', words.SkipLast(1)), target)
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
    /// True if all values of a column may be keys, and not only by chance: keys are texts or far apart, or the column
    /// is named as one that refers to somebody or something.
    /// </summary>
    private static bool MayHoldKeys(TableReading table, ColumnReading column, TableReading target)
    {
        var values = column.Profile.Distinct;
        if (
            values.Count < MinValues
            || column.IsTime
            || column.IsAmount
            || column.Kind is FieldKind.Flag or FieldKind.Email or FieldKind.Phone
            || column.IsAbout("position")
            || (table.Key.Count == 1 && table.Key.ContainsIdentifier(column.Name))
            || (Identifiers.Same(table.Name, target.Name) && target.Key.ContainsIdentifier(column.Name))
        )
            return false;
        var keys = target.Columns.First(each => Identifiers.Same(each.Name, target.Key[0])).Profile.Distinct;
        var numbers = keys.Select(Number).ToList();
        if (numbers.Count == 0)
            return false;
        var refers =
            SomebodysConcepts.Any(column.IsAbout)
            || NameWords.Of(column.Name) is [.., var last] && (KeyWords.Contains(last) || EndsWithKeyWord(last));
        if (numbers.Contains(null))
            return MatchShapes(values, [.. keys.Select(Shape)]);
        var isSparse =
            numbers.Count >= MinValues && numbers.Count < MaxSparseShare * (double)(numbers.Max() - numbers.Min() + 1)!;
        return (refers || isSparse) && values.All(value => Number(value) is not null);
    }

    /// <summary>The concepts of columns that refer to somebody.</summary>
    private static readonly string[] SomebodysConcepts = ["role", "author", "owner", "party", "parent"];

    private static decimal? Number(string text) =>
        text.Length is > 0 and <= 20
        && decimal.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number)
            ? number
            : null;

    private static bool IsNamed(string value, TableReading target)
    {
        var words = NameWords.Of(value).Select(NameWords.Singular).ToList();
        return words.Count > 0
            && target.Stem.Count > 0
            && (
                words.SequenceEqual(target.Stem)
                || IsSame(words[^1], target.Stem[^1])
                || string.Concat(words) == string.Concat(target.Stem)
            );
    }

    /// <summary>True if two words differ only in number, or one is a shortening of the other: cust, customer.</summary>
    private static bool IsSame(string left, string right)
    {
        var (a, b) = (NameWords.Singular(Stripped(left)), NameWords.Singular(right));
        if (a == b)
            return true;
        var (shorter, longer) = a.Length < b.Length ? (a, b) : (b, a);
        return (
                shorter.Length >= 4
                && longer.StartsWith(shorter, StringComparison.Ordinal)
                && longer.Length - shorter.Length <= 4
            )
            || (
                shorter.Length >= 5
                && shorter[..^1] == longer[..Math.Min(longer.Length, shorter.Length - 1)]
                && longer.Length - shorter.Length <= 1
            );
    }

    private static bool EndsWithKeyWord(string word) => Stripped(word).Length < word.Length;

    /// <summary>kundennr, clientid: the key's word written as one with the other.</summary>
    private static string Stripped(string word) =>
        KeyWords.FirstOrDefault(key => word.Length > key.Length + 3 && word.EndsWith(key, StringComparison.Ordinal))
            is { } end
            ? word[..^end.Length]
            : word;

    /// <summary>
    /// True if sampled values have the shapes of the keys. Only for keys that are not plain numbers: any number is
    /// likely to be some row's key, so finding it among them proves nothing.
    /// </summary>
    private static bool LooksLikeKeys(TableReading table, ColumnReading column, HashSet<string> shapes)
    {
        var isKey = table.Key.Count == 1 && Identifiers.Same(table.Key[0], column.Name);
        return !isKey
            && shapes.Count > 0
            && column.Profile.Distinct.Count >= MinValues
            && MatchShapes(column.Profile.Distinct, shapes);
    }

    /// <summary>True if a column's name ends with the name of another table, so that it refers to that one.</summary>
    private static bool IsCalledAsOne(ColumnReading column, HashSet<string> tables) =>
        NameWords.Of(column.Name).LastOrDefault(word => !KeyWords.Contains(word)) is { } last
        && tables.Contains(NameWords.Singular(Stripped(last)));

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
            var named = IsNamed(group.Key, target);
            if (named || (shapes.Count > 0 && MatchShapes([.. group], shapes)))
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
            else if (shapes.Count == 0 && group.All(rest => Number(rest) is not null))
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

    private static bool MatchShapes(IReadOnlyList<string> values, HashSet<string> shapes) =>
        values.Count(value => shapes.Contains(Shape(value))) >= MinMatchingShare * values.Count;

    /// <summary>
    /// The shapes of a table's keys; none if they are numbers, except zero-padded ones of equal length.
    /// </summary>
    private static HashSet<string> ShapesOf(TableReading target, string key)
    {
        var values = target.Columns.First(column => Identifiers.Same(column.Name, key)).Profile.Distinct;
        return
            values.Count >= MinValues
            && values.All(value =>
                (value.Any(char.IsLetter) && value.Any(char.IsAsciiDigit))
                || (value.Length >= MinFilled && value[0] == '0')
            )
            ? [.. values.Select(Shape)]
            : [];
    }

    /// <summary>
    /// A value with every letter and digit replaced by a class, except leading zeros: S00012 and C00377 have one shape;
    /// all UUIDs have one shape.
    /// </summary>
    private static string Shape(string value) =>
        Guid.TryParseExact(value, "D", out _) ? "uuid" : string.Create(value.Length, value, (shape, text) =>
            {
                for (var at = 0; at < text.Length; at++)
                    shape[at] =
                        at == 0 && text[at] == '0' ? '0'
                        : char.IsAsciiDigit(text[at]) ? '9'
                        : char.IsLetter(text[at]) ? 'a'
                        : text[at];
            });
}
