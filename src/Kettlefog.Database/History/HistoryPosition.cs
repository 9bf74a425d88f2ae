namespace Kettlefog.Database.History;

/// <summary>An entry up to which the history was verified before.</summary>
/// <param name="Number">Its number.</param>
/// <param name="Hash">Its hash, as the earlier check reported it.</param>
public sealed record HistoryPosition(long Number, string Hash);
