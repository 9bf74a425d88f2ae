using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads the blockers of a record type.</summary>
internal static class BlockerReader
{
    internal static readonly string[] Keys = ["must_agree", "forbid", "at_most_one"];

    internal static readonly string[] AtMostOneKeys = ["name", "title", "reference", "when", "end"];

    /// <summary>Reads the part; reports every mistake.</summary>
    public static BlockerRules Read(MapNode type, List<Reference> references)
    {
        var node = type.Child("blockers")?.Only(Keys);
        var forbid = node?.Child("forbid");
        return new BlockerRules(
            node?.Texts("must_agree") ?? [],
            forbid?.Keys.ToDictionary(field => field, forbid.Texts) ?? new Dictionary<string, IReadOnlyList<string>>(),
            [
                .. (node?.WordsOrItems("at_most_one") ?? []).Select(each =>
                    each.Item is { } item
                        ? ReadAtMostOne(item, references)
                        : AtMostOne(each.Word!, null, each.Word!, references)
                ),
            ]
        );
    }

    private static AtMostOneRule ReadAtMostOne(MapNode node, List<Reference> references)
    {
        node.Only(AtMostOneKeys);
        var reference = node.RequiredText("reference", references.FirstOrDefault()?.Name ?? "agreements");
        var rule = AtMostOne(node.Text("name") ?? reference, node.Text("title"), reference, references);
        return rule with { When = node.BlankableTextMap("when"), End = node.BlankableTextMap("end") };
    }

    private static AtMostOneRule AtMostOne(string name, string? title, string reference, List<Reference> references) =>
        new(
            name,
            title ?? references.Find(each => each.Name == reference)?.Title ?? Title.Of(name),
            reference,
            new Dictionary<string, string?>(),
            new Dictionary<string, string?>()
        );
}
