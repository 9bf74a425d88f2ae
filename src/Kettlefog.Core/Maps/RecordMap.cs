using Kettlefog.Core.Matching.Rules;
using Kettlefog.Core.Planning;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Survivorship;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Maps;

/// <summary>
/// The description of an operational database: which tables hold records, what points at them, and how records
/// become one. Read from YAML by <see cref="MapReader"/>.
/// </summary>
/// <param name="Name">The name of the database, for people.</param>
/// <param name="Fingerprint">SHA-256 of the file's text in hexadecimal digits; a plan made under another map is stale.</param>
/// <param name="RecordTypes">The record types, in the order of the file.</param>
public sealed record RecordMap(string Name, string Fingerprint, IReadOnlyList<RecordType> RecordTypes)
{
    /// <summary>The record type of that name.</summary>
    /// <param name="name">The name, as in the map.</param>
    /// <exception cref="KettlefogException">There is none.</exception>
    public RecordType Require(string name) =>
        RecordTypes.FirstOrDefault(type => type.Name == name)
        ?? throw new KettlefogException(
            ErrorCode.UnknownRecordType,
            $"There is no record type '{name}'.",
            $"The map has: {string.Join(", ", RecordTypes.Select(type => type.Name))}.");
}

/// <summary>A kind of record that can be merged, such as vendor.</summary>
/// <param name="Name">Its name in commands and addresses.</param>
/// <param name="Title">What one of them is called.</param>
/// <param name="Plural">What many of them are called.</param>
/// <param name="Table">The table whose rows they are.</param>
/// <param name="Key">The key columns; empty in the file means the table's primary key, filled in by <see cref="MapCheck"/>.</param>
/// <param name="Label">How a record is called in one line: text with field names in braces.</param>
/// <param name="Created">The column with the time of creation, or null.</param>
/// <param name="Changed">The column with the time of the last change, or null.</param>
/// <param name="Source">The column that says where the record came from, or null.</param>
/// <param name="Owner">The column that says who is responsible for it, or null.</param>
/// <param name="Master">What speaks for a record as the master, first things first; empty for the usual.</param>
/// <param name="Survivorship">The survivorship rule of fields that name none.</param>
/// <param name="SourceOrder">The sources, the one that goes first at the front, for the survivorship rule of that name.</param>
/// <param name="Blanks">Texts that stand for a blank, such as <c>n/a</c> or <c>1900-01-01</c>, whatever their case.</param>
/// <param name="Fields">The fields, in the order of the file.</param>
/// <param name="References">What points at the records.</param>
/// <param name="Figures">Numbers about a record, got from its related rows.</param>
/// <param name="Retirement">What becomes of a duplicate.</param>
/// <param name="Blockers">What forbids a merge.</param>
/// <param name="Matching">How duplicates are found.</param>
public sealed record RecordType(
    string Name,
    string Title,
    string Plural,
    string Table,
    IReadOnlyList<string> Key,
    string Label,
    string? Created,
    string? Changed,
    string? Source,
    string? Owner,
    IReadOnlyList<MasterPreference> Master,
    SurvivorshipRule Survivorship,
    IReadOnlyList<string> SourceOrder,
    IReadOnlyList<string> Blanks,
    IReadOnlyList<Field> Fields,
    IReadOnlyList<Reference> References,
    IReadOnlyList<Figure> Figures,
    Retirement Retirement,
    BlockerRules Blockers,
    MatchSettings Matching)
{
    /// <summary>The row that a merge adds for the master; null for none.</summary>
    public Timeline? Timeline { get; init; }

    /// <summary>True if nobody merges records of this type, or takes that back, without saying why.</summary>
    public bool RequireReason { get; init; }

    /// <summary>The records of this and other types that are offered to be merged along.</summary>
    public IReadOnlyList<LinkedRecords> Linked { get; init; } = [];

    /// <summary>The field of that name.</summary>
    /// <param name="name">The name, as in the map.</param>
    /// <exception cref="KettlefogException">There is none.</exception>
    public Field RequireField(string name) =>
        Fields.FirstOrDefault(field => field.Name == name)
        ?? throw new KettlefogException(
            ErrorCode.UnknownField,
            $"A {Title.ToLowerInvariant()} has no field '{name}'.",
            $"The fields are: {string.Join(", ", Fields.Select(field => field.Name))}.");

    /// <summary>The reference of that name.</summary>
    /// <param name="name">The name, as in the map.</param>
    /// <exception cref="KettlefogException">There is none.</exception>
    public Reference RequireReference(string name) =>
        References.FirstOrDefault(reference => reference.Name == name)
        ?? throw new KettlefogException(
            ErrorCode.UnknownReference,
            $"Nothing named '{name}' points at a {Title.ToLowerInvariant()}.",
            $"The references are: {string.Join(", ", References.Select(reference => reference.Name))}.");

    /// <summary>True if nobody would say that a value is filled in: it is blank, or a placeholder that the map lists.</summary>
    /// <param name="value">The value.</param>
    public bool IsBlank(ColumnValue value) =>
        value.IsBlank || (Blanks.Count > 0 && value.ToText()?.Trim() is { } text && Blanks.Contains(text, StringComparer.OrdinalIgnoreCase));

    /// <summary>A record's label, made of its column values.</summary>
    /// <param name="column">Gives the value of a column.</param>
    public string LabelOf(Func<string, ColumnValue> column)
    {
        ArgumentNullException.ThrowIfNull(column);
        var label = Fields.Aggregate(Label, (text, field) =>
            text.Contains($"{{{field.Name}}}", StringComparison.Ordinal)
                ? text.Replace($"{{{field.Name}}}", column(field.Column).ToText()?.Trim() ?? "", StringComparison.Ordinal)
                : text);

        // What stood around a blank value: "Gannet, " and "Gannet ()" are but Gannet.
        return label.Replace("()", "", StringComparison.Ordinal).Trim(' ', ',', '-', '·') is { Length: > 0 } trimmed ? trimmed : "(no label)";
    }
}

/// <summary>How duplicates among the records of a type are found.</summary>
/// <param name="Country">The country of records that name none, as two letters of ISO 3166-1, or null.</param>
/// <param name="Partition">The fields whose values must agree, such as the legal entity, unless a rule crosses them.</param>
/// <param name="Nicknames">Groups of given names that one person may bear, beyond those that are built in.</param>
/// <param name="Rules">The rules, in the order of the file; empty if the ready rule is to do.</param>
public sealed record MatchSettings(
    string? Country,
    IReadOnlyList<string> Partition,
    IReadOnlyList<IReadOnlyList<string>> Nicknames,
    IReadOnlyList<MatchRule> Rules)
{
    /// <summary>Nothing is said: the ready rule does.</summary>
    public static MatchSettings None { get; } = new(null, [], [], []);

    /// <summary>The rules that apply: those of the map, or the ready one.</summary>
    public IReadOnlyList<MatchRule> RulesOrReady => Rules.Count > 0 ? Rules : [MatchRule.Ready];
}

/// <summary>A field of a record type.</summary>
/// <param name="Name">Its name in commands and choices.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Column">The column that holds it.</param>
/// <param name="Kind">What the value means.</param>
/// <param name="Survivorship">Its own survivorship rule, or null for the type's.</param>
/// <param name="Group">The heading under which it is shown, or null.</param>
/// <param name="Separator">What stands between the members of a set, or null to see it from the values.</param>
/// <param name="Overflow">The fields that take the values which lose here, such as a second phone, in their order.</param>
public sealed record Field(
    string Name,
    string Title,
    string Column,
    FieldKind Kind,
    SurvivorshipRule? Survivorship,
    string? Group,
    string? Separator = null,
    IReadOnlyList<string>? Overflow = null)
{
    /// <summary>The rows that take the values which lose here and find no further field; null for none.</summary>
    public OverflowRows? OverflowRows { get; init; }

    /// <summary>For an amount of money, the field that says in which currency it is; null if there is but one.</summary>
    public string? Currency { get; init; }
}

/// <summary>Related rows, such as further e-mail addresses, that take values which lose in a field of the record.</summary>
/// <param name="Reference">The reference that they have; its table needs a primary key.</param>
/// <param name="Column">The column that takes the value.</param>
/// <param name="Values">What the other columns of a new row hold.</param>
public sealed record OverflowRows(string Reference, string Column, IReadOnlyDictionary<string, string> Values);

/// <summary>What becomes of the related rows of a duplicate.</summary>
public enum ReferencePolicy
{
    /// <summary>They point at the master afterwards.</summary>
    Reassign,

    /// <summary>They stay with the retired record.</summary>
    Leave,

    /// <summary>If there are any, the merge is blocked.</summary>
    Block,
}

/// <summary>What becomes of related rows that may not all point at the master, because of a unique key.</summary>
public enum CollisionPolicy
{
    /// <summary>The merge is blocked.</summary>
    Block,

    /// <summary>The master's row stays, or the first duplicate's if the master has none; the others go to the journal.</summary>
    Keep,

    /// <summary>As <see cref="Keep"/>, but the row that stays takes values of the others by survivorship.</summary>
    Combine,
}

/// <summary>Columns elsewhere that point at a record.</summary>
/// <param name="Name">Its name in commands and addresses.</param>
/// <param name="Title">What the related rows are called.</param>
/// <param name="Table">The table whose rows have it.</param>
/// <param name="Columns">The columns that hold the record's key, in the order of the key.</param>
/// <param name="Key">The columns that identify a related row; filled in by <see cref="MapCheck"/> with the primary key.</param>
/// <param name="When">Columns and the text that each must have for the reference to hold; empty for always.</param>
/// <param name="Policy">What becomes of the related rows of a duplicate.</param>
/// <param name="Amount">The column that says what a related row is worth, or null.</param>
/// <param name="Show">The columns that show a related row to a person; empty for all.</param>
/// <param name="Collision">What becomes of rows that collide.</param>
/// <param name="Combine">Survivorship rules of single columns of rows that are combined; the record type's for all others.</param>
public sealed record Reference(
    string Name,
    string Title,
    string Table,
    IReadOnlyList<string> Columns,
    IReadOnlyList<string> Key,
    IReadOnlyDictionary<string, string> When,
    ReferencePolicy Policy,
    string? Amount,
    IReadOnlyList<string> Show,
    CollisionPolicy Collision,
    IReadOnlyDictionary<string, SurvivorshipRule> Combine)
{
    /// <summary>What stands for the key in <see cref="Template"/>.</summary>
    public const string KeyPlaceholder = "{key}";

    /// <summary>The record's columns that are pointed at; empty for its key.</summary>
    public IReadOnlyList<string> To { get; init; } = [];

    /// <summary>The text that the one column holds, with <see cref="KeyPlaceholder"/> for the key in text form; null if it holds the key itself.</summary>
    public string? Template { get; init; }

    /// <summary>
    /// What is reassigned, in the order in which it is done: where two references of one table share a unique key, rows
    /// of the one that holds only under a condition leave first, and are not in the way of the other's.
    /// </summary>
    /// <param name="all">What has references.</param>
    /// <param name="of">The reference of each.</param>
    public static IReadOnlyList<T> InReassignmentOrder<T>(IEnumerable<T> all, Func<T, Reference> of) =>
        [.. all.Where(each => of(each).Policy == ReferencePolicy.Reassign).GroupBy(each => of(each).Table).SelectMany(ofTable => ofTable.OrderBy(each => of(each).When.Count == 0))];

    /// <summary>True if an operator may leave the rows with the retired records in a single merge.</summary>
    public bool MayExclude { get; init; }

    /// <summary>True if its columns hold the record's key as it is.</summary>
    public bool HoldsKey => To.Count == 0 && Template is null;

    /// <summary>At which of some records a row points.</summary>
    /// <param name="row">The row's values by column.</param>
    /// <param name="pointedAt">What the columns hold to point at each record.</param>
    /// <returns>The index of the record; -1 if the row points at none of them, or the reference does not hold for it.</returns>
    public int IndexOfReferencedRecord(Func<string, ColumnValue> row, IReadOnlyList<RecordKey> pointedAt)
    {
        ArgumentNullException.ThrowIfNull(row);
        ArgumentNullException.ThrowIfNull(pointedAt);
        if (When.Any(when => row(when.Key).ToText() != when.Value))
            return -1;
        var pointing = new RecordKey([.. Columns.Select(row)]);
        return pointing.Parts.Any(part => part.IsNull) ? -1 : pointedAt.ToList().IndexOf(pointing);
    }

    /// <summary>What its columns hold in the rows that point at a record.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="table">The table of the related rows.</param>
    /// <param name="record">The record's values by column.</param>
    /// <returns>One part for each of <see cref="Columns"/>; NULL where the record has no value to point at.</returns>
    public RecordKey KeyOf(RecordType type, TableSchema table, Func<string, ColumnValue> record)
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(table);
        ArgumentNullException.ThrowIfNull(record);
        var key = new RecordKey([.. (To.Count == 0 ? type.Key : To).Select(record)]);
        if (Template is not null)
            return new RecordKey(key.Parts.Any(part => part.IsNull) ? ColumnValue.Null : ColumnValue.Of(Template.Replace(KeyPlaceholder, key.ToString(), StringComparison.Ordinal)));
        return new RecordKey([.. key.Parts.Zip(table.Require(Columns), (part, column) => column.Storage == StorageClass.Text && part.ToText() is { } text ? ColumnValue.Of(text) : part)]);
    }
}

/// <summary>How a figure is computed from related rows.</summary>
public enum FigureOperation
{
    /// <summary>The number of related rows.</summary>
    Count,

    /// <summary>The exact decimal sum of a column.</summary>
    Sum,

    /// <summary>The greatest value of a column: the last date.</summary>
    Last,

    /// <summary>The least value of a column: the first date.</summary>
    First,
}

/// <summary>A number about a record, got from related rows.</summary>
/// <param name="Name">Its name in outputs.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Reference">The reference whose rows count.</param>
/// <param name="Operation">How it is computed.</param>
/// <param name="Column">The column it is computed from; null for a count.</param>
/// <param name="Control">True for a control total: it must agree before and after every merge.</param>
public sealed record Figure(
    string Name,
    string Title,
    string Reference,
    FigureOperation Operation,
    string? Column,
    bool Control)
{
    /// <summary>True if the figures of several records can be added up.</summary>
    public bool Adds => Operation is FigureOperation.Count or FigureOperation.Sum;
}

/// <summary>What becomes of a duplicate after its merge.</summary>
/// <param name="Delete">True if its row is deleted; it stays in the journal.</param>
/// <param name="Mark">Otherwise the columns that are set, and to what text.</param>
public sealed record Retirement(bool Delete, IReadOnlyDictionary<string, string> Mark);

/// <summary>What forbids a merge until it is cleared.</summary>
/// <param name="MustAgree">Fields that must not differ between the records, such as currency or legal entity.</param>
/// <param name="Forbid">Fields, and the values that a record to be merged must not have.</param>
/// <param name="AtMostOne">Related rows of which one of the records at most may have any, such as running agreements.</param>
public sealed record BlockerRules(
    IReadOnlyList<string> MustAgree,
    IReadOnlyDictionary<string, IReadOnlyList<string>> Forbid,
    IReadOnlyList<AtMostOneRule> AtMostOne);

/// <summary>A map that fits its database, with the tables it speaks of.</summary>
/// <param name="Map">The map, with the keys filled in that the file leaves to the database.</param>
/// <param name="Catalog">The database's tables.</param>
public sealed record CheckedMap(RecordMap Map, DatabaseCatalog Catalog);
