namespace Kettlefog.Contracts;

/// <summary>The record map in full, as checked against the database.</summary>
/// <param name="Name">The name of the operational database.</param>
/// <param name="Database">Where it is, without any password.</param>
/// <param name="Fingerprint">SHA-256 of the file's text, in hexadecimal digits.</param>
/// <param name="RecordTypes">The record types.</param>
/// <param name="Findings">The findings of the map check, most severe first; null while the check is running.</param>
public sealed record MapDetailsView(
    string Name,
    string Database,
    string Fingerprint,
    IReadOnlyList<RecordTypeDetails> RecordTypes,
    IReadOnlyList<MapFindingView>? Findings
);

/// <summary>A record type of the map.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">The title of one record.</param>
/// <param name="Plural">The title of several records.</param>
/// <param name="Table">The table.</param>
/// <param name="Key">The key columns.</param>
/// <param name="Columns">
/// The columns that describe the record itself, by role: <c>created</c>, <c>changed</c>, <c>source</c>,
/// <c>owner</c>.
/// </param>
/// <param name="Partition">Fields whose values must agree for two records to be compared.</param>
/// <param name="Retirement">How duplicates are retired, in words.</param>
/// <param name="Timeline">The table to which a merge adds a row for the master, or null.</param>
/// <param name="RequireReason">True if a merge needs a reason.</param>
/// <param name="Fields">The fields.</param>
/// <param name="References">The references to its records.</param>
/// <param name="Figures">The figures.</param>
/// <param name="Checks">The conditions that block a merge, in words.</param>
/// <param name="Linked">The linked merges that are offered.</param>
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

/// <summary>A field of the map.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Column">Its column.</param>
/// <param name="Kind">The kind of its values.</param>
/// <param name="Rule">Its survivorship rule.</param>
/// <param name="Overflow">Where values go that do not survive: fields, or rows of a reference.</param>
public sealed record FieldDetails(
    string Name,
    string Title,
    string Column,
    string Kind,
    string Rule,
    IReadOnlyList<string> Overflow
);

/// <summary>A reference of the map.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Title">The title of the related rows.</param>
/// <param name="Table">Their table.</param>
/// <param name="Columns">The columns that refer to the record.</param>
/// <param name="When">The conditions under which they do.</param>
/// <param name="Policy"><c>reassign</c>, <c>leave</c> or <c>block</c>.</param>
/// <param name="Collision">How conflicts are resolved: <c>block</c>, <c>keep</c> or <c>combine</c>.</param>
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

/// <summary>A figure of the map.</summary>
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
/// <c>error</c>: the map cannot be used; <c>warning</c>: a risk; <c>advice</c>: worth knowing.
/// </param>
/// <param name="File">The map's file.</param>
/// <param name="Line">The line in the file; null if the finding is not about one line.</param>
/// <param name="Message">What was found.</param>
/// <param name="Remedy">What to do about it.</param>
/// <param name="Statement">The SQL statement that fixes it, or null.</param>
public sealed record MapFindingView(
    string Severity,
    string File,
    int? Line,
    string Message,
    string Remedy,
    string? Statement
);

/// <summary>The result of a map check.</summary>
/// <param name="Map">The map's file.</param>
/// <param name="Database">The database, without any password.</param>
/// <param name="Fits">True if there is no finding of severity <c>error</c>.</param>
/// <param name="Findings">The findings, most severe first.</param>
public sealed record MapCheckView(string Map, string Database, bool Fits, IReadOnlyList<MapFindingView> Findings);
