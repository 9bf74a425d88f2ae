namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>What a scan changes in the queue.</summary>
/// <param name="Gone">The numbers of the clusters that it no longer found.</param>
/// <param name="Changed">The clusters that continue, and are not as they were, by their numbers.</param>
/// <param name="Added">The new clusters.</param>
internal sealed record ClusterChanges(
    IReadOnlyList<long> Gone,
    IReadOnlyList<(long Id, NewCluster Cluster)> Changed,
    IReadOnlyList<NewCluster> Added
);
