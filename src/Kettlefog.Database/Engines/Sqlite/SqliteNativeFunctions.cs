using System.Globalization;
using System.IO.Hashing;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;
using Kettlefog.Core.Values;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>
/// The exact sum, the digest and the numbering of rows, called by SQLite directly (sqlite.org/appfunc.html) and not
/// through the driver: they process every related row of a record, of which there may be a million, and the driver
/// allocates an object for each value. No exception is thrown through SQLite.
/// </summary>
internal static unsafe partial class SqliteNativeFunctions
{
    private const string Library = "e_sqlite3";
    private const int Utf8 = 1,
        Deterministic = 0x800;
    private const int Integer = 1,
        Float = 2,
        Text = 3,
        Blob = 4;
    private const int MaxShownValueLength = 60;

    private const int MaxFaultLength = 256;

    private const int MaxKeptRow = 64 * 1024;

    /// <summary>A number that no decimal holds.</summary>
    private const string HugeSum = "1e99";

    [ThreadStatic]
    private static byte[]? _row;

    /// <summary>Adds the functions to a connection.</summary>
    /// <param name="connection">The connection; open.</param>
    /// <param name="sum">
    /// The name of the sum: of one amount per row, in decimal arithmetic, as text; NULL over no amounts.
    /// </param>
    /// <param name="digest">
    /// The name of the digest: of any number of values per row, as text; NULL over no rows.
    /// </param>
    /// <param name="number">The name of the numbering: 1, 2, 3 and so on for calls with the same argument.</param>
    public static void Register(SqliteConnection connection, string sum, string digest, string number)
    {
        var handle = connection.Handle!.DangerousGetHandle();
        Check(Create(handle, sum, 1, Utf8 | Deterministic, 0, null, &AddToSum, &EndSum, null));
        Check(Create(handle, digest, -1, Utf8 | Deterministic, 0, null, &AddToDigest, &EndDigest, null));
        Check(
            Create(
                handle,
                number,
                1,
                Utf8,
                (nint)NativeMemory.AllocZeroed((nuint)sizeof(Numbering)),
                &Number,
                null,
                null,
                &FreeNumbering
            )
        );

        static void Check(int code)
        {
            if (code != 0)
                throw new InvalidOperationException($"SQLite did not take a function: error {code}.");
        }
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void AddToSum(nint context, int count, nint* values)
    {
        var value = values[0];
        decimal amount;
        string? fault = null;
        switch (TypeOf(value))
        {
            case Integer:
                amount = IntegerOf(value);
                break;
            case Float:
                var real = RealOf(value);
                if (!ColumnValue.TryGetDecimal(real, out amount))
                    fault = double.IsFinite(real) ? HugeSum : real.ToString(CultureInfo.InvariantCulture);
                break;
            case Text:
                var text = new ReadOnlySpan<byte>(TextOf(value), LengthOf(value));
                if (text.Trim(" \t\r\n"u8).IsEmpty)
                    return;
                if (!decimal.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out amount))
                    fault = ExactSum.IsHuge(Encoding.UTF8.GetString(text))
                        ? HugeSum
                        : CharacterText.Shorten(Encoding.UTF8.GetString(text), MaxShownValueLength);
                break;
            case Blob:
                amount = 0;
                fault = "a blob";
                break;
            default:
                return;
        }

        var state = (SumState*)StateOf(context, sizeof(SumState));
        if (state is null)
            return;
        state->HasAny = 1;
        try
        {
            state->Total += amount;
        }
        catch (OverflowException)
        {
            // More than a decimal holds.
            fault = HugeSum;
        }

        // SQLite would abort the statement at an error; the fault is the result of the sum instead.
        if (fault is null || state->FaultLength > 0)
            return;
        var bytes = Encoding.UTF8.GetBytes($"{(fault == HugeSum ? "" : ExactSum.FaultMark)}{fault}");
        state->FaultLength = Math.Min(bytes.Length, MaxFaultLength);
        bytes.AsSpan(0, state->FaultLength).CopyTo(new Span<byte>(state->Fault, MaxFaultLength));
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void EndSum(nint context)
    {
        var state = (SumState*)StateOf(context, 0);
        if (state is null || state->HasAny == 0)
            ReturnNull(context);
        else if (state->FaultLength > 0)
            Return(context, Encoding.UTF8.GetString(state->Fault, state->FaultLength));
        else
            Return(context, state->Total.ToString(CultureInfo.InvariantCulture));
    }

    /// <summary>
    /// The digest of a set of rows: the sum, modulo 2^128, of each row's XXH128 hash (Collet, XXH3), so that the order
    /// of the rows does not matter. Each value is hashed with its type, and its length where that varies.
    /// </summary>
    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void AddToDigest(nint context, int count, nint* values)
    {
        var state = (DigestState*)StateOf(context, sizeof(DigestState));
        if (state is null)
            return;
        // A buffer that grew for one huge row is not kept.
        if (_row is { Length: > MaxKeptRow })
            _row = null;
        var row = _row ??= new byte[512];
        var length = 0;
        for (var place = 0; place < count; place++)
        {
            var value = values[place];
            var type = TypeOf(value);
            var size = type switch
            {
                Integer or Float => sizeof(long),
                Text or Blob => sizeof(long) + LengthOf(value),
                _ => 0,
            };
            if (row.Length - length < size + 1)
            {
                Array.Resize(ref row, Math.Max(2 * row.Length, length + size + 1));
                _row = row;
            }

            row[length++] = (byte)type;
            var into = row.AsSpan(length, size);
            switch (type)
            {
                case Integer:
                    MemoryMarshal.Write(into, IntegerOf(value));
                    break;
                case Float:
                    MemoryMarshal.Write(into, RealOf(value));
                    break;
                case Text or Blob:
                    var bytes = new ReadOnlySpan<byte>(BytesOf(value), size - sizeof(long));
                    MemoryMarshal.Write(into, (long)bytes.Length);
                    bytes.CopyTo(into[sizeof(long)..]);
                    break;
            }

            length += size;
        }

        var sum = unchecked(new UInt128(state->High, state->Low) + XxHash128.HashToUInt128(row.AsSpan(0, length)));
        (state->High, state->Low, state->HasAny) = ((ulong)(sum >> 64), (ulong)sum, 1);
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void EndDigest(nint context)
    {
        var state = (DigestState*)StateOf(context, 0);
        if (state is null || state->HasAny == 0)
            ReturnNull(context);
        else
            Return(context, new UInt128(state->High, state->Low).ToString("x32", CultureInfo.InvariantCulture));
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void Number(nint context, int count, nint* values)
    {
        var state = (Numbering*)DataOf(context);
        var of = IntegerOf(values[0]);
        if (state->Of != of)
            (state->Of, state->Last) = (of, 0);
        ReturnInteger(context, ++state->Last);
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void FreeNumbering(nint data) => NativeMemory.Free((void*)data);

    private static void Return(nint context, string text)
    {
        var bytes = Encoding.UTF8.GetBytes(text);
        fixed (byte* start = bytes)
            ReturnText(context, start, bytes.Length, -1);
    }

    // SQLite allocates these zeroed, and frees them, even when a statement is aborted.
    private struct SumState
    {
        public decimal Total;
        public int HasAny;
        public int FaultLength;
        public fixed byte Fault[MaxFaultLength];
    }

    private struct DigestState
    {
        public ulong High,
            Low;
        public int HasAny;
    }

    private struct Numbering
    {
        public long Of,
            Last;
    }

    [LibraryImport(Library, EntryPoint = "sqlite3_create_function_v2", StringMarshalling = StringMarshalling.Utf8)]
    private static partial int Create(
        nint database,
        string name,
        int arguments,
        int flags,
        nint data,
        delegate* unmanaged[Cdecl]<nint, int, nint*, void> call,
        delegate* unmanaged[Cdecl]<nint, int, nint*, void> step,
        delegate* unmanaged[Cdecl]<nint, void> end,
        delegate* unmanaged[Cdecl]<nint, void> destroy
    );

    [LibraryImport(Library, EntryPoint = "sqlite3_aggregate_context")]
    private static partial void* StateOf(nint context, int size);

    [LibraryImport(Library, EntryPoint = "sqlite3_user_data")]
    [SuppressGCTransition]
    private static partial void* DataOf(nint context);

    [LibraryImport(Library, EntryPoint = "sqlite3_value_type")]
    [SuppressGCTransition]
    private static partial int TypeOf(nint value);

    [LibraryImport(Library, EntryPoint = "sqlite3_value_int64")]
    [SuppressGCTransition]
    private static partial long IntegerOf(nint value);

    [LibraryImport(Library, EntryPoint = "sqlite3_value_double")]
    [SuppressGCTransition]
    private static partial double RealOf(nint value);

    [LibraryImport(Library, EntryPoint = "sqlite3_value_text")]
    private static partial byte* TextOf(nint value);

    [LibraryImport(Library, EntryPoint = "sqlite3_value_blob")]
    private static partial byte* BytesOf(nint value);

    [LibraryImport(Library, EntryPoint = "sqlite3_value_bytes")]
    private static partial int LengthOf(nint value);

    [LibraryImport(Library, EntryPoint = "sqlite3_result_int64")]
    [SuppressGCTransition]
    private static partial void ReturnInteger(nint context, long value);

    [LibraryImport(Library, EntryPoint = "sqlite3_result_null")]
    private static partial void ReturnNull(nint context);

    [LibraryImport(Library, EntryPoint = "sqlite3_result_text")]
    private static partial void ReturnText(nint context, byte* text, int length, nint destroy);
}
