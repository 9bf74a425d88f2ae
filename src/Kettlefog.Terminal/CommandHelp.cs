namespace Kettlefog.Terminal;

/// <summary>Writes the descriptions of commands.</summary>
public static class CommandHelp
{
    /// <summary>A description with examples below it.</summary>
    /// <param name="description">The description: one or two sentences in the imperative.</param>
    /// <param name="examples">Complete command lines, without <c>kettlefog</c>.</param>
    public static string WithExamples(string description, params string[] examples) =>
        description
        + "\n\n"
        + (examples.Length == 1 ? "Example:" : "Examples:")
        + string.Concat(examples.Select(example => $"\n  kettlefog {example}"));
}
