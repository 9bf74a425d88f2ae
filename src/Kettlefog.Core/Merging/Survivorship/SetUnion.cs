using System.Text.Encodings.Web;
using System.Text.Json;

namespace Kettlefog.Core.Merging.Survivorship;

/// <summary>Combines sets that are stored as text: members with a separator between them, or a JSON array.</summary>
internal static class SetUnion
{
    private static readonly string[] Separators = [";", "|", ","];

    private static readonly JsonSerializerOptions Json = new()
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>
    /// All members, each once and in the order in which they first occur, in the form of the first set.
    /// </summary>
    /// <param name="sets">The sets; at least one.</param>
    /// <param name="separator">The separator between the members; null to detect it from the sets.</param>
    public static string Of(IReadOnlyList<string> sets, string? separator)
    {
        separator ??= Separators.FirstOrDefault(each => sets.Any(set => set.Contains(each, StringComparison.Ordinal)))
            ?? ",";
        var members = new List<string>();
        var known = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (var member in sets.SelectMany(set => Members(set, separator)))
        {
            if (known.Add(member))
                members.Add(member);
        }

        if (FromJson(sets[0]) is { } first)
        {
            // Elements that are not text, such as numbers, keep their type.
            if (members.SequenceEqual(first.Select(each => each.Member)))
                return sets[0];
            var elements = sets.SelectMany(set => FromJson(set) ?? []).ToList();
            var written = members.Select(member =>
                elements.Find(each => each.Member == member).Raw ?? JsonSerializer.Serialize(member, Json)
            );
            return $"[{string.Join(",", written)}]";
        }

        var space =
            sets.Any(set => set.Contains(separator + " ", StringComparison.Ordinal))
            || sets.All(set => !set.Contains(separator, StringComparison.Ordinal))
                ? " "
                : "";
        return string.Join(separator + space, members);
    }

    private static IEnumerable<string> Members(string set, string separator) =>
        FromJson(set) is { } elements
            ? elements.Select(each => each.Member)
            : set.Split(separator, StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);

    private static List<(string Member, string Raw)>? FromJson(string text)
    {
        if (!text.TrimStart().StartsWith('['))
            return null;
        try
        {
            using var document = JsonDocument.Parse(text);
            return document.RootElement.ValueKind == JsonValueKind.Array
                ?
                [
                    .. document
                        .RootElement.EnumerateArray()
                        .Select(element =>
                            (
                                element.ValueKind == JsonValueKind.String ? element.GetString()! : element.GetRawText(),
                                element.GetRawText()
                            )
                        ),
                ]
                : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
