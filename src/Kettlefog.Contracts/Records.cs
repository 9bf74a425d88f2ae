namespace Kettlefog.Contracts;

/// <summary>The record map as clients need it.</summary>
/// <param name="Name">The name of the operational database.</param>
/// <param name="Fingerprint">SHA-256 of the file's text, in hexadecimal digits.</param>
/// <param name="RecordTypes">The record types.</param>
/// <param name="LegalForms">
/// Words in names of organisations that are legal forms, in small letters: two names may differ only in these.
/// </param>
public sealed record MapView(
    string Name,
    string Fingerprint,
    IReadOnlyList<RecordTypeView> RecordTypes,
    IReadOnlyList<string> LegalForms
);

/// <summary>A record type.</summary>
/// <param name="Name">Its name in addresses.</param>
/// <param name="Title">The title of one record.</param>
/// <param name="Plural">The title of several records.</param>
/// <param name="Key">The key columns.</param>
/// <param name="Fields">The fields.</param>
/// <param name="References">The references to its records.</param>
/// <param name="Figures">The figures.</param>
/// <param name="RequireReason">True if merges and reversals require a reason.</param>
/// <param name="AmountTitle">The title of the figure that counts as a cluster's amount; null if there is none.</param>
public sealed record RecordTypeView(
    string Name,
    string Title,
    string Plural,
    IReadOnlyList<string> Key,
    IReadOnlyList<FieldView> Fields,
    IReadOnlyList<ReferenceView> References,
    IReadOnlyList<FigureView> Figures,
    bool RequireReason,
    string? AmountTitle = null
);

/// <summary>A field.</summary>
/// <param name="Name">Its name in choices and searches.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Kind">The kind of its values, such as <c>email</c>.</param>
/// <param name="Group">The heading under which it is shown, or null.</param>
/// <param name="Rule">Its survivorship rule.</param>
/// <param name="MaxLength">The longest text in characters, or null.</param>
/// <param name="Column">The column of the operational database that holds it.</param>
/// <param name="IsClosed">True if a foreign key or a list of allowed values says what it may be.</param>
public sealed record FieldView(
    string Name,
    string Title,
    string Kind,
    string? Group,
    string Rule,
    int? MaxLength,
    string Column,
    bool IsClosed
);

/// <summary>The values that a field may take, or usually takes.</summary>
/// <param name="IsClosed">True if the database allows no others; false if these are what records have now.</param>
/// <param name="Values">The values; empty if there are too many to list.</param>
public sealed record FieldChoicesView(bool IsClosed, IReadOnlyList<ChoiceView> Values);

/// <summary>A value to choose.</summary>
/// <param name="Value">The value, as it is typed.</param>
/// <param name="Label">What it refers to, or null.</param>
public sealed record ChoiceView(string Value, string? Label);

/// <summary>A reference.</summary>
/// <param name="Name">Its name in addresses.</param>
/// <param name="Title">The title of the related rows.</param>
/// <param name="Table">Their table.</param>
/// <param name="Policy"><c>reassign</c>, <c>leave</c> or <c>block</c>.</param>
public sealed record ReferenceView(string Name, string Title, string Table, string Policy);

/// <summary>A figure.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Operation"><c>count</c>, <c>sum</c>, <c>last</c> or <c>first</c>.</param>
/// <param name="Control">True for a control total.</param>
public sealed record FigureView(string Name, string Title, string Operation, bool Control);

/// <summary>A record.</summary>
/// <param name="Key">Its key, in text form.</param>
/// <param name="Label">Its label.</param>
/// <param name="Created">When it was created.</param>
/// <param name="Changed">When it was changed last.</param>
/// <param name="Source">Where it came from.</param>
/// <param name="Owner">Who is responsible for it.</param>
/// <param name="Values">Its values by field; a column that the map does not name is called <c>column:NAME</c>.</param>
/// <param name="Figures">Its figures by name; sums are exact decimals.</param>
/// <param name="Counts">The number of its related rows by reference.</param>
/// <param name="Retired">The redirect if the record is retired, or null.</param>
public sealed record RecordView(
    string Key,
    string Label,
    string? Created,
    string? Changed,
    string? Source,
    string? Owner,
    IReadOnlyDictionary<string, string?> Values,
    IReadOnlyDictionary<string, string?> Figures,
    IReadOnlyDictionary<string, long> Counts,
    RedirectView? Retired
);

/// <summary>A page of records.</summary>
/// <param name="Items">The records.</param>
/// <param name="Total">How many there are in all.</param>
/// <param name="Page">The page, counted from 1.</param>
/// <param name="Size">The number of records on a page.</param>
public sealed record RecordPage(IReadOnlyList<RecordView> Items, long Total, int Page, int Size);

/// <summary>A column of related rows.</summary>
/// <param name="Name">Its name in the operational database.</param>
/// <param name="Title">Its name for people: its field's, if the rows are records; otherwise made of its name.</param>
/// <param name="Kind">
/// <c>key</c> (of the rows), <c>amount</c> (a figure adds it up), <c>number</c>, <c>date</c> or <c>text</c>.
/// </param>
public sealed record RelatedColumn(string Name, string Title, string Kind);

/// <summary>A page of related rows.</summary>
/// <param name="Reference">The reference.</param>
/// <param name="Title">The title of the rows.</param>
/// <param name="Columns">The columns shown, the rows' key first.</param>
/// <param name="Rows">The rows' values, in the order of the columns.</param>
/// <param name="Total">How many there are in all.</param>
/// <param name="Page">The page, counted from 1.</param>
/// <param name="Size">The number of rows on a page.</param>
public sealed record RelatedRowsPage(
    string Reference,
    string Title,
    IReadOnlyList<RelatedColumn> Columns,
    IReadOnlyList<IReadOnlyList<string?>> Rows,
    long Total,
    int Page,
    int Size
);

/// <summary>A redirect from a retired key to its master.</summary>
/// <param name="OldKey">The retired key.</param>
/// <param name="Master">The key of the current master, after all later merges.</param>
/// <param name="Merge">The merge that retired it.</param>
public sealed record RedirectView(string OldKey, string Master, long Merge);

/// <summary>The history of one record.</summary>
/// <param name="Retired">The redirect if the record is retired, or null.</param>
/// <param name="OldKeys">The retired keys that redirect to it.</param>
/// <param name="Entries">The entries about it, latest first.</param>
public sealed record RecordHistory(
    RedirectView? Retired,
    IReadOnlyList<RedirectView> OldKeys,
    IReadOnlyList<EntrySummary> Entries
);
