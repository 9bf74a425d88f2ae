using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Clustering;
using Kettlefog.Core.Matching.Rules;
using Kettlefog.Demo.Truth;

namespace Kettlefog.Core.Tests.Matching;

/// <summary>Record types and finders for tests.</summary>
internal static class Finders
{
    public static RecordType People { get; } = TypeOf(PeopleMaker.Columns);

    public static RecordType Organisations { get; } = TypeOf(OrganisationMaker.Columns);

    public static RecordType TypeOf(IReadOnlyList<(string Name, string Kind)> columns) =>
        TypeOf(
            [.. columns.Select(column => column.Name)],
            [
                .. columns.Select(column =>
                    Enum.Parse<FieldKind>(column.Kind.Replace("-", "", StringComparison.Ordinal), ignoreCase: true)
                ),
            ]
        );

    public static RecordType TypeOf(IReadOnlyList<string> columns, FieldKind[] kinds) =>
        new(
            "party",
            "Party",
            "Parties",
            "party",
            ["id"],
            "{" + columns[0] + "}",
            null,
            null,
            null,
            null,
            [],
            default,
            [],
            [],
            [.. columns.Select((column, index) => new Field(column, column, column, kinds[index], null, null))],
            [],
            [],
            new Retirement(true, new Dictionary<string, string>()),
            new BlockerRules([], new Dictionary<string, IReadOnlyList<string>>(), []),
            MatchSettings.None
        );

    public static FinderOptions Options { get; } = new(1, "GB", [], []);

    public static DuplicateFinder Over(
        RecordType type,
        IEnumerable<string?[]> rows,
        bool live = false,
        params MatchRule[] rules
    )
    {
        var finder = new DuplicateFinder(type, rules.Length == 0 ? [MatchRule.Ready] : rules, Options);
        finder.Add([.. rows]);
        finder.Prepare([], live, CancellationToken.None);
        return finder;
    }

    public static IReadOnlyList<FoundPair> Pairs(this DuplicateFinder finder) =>
        finder.Score(0, finder.Count, null, CancellationToken.None).Pairs;

    public static IReadOnlyList<FoundCluster> Clusters(this DuplicateFinder finder) =>
        finder.Cluster(finder.Pairs(), CancellationToken.None).Clusters;
}
