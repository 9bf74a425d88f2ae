using System.IO.Hashing;
using System.Runtime.InteropServices;

namespace Kettlefog.Core.Text;

/// <summary>Hashes that are the same in every run and on every machine.</summary>
internal static class Hashing
{
    public static ulong Of(ReadOnlySpan<char> text, ulong seed) =>
        XxHash64.HashToUInt64(MemoryMarshal.AsBytes(text), (long)seed);
}
