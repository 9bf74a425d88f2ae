using Kettlefog.Core.Map.Reading;

namespace Kettlefog.Core.Map.Model;

/// <summary>
/// The description of an operational database: which tables hold records, what refers to them, and how records
/// are merged. Read from YAML by <see cref="MapReader"/>.
/// </summary>
/// <param name="Name">The name of the database, for people.</param>
/// <param name="Fingerprint">
/// SHA-256 of the file's text in hexadecimal digits; a plan made under another map is stale.
/// </param>
/// <param name="RecordTypes">The record types, in the order of the file.</param>
public sealed record RecordMap(string Name, string Fingerprint, IReadOnlyList<RecordType> RecordTypes)
{
    /// <summary>The record type of that name.</summary>
    /// <param name="name">The name, as in the map.</param>
    /// <exception cref="KettlefogException">There is none.</exception>
    public RecordType Require(string name) =>
        RecordTypes.FirstOrDefault(type => type.Name == name)
        ?? throw new KettlefogException(
            ErrorCode.UnknownRecordType,
            $"There is no record type '{name}'.",
            $"The map has: {string.Join(", ", RecordTypes.Select(type => type.Name))}."
        );
}
