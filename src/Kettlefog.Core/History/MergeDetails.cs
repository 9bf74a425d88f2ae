using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.History;

/// <summary>A record in the details of a merge.</summary>
/// <param name="Key">Its key, in text form.</param>
/// <param name="Label">Its label at the time.</param>
/// <param name="Created">When it was created.</param>
/// <param name="Changed">When it was changed last before the merge.</param>
/// <param name="Source">Where it came from.</param>
/// <param name="Owner">Who was responsible for it.</param>
public sealed record RecordDetail(string Key, string Label, string? Created, string? Changed, string? Source, string? Owner);

/// <summary>A field, or a column that the map does not name, in the details of a merge.</summary>
/// <param name="Name">The field's name; the column's if the map does not name it.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Kind">Its kind in written form; <c>unmapped</c> if the map does not name it.</param>
/// <param name="Group">The heading under which it is shown.</param>
/// <param name="Values">Each record's value, the master's first.</param>
/// <param name="Value">The value that stays.</param>
/// <param name="From">The index of the record it comes from; null if typed in.</param>
/// <param name="ChosenBy">How it was chosen, in written form.</param>
/// <param name="Rule">The survivorship rule that holds, in written form.</param>
/// <param name="Differs">True if the records do not all have the same value.</param>
/// <param name="Changes">True if the master's value became another one.</param>
public sealed record FieldDetail(
    string Name,
    string Title,
    string Kind,
    string? Group,
    IReadOnlyList<string?> Values,
    string? Value,
    int? From,
    string ChosenBy,
    string Rule,
    bool Differs,
    bool Changes);

/// <summary>What became of the related rows by one reference.</summary>
/// <param name="Reference">The reference's name.</param>
/// <param name="Title">What the rows are called.</param>
/// <param name="Table">Their table.</param>
/// <param name="Policy">The policy, in written form.</param>
/// <param name="Counts">How many rows each record had, the master's first.</param>
/// <param name="Count">How many of them were the duplicates'.</param>
/// <param name="Amount">What the duplicates' rows were worth, or null.</param>
/// <param name="Collisions">The rows of which one stayed; null in entries of before there was such a thing.</param>
/// <param name="PointedAt">What the columns held to point at each record; null if that is the record's key.</param>
/// <param name="MayExclude">True if an operator may leave the rows with the retired records; the policy says whether that was done.</param>
/// <param name="LastKey">The highest key of all rows of the table then, where keys are counted up: what has a higher one was added since. Else null.</param>
public sealed record MoveDetail(
    string Reference,
    string Title,
    string Table,
    string Policy,
    IReadOnlyList<long> Counts,
    long Count,
    decimal? Amount,
    IReadOnlyList<CollisionDetail>? Collisions = null,
    IReadOnlyList<string?>? PointedAt = null,
    bool MayExclude = false,
    string? LastKey = null);

/// <summary>Related rows of which one stayed.</summary>
/// <param name="Values">The values that had to be unique.</param>
/// <param name="Kept">The key of the row that stayed.</param>
/// <param name="Removed">The rows that gave way, with all their values.</param>
/// <param name="Changes">The columns of the row that stayed which took another value.</param>
/// <param name="DependentsMoved">How many rows that hung on those moved along.</param>
public sealed record CollisionDetail(string Values, string Kept, IReadOnlyList<RemovedRowDetail> Removed, IReadOnlyDictionary<string, string?> Changes, long DependentsMoved);

/// <summary>A row that gave way.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Values">Its values, by column.</param>
public sealed record RemovedRowDetail(string Key, IReadOnlyDictionary<string, string?> Values);

/// <summary>A row of a duplicate that ended.</summary>
/// <param name="Title">What such rows are called.</param>
/// <param name="Record">The duplicate's key.</param>
/// <param name="Key">The row's key before the merge.</param>
/// <param name="Step">The journal step.</param>
public sealed record EndedDetail(string Title, string Record, string Key, int Step);

/// <summary>A related row that was added for the master.</summary>
/// <param name="Field">What the field is called in which the value lost.</param>
/// <param name="Record">The key of the record whose value it was.</param>
/// <param name="Value">The value.</param>
/// <param name="Rows">What such rows are called.</param>
public sealed record AddedDetail(string Field, string Record, string Value, string Rows);

/// <summary>The details of a decision about records that changes none of them.</summary>
/// <param name="Records">The records.</param>
/// <param name="Cluster">The cluster they were proposed in, or null.</param>
public sealed record DecisionDetails(IReadOnlyList<RecordDetail> Records, long? Cluster);

/// <summary>A figure before and after.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Operation">How it is computed, in written form.</param>
/// <param name="Control">True for a control total.</param>
/// <param name="Before">Each record's, the master's first.</param>
/// <param name="After">The master's afterwards.</param>
public sealed record FigureDetail(
    string Name,
    string Title,
    string Operation,
    bool Control,
    IReadOnlyList<string?> Before,
    string? After);

/// <summary>
/// All that a merge decides and does, with every value as text: what the history keeps for people to read. The exact
/// values are in the journal.
/// </summary>
/// <param name="Map">The fingerprint of the map.</param>
/// <param name="Plan">The fingerprint of the plan.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="Fields">The fields, then the columns that the map does not name.</param>
/// <param name="Moves">The related rows, by reference.</param>
/// <param name="Figures">The figures.</param>
/// <param name="Timeline">The table to which a row is added for the master; null for none.</param>
/// <param name="Linked">The numbers of the merges of linked records that were done with it; null for none.</param>
/// <param name="LinkedTo">The number of the merge that it was done with, as one of its linked merges; null for none.</param>
/// <param name="Ended">The rows of duplicates that ended; null for none.</param>
/// <param name="Added">The related rows that were added for the master, each with a value that lost in a field; null for none.</param>
public sealed record MergeDetails(
    string Map,
    string Plan,
    IReadOnlyList<RecordDetail> Records,
    IReadOnlyList<FieldDetail> Fields,
    IReadOnlyList<MoveDetail> Moves,
    IReadOnlyList<FigureDetail> Figures,
    string? Timeline = null,
    IReadOnlyList<long>? Linked = null,
    long? LinkedTo = null,
    IReadOnlyList<EndedDetail>? Ended = null,
    IReadOnlyList<AddedDetail>? Added = null)
{
    /// <summary>The kind of a column that the map does not name.</summary>
    public const string Unmapped = "unmapped";

    /// <summary>What the columns of a reference held to point at each record, in text form, the master's first; null where a record had no value to point at.</summary>
    /// <param name="reference">The reference's name.</param>
    public IReadOnlyList<string?> PointedAt(string reference) =>
        Moves.FirstOrDefault(move => move.Reference == reference)?.PointedAt ?? [.. Records.Select(record => record.Key)];

    /// <summary>The details of a plan.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="map">The map it was made under.</param>
    public static MergeDetails Of(MergePlan plan, RecordMap map)
    {
        ArgumentNullException.ThrowIfNull(plan);
        ArgumentNullException.ThrowIfNull(map);
        var fields = plan.Fields.Select(field => new FieldDetail(
            field.Field.Name,
            field.Field.Title,
            EnumName.Of(field.Field.Kind),
            field.Field.Group,
            [.. field.Values.Select(value => value.ToText())],
            field.Value.ToText(),
            field.From,
            EnumName.Of(field.ChosenBy),
            EnumName.Of(field.Rule),
            field.Differs,
            field.Changes));
        var unmapped = plan.Unmapped.Select(column => new FieldDetail(
            column.Column.Name,
            column.Column.Name,
            Unmapped,
            null,
            [.. column.Values.Select(value => value.ToText())],
            After(plan, column).ToText(),
            After(plan, column) == column.Values[0] ? 0 : null,
            EnumName.Of(ChosenBy.Rule),
            EnumName.Of(SurvivorshipRule.Master),
            column.Values.Any(value => value != column.Values[0]),
            After(plan, column) != column.Values[0]));
        return new MergeDetails(
            map.Fingerprint,
            plan.Fingerprint.Text,
            [.. plan.Records.Select(Of)],
            [.. fields, .. unmapped],
            [.. plan.Moves.Select(move => new MoveDetail(
                move.Reference.Name,
                move.Reference.Title,
                move.Reference.Table,
                EnumName.Of(move.Reference.Policy),
                move.Counts,
                move.Count,
                move.Amount,
                [.. move.Collisions.Select(collision => Of(collision, move.Table))],
                move.Reference.HoldsKey ? null : [.. move.PointedAt.Select(key => key.Parts.Any(part => part.IsNull) ? null : key.ToString())],
                move.Reference.MayExclude))],
            [.. plan.Figures.Select(figure => new FigureDetail(
                figure.Figure.Name,
                figure.Figure.Title,
                EnumName.Of(figure.Figure.Operation),
                figure.Figure.Control,
                [.. figure.Before.Select(value => value.ToText())],
                figure.After.ToText()))],
            plan.Type.Timeline?.Table,
            Ended: plan.Ended.Count == 0 ? null : [.. plan.Ended.Select(row => new EndedDetail(row.Rule.Title, plan.Records[row.Record].Key.ToString(), row.Key.ToString(), row.Step))],
            Added: plan.Additions.Count == 0 ? null : [.. plan.Additions.Select(row => new AddedDetail(row.Field.Title, plan.Records[row.Record].Key.ToString(), row.Value.ToText()!, plan.Type.RequireReference(row.Field.OverflowRows!.Reference).Title))]);
    }

    /// <summary>A column that no field names follows the master, unless it holds the master's place in a hierarchy.</summary>
    private static ColumnValue After(MergePlan plan, UnmappedColumn column)
    {
        foreach (var parent in plan.Parents)
        {
            var part = parent.Reference.Columns.IndexOfIdentifier(column.Column.Name);
            if (part >= 0)
                return parent.After?.Parts[part] ?? ColumnValue.Null;
        }

        return column.Values[0];
    }

    private static CollisionDetail Of(PlannedCollision collision, TableSchema table) => new(
        collision.Values,
        collision.Kept.Key.ToString(),
        [.. collision.Removed.Select(row => new RemovedRowDetail(row.Key.ToString(), table.Columns.Select((column, place) => (column.Name, Value: row.Row[place].ToText())).ToDictionary(cell => cell.Name, cell => cell.Value)))],
        collision.Changes.ToDictionary(change => change.Column.Name, change => change.Value.ToText()),
        collision.Removed.Sum(row => row.Dependents.Sum(dependents => dependents.Count)));

    /// <summary>The details of one record.</summary>
    /// <param name="record">The record.</param>
    public static RecordDetail Of(PlannedRecord record)
    {
        ArgumentNullException.ThrowIfNull(record);
        return new RecordDetail(
            record.Key.ToString(),
            record.Label,
            record.Created.ToText(),
            record.Changed.ToText(),
            record.Source.ToText(),
            record.Owner.ToText());
    }
}

/// <summary>All that a reversal did, with every value as text.</summary>
/// <param name="Plan">The fingerprint of the reversal plan.</param>
/// <param name="Records">The records, the master first.</param>
/// <param name="Rows">The related rows that went back, by reference and record.</param>
/// <param name="Cells">The values that came back.</param>
/// <param name="Restored">The keys of the deleted records that came back.</param>
/// <param name="Drift">What somebody had changed since, and what became of that, one sentence each.</param>
/// <param name="Removed">What the merge had added and was removed again, one sentence each; null if nothing was.</param>
/// <param name="PartOf">The merge that only one record was taken out of; null if the whole merge was taken back.</param>
/// <param name="Only">That record's key.</param>
public sealed record ReversalDetails(
    string Plan,
    IReadOnlyList<RecordDetail> Records,
    IReadOnlyList<ReturnedRows> Rows,
    IReadOnlyList<ReturnedCell> Cells,
    IReadOnlyList<string> Restored,
    IReadOnlyList<string> Drift,
    IReadOnlyList<string>? Removed = null,
    long? PartOf = null,
    string? Only = null);

/// <summary>Related rows that go back to a record.</summary>
/// <param name="Reference">The reference's name.</param>
/// <param name="Title">What the rows are called.</param>
/// <param name="Record">The key of the record.</param>
/// <param name="Count">How many go back.</param>
/// <param name="Journaled">How many the merge had moved.</param>
public sealed record ReturnedRows(string Reference, string Title, string Record, long Count, long Journaled);

/// <summary>A value that comes back.</summary>
/// <param name="Record">The key of the record.</param>
/// <param name="Column">The column.</param>
/// <param name="Now">The value now.</param>
/// <param name="Back">The value that comes back.</param>
public sealed record ReturnedCell(string Record, string Column, string? Now, string? Back);

/// <summary>Writes and reads details as the history keeps them.</summary>
public static class DetailsJson
{
    private static readonly JsonSerializerOptions Options = new()
    {
        PropertyNamingPolicy = JsonNamingPolicy.CamelCase,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>Writes details.</summary>
    /// <param name="details">The details.</param>
    public static string Write<T>(T details) => JsonSerializer.Serialize(details, Options);

    /// <summary>Reads details.</summary>
    /// <param name="json">What <see cref="Write"/> wrote.</param>
    public static T Read<T>(string json) => JsonSerializer.Deserialize<T>(json, Options)!;
}
