namespace Kettlefog.Core.Drafting;

/// <summary>A draft of a record map.</summary>
/// <param name="Yaml">The map, with a comment at every guess that says why and how sure it is.</param>
/// <param name="RecordTypes">The names of the record types that it proposes.</param>
/// <param name="Questions">What could not be known, for the owner of the database to answer.</param>
public sealed record MapDraft(string Yaml, IReadOnlyList<string> RecordTypes, IReadOnlyList<string> Questions);
