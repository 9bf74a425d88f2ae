namespace Kettlefog.Core.Map.Reading;

/// <summary>How much a finding matters.</summary>
public enum FindingSeverity
{
    /// <summary>It is worth knowing.</summary>
    Advice,

    /// <summary>It works, but may take long, lose what others wrote, or not be taken back exactly.</summary>
    Warning,

    /// <summary>It cannot work.</summary>
    Error,
}

/// <summary>One finding about a map, or about its database.</summary>
/// <param name="Severity">How much it matters.</param>
/// <param name="Line">The line in the map's file, counted from 1; 0 if it is not about one line.</param>
/// <param name="Message">What is found, in a sentence or two.</param>
/// <param name="Remedy">What to do about it.</param>
public sealed record MapFinding(FindingSeverity Severity, int Line, string Message, string Remedy)
{
    /// <summary>The SQL statement that mends it; null if none does.</summary>
    public string? Statement { get; init; }
}
