namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>The state of a cluster.</summary>
public enum ClusterState
{
    /// <summary>It needs a decision.</summary>
    Open,

    /// <summary>Its records were merged.</summary>
    Merged,

    /// <summary>Its records are not duplicates.</summary>
    NonDuplicates,

    /// <summary>It is postponed until a date.</summary>
    Postponed,
}

/// <summary>A group of suspected duplicates.</summary>
/// <param name="Id">Its number, which it keeps from scan to scan.</param>
/// <param name="RecordType">The name of the record type.</param>
/// <param name="State">Its state.</param>
/// <param name="Rule">The rule that proposes it.</param>
/// <param name="Confidence">The mean score of its pairs, from 0 to 1.</param>
/// <param name="Weakest">The least score of its pairs.</param>
/// <param name="Records">How many records it has.</param>
/// <param name="RelatedRows">How many related rows they have.</param>
/// <param name="Amount">The amount of these rows; null if the map names none.</param>
/// <param name="Assignee">Who works on it, or null.</param>
/// <param name="ClaimedUntil">When that lapses unless the assignee renews it; null if it does not lapse.</param>
/// <param name="Postponed">Until when it is postponed, and why; null if it is not.</param>
/// <param name="FoundAt">When it was found.</param>
/// <param name="ChangedAt">When it changed last.</param>
/// <param name="Summary">The strongest evidence for it, in a few words.</param>
/// <param name="Members">The keys of the records still in it.</param>
/// <param name="Comments">How many comments there are about its records.</param>
public sealed record Cluster(
    long Id,
    string RecordType,
    ClusterState State,
    string Rule,
    double Confidence,
    double Weakest,
    long Records,
    long RelatedRows,
    string? Amount,
    string? Assignee,
    DateTimeOffset? ClaimedUntil,
    Postponement? Postponed,
    DateTimeOffset FoundAt,
    DateTimeOffset ChangedAt,
    string Summary,
    IReadOnlyList<string> Members,
    long Comments = 0
);

/// <summary>What became of an assignment.</summary>
/// <param name="Cluster">The cluster, as it is now.</param>
/// <param name="Before">The user whose it was before; null for nobody.</param>
public sealed record Assignment(Cluster Cluster, string? Before);

/// <summary>Why a cluster waits.</summary>
/// <param name="Until">The date until which it is postponed.</param>
/// <param name="By">Who postponed it; empty if that is not known.</param>
/// <param name="Reason">Why; may be empty.</param>
public sealed record Postponement(DateOnly Until, string By, string Reason);

/// <summary>Whose clusters to list.</summary>
/// <param name="User">Only those of this user; null for those of anybody.</param>
public sealed record AssigneeFilter(string? User)
{
    /// <summary>Only those assigned to nobody.</summary>
    public static readonly AssigneeFilter Nobody = new("");

    /// <summary>Only those assigned to somebody.</summary>
    public static readonly AssigneeFilter Somebody = new((string?)null);
}

/// <summary>The orders of a list of clusters.</summary>
public enum ClusterOrder
{
    /// <summary>The most certain first.</summary>
    Confidence,

    /// <summary>Those with the most related rows first.</summary>
    Impact,

    /// <summary>Those with the largest amount first.</summary>
    Amount,

    /// <summary>Those found first come first.</summary>
    Age,
}

/// <summary>Which clusters to list.</summary>
/// <param name="RecordType">Only those of a record type.</param>
/// <param name="State">Only those in a state; null for all. A postponed one counts as open from its date on.</param>
/// <param name="Assignee">Only those assigned to a user, to somebody or to nobody; null for all.</param>
/// <param name="Rule">Only clusters proposed by this rule.</param>
/// <param name="MinConfidence">Only those with at least this confidence, from 0 to 1.</param>
/// <param name="MaxConfidence">Only those with less than this confidence; 1 does not limit it.</param>
/// <param name="Record">Only the cluster with this record.</param>
/// <param name="Order">Their order.</param>
/// <param name="IsReversed">True for the opposite order.</param>
public sealed record ClusterFilter(
    string? RecordType = null,
    ClusterState? State = ClusterState.Open,
    AssigneeFilter? Assignee = null,
    string? Rule = null,
    double? MinConfidence = null,
    double? MaxConfidence = null,
    string? Record = null,
    ClusterOrder Order = ClusterOrder.Confidence,
    bool IsReversed = false
);

/// <summary>Where a cluster is in the queue, and its neighbours that the caller may decide.</summary>
/// <param name="Position">Its position, counted from 1; null if the filter leaves it out.</param>
/// <param name="Total">The number of clusters in the queue.</param>
/// <param name="Previous">The number and record type of the one before it; null if it is the first.</param>
/// <param name="Next">The number and record type of the one after it; null if it is the last.</param>
public sealed record ClusterPlace(
    long? Position,
    long Total,
    (long Id, string RecordType)? Previous,
    (long Id, string RecordType)? Next
);

/// <summary>The number of clusters of one kind.</summary>
/// <param name="RecordType">The name of the record type.</param>
/// <param name="State">Their state; postponed ones count as open from their date on.</param>
/// <param name="IsAssigned">True if they are assigned.</param>
/// <param name="IsCertain">True if their confidence reaches the automatic threshold.</param>
/// <param name="Percent">Their confidence in whole percents, rounded down.</param>
/// <param name="Clusters">The number of clusters.</param>
/// <param name="RelatedRows">How many related rows their records have.</param>
/// <param name="Amount">The amount of these rows.</param>
/// <param name="OldestAt">When the first of them was found.</param>
public sealed record ClusterCount(
    string RecordType,
    ClusterState State,
    bool IsAssigned,
    bool IsCertain,
    int Percent,
    long Clusters,
    long RelatedRows,
    decimal Amount,
    DateTimeOffset OldestAt
);

/// <summary>A cluster as a scan found it.</summary>
internal sealed record NewCluster(
    IReadOnlyList<string> Members,
    string Rule,
    double Confidence,
    double Weakest,
    string Summary
);

/// <summary>How many of the groups known today were found and decided on the same days.</summary>
/// <param name="FoundOn">The day on which they were found, in UTC.</param>
/// <param name="DecidedOn">The day on which they were decided; null if they are open or postponed.</param>
/// <param name="Clusters">The number of clusters.</param>
public sealed record ClusterAge(DateOnly FoundOn, DateOnly? DecidedOn, long Clusters);
