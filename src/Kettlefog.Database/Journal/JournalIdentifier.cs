using System.Security.Cryptography;

namespace Kettlefog.Database.Journal;

/// <summary>
/// Identifies what one entry journaled. It is chosen before anything is changed, while the number of the entry is given
/// at the end, so that merges of different records need not wait for each other.
/// </summary>
internal static class JournalIdentifier
{
    private const int RandomBits = 20;

    /// <summary>
    /// A new one: larger than those of earlier times, so that it is added at the end of an index, and not chosen by any
    /// other instance.
    /// </summary>
    public static long Create() =>
        (DateTimeOffset.UtcNow.ToUnixTimeMilliseconds() << RandomBits)
        | (uint)RandomNumberGenerator.GetInt32(1 << RandomBits);
}
