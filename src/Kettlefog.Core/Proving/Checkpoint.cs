using System.Globalization;
using System.Text;

namespace Kettlefog.Core.Proving;

/// <summary>
/// What the history was at some time: how many entries, and the root of the tree over them. Whoever keeps one can prove
/// later that these entries were neither altered nor removed. Its text is that of c2sp.org/tlog-checkpoint: origin,
/// size, root in base 64, then the time as a line of its own.
/// </summary>
/// <param name="Origin">The name of the key that signs it.</param>
/// <param name="Size">The number of entries, which is the number of the last one.</param>
/// <param name="Root">The root over them, as hexadecimal digits.</param>
/// <param name="At">When, in UTC, to the second.</param>
public sealed record Checkpoint(string Origin, long Size, string Root, DateTimeOffset At)
{
    private const string Time = "yyyy-MM-dd'T'HH:mm:ss'Z'";

    /// <summary>The text that is signed.</summary>
    public string Text =>
        new StringBuilder()
            .Append(CultureInfo.InvariantCulture, $"{Origin}\n{Size}\n")
            .Append(CultureInfo.InvariantCulture, $"{Convert.ToBase64String(Convert.FromHexString(Root))}\n")
            .Append(
                CultureInfo.InvariantCulture,
                $"time {At.UtcDateTime.ToString(Time, CultureInfo.InvariantCulture)}\n"
            )
            .ToString();

    /// <summary>Reads a signed checkpoint; whether the signature is right is another question.</summary>
    /// <param name="note">The note; see <see cref="NoteKey"/>.</param>
    /// <exception cref="KettlefogException">It is no checkpoint.</exception>
    public static Checkpoint Read(string note)
    {
        if (
            NoteKey.TextOf(note)?.Split('\n') is [{ Length: > 0 } origin, var size, var root, var time, ""]
            && long.TryParse(size, NumberStyles.None, CultureInfo.InvariantCulture, out var entries)
            && NoteKey.Decode(root) is { Length: MerkleTree.HashLength } hash
            && DateTimeOffset.TryParseExact(
                time,
                $"'time '{Time}",
                CultureInfo.InvariantCulture,
                DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal,
                out var at
            )
        )
            return new Checkpoint(origin, entries, Convert.ToHexStringLower(hash), at);
        throw new KettlefogException(
            ErrorCode.InvalidQuery,
            "This is no checkpoint of a history.",
            "Give the whole text, with its signature, as 'kettlefog history checkpoint' printed it."
        );
    }
}
