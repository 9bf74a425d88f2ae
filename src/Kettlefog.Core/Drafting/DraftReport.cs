using Kettlefog.Core.Map.Reading;

namespace Kettlefog.Core.Drafting;

/// <summary>Builds the text of a drafted map, with the open questions at its top.</summary>
internal sealed class DraftReport
{
    private readonly List<string> _lines = [];
    private readonly List<string> _questions = [];

    /// <summary>Adds a line.</summary>
    /// <param name="depth">Its depth; each level is indented by two spaces.</param>
    /// <param name="text">The line.</param>
    /// <param name="why">The comment after it, or null.</param>
    public void Line(int depth, string text, string? why = null) =>
        _lines.Add($"{new string(' ', 2 * depth)}{text}{(why is null ? "" : $" # {why.ReplaceLineEndings(" ")}")}");

    /// <summary>Adds a question for the owner of the database.</summary>
    public void Ask(string question) => _questions.Add(question);

    /// <summary>A single name as it is, several in brackets.</summary>
    public static string Scalars(IReadOnlyList<string> texts) =>
        texts.Count == 1 ? YamlScalar.Of(texts[0]) : $"[{string.Join(", ", texts.Select(YamlScalar.Of))}]";

    /// <summary>The map in full.</summary>
    public MapDraft Close(string database, IReadOnlyList<string> types)
    {
        var head = new List<string>
        {
            $"# A draft of the record map of {database}, made from its catalog and samples of its values.",
            "# The comment after each guess gives its evidence, and its confidence where it is not certain.",
        };
        if (_questions.Count > 0)
            head.Add("# Questions that only you can answer:");
        head.AddRange(_questions.Select((question, at) => $"# {at + 1}. {question}"));
        head.AddRange(["kettlefog: 1", $"name: {YamlScalar.Of(database)}", "record_types:"]);
        return new MapDraft(string.Join('\n', head.Concat(_lines)) + "\n", types, _questions);
    }
}
