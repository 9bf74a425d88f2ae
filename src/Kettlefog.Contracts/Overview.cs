namespace Kettlefog.Contracts;

/// <summary>The open work, and what was done recently.</summary>
/// <param name="Types">The open work, by record type.</param>
/// <param name="Days">What was done, by day; days without activity are left out.</param>
/// <param name="People">What was done in all these days, by whom; who did most first.</param>
/// <param name="Since">The first day covered, in UTC.</param>
/// <param name="Until">The last day covered: today.</param>
/// <param name="Scans">The scans that are waiting, running or stopped.</param>
/// <param name="Jobs">
/// The merges and reversals that this instance of the service is carrying out after answering their requests.
/// </param>
/// <param name="Backlog">How many clusters waited at the end of each of these days.</param>
public sealed record OverviewView(
    IReadOnlyList<TypeOverview> Types,
    IReadOnlyList<DayOverview> Days,
    IReadOnlyList<PersonOverview> People,
    DateOnly Since,
    DateOnly Until,
    IReadOnlyList<ScanView> Scans,
    IReadOnlyList<RunningJob> Jobs,
    IReadOnlyList<BacklogDay> Backlog
);

/// <summary>The clusters that waited for a decision at the end of a day, of those that are known today.</summary>
/// <param name="Day">The day, in UTC.</param>
/// <param name="Clusters">How many had been found, and were open or postponed.</param>
public sealed record BacklogDay(DateOnly Day, long Clusters);

/// <summary>A running merge or reversal.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind"><c>merge</c> or <c>reversal</c>.</param>
/// <param name="Actor">Who asked for it.</param>
/// <param name="MovedRows">The related rows that were moved so far.</param>
/// <param name="TotalRows">How many there are to move; 0 while that is not known yet.</param>
public sealed record RunningJob(string Id, string Kind, string Actor, long MovedRows, long TotalRows);

/// <summary>The open work of a record type.</summary>
/// <param name="RecordType">The record type.</param>
/// <param name="Open">How many clusters are open, including assigned ones.</param>
/// <param name="Assigned">How many of them are assigned.</param>
/// <param name="Certain">How many of them are at or above the automatic threshold.</param>
/// <param name="Postponed">How many are postponed.</param>
/// <param name="Merged">How many were merged.</param>
/// <param name="NonDuplicates">How many are marked as not duplicates.</param>
/// <param name="RelatedRows">How many related rows the records of the open clusters have.</param>
/// <param name="Amount">Their amount, by the figure that the map names; null if it names none.</param>
/// <param name="Review">The score from which a pair is proposed, in percent: the least of all rules.</param>
/// <param name="Automatic">
/// The score from which a cluster counts as certain, in percent; null if no rule has one.
/// </param>
/// <param name="Bands">The distribution of the open clusters' confidence, in bands of five percent.</param>
/// <param name="ScannedAt">When the last scan was finished; null if there was none.</param>
/// <param name="OldestAt">When the open cluster that waits longest was found; null if none is open.</param>
public sealed record TypeOverview(
    string RecordType,
    long Open,
    long Assigned,
    long Certain,
    long Postponed,
    long Merged,
    long NonDuplicates,
    long RelatedRows,
    string? Amount,
    double Review,
    double? Automatic,
    IReadOnlyList<ConfidenceBandView> Bands,
    DateTimeOffset? ScannedAt,
    DateTimeOffset? OldestAt
);

/// <summary>The number of clusters in a range of confidence.</summary>
/// <param name="From">The start of the range, in percent.</param>
/// <param name="To">The end of the range; the last range includes 100.</param>
/// <param name="Clusters">The number of clusters in the range.</param>
public sealed record ConfidenceBandView(int From, int To, long Clusters);

/// <summary>The activity of one day.</summary>
/// <param name="Day">The day, in UTC.</param>
/// <param name="Merged">How many merges.</param>
/// <param name="NonDuplicates">How many decisions that records are not duplicates.</param>
/// <param name="Reversed">How many reversals.</param>
/// <param name="Reopened">How many decisions were reopened.</param>
public sealed record DayOverview(DateOnly Day, long Merged, long NonDuplicates, long Reversed, long Reopened);

/// <summary>What one user did.</summary>
/// <param name="Actor">The user.</param>
/// <param name="Merged">How many merges.</param>
/// <param name="NonDuplicates">How many decisions that records are not duplicates.</param>
/// <param name="Reversed">How many reversals.</param>
/// <param name="Reopened">How many decisions were reopened.</param>
public sealed record PersonOverview(string Actor, long Merged, long NonDuplicates, long Reversed, long Reopened);
