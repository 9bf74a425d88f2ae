using System.Text.RegularExpressions;

namespace Kettlefog.Testing;

/// <summary>Record maps for tests, of which only what a test is about is written.</summary>
public static partial class TestMap
{
    /// <summary>A map with one record type.</summary>
    /// <param name="type">Its name.</param>
    /// <param name="parts">
    /// Its parts, as under its name in a map, the first at column 0. Where they do not say otherwise, the table has the
    /// type's name, the label is the name, and duplicates are deleted. They begin at line 5 of the map.
    /// </param>
    public static string Of(string type, string parts)
    {
        var keys = KeyPattern().Matches(parts).Select(match => match.Value).ToHashSet();
        var usual = new[]
        {
            ("table:", $"table: {type}"),
            ("label:", "label: \"{name}\""),
            ("retire:", "retire: { delete: true }"),
        };
        var lines = parts
            .TrimEnd()
            .Split('\n')
            .Concat(usual.Where(part => !keys.Contains(part.Item1)).Select(part => part.Item2));
        return WithTypes(
            $"  {type}:\n{string.Join('\n', lines.Select(line => line.Length == 0 ? line : $"    {line}"))}"
        );
    }

    /// <summary>A map with several record types.</summary>
    /// <param name="recordTypes">The record types, indented as under <c>record_types</c>.</param>
    public static string WithTypes(string recordTypes) => $"kettlefog: 1\nname: Test\nrecord_types:\n{recordTypes}";

    [GeneratedRegex(@"^\w+:", RegexOptions.Multiline)]
    private static partial Regex KeyPattern();
}
