using Kettlefog.Contracts;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Reversing;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Text;
using Kettlefog.Database.History;
using Kettlefog.Database.Records;

namespace Kettlefog.Service.Endpoints;

/// <summary>Converts types of the core and the database to those of the API.</summary>
internal static class Views
{
    private static bool IsClosed(TableSchema table, string column) =>
        table.ForeignKeyOf(column) is not null || table.Find(column)?.Allowed is not null;

    public static MapView Of(CheckedMap map) =>
        new(
            map.Map.Name,
            map.Map.Fingerprint,
            [
                .. map.Map.RecordTypes.Select(type => new RecordTypeView(
                    type.Name,
                    type.Title,
                    type.Plural,
                    type.Key,
                    [
                        .. type.Fields.Select(field => new FieldView(
                            field.Name,
                            field.Title,
                            EnumName.Of(field.Kind),
                            field.Group,
                            EnumName.Of(field.Survivorship ?? type.Survivorship),
                            map.Catalog.Require(type.Table).Find(field.Column)?.MaxLength,
                            field.Column,
                            IsClosed(map.Catalog.Require(type.Table), field.Column)
                        )),
                    ],
                    [
                        .. type.References.Select(reference => new ReferenceView(
                            reference.Name,
                            reference.Title,
                            reference.Table,
                            EnumName.Of(reference.Policy)
                        )),
                    ],
                    [
                        .. type.Figures.Select(figure => new FigureView(
                            figure.Name,
                            figure.Title,
                            EnumName.Of(figure.Operation),
                            figure.Control
                        )),
                    ],
                    type.RequireReason,
                    type.Amount?.Title
                )),
            ],
            LegalForms.Words
        );

    public static RecordView Of(RecordType type, FoundRecord found)
    {
        var described = MergePlanner.Describe(type, found.Record);
        var values = found.Record.Table.Columns.ToDictionary(
            column =>
                type.Fields.FirstOrDefault(field =>
                    string.Equals(field.Column, column.Name, StringComparison.OrdinalIgnoreCase)
                )?.Name
                ?? $"column:{column.Name}",
            column => found.Record[column.Name].ToText()
        );
        return new RecordView(
            described.Key.ToString(),
            described.Label,
            described.Created.ToText(),
            described.Changed.ToText(),
            described.Source.ToText(),
            described.Owner.ToText(),
            values,
            found.Figures.ToDictionary(figure => figure.Key, figure => figure.Value.ToText()),
            found.Counts,
            found.Retired is null ? null : Of(found.Retired)
        );
    }

    public static RedirectView Of(Redirect redirect) => new(redirect.OldKey, redirect.Master, redirect.Number);

    public static PlanView Of(MergePlan plan, RecordMap map) =>
        Of(
            plan.Type.Name,
            MergeDetails.Of(plan, map),
            Of(plan.Suggestion),
            [.. plan.Blockers.Select(Of)],
            plan.Warnings
        ) with
        {
            Offers = [.. plan.Offers.Select(Of)],
            Linked = plan.Linked.Count == 0 ? null : [.. plan.Linked.Select(linked => Of(linked, map))],
        };

    private static PlanBlocker Of(Blocker blocker) =>
        new(
            blocker.Message,
            blocker.Remedy,
            blocker.Clearings.Count == 0
                ? null
                :
                [
                    .. blocker.Clearings.Select(clearing => new ClearingView(
                        EnumName.Of(clearing.Kind),
                        clearing.Name,
                        clearing.Title
                    )),
                ]
        );

    private static OfferView Of(LinkedOffer offer) =>
        new(
            offer.Link.Name,
            offer.Link.Title,
            offer.Type.Name,
            offer.Of.RecordType,
            offer.Of.Master,
            [.. offer.Records.Select(MergeDetails.Of)],
            offer.Reason,
            Of(offer.Suggestion),
            offer.Chosen
        );

    public static SuggestedMasterView Of(SuggestedMaster suggestion) =>
        new(suggestion.Key.ToString(), suggestion.Reasons);

    public static EntrySummary Summary(RecordedEntry recorded) =>
        recorded.Entry.Kind switch
        {
            EntryKind.Merge => Summary(recorded, DetailsJson.Read<MergeDetails>(recorded.Entry.Details)),
            EntryKind.Reversal => Summary(recorded, DetailsJson.Read<ReversalDetails>(recorded.Entry.Details)),
            _ => Summary(recorded, DetailsJson.Read<DecisionDetails>(recorded.Entry.Details).Records, 0),
        };

    public static EntryView Full(RecordedEntry recorded)
    {
        if (recorded.Entry.Kind == EntryKind.Merge)
            return Full(recorded, DetailsJson.Read<MergeDetails>(recorded.Entry.Details));
        if (recorded.Entry.Kind != EntryKind.Reversal)
            return new EntryView(Summary(recorded), null, null);
        var details = DetailsJson.Read<ReversalDetails>(recorded.Entry.Details);
        return new EntryView(
            Summary(recorded, details),
            null,
            Of(
                (recorded.Entry.Reverses ?? details.PartOf)!.Value,
                recorded.Entry.RecordType,
                details,
                [.. details.Drift.Select(text => new Drift("", text))]
            ),
            details.Catalog
        );
    }

    public static EntryView Full(RecordedEntry recorded, MergeDetails details) =>
        new(Summary(recorded, details), Of(recorded.Entry.RecordType, details, null, [], []), null, details.Catalog);

    private static EntrySummary Summary(RecordedEntry recorded, MergeDetails details) =>
        Summary(
            recorded,
            details.Records,
            details.Moves.Where(move => move.Policy == EnumName.Of(ReferencePolicy.Reassign)).Sum(move => move.Moved)
        ) with
        {
            Linked = details.Linked,
            LinkedTo = details.LinkedTo,
        };

    private static EntrySummary Summary(RecordedEntry recorded, ReversalDetails details) =>
        Summary(recorded, details.Records, details.Rows.Sum(row => row.Count)) with
        {
            Reverses = recorded.Entry.Reverses ?? details.PartOf,
            Only = details.Only,
        };

    private static EntrySummary Summary(RecordedEntry recorded, IReadOnlyList<PlanRecord> records, long rows)
    {
        var entry = recorded.Entry;
        return new EntrySummary(
            entry.Number,
            EnumName.Of(entry.Kind),
            entry.RecordType,
            records,
            entry.At,
            entry.Actor,
            entry.Reason,
            entry.Rule,
            entry.ApprovedBy,
            rows,
            entry.Reverses,
            recorded.ReversedBy,
            recorded.Hash,
            IsInEffect: recorded.IsInEffect
        );
    }

    public static ReversalPlanView Of(ReversalPlan plan) =>
        new(
            plan.Entry,
            plan.DependentMerges,
            [
                .. plan.Reversals.Select(reversal =>
                    Of(
                        reversal.Snapshot.Merge.Number,
                        reversal.Snapshot.Merge.RecordType,
                        reversal.ToDetails("", []),
                        reversal.Drift
                    )
                ),
            ],
            plan.Fingerprint.Text
        );

    private static PlanView Of(
        string recordType,
        MergeDetails details,
        SuggestedMasterView? suggestion,
        IReadOnlyList<PlanBlocker> blockers,
        IReadOnlyList<string> warnings
    ) =>
        new(
            recordType,
            details.Plan,
            details.Records,
            details.Fields,
            details.Moves,
            details.Figures,
            suggestion,
            blockers,
            warnings,
            details.Timeline,
            Ended: details.Ended,
            Added: details.Added,
            Reopened: details.Reopened
        );

    private static SingleReversalView Of(
        long number,
        string recordType,
        ReversalDetails details,
        IReadOnlyList<Drift> drift
    ) =>
        new(
            number,
            recordType,
            details.Records,
            details.Rows,
            details.Cells,
            details.Restored,
            details.Removed ?? [],
            [.. drift.Select(each => new DriftView(each.Id, each.Text, each.Undo, each.Undone))],
            details.Only
        );
}
