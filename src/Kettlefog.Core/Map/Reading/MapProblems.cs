namespace Kettlefog.Core.Map.Reading;

/// <summary>Collects the mistakes of a map, so that they are all reported at once.</summary>
/// <param name="file">The file's name, for the messages.</param>
internal sealed class MapProblems(string file)
{
    private readonly List<MapFinding> _problems = [];

    /// <summary>The mistakes so far.</summary>
    public IReadOnlyList<MapFinding> All => _problems;

    /// <summary>True if there is none.</summary>
    public bool None => _problems.Count == 0;

    /// <summary>Adds one.</summary>
    public void Add(int line, string message, string instead) =>
        _problems.Add(new MapFinding(FindingSeverity.Error, line, message, instead));

    /// <summary>Throws an exception with all of them, if there are any.</summary>
    /// <exception cref="KettlefogException">There is at least one.</exception>
    public void ThrowIfAny()
    {
        if (!None)
            throw ExceptionOf(file, _problems);
    }

    /// <summary>The exception that reports mistakes.</summary>
    public static KettlefogException ExceptionOf(string file, IEnumerable<MapFinding> mistakes)
    {
        var details = mistakes
            .OrderBy(mistake => mistake.Line)
            .Select(mistake =>
                $"{file}{(mistake.Line > 0 ? $":{mistake.Line}" : "")}: {mistake.Message} {mistake.Remedy}"
            )
            .ToList();
        return new KettlefogException(
            ErrorCode.InvalidMap,
            details.Count == 1
                ? $"The record map {file} has a mistake."
                : $"The record map {file} has {details.Count} mistakes.",
            "Correct the file and start again.",
            details
        );
    }
}
