using System.CommandLine;
using System.CommandLine.Parsing;

namespace Kettlefog.Terminal;

/// <summary>Writes the descriptions of commands.</summary>
public static class CommandHelp
{
    /// <summary>A command with those above it, as it is typed: <c>kettlefog clusters comment</c>.</summary>
    /// <param name="command">The command, as parsed.</param>
    public static string Path(CommandResult command)
    {
        ArgumentNullException.ThrowIfNull(command);
        return command.Parent is CommandResult above ? $"{Path(above)} {command.Command.Name}"
            : command.Command is RootCommand ? "kettlefog"
            : command.Command.Name;
    }

    /// <summary>A description with examples below it.</summary>
    /// <param name="description">The description: one or two sentences in the imperative.</param>
    /// <param name="examples">Complete command lines, without <c>kettlefog</c>.</param>
    public static string WithExamples(string description, params string[] examples) =>
        description
        + "\n\n"
        + (examples.Length == 1 ? "Example:" : "Examples:")
        + string.Concat(examples.Select(example => $"\n  kettlefog {example}"));
}
