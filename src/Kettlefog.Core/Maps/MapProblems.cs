namespace Kettlefog.Core.Maps;

/// <summary>One mistake in a map.</summary>
/// <param name="Line">The line in the file, counted from 1; 0 if the mistake is not in one line.</param>
/// <param name="Message">What is wrong.</param>
/// <param name="Instead">What to write instead.</param>
public sealed record MapProblem(int Line, string Message, string Instead);

/// <summary>Collects the mistakes of a map, so that they are all told at once.</summary>
/// <param name="file">The file's name, for the messages.</param>
internal sealed class MapProblems(string file)
{
    private readonly List<MapProblem> _problems = [];

    /// <summary>True if there is none.</summary>
    public bool None => _problems.Count == 0;

    /// <summary>Adds one.</summary>
    public void Add(int line, string message, string instead) => _problems.Add(new MapProblem(line, message, instead));

    /// <summary>Throws them all, if there is any.</summary>
    /// <exception cref="Refusal">There is at least one.</exception>
    public void ThrowIfAny()
    {
        if (None)
            return;
        var details = _problems
            .OrderBy(problem => problem.Line)
            .Select(problem => $"{file}{(problem.Line > 0 ? $":{problem.Line}" : "")}: {problem.Message} {problem.Instead}")
            .ToList();
        throw new Refusal(
            RefusalCode.InvalidMap,
            details.Count == 1
                ? $"The record map {file} has a mistake."
                : $"The record map {file} has {details.Count} mistakes.",
            "Mend the file and start again.",
            details);
    }
}
