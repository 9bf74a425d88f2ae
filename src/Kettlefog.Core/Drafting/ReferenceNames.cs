using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Drafting;

/// <summary>What the names of tables and columns say about references.</summary>
internal static class ReferenceNames
{
    /// <summary>The reason where a column is called as the key is.</summary>
    public const string KeysName = "it has the key's name";

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

    /// <summary>Why the name of a column suggests a reference to a table, or null if it does not.</summary>
    public static string? WhyOf(TableReading table, ColumnReading column, TableReading target, string key)
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
    public static bool IsCalledAs(TableReading table, ColumnReading column, TableReading target, string key) =>
        !Identifiers.Same(table.Name, target.Name)
        && column.Profile.Column.Storage == StorageClass.Text
        && target.Profile.Table.Find(key)!.Storage == StorageClass.Text
        && NameWords.Of(column.Name) is var words
        && words.Count >= target.Stem.Count
        && words.TakeLast(target.Stem.Count).Zip(target.Stem).All(pair => IsSame(pair.First, pair.Second));

    /// <summary>True if a column's name ends with the name of another table, so that it refers to that one.</summary>
    public static bool IsCalledAsOne(ColumnReading column, HashSet<string> tables) =>
        NameWords.Of(column.Name).LastOrDefault(word => !KeyWords.Contains(word)) is { } last
        && tables.Contains(NameWords.Singular(Stripped(last)));

    /// <summary>True if a value names a table: vendor, VENDORS, harbour.vendor.</summary>
    public static bool IsNamed(string value, TableReading target)
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

    /// <summary>True if a word says that a column holds a key: id, number.</summary>
    public static bool IsKeyWord(string word) => KeyWords.Contains(word);

    /// <summary>True if a word is a key word, or ends as one: kundennr, clientid.</summary>
    public static bool EndsWithKeyWord(string word) => IsKeyWord(word) || Stripped(word).Length < word.Length;

    /// <summary>kundennr, clientid: the key's word written as one with the other.</summary>
    private static string Stripped(string word) =>
        KeyWords.FirstOrDefault(key => word.Length > key.Length + 3 && word.EndsWith(key, StringComparison.Ordinal))
            is { } end
            ? word[..^end.Length]
            : word;
}
