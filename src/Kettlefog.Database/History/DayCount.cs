using Kettlefog.Core.History;

namespace Kettlefog.Database.History;

/// <summary>How many entries of a kind somebody made on a day.</summary>
/// <param name="Day">The day, in UTC.</param>
/// <param name="RecordType">The name of the record type.</param>
/// <param name="Kind">The kind.</param>
/// <param name="Actor">Who made them.</param>
/// <param name="Entries">How many.</param>
public sealed record DayCount(DateOnly Day, string RecordType, EntryKind Kind, string Actor, long Entries);
