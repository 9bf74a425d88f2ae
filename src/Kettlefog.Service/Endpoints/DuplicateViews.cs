using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Rules;
using Kettlefog.Core.Naming;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Duplicates.Scans;

namespace Kettlefog.Service.Endpoints;

/// <summary>Converts duplicates to the API's types. Scores become percentages.</summary>
internal static class DuplicateViews
{
    public static RuleView Of(RuleInForce rule) =>
        new(
            rule.Rule.Name,
            rule.Rule.Title,
            rule.Saved.Version,
            rule.Saved.Body!,
            rule.Saved.Note,
            rule.Saved.Actor,
            rule.Saved.At,
            RuleWords.Of(rule.Rule),
            rule.Rule.Review,
            rule.Rule.Automatic
        );

    /// <summary>A rule that is left out: the lines about what it does say why.</summary>
    public static RuleView Of(BrokenRule rule) =>
        new(
            rule.Saved.Name,
            rule.Saved.Name,
            rule.Saved.Version,
            rule.Saved.Body!,
            rule.Saved.Note,
            rule.Saved.Actor,
            rule.Saved.At,
            ["It is left out, because it does not fit the record map:", .. rule.Faults],
            0,
            null,
            rule.Faults
        );

    public static RuleVersionView Of(RuleVersion version) =>
        new(version.Version, version.Body, version.Note, version.Actor, version.At);

    public static RuleTrialView Of(RuleTrial trial) =>
        new(
            trial.Records,
            trial.Pairs,
            trial.Clusters,
            trial.InClusters,
            trial.Certain,
            Of(trial.Expected),
            trial.ExpectedOfCertain is { } certain ? Of(certain) : null,
            [
                .. trial.Bands.Select(band => new ScoreBandView(
                    Rounded(band.From),
                    Rounded(band.To),
                    band.Pairs,
                    [.. band.Samples.Select(Of)]
                )),
            ],
            [
                .. trial.Levels.Select(level => new RuleLevelView(
                    level.Percent,
                    level.Pairs,
                    level.Clusters,
                    level.Certain,
                    Of(level.Expected)
                )),
            ],
            [.. trial.NearThreshold.Select(Of)],
            trial.Gained,
            trial.Lost,
            [.. trial.GainedSamples.Select(Of)],
            [.. trial.LostSamples.Select(Of)]
        );

    public static ComparableFieldView Of(Field field) =>
        new(
            field.Name,
            field.Title,
            [
                .. Comparators
                    .Fitting(field.Kind)
                    .Select(comparator => new ComparatorView(
                        EnumName.Of(comparator),
                        RuleWords.Of(comparator, differs: false),
                        RuleWords.Of(comparator, differs: true),
                        Comparators.SettingOf(comparator)
                    )),
            ]
        );

    public static EvaluationView Of(RuleEvaluation evaluation) =>
        new(
            evaluation.Pairs,
            evaluation.Matches,
            evaluation.NotCompared,
            evaluation.Unknown,
            [
                .. evaluation.Lines.Select(line => new EvaluationLineView(
                    Rounded(line.Threshold),
                    Math.Round(line.Precision, 4),
                    Math.Round(line.Recall, 4),
                    Math.Round(line.F1, 4)
                )),
            ]
        );

    public static ScanView Of(Scan scan) =>
        new(
            scan.Id,
            scan.RecordType,
            EnumName.Of(scan.Scope),
            EnumName.Of(scan.State),
            scan.Phase,
            scan.Done,
            scan.Total,
            scan.Report is { } report ? Of(report) : null,
            scan.Message,
            scan.Actor,
            scan.At,
            scan.EndedAt
        );

    public static ScanReportView Of(ScanReport report) =>
        new(
            report.Records,
            report.Changed,
            report.Compared,
            report.ComparedShare,
            report.Pairs,
            report.Clusters,
            report.Seconds,
            report.UnreadableCount,
            report.Unreadable,
            report.Sample is { } sample ? new RecallSampleView(sample.Records, sample.Pairs, sample.Found) : null,
            report.CrowdedKeys,
            report.CrowdedRecords,
            report.CutClusters,
            report.Entity is { } entity ? EnumName.Of(entity) : null,
            report.ComparedBy
        );

    public static ClusterView Of(Cluster cluster, IReadOnlyDictionary<string, string> labels) =>
        new(
            cluster.Id,
            cluster.RecordType,
            cluster.State == ClusterState.Open && cluster.Assignee is not null
                ? "assigned"
                : EnumName.Of(cluster.State),
            cluster.Rule,
            Percent(cluster.Confidence),
            Percent(cluster.Weakest),
            [.. cluster.Members.Select(key => new ClusterRecordView(key, labels.GetValueOrDefault(key, "(gone)")))],
            cluster.RelatedRows,
            cluster.Amount,
            cluster.Assignee,
            cluster.Postponed?.Until,
            cluster.FoundAt,
            cluster.ChangedAt,
            cluster.Summary,
            cluster.ClaimedUntil,
            cluster.Postponed?.By,
            cluster.Postponed?.Reason,
            cluster.Comments
        );

    public static CommentView Of(Comment comment) => new(comment.Id, comment.Author, comment.Text, comment.At);

    public static PairView Of(string? a, string b, string? labelB, PairExplanation explanation) =>
        new(
            a,
            b,
            labelB,
            EnumName.Of(explanation.Entity),
            Percent(explanation.Score),
            explanation.Rule,
            explanation.Proposed,
            [
                .. explanation.Evidence.Select(evidence => new EvidenceView(
                    evidence.Name,
                    evidence.Title,
                    evidence.Words,
                    evidence.Strength,
                    Math.Round(evidence.Weight, 2)
                )),
            ],
            Math.Round(explanation.PriorWeight, 2),
            explanation.Missing,
            explanation.ComparedByScan,
            explanation.Notes,
            explanation.InShort
        );

    /// <summary>
    /// A probability in percent: two decimals, and four near certainty, where they tell pairs apart. It is never
    /// rounded up to 100.
    /// </summary>
    public static double Percent(double share) =>
        share > 0.999 ? Math.Min(Math.Round(share * 100, 4), 99.9999) : Math.Round(share * 100, 2);

    /// <summary>The share that a percentage in a request stands for.</summary>
    /// <exception cref="KettlefogException">It is not between 0 and 100.</exception>
    public static double Share(string name, double percent) =>
        percent is >= 0 and <= 100
            ? percent / 100
            : throw new KettlefogException(
                ErrorCode.InvalidQuery,
                string.Create(CultureInfo.InvariantCulture, $"'{name}' must be between 0 and 100, not {percent}."),
                "Write a percentage from 0 to 100."
            );

    private static ExpectedView Of(ExpectedAccuracy expected) =>
        new(expected.Pairs == 0 ? 100 : Percent(expected.Precision), Rounded(expected.Recall));

    /// <summary>A share in percent, with two decimals.</summary>
    private static double Rounded(double share) => Math.Round(share * 100, 2);

    private static SamplePairView Of(SamplePair pair) =>
        new(pair.A, pair.LabelA, pair.B, pair.LabelB, Percent(pair.Score), pair.Summary, pair.IsProposed);
}
