using Kettlefog.Core.Map.Reading;

namespace Kettlefog.Core.Drafting;

/// <summary>The text of a drafted map as it grows, with the questions that stand at its head.</summary>
internal sealed class DraftReport
{
    private readonly List<string> _lines = [];
    private readonly List<string> _questions = [];

    /// <summary>Adds a line.</summary>
    /// <param name="depth">How deep it stands; two spaces each.</param>
    /// <param name="text">The line.</param>
    /// <param name="why">The comment behind it, or null.</param>
    public void Line(int depth, string text, string? why = null) =>
        _lines.Add($"{new string(' ', 2 * depth)}{text}{(why is null ? "" : $" # {why.ReplaceLineEndings(" ")}")}");

    /// <summary>Asks the owner of the database something.</summary>
    public void Ask(string question) => _questions.Add(question);

    /// <summary>One name, or several in brackets.</summary>
    public static string Scalars(IReadOnlyList<string> texts) =>
        texts.Count == 1 ? YamlScalar.Of(texts[0]) : $"[{string.Join(", ", texts.Select(YamlScalar.Of))}]";

    /// <summary>The map in full.</summary>
    public MapDraft Close(string database, IReadOnlyList<string> types)
    {
        var head = new List<string>
        {
            $"# A draft of the record map of {database}, made from its catalog and samples of its values.",
            "# Behind each guess stands what it was made from, and how sure it is where it is not certain.",
        };
        if (_questions.Count > 0)
            head.Add("# What only you know:");
        head.AddRange(_questions.Select((question, at) => $"# {at + 1}. {question}"));
        head.AddRange(["kettlefog: 1", $"name: {YamlScalar.Of(database)}", "record_types:"]);
        return new MapDraft(string.Join('\n', head.Concat(_lines)) + "\n", types, _questions);
    }
}
