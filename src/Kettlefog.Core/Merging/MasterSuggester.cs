using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging.Survivorship;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>The record that is suggested as the master.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Reasons">Why it is suggested, in words; empty if the records do not differ.</param>
public sealed record SuggestedMaster(RecordKey Key, IReadOnlyList<string> Reasons);

/// <summary>
/// Suggests a master: preferences are applied in order, and each keeps only the records that meet it best. A tie after
/// the last is decided by the key, so that the order of the records does not matter.
/// </summary>
public static class MasterSuggester
{
    /// <summary>Suggests one of the records as the master.</summary>
    /// <param name="snapshot">The snapshot of the records.</param>
    public static SuggestedMaster Suggest(MergeSnapshot snapshot)
    {
        ArgumentNullException.ThrowIfNull(snapshot);
        var left = Enumerable.Range(0, snapshot.Records.Count).ToList();
        var ranked = new List<(MasterPreference Preference, List<long> Ranks)>();
        foreach (var preference in PreferencesOf(snapshot))
        {
            var ranks = Ranks(preference, snapshot);
            ranked.Add((preference, ranks));
            var best = left.Max(index => ranks[index]);
            left = [.. left.Where(index => ranks[index] == best)];
        }

        var chosen = left.MinBy(index => snapshot.Records[index].Key.ToString(), StringComparer.Ordinal);
        return new SuggestedMaster(
            snapshot.Records[chosen].Key,
            [
                .. ranked
                    .Where(each =>
                        each.Ranks[chosen] == each.Ranks.Max() && each.Ranks.Exists(rank => rank != each.Ranks[chosen])
                    )
                    .Select(each => Say(each.Preference, chosen, snapshot)),
            ]
        );
    }

    private static IReadOnlyList<MasterPreference> PreferencesOf(MergeSnapshot snapshot)
    {
        if (snapshot.Rule is { Master.Count: > 0 } rule)
            return rule.Master;
        return snapshot.Type.Master.Count > 0 ? snapshot.Type.Master : MasterPreference.Default;
    }

    /// <summary>The rank of each record for a preference: the higher the better.</summary>
    private static List<long> Ranks(MasterPreference preference, MergeSnapshot snapshot) =>
        preference.Criterion switch
        {
            MasterCriterion.MostRelated => [.. All(snapshot).Select(index => RelatedRows(snapshot, index))],
            MasterCriterion.MostComplete => [.. All(snapshot).Select(index => (long)FilledIn(snapshot, index))],
            MasterCriterion.Oldest => Order(snapshot, snapshot.Type.Created, latest: false),
            MasterCriterion.Newest => Order(snapshot, snapshot.Type.Created, latest: true),
            MasterCriterion.LastChanged => Order(snapshot, snapshot.Type.Changed, latest: true),
            MasterCriterion.Source =>
            [
                .. All(snapshot).Select(index => -(long)snapshot.SourceRank(index, preference.Sources)),
            ],
            _ => [.. All(snapshot).Select(index => CountOf(snapshot, preference.Reference!, index) > 0 ? 1L : 0)],
        };

    private static string Say(MasterPreference preference, int chosen, MergeSnapshot snapshot) =>
        preference.Criterion switch
        {
            MasterCriterion.MostRelated => $"It has the most related rows: {RelatedRows(snapshot, chosen)}.",
            MasterCriterion.MostComplete =>
                $"It has the most fields filled in: {FilledIn(snapshot, chosen)} of {snapshot.Type.Fields.Count}.",
            MasterCriterion.Oldest => $"It was created first: {Day(snapshot, snapshot.Type.Created, chosen)}.",
            MasterCriterion.Newest => $"It was created last: {Day(snapshot, snapshot.Type.Created, chosen)}.",
            MasterCriterion.LastChanged => $"It was changed last: {Day(snapshot, snapshot.Type.Changed, chosen)}.",
            MasterCriterion.Source =>
                $"It comes from {snapshot.Of(chosen, snapshot.Type.Source)}, the most trusted source.",
            _ => $"It has {snapshot.Type.RequireReference(preference.Reference!).Title.ToLowerInvariant()}: "
                + $"{CountOf(snapshot, preference.Reference!, chosen)}.",
        };

    /// <summary>The day is enough for a person.</summary>
    private static string? Day(MergeSnapshot snapshot, string? column, int index) =>
        snapshot.Of(index, column).ToText()?.Split('T', ' ')[0];

    private static IEnumerable<int> All(MergeSnapshot snapshot) => Enumerable.Range(0, snapshot.Records.Count);

    private static long RelatedRows(MergeSnapshot snapshot, int index) =>
        snapshot.References.Sum(reference => reference.Related[index].Count);

    private static long CountOf(MergeSnapshot snapshot, string reference, int index) =>
        snapshot.References.First(each => each.Reference.Name == reference).Related[index].Count;

    private static int FilledIn(MergeSnapshot snapshot, int index) =>
        snapshot.Type.Fields.Count(field => !snapshot.Type.IsBlank(field, snapshot.Records[index][field.Column]));

    /// <summary>The records in the order of a timestamp; those without one come last.</summary>
    private static List<long> Order(MergeSnapshot snapshot, string? column, bool latest)
    {
        var values = All(snapshot).Select(index => snapshot.Of(index, column)).ToList();
        return
        [
            .. values.Select(value =>
                value.IsBlank
                    ? -1L
                    : values.Count(other =>
                        !other.IsBlank
                        && (
                            latest
                                ? SurvivorshipResolver.CompareValues(other, value) < 0
                                : SurvivorshipResolver.CompareValues(other, value) > 0
                        )
                    )
            ),
        ];
    }
}
