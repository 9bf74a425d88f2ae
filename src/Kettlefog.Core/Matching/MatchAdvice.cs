using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Matching.Scoring;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Matching;

/// <summary>Says before a scan what a map means for finding duplicates.</summary>
public static class MatchAdvice
{
    /// <summary>
    /// Advice about names that the built-in rule does not compare, because the record type is taken for something else
    /// than what they name. A contact person of an organisation is none of these.
    /// </summary>
    /// <param name="map">The map, which fits.</param>
    /// <param name="document">The map as read, for its line numbers.</param>
    public static IEnumerable<MapFinding> Of(CheckedMap map, MapDocument document)
    {
        ArgumentNullException.ThrowIfNull(map);
        ArgumentNullException.ThrowIfNull(document);
        foreach (var type in map.Map.RecordTypes)
        {
            var entity = MatchModel.EntityOf(type.Fields);
            foreach (var field in type.Fields.Where(field => MatchModel.LeavesOut(field, entity)))
                yield return new MapFinding(
                    FindingSeverity.Advice,
                    document.LineOf($"record_types.{type.Name}.fields.{field.Name}"),
                    $"Duplicates of '{type.Name}' are found as those of {SeveralOf(entity)}: the name in "
                        + $"'{field.Name}' is not compared.",
                    "Give it the kind of name that it is, or save a match rule that names what to compare."
                );
        }
    }

    /// <summary>What the records of each type are taken for, in a sentence.</summary>
    /// <param name="types">The record types.</param>
    public static IEnumerable<string> Entities(IEnumerable<RecordType> types) =>
        types.Select(type => $"{type.Name} ({EnumName.Of(MatchModel.EntityOf(type.Fields))})");

    private static string SeveralOf(EntityKind entity) =>
        entity == EntityKind.Person ? "people" : $"{EnumName.Of(entity)}s";
}
