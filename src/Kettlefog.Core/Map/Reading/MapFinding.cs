namespace Kettlefog.Core.Map.Reading;

/// <summary>The severity of a finding.</summary>
public enum FindingSeverity
{
    /// <summary>It is worth knowing.</summary>
    Advice,

    /// <summary>It works, but may be slow, lose changes of others, or not be reversed exactly.</summary>
    Warning,

    /// <summary>It cannot work.</summary>
    Error,
}

/// <summary>One finding about a map, or about its database.</summary>
/// <param name="Severity">Its severity.</param>
/// <param name="Line">The line in the map's file, counted from 1; 0 if the finding is not about one line.</param>
/// <param name="Message">What was found, in a sentence or two.</param>
/// <param name="Remedy">What to do about it.</param>
public sealed record MapFinding(FindingSeverity Severity, int Line, string Message, string Remedy)
{
    /// <summary>The SQL statement that fixes it; null if none does.</summary>
    public string? Statement { get; init; }
}
