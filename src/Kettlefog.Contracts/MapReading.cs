namespace Kettlefog.Contracts;

/// <summary>The record map in full, as it was read and fits the database.</summary>
/// <param name="Name">The name of the operational database.</param>
/// <param name="Database">Where it is, without any password.</param>
/// <param name="Fingerprint">Stands for the file's text.</param>
/// <param name="RecordTypes">The record types.</param>
/// <param name="Findings">
/// What the check of the map found, those that matter most first; null while it is still being checked.
/// </param>
public sealed record MapDetailsView(
    string Name,
    string Database,
    string Fingerprint,
    IReadOnlyList<RecordTypeDetails> RecordTypes,
    IReadOnlyList<MapFindingView>? Findings
);

/// <summary>A record type as the map says it.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">What one is called.</param>
/// <param name="Plural">What many are called.</param>
/// <param name="Table">The table.</param>
/// <param name="Key">The key columns.</param>
/// <param name="Columns">
/// What the columns that say something about the record itself are: <c>created</c>, <c>changed</c>, <c>source</c>,
/// <c>owner</c>.
/// </param>
/// <param name="Partition">Fields whose values must agree for two records to be compared.</param>
/// <param name="Retirement">How duplicates are retired, in words.</param>
/// <param name="Timeline">The table to which a merge adds a row for the master, or null.</param>
/// <param name="RequireReason">True if a merge needs a reason.</param>
/// <param name="Fields">The fields.</param>
/// <param name="References">What points at its records.</param>
/// <param name="Figures">The figures.</param>
/// <param name="Checks">What forbids a merge, in words.</param>
/// <param name="Linked">What is offered as a linked merge.</param>
public sealed record RecordTypeDetails(
    string Name,
    string Title,
    string Plural,
    string Table,
    IReadOnlyList<string> Key,
    IReadOnlyDictionary<string, string> Columns,
    IReadOnlyList<string> Partition,
    string Retirement,
    string? Timeline,
    bool RequireReason,
    IReadOnlyList<FieldDetails> Fields,
    IReadOnlyList<ReferenceDetails> References,
    IReadOnlyList<FigureDetails> Figures,
    IReadOnlyList<string> Checks,
    IReadOnlyList<string> Linked
);

/// <summary>A field as the map says it.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Column">Its column.</param>
/// <param name="Kind">What its value means.</param>
/// <param name="Rule">Its survivorship rule.</param>
/// <param name="Overflow">Where values go that lose in it: fields, or rows of a reference.</param>
public sealed record FieldDetails(
    string Name,
    string Title,
    string Column,
    string Kind,
    string Rule,
    IReadOnlyList<string> Overflow
);

/// <summary>A reference as the map says it.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">What the related rows are called.</param>
/// <param name="Table">Their table.</param>
/// <param name="Columns">The columns that point at the record.</param>
/// <param name="When">The conditions under which they do.</param>
/// <param name="Policy"><c>reassign</c>, <c>leave</c> or <c>block</c>.</param>
/// <param name="Collision">What happens to rows that collide: <c>block</c>, <c>keep</c> or <c>combine</c>.</param>
/// <param name="MayExclude">True if an operator may leave its rows with the retired records.</param>
/// <param name="Indexed">True if an index finds its rows.</param>
public sealed record ReferenceDetails(
    string Name,
    string Title,
    string Table,
    IReadOnlyList<string> Columns,
    IReadOnlyDictionary<string, string> When,
    string Policy,
    string Collision,
    bool MayExclude,
    bool Indexed
);

/// <summary>A figure as the map says it.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Reference">The reference whose rows count.</param>
/// <param name="Operation"><c>count</c>, <c>sum</c>, <c>last</c> or <c>first</c>.</param>
/// <param name="Column">The column, or null for a count.</param>
/// <param name="Control">True for a control total.</param>
public sealed record FigureDetails(
    string Name,
    string Title,
    string Reference,
    string Operation,
    string? Column,
    bool Control
);

/// <summary>One finding about the map, or about its database.</summary>
/// <param name="Severity">
/// <c>error</c>: it cannot work; <c>warning</c>: it is risky; <c>advice</c>: it is worth knowing.
/// </param>
/// <param name="File">The map's file.</param>
/// <param name="Line">The line in the file; null if it is not about one line.</param>
/// <param name="Message">What is found.</param>
/// <param name="Remedy">What to do about it.</param>
/// <param name="Statement">The SQL statement that mends it, or null.</param>
public sealed record MapFindingView(
    string Severity,
    string File,
    int? Line,
    string Message,
    string Remedy,
    string? Statement
);

/// <summary>What the check of a map found.</summary>
/// <param name="Map">The map's file.</param>
/// <param name="Database">The database, without any password.</param>
/// <param name="Fits">True if nothing was found that cannot work.</param>
/// <param name="Findings">The findings, those that matter most first.</param>
public sealed record MapCheckView(string Map, string Database, bool Fits, IReadOnlyList<MapFindingView> Findings);
