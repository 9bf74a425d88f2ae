using Kettlefog.Contracts;
using Kettlefog.Core.Map.Checking;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Naming;
using Kettlefog.Database;
using Kettlefog.Service.Jobs;

namespace Kettlefog.Service.Endpoints;

/// <summary>The record map: what clients need of it, all that it says, and how it is written.</summary>
internal static class MapEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/map").WithTags("map");
        group
            .MapGet("", (OperationalDatabase database) => Views.Of(database.Map))
            .WithName("readMap")
            .WithSummary("Read the parts of the record map that clients need.");
        group
            .MapGet("details", (OperationalDatabase database, MapWatch watch) =>
                Of(database.Map, database.DisplayName, watch.Report)
            )
            .WithName("readMapDetails")
            .WithSummary("Read the whole record map, with the findings of its check.");
        group
            .MapGet("schema", () => Results.Text(MapReader.JsonSchema, "application/schema+json"))
            .WithName("readMapSchema")
            .WithSummary("Read the JSON Schema of record maps.");
    }

    private static MapDetailsView Of(CheckedMap map, string database, MapReport? report) =>
        new(
            map.Map.Name,
            database,
            map.Map.Fingerprint,
            [.. map.Map.RecordTypes.Select(type => Of(type, map))],
            report is null ? null : Findings(report)
        );

    /// <summary>Findings as clients read them.</summary>
    public static IReadOnlyList<MapFindingView> Findings(MapReport report) =>
        [
            .. report.Findings.Select(finding => new MapFindingView(
                EnumName.Of(finding.Severity),
                report.File,
                finding.Line == 0 ? null : finding.Line,
                finding.Message,
                finding.Remedy,
                finding.Statement
            )),
        ];

    private static RecordTypeDetails Of(RecordType type, CheckedMap map)
    {
        var known = new[]
        {
            ("created", type.Created),
            ("changed", type.Changed),
            ("source", type.Source),
            ("owner", type.Owner),
        };
        return new RecordTypeDetails(
            type.Name,
            type.Title,
            type.Plural,
            type.Table,
            type.Key,
            known
                .Where(column => column.Item2 is not null)
                .ToDictionary(column => column.Item1, column => column.Item2!),
            type.Matching.Partition,
            type.Retirement.Delete
                ? "its row is deleted, and kept in the journal"
                : "marked: " + InWords(type.Retirement.Mark),
            type.Timeline?.Table,
            type.RequireReason,
            [
                .. type.Fields.Select(field => new FieldDetails(
                    field.Name,
                    field.Title,
                    field.Column,
                    EnumName.Of(field.Kind),
                    EnumName.Of(field.Survivorship ?? type.Survivorship),
                    field.OverflowRows is { } rows
                        ? [.. field.Overflow ?? [], $"rows of {rows.Reference}"]
                        : field.Overflow ?? []
                )),
            ],
            [
                .. type.References.Select(reference => new ReferenceDetails(
                    reference.Name,
                    reference.Title,
                    reference.Table,
                    reference.Columns,
                    reference.When,
                    EnumName.Of(reference.Policy),
                    EnumName.Of(reference.Collision),
                    reference.MayExclude,
                    IndexAdvice.Of(reference, map.Catalog.Require(reference.Table)) is null
                )),
            ],
            [
                .. type.Figures.Select(figure => new FigureDetails(
                    figure.Name,
                    figure.Title,
                    figure.Reference,
                    EnumName.Of(figure.Operation),
                    figure.Column,
                    figure.Control
                )),
            ],
            [.. Checks(type)],
            [.. type.Linked.Select(linked => linked.Title)]
        );
    }

    private static IEnumerable<string> Checks(RecordType type)
    {
        foreach (var field in type.Blockers.MustAgree)
            yield return $"{type.RequireField(field).Title} must agree.";
        foreach (var (field, values) in type.Blockers.Forbid)
            yield return $"{type.RequireField(field).Title} must not be {string.Join(" or ", values)}.";
        foreach (var rule in type.Blockers.AtMostOne)
            yield return "One record at most may have any of: "
                + $"{rule.Title}{(rule.End.Count > 0 ? "; the others' can be ended" : "")}.";
        foreach (var reference in type.References.Where(reference => reference.Policy == ReferencePolicy.Block))
            yield return $"A duplicate must have none of: {reference.Title}.";
    }

    private static string InWords(IReadOnlyDictionary<string, string> values) =>
        string.Join(", ", values.Select(value => $"{value.Key} = {value.Value}"));
}
