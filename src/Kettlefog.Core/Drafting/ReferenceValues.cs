using System.Globalization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;

namespace Kettlefog.Core.Drafting;

/// <summary>What sampled values say about references: whether they look like the keys of a table.</summary>
internal static class ReferenceValues
{
    private const int MinValues = ReferenceGuess.MinValues;
    private const double MinMatchingShare = 0.9;

    /// <summary>Shorter zero-padded numbers may be anything.</summary>
    private const int MinFilled = 5;

    /// <summary>Where more of the numbers between two keys are keys, any small number is one.</summary>
    private const double MaxSparseShare = 0.2;

    /// <summary>The concepts of columns that refer to somebody.</summary>
    private static readonly string[] SomebodysConcepts = ["role", "author", "owner", "party", "parent"];

    /// <summary>
    /// True if all values of a column may be keys, and not only by chance: keys are texts or far apart, or the column
    /// is named as one that refers to somebody or something.
    /// </summary>
    public static bool MayHoldKeys(TableReading table, ColumnReading column, TableReading target)
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
            || NameWords.Of(column.Name) is [.., var last] && ReferenceNames.EndsWithKeyWord(last);
        if (numbers.Contains(null))
            return MatchShapes(values, [.. keys.Select(Shape)]);
        var isSparse =
            numbers.Count >= MinValues && numbers.Count < MaxSparseShare * (double)(numbers.Max() - numbers.Min() + 1)!;
        return (refers || isSparse) && values.All(value => Number(value) is not null);
    }

    /// <summary>The whole number that a text is; null if it is none.</summary>
    public static decimal? Number(string text) =>
        text.Length is > 0 and <= 20
        && decimal.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number)
            ? number
            : null;

    /// <summary>
    /// True if sampled values have the shapes of the keys. Only for keys that are not plain numbers: any number is
    /// likely to be some row's key, so finding it among them proves nothing.
    /// </summary>
    public static bool LooksLikeKeys(TableReading table, ColumnReading column, HashSet<string> shapes)
    {
        var isKey = table.Key.Count == 1 && Identifiers.Same(table.Key[0], column.Name);
        return !isKey
            && shapes.Count > 0
            && column.Profile.Distinct.Count >= MinValues
            && MatchShapes(column.Profile.Distinct, shapes);
    }

    /// <summary>True if nearly all values have one of the shapes.</summary>
    public static bool MatchShapes(IReadOnlyList<string> values, HashSet<string> shapes) =>
        values.Count(value => shapes.Contains(Shape(value))) >= MinMatchingShare * values.Count;

    /// <summary>
    /// The shapes of a table's keys; none if they are numbers, except zero-padded ones of equal length.
    /// </summary>
    public static HashSet<string> ShapesOf(TableReading target, string key)
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
