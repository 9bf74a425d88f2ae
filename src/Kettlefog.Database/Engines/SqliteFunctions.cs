using System.Globalization;
using System.IO.Hashing;
using Kettlefog.Core.Searching;
using Kettlefog.Core.Values;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Database.Engines;

/// <summary>What SQLite lacks: folded text, exact decimal sums, and digests of rows.</summary>
internal static class SqliteFunctions
{
    public const string Fold = "kettlefog_fold";
    public const string Sum = "kettlefog_sum";
    public const string Digest = "kettlefog_digest";

    public static void Register(SqliteConnection connection)
    {
        connection.CreateFunction<object?, string?>(
            Fold,
            value => ColumnValue.FromDriver(value).ToText() is { } text ? FoldedText.Of(text) : null,
            isDeterministic: true);
        connection.CreateAggregate<object?, decimal?, string?>(
            Sum,
            null,
            Add,
            sum => sum?.ToString(CultureInfo.InvariantCulture),
            isDeterministic: true);
        connection.CreateAggregate(Digest, (RowSetDigest?)null, Add, digest => digest?.ToString(), isDeterministic: true);
    }

    private static decimal? Add(decimal? sum, object? raw)
    {
        var value = ColumnValue.FromDriver(raw);
        if (value.IsBlank)
            return sum;
        return value.TryGetDecimal(out var number)
            ? (sum ?? 0) + number
            : throw new FormatException($"'{value}' is not an amount");
    }

    private static RowSetDigest Add(RowSetDigest? digest, object?[] row)
    {
        digest ??= new RowSetDigest();
        digest.Add(row);
        return digest;
    }

    /// <summary>
    /// A digest of a set of rows: the sum, modulo 2^128, of each row's XXH128 hash (Collet, XXH3), so that the order
    /// in which the rows come does not matter.
    /// </summary>
    private sealed class RowSetDigest : IDigestSink
    {
        private readonly XxHash128 _row = new();
        private UInt128 _sum;

        public void Add(object?[] row)
        {
            foreach (var value in row)
                ColumnValue.FromDriver(value).AppendTo(this);
            _sum = unchecked(_sum + _row.GetCurrentHashAsUInt128());
            _row.Reset();
        }

        void IDigestSink.Append(ReadOnlySpan<byte> bytes) => _row.Append(bytes);

        public override string ToString() => _sum.ToString("x32", CultureInfo.InvariantCulture);
    }
}
