using Kettlefog.Core.History;

namespace Kettlefog.Database.History;

/// <summary>Which entries to list.</summary>
/// <param name="RecordType">Only those of a record type.</param>
/// <param name="Record">Only those of a record, by its key in text form.</param>
/// <param name="Actor">Only those of a user.</param>
/// <param name="Kind">Only entries of a kind.</param>
/// <param name="Since">Only those at or after a point in time.</param>
/// <param name="Until">Only those before a point in time.</param>
/// <param name="Rule">Only those by a rule, such as <c>by hand</c>.</param>
/// <param name="Before">Only those with a smaller number: what follows on the page after an entry.</param>
public sealed record HistoryFilter(
    string? RecordType = null,
    string? Record = null,
    string? Actor = null,
    EntryKind? Kind = null,
    DateTimeOffset? Since = null,
    DateTimeOffset? Until = null,
    string? Rule = null,
    long? Before = null
);
