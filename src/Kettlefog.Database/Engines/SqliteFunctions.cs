using System.Globalization;
using System.IO.Hashing;
using System.Runtime.InteropServices;
using Kettlefog.Core.Searching;
using Kettlefog.Core.Values;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace Kettlefog.Database.Engines;

/// <summary>
/// What SQLite lacks: folded text, exact decimal sums, and digests of rows. The last two see every related row of a
/// record, and so take SQLite's values as they are, without an object for each.
/// </summary>
internal static class SqliteFunctions
{
    public const string Fold = "kettlefog_fold";
    public const string Sum = "kettlefog_sum";
    public const string Digest = "kettlefog_digest";

    private const int Deterministic = raw.SQLITE_UTF8 | raw.SQLITE_DETERMINISTIC;

    public static void Register(SqliteConnection connection)
    {
        connection.CreateFunction<object?, string?>(
            Fold,
            value => ColumnValue.FromDriver(value).ToText() is { } text ? FoldedText.Of(text) : null,
            isDeterministic: true);
        raw.sqlite3_create_function(connection.Handle, Sum, 1, Deterministic, null, AddToSum, EndSum);
        raw.sqlite3_create_function(connection.Handle, Digest, -1, Deterministic, null, AddToDigest, EndDigest);
    }

    private static void AddToSum(sqlite3_context context, object data, sqlite3_value[] values)
    {
        var sum = (ExactSum)(context.state ??= new ExactSum());
        switch (raw.sqlite3_value_type(values[0]))
        {
            case raw.SQLITE_NULL:
                break;
            case raw.SQLITE_INTEGER:
                sum.Add(raw.sqlite3_value_int64(values[0]));
                break;
            case raw.SQLITE_FLOAT:
                sum.Add(ColumnValue.Of(raw.sqlite3_value_double(values[0])));
                break;
            case raw.SQLITE_TEXT:
                sum.Add(ColumnValue.Of(raw.sqlite3_value_text(values[0]).utf8_to_string()));
                break;
            default:
                sum.Fault = "A blob is not an amount";
                break;
        }
    }

    private static void EndSum(sqlite3_context context, object data)
    {
        var sum = context.state as ExactSum;
        if (sum?.Fault is { } fault)
            raw.sqlite3_result_error(context, fault);
        else if (sum?.Total is { } total)
            raw.sqlite3_result_text(context, total.ToString(CultureInfo.InvariantCulture));
        else
            raw.sqlite3_result_null(context);
    }

    private static void AddToDigest(sqlite3_context context, object data, sqlite3_value[] values) =>
        ((RowSetDigest)(context.state ??= new RowSetDigest())).Add(values);

    private static void EndDigest(sqlite3_context context, object data)
    {
        if (context.state is RowSetDigest digest)
            raw.sqlite3_result_text(context, digest.ToString());
        else
            raw.sqlite3_result_null(context);
    }

    /// <summary>A sum in decimal arithmetic; null over no amounts.</summary>
    private sealed class ExactSum
    {
        public decimal? Total { get; private set; }

        /// <summary>Why there is no sum; an error must not be thrown through SQLite.</summary>
        public string? Fault { get; set; }

        public void Add(ColumnValue value)
        {
            if (value.IsBlank)
                return;
            if (value.TryGetDecimal(out var number))
                Add(number);
            else
                Fault ??= $"'{value}' is not an amount";
        }

        public void Add(decimal number)
        {
            try
            {
                Total = (Total ?? 0) + number;
            }
            catch (OverflowException)
            {
                Fault ??= "The amounts add up to more than a decimal holds";
            }
        }
    }

    /// <summary>
    /// A digest of a set of rows: the sum, modulo 2^128, of each row's XXH128 hash (Collet, XXH3), so that the order
    /// in which the rows come does not matter. Each value goes in with its type, and its length where that varies.
    /// </summary>
    private sealed class RowSetDigest
    {
        private byte[] _row = new byte[512];
        private int _length;
        private UInt128 _sum;

        public void Add(sqlite3_value[] row)
        {
            _length = 0;
            foreach (var value in row)
            {
                var type = raw.sqlite3_value_type(value);
                Next(1)[0] = (byte)type;
                switch (type)
                {
                    case raw.SQLITE_NULL:
                        break;
                    case raw.SQLITE_INTEGER:
                        MemoryMarshal.Write(Next(sizeof(long)), raw.sqlite3_value_int64(value));
                        break;
                    case raw.SQLITE_FLOAT:
                        MemoryMarshal.Write(Next(sizeof(double)), raw.sqlite3_value_double(value));
                        break;
                    default:
                        var bytes = raw.sqlite3_value_blob(value);
                        MemoryMarshal.Write(Next(sizeof(long)), (long)bytes.Length);
                        bytes.CopyTo(Next(bytes.Length));
                        break;
                }
            }

            _sum = unchecked(_sum + XxHash128.HashToUInt128(_row.AsSpan(0, _length)));
        }

        public override string ToString() => _sum.ToString("x32", CultureInfo.InvariantCulture);

        private Span<byte> Next(int length)
        {
            if (_row.Length - _length < length)
                Array.Resize(ref _row, Math.Max(2 * _row.Length, _length + length));
            _length += length;
            return _row.AsSpan(_length - length, length);
        }
    }
}
