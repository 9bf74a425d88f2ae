namespace Kettlefog.Contracts;

/// <summary>A match rule in force.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">Its title, for people.</param>
/// <param name="Version">The version in force; 0 for a rule of the map, or the built-in one.</param>
/// <param name="Body">The rule as it was saved, in YAML or JSON; for a rule of the map, its YAML.</param>
/// <param name="Note">Why it was saved.</param>
/// <param name="Actor">Who saved it; empty for the map.</param>
/// <param name="At">When it was saved; null for the map.</param>
/// <param name="Description">What it does, one line each.</param>
/// <param name="Review">The score from which a pair is proposed, in percent.</param>
/// <param name="Automatic">The score from which a cluster counts as certain, in percent, or null.</param>
/// <param name="Faults">
/// Why the rule is left out, one sentence each: it was saved for another record map. Null for a rule in force.
/// </param>
public sealed record RuleView(
    string Name,
    string Title,
    long Version,
    string Body,
    string Note,
    string Actor,
    DateTimeOffset? At,
    IReadOnlyList<string> Description,
    double Review,
    double? Automatic,
    IReadOnlyList<string>? Faults = null
);

/// <summary>A version of a rule.</summary>
/// <param name="Version">Its number, counted from 1.</param>
/// <param name="Body">The rule; null if it was removed.</param>
/// <param name="Note">Why.</param>
/// <param name="Actor">Who.</param>
/// <param name="At">When.</param>
public sealed record RuleVersionView(long Version, string? Body, string Note, string Actor, DateTimeOffset? At);

/// <summary>A rule to be saved.</summary>
/// <param name="Body">The rule, in YAML or JSON, as under its name in a map.</param>
/// <param name="Note">Why.</param>
public sealed record RuleBody(string Body, string Note = "");

/// <summary>A rule to be tried.</summary>
/// <param name="Body">The rule, in YAML or JSON.</param>
/// <param name="Replaces">The name of the rule that it would replace; null if it would apply beside all others.</param>
public sealed record RuleTrialBody(string Body, string? Replaces = null);

/// <summary>The number of pairs in a range of scores.</summary>
/// <param name="From">The start of the range, in percent.</param>
/// <param name="To">The end of the range.</param>
/// <param name="Pairs">The number of pairs in the range.</param>
/// <param name="Samples">A few of them, for ranges from 35 % up.</param>
public sealed record ScoreBandView(double From, double To, long Pairs, IReadOnlyList<SamplePairView> Samples);

/// <summary>What a rule would find with another threshold for review.</summary>
/// <param name="Percent">The threshold.</param>
/// <param name="Pairs">How many pairs it would propose.</param>
/// <param name="Clusters">How many clusters these would make.</param>
/// <param name="Certain">
/// How many of the clusters would be certain with an automatic threshold of this many percent, of one more, and so on
/// up to 100.
/// </param>
/// <param name="Expected">How right and how complete these pairs are expected to be.</param>
public sealed record RuleLevelView(
    int Percent,
    long Pairs,
    long Clusters,
    IReadOnlyList<long> Certain,
    ExpectedView Expected
);

/// <summary>How right and how complete some pairs are expected to be, by their scores.</summary>
/// <param name="Precision">The share of the pairs that is right, in percent; 100 for no pairs.</param>
/// <param name="Recall">
/// The share of the duplicates compared that are among them, in percent; 100 if there are none.
/// </param>
public sealed record ExpectedView(double Precision, double Recall);

/// <summary>A field that rules can compare.</summary>
/// <param name="Field">Its name.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Comparators">The comparators that fit it.</param>
public sealed record ComparableFieldView(string Field, string Title, IReadOnlyList<ComparatorView> Comparators);

/// <summary>A comparator.</summary>
/// <param name="Name">Its name in rules.</param>
/// <param name="Agree">The condition on two values, in words.</param>
/// <param name="Differ">The opposite condition, in words.</param>
/// <param name="Setting">
/// The setting that it takes: <c>at_least</c> (percent), <c>within</c> (days or units), <c>digits</c> (the last n of a
/// phone number), or null.
/// </param>
public sealed record ComparatorView(string Name, string Agree, string Differ, string? Setting);

/// <summary>A pair shown for its score.</summary>
/// <param name="A">The key of one record.</param>
/// <param name="LabelA">Its label.</param>
/// <param name="B">The key of the other.</param>
/// <param name="LabelB">Its label.</param>
/// <param name="Score">The score, in percent.</param>
/// <param name="Summary">The strongest evidence, in words.</param>
/// <param name="Proposed">
/// True if the rule would propose the pair with a threshold of 35 %, or with its own if that is lower: all its other
/// conditions hold.
/// </param>
public sealed record SamplePairView(
    string A,
    string LabelA,
    string B,
    string LabelB,
    double Score,
    string Summary,
    bool Proposed
);

/// <summary>How much decisions changed the weight of a finding.</summary>
/// <param name="Title">What is compared, as in <c>Phone</c>.</param>
/// <param name="Words">What is found, as in <c>same phone</c>.</param>
/// <param name="Change">
/// What decisions add to its weight, in bits: one more bit doubles the odds. Negative if it says less than was thought.
/// </param>
public sealed record LearnedWeightView(string Title, string Words, double Change);

/// <summary>A merge or decision that all others contradict.</summary>
/// <param name="Entry">Its entry in the history.</param>
/// <param name="Score">
/// The score of the two records of it that contradict most, in percent, as learned from all decisions.
/// </param>
/// <param name="Doubt">The probability that it was a mistake, in percent.</param>
public sealed record DoubtfulDecisionView(EntrySummary Entry, double Score, double Doubt);

/// <summary>What was learned from decisions about records of a type.</summary>
/// <param name="RecordType">The record type.</param>
/// <param name="Scan">The number of the scan that learned it; null if none has learned yet.</param>
/// <param name="At">When that scan ended.</param>
/// <param name="Merged">The number of pairs that were merged.</param>
/// <param name="NotDuplicates">The number of pairs marked as not duplicates.</param>
/// <param name="Weights">The findings that weigh differently by half a bit or more, most changed first.</param>
/// <param name="Doubtful">
/// The merges and decisions that are likelier mistaken than right, most doubtful first; at most 50.
/// </param>
/// <param name="ToDecide">
/// The pairs whose decision would teach most, most helpful first; at most 60. Pairs decided since are left out.
/// </param>
public sealed record LearningView(
    string RecordType,
    long? Scan,
    DateTimeOffset? At,
    int Merged,
    int NotDuplicates,
    IReadOnlyList<LearnedWeightView> Weights,
    IReadOnlyList<DoubtfulDecisionView> Doubtful,
    IReadOnlyList<SamplePairView> ToDecide
);

/// <summary>What a rule would find today.</summary>
/// <param name="Records">The number of records compared.</param>
/// <param name="Pairs">How many pairs it proposes.</param>
/// <param name="Clusters">How many clusters these make.</param>
/// <param name="InClusters">How many records are in them.</param>
/// <param name="Certain">The number of clusters at or above the automatic threshold.</param>
/// <param name="Expected">How right and how complete the proposed pairs are expected to be.</param>
/// <param name="ExpectedOfCertain">The same of those from the automatic threshold up; null without one.</param>
/// <param name="Bands">The distribution of the scores.</param>
/// <param name="Levels">What it would find with other thresholds, from 35 to 100 %.</param>
/// <param name="NearThreshold">Pairs at the threshold for review.</param>
/// <param name="Gained">How many pairs the rules in force do not propose.</param>
/// <param name="Lost">How many pairs only the rule that it replaces proposes.</param>
/// <param name="GainedSamples">Examples of gained pairs.</param>
/// <param name="LostSamples">Examples of lost pairs.</param>
public sealed record RuleTrialView(
    long Records,
    long Pairs,
    long Clusters,
    long InClusters,
    long Certain,
    ExpectedView Expected,
    ExpectedView? ExpectedOfCertain,
    IReadOnlyList<ScoreBandView> Bands,
    IReadOnlyList<RuleLevelView> Levels,
    IReadOnlyList<SamplePairView> NearThreshold,
    long Gained,
    long Lost,
    IReadOnlyList<SamplePairView> GainedSamples,
    IReadOnlyList<SamplePairView> LostSamples
);

/// <summary>A pair whose truth is known.</summary>
/// <param name="A">The key of one record.</param>
/// <param name="B">The key of the other.</param>
/// <param name="Match">True if both are the same.</param>
public sealed record LabelledPairBody(string A, string B, bool Match);

/// <summary>What to measure a rule against.</summary>
/// <param name="Body">The rule, in YAML or JSON; null for those in force.</param>
/// <param name="Pairs">Pairs whose truth is known.</param>
public sealed record EvaluationBody(string? Body, IReadOnlyList<LabelledPairBody> Pairs);

/// <summary>The precision and recall of a rule at one threshold.</summary>
/// <param name="Threshold">The score, in percent.</param>
/// <param name="Precision">The share of the pairs found that are true matches.</param>
/// <param name="Recall">The share of the true matches that are found.</param>
/// <param name="F1">The harmonic mean of precision and recall.</param>
public sealed record EvaluationLineView(double Threshold, double Precision, double Recall, double F1);

/// <summary>The precision and recall of a rule.</summary>
/// <param name="Pairs">How many pairs were labelled.</param>
/// <param name="Matches">How many of them are matches.</param>
/// <param name="NotCompared">How many of the matches blocking misses.</param>
/// <param name="Unknown">How many pairs name a record that does not exist, or is retired.</param>
/// <param name="Lines">Precision and recall, one entry per threshold.</param>
public sealed record EvaluationView(
    long Pairs,
    long Matches,
    long NotCompared,
    long Unknown,
    IReadOnlyList<EvaluationLineView> Lines
);

/// <summary>A scan to be made.</summary>
/// <param name="RecordType">The record type.</param>
/// <param name="Scope"><c>whole</c>, or <c>changed</c> for what changed since the last scan.</param>
public sealed record ScanBody(string RecordType, string Scope = "whole");

/// <summary>A scan.</summary>
/// <param name="Id">Its number.</param>
/// <param name="RecordType">The record type.</param>
/// <param name="Scope"><c>whole</c> or <c>changed</c>.</param>
/// <param name="State">
/// <c>waiting</c>, <c>running</c>, <c>stopped</c>, <c>finished</c>, <c>cancelled</c> or <c>failed</c>.
/// </param>
/// <param name="Phase">
/// The current phase: <c>reading</c>, <c>learning</c>, <c>comparing</c>, <c>clustering</c> or <c>checking</c>.
/// </param>
/// <param name="Done">How much of the phase is done.</param>
/// <param name="Total">The size of the phase; 0 if unknown.</param>
/// <param name="Report">The outcome, once the scan is finished.</param>
/// <param name="Message">What went wrong, if it failed.</param>
/// <param name="Actor">Who asked for it.</param>
/// <param name="At">When.</param>
/// <param name="EndedAt">When it ended.</param>
public sealed record ScanView(
    long Id,
    string RecordType,
    string Scope,
    string State,
    string Phase,
    long Done,
    long Total,
    ScanReportView? Report,
    string? Message,
    string Actor,
    DateTimeOffset At,
    DateTimeOffset? EndedAt
);

/// <summary>What a scan did.</summary>
/// <param name="Records">The records looked at.</param>
/// <param name="Changed">Those of them that were new or had changed.</param>
/// <param name="Compared">The pairs compared.</param>
/// <param name="ComparedShare">The share of all pairs that this is, from 0 to 1.</param>
/// <param name="Pairs">The pairs proposed.</param>
/// <param name="Clusters">The clusters they make.</param>
/// <param name="Seconds">The time it took.</param>
/// <param name="UnreadableCount">The values that could not be read, and counted as missing.</param>
/// <param name="Unreadable">The first hundred of them, one sentence each; null for none.</param>
/// <param name="Sample">
/// Records that were compared with all others, to see what a scan leaves out; null for scans of what changed.
/// </param>
/// <param name="CrowdedKeys">
/// The keys that too many records share: these records are compared only with those that are most like them.
/// </param>
/// <param name="CrowdedRecords">The records that have such a key.</param>
/// <param name="CutClusters">The clusters that would have more records, but for the limit of 500.</param>
/// <param name="Entity">
/// What the records are taken for: <c>person</c>, <c>organisation</c>, <c>household</c> or <c>thing</c>; null for scans
/// of earlier versions.
/// </param>
/// <param name="ComparedBy">What is compared between them; null for scans of earlier versions.</param>
public sealed record ScanReportView(
    long Records,
    long Changed,
    long Compared,
    double ComparedShare,
    long Pairs,
    long Clusters,
    double Seconds,
    long UnreadableCount = 0,
    IReadOnlyList<string>? Unreadable = null,
    RecallSampleView? Sample = null,
    long CrowdedKeys = 0,
    long CrowdedRecords = 0,
    int CutClusters = 0,
    string? Entity = null,
    IReadOnlyList<string>? ComparedBy = null
);

/// <summary>Records drawn at random and compared with all others.</summary>
/// <param name="Records">How many were drawn.</param>
/// <param name="Pairs">The pairs with them that a rule proposes.</param>
/// <param name="Found">Those of the pairs that the scan compares, or has in one cluster.</param>
public sealed record RecallSampleView(int Records, long Pairs, long Found);

/// <summary>A record of a cluster.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Label">Its label.</param>
public sealed record ClusterRecordView(string Key, string Label);

/// <summary>A group of suspected duplicates.</summary>
/// <param name="Id">Its number, which it keeps from scan to scan.</param>
/// <param name="RecordType">The record type.</param>
/// <param name="State"><c>open</c>, <c>assigned</c>, <c>merged</c>, <c>non-duplicates</c> or <c>postponed</c>.</param>
/// <param name="Rule">The rule that proposes it.</param>
/// <param name="Confidence">The mean score of its pairs, in percent.</param>
/// <param name="Weakest">The least score of its pairs, in percent.</param>
/// <param name="Records">Its records.</param>
/// <param name="RelatedRows">How many related rows they have.</param>
/// <param name="Amount">The sum of the figure that counts as amount, or null.</param>
/// <param name="Assignee">Who works on it, or null.</param>
/// <param name="PostponedUntil">The date until which it is postponed, or null.</param>
/// <param name="FoundAt">When it was found.</param>
/// <param name="ChangedAt">When it changed last.</param>
/// <param name="Summary">The strongest evidence for it, in a few words.</param>
/// <param name="ClaimedUntil">
/// When it is assigned to nobody again unless the assignee renews the claim; null if that does not lapse.
/// </param>
/// <param name="PostponedBy">Who postponed it, or null.</param>
/// <param name="PostponedReason">Why it is postponed, or null.</param>
/// <param name="Comments">How many comments there are about its records.</param>
public sealed record ClusterView(
    long Id,
    string RecordType,
    string State,
    string Rule,
    double Confidence,
    double Weakest,
    IReadOnlyList<ClusterRecordView> Records,
    long RelatedRows,
    string? Amount,
    string? Assignee,
    DateOnly? PostponedUntil,
    DateTimeOffset FoundAt,
    DateTimeOffset ChangedAt,
    string Summary,
    DateTimeOffset? ClaimedUntil = null,
    string? PostponedBy = null,
    string? PostponedReason = null,
    long Comments = 0
);

/// <summary>What somebody says about the records of a cluster.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Author">The name of the user who wrote it.</param>
/// <param name="Text">What it says.</param>
/// <param name="At">When it was written.</param>
public sealed record CommentView(long Id, string Author, string Text, DateTimeOffset At);

/// <summary>A comment to add.</summary>
/// <param name="Text">What it says: 1 to 2,000 characters.</param>
public sealed record CommentBody(string Text);

/// <summary>A filter and order of the queue under a name.</summary>
/// <param name="Id">Its number.</param>
/// <param name="Owner">The name of the user who saved it.</param>
/// <param name="Name">Its name.</param>
/// <param name="Query">The filter and order, as in the address of the queue.</param>
/// <param name="IsShared">Whether everybody sees it.</param>
public sealed record SavedViewView(long Id, string Owner, string Name, string Query, bool IsShared);

/// <summary>A view of the queue to save; one of yours with the same name is replaced.</summary>
/// <param name="Name">Its name: 1 to 80 characters.</param>
/// <param name="Query">
/// The filter and order, as in the address of the queue; at most 2,000 characters.
/// </param>
/// <param name="IsShared">Whether everybody sees it.</param>
public sealed record SavedViewBody(string Name, string Query, bool IsShared = false);

/// <summary>A cluster with the evidence for its pairs.</summary>
/// <param name="Cluster">The cluster.</param>
/// <param name="Pairs">Its pairs, weakest first; empty if it was decided.</param>
/// <param name="Suggestion">The record that is suggested as the master; null if it was decided.</param>
/// <param name="Decision">The last history entry that decided about records of it; null if there is none.</param>
/// <param name="Rule">
/// The rule that found it, to name in the plan of its merge; null if that rule is no longer in force.
/// </param>
/// <param name="Comments">The comments about its records, the oldest first.</param>
public sealed record ClusterDetailView(
    ClusterView Cluster,
    IReadOnlyList<PairView> Pairs,
    SuggestedMasterView? Suggestion,
    EntrySummary? Decision = null,
    string? Rule = null,
    IReadOnlyList<CommentView>? Comments = null
);

/// <summary>A page of clusters.</summary>
/// <param name="Items">The clusters.</param>
/// <param name="Total">How many there are in all.</param>
/// <param name="Page">The page, counted from 1.</param>
/// <param name="Size">The number of clusters on a page.</param>
public sealed record ClusterPage(IReadOnlyList<ClusterView> Items, long Total, int Page, int Size);

/// <summary>A cluster, as a neighbour in the queue.</summary>
/// <param name="Id">Its number.</param>
/// <param name="RecordType">The name of its record type.</param>
public sealed record ClusterNeighbour(long Id, string RecordType);

/// <summary>Where a cluster is in the queue.</summary>
/// <param name="Position">Its position, counted from 1; null if the filter leaves it out.</param>
/// <param name="Total">The number of clusters in the queue.</param>
/// <param name="Previous">The nearest one before it that the caller may decide; null if there is none.</param>
/// <param name="Next">The nearest one after it that the caller may decide; null if there is none.</param>
public sealed record ClusterPlaceView(long? Position, long Total, ClusterNeighbour? Previous, ClusterNeighbour? Next);

/// <summary>One piece of evidence about a pair.</summary>
/// <param name="Name">The name of the feature compared, such as <c>phone</c>.</param>
/// <param name="Title">The feature's title, for people.</param>
/// <param name="Text">What was found.</param>
/// <param name="Strength">How strongly it supports or contradicts a match, in words.</param>
/// <param name="Weight">What it adds to the binary logarithm of the odds.</param>
public sealed record EvidenceView(string Name, string Title, string Text, string Strength, double Weight);

/// <summary>The score of two records, explained.</summary>
/// <param name="A">The key of one record; null if it was typed in.</param>
/// <param name="B">The key of the other.</param>
/// <param name="LabelB">The label of the other, or null.</param>
/// <param name="Entity">
/// What the records are taken for, which decides what is compared: <c>person</c>, <c>organisation</c>,
/// <c>household</c> or <c>thing</c>.
/// </param>
/// <param name="Score">The probability that both are the same, in percent.</param>
/// <param name="Rule">The rule that gives the score, or null if no rule applies to the pair.</param>
/// <param name="Proposed">True if the pair is proposed.</param>
/// <param name="Evidence">The evidence, strongest first.</param>
/// <param name="PriorWeight">The binary logarithm of the odds before anything was compared.</param>
/// <param name="Missing">What could not be compared, because a value is missing.</param>
/// <param name="ComparedByScan">True if a scan would compare the two.</param>
/// <param name="Notes">Other facts that decide whether the pair is proposed, one sentence each.</param>
/// <param name="Summary">The strongest evidence, in a few words.</param>
public sealed record PairView(
    string? A,
    string B,
    string? LabelB,
    string Entity,
    double Score,
    string? Rule,
    bool Proposed,
    IReadOnlyList<EvidenceView> Evidence,
    double PriorWeight,
    IReadOnlyList<string> Missing,
    bool ComparedByScan,
    IReadOnlyList<string> Notes,
    string Summary
);

/// <summary>Two records.</summary>
/// <param name="RecordType">The record type.</param>
/// <param name="A">The key of one.</param>
/// <param name="B">The key of the other.</param>
/// <param name="Reason">Why, where something is decided.</param>
public sealed record PairBody(string RecordType, string A, string B, string Reason = "");

/// <summary>Values to find records by.</summary>
/// <param name="Values">Values by the name of their field.</param>
/// <param name="Limit">How many records to find at most.</param>
public sealed record SimilarBody(IReadOnlyDictionary<string, string?> Values, int Limit = 10);

/// <summary>Who works on a cluster.</summary>
/// <param name="User">The user; null for nobody.</param>
/// <param name="Force">True to reassign a cluster that is assigned to another user.</param>
public sealed record AssignBody(string? User, bool Force = false);

/// <summary>Until when a cluster is postponed.</summary>
/// <param name="Until">The day.</param>
/// <param name="Reason">Why.</param>
public sealed record PostponeBody(DateOnly Until, string Reason = "");

/// <summary>One decision about several clusters.</summary>
/// <param name="Decision">
/// <c>non-duplicates</c>, <c>reopen</c>, <c>postpone</c>, <c>resume</c> or <c>assign</c>.
/// </param>
/// <param name="Clusters">The numbers of the clusters.</param>
/// <param name="Reason">Why.</param>
/// <param name="Until">To postpone them: until when.</param>
/// <param name="User">To assign them: the user, or null for nobody.</param>
/// <param name="Force">To assign them: true to reassign those of other users.</param>
public sealed record ClusterDecisionsBody(
    string Decision,
    IReadOnlyList<long> Clusters,
    string Reason = "",
    DateOnly? Until = null,
    string? User = null,
    bool Force = false
);

/// <summary>What became of a decision about one of several clusters.</summary>
/// <param name="Cluster">The number of the cluster.</param>
/// <param name="Entry">The history entry that records it; null if it was refused, or is not recorded there.</param>
/// <param name="Problem">Why it was refused; null if it was done.</param>
/// <param name="AssigneeBefore">Where it was assigned: the user whose it was before; null for nobody.</param>
public sealed record ClusterDecisionView(long Cluster, long? Entry, Problem? Problem, string? AssigneeBefore = null);

/// <summary>Why a decision is reopened.</summary>
/// <param name="Reason">Why.</param>
public sealed record ReopenBody(string Reason = "");

/// <summary>Which records of a cluster are not duplicates.</summary>
/// <param name="Records">The keys of those that differ from the others; null for all of them.</param>
/// <param name="Reason">Why.</param>
public sealed record NonDuplicatesBody(IReadOnlyList<string>? Records, string Reason = "");

/// <summary>Two records marked as not duplicates.</summary>
/// <param name="A">The key of one.</param>
/// <param name="B">The key of the other.</param>
/// <param name="Entry">The history entry that records the decision.</param>
/// <param name="Actor">Who decided it.</param>
/// <param name="Reason">Why.</param>
/// <param name="At">When.</param>
public sealed record NonDuplicateView(string A, string B, long Entry, string Actor, string Reason, DateTimeOffset At);
