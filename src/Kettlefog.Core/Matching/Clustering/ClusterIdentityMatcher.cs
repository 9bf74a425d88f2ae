namespace Kettlefog.Core.Matching.Clustering;

/// <summary>A cluster that an earlier scan found.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Members">The keys of its records.</param>
public sealed record KnownCluster(long Id, IReadOnlyList<string> Members);

/// <summary>
/// Carries the numbers of clusters from one scan to the next: a cluster keeps its number if it shares more records
/// with it than any other does, so that assignments and decisions stay attached to it.
/// </summary>
public static class ClusterIdentityMatcher
{
    /// <summary>Matches clusters found now with those known before.</summary>
    /// <param name="known">The clusters known before.</param>
    /// <param name="found">The keys of the records of each cluster found now.</param>
    /// <returns>For each cluster found now the number it keeps, or null if it is new.</returns>
    public static IReadOnlyList<long?> Match(
        IReadOnlyList<KnownCluster> known,
        IReadOnlyList<IReadOnlyList<string>> found
    )
    {
        ArgumentNullException.ThrowIfNull(known);
        ArgumentNullException.ThrowIfNull(found);
        var places = new Dictionary<string, List<int>>();
        for (var place = 0; place < known.Count; place++)
        {
            foreach (var member in known[place].Members)
            {
                if (!places.TryGetValue(member, out var clusters))
                    places[member] = clusters = [];
                clusters.Add(place);
            }
        }

        var overlaps = new Dictionary<(int Known, int Found), int>();
        for (var at = 0; at < found.Count; at++)
        {
            foreach (var member in found[at])
            {
                foreach (var place in places.GetValueOrDefault(member, []))
                    overlaps[(place, at)] = overlaps.GetValueOrDefault((place, at)) + 1;
            }
        }

        var kept = new long?[found.Count];
        var taken = new bool[known.Count];
        var ordered = overlaps
            .OrderByDescending(pair => pair.Value)
            .ThenBy(pair => known[pair.Key.Known].Id)
            .ThenBy(pair => pair.Key.Found);
        foreach (var ((place, at), _) in ordered)
        {
            if (taken[place] || kept[at] is not null)
                continue;
            (taken[place], kept[at]) = (true, known[place].Id);
        }

        return kept;
    }
}
