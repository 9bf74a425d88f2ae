using System.IO.Hashing;
using System.Runtime.InteropServices;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Finding;

/// <summary>A record, as the finder reads it.</summary>
/// <param name="Key">Its key, in text form.</param>
/// <param name="Values">The values of the type's fields, in the order of the map.</param>
internal sealed record MatchRecord(string Key, string?[] Values)
{
    /// <summary>A digest of the values.</summary>
    public long ContentHash()
    {
        var hash = new XxHash64();
        foreach (var value in Values)
        {
            hash.Append(value is null ? [1, 0] : MemoryMarshal.AsBytes(value.AsSpan()));
            hash.Append([0, 0]);
        }

        return (long)hash.GetCurrentHashAsUInt64();
    }
}

/// <summary>Reads the records of a type that are not retired, by key.</summary>
internal sealed class RecordStream(Session session, CheckedMap map)
{
    /// <summary>Reads those with some keys.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="keys">The keys in text form.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public IAsyncEnumerable<MatchRecord> ReadAsync(
        RecordType type,
        IReadOnlyList<string> keys,
        CancellationToken cancellationToken
    )
    {
        var key = session.Keys.Text(map.Catalog.Require(type.Table).Require(type.Key));
        var chosen = Sql.Of($"{key} IN ({Sql.Join(", ", keys.Select(each => Sql.Of($"{each}")))})");
        return SelectAsync(type, hasRedirects: true, chosen, Sql.Empty, [], cancellationToken)
            .Select(row => row.Record);
    }

    /// <summary>Reads the records from a key on.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="hasRedirects">False if the database does not have Kettlefog's tables.</param>
    /// <param name="from">The values of the key's columns, the first record's included; null from the start.</param>
    /// <param name="limit">How many at most; null for all.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>Each record, and the values of its key's columns.</returns>
    public IAsyncEnumerable<(MatchRecord Record, ColumnValue[] Key)> ReadFromAsync(
        RecordType type,
        bool hasRedirects,
        IReadOnlyList<ColumnValue>? from,
        long? limit,
        CancellationToken cancellationToken
    )
    {
        var columns = map.Catalog.Require(type.Table).Require(type.Key);
        var names = Sql.Join(", ", columns.Select(column => Sql.Of($"t.{new SqlName(column.Name)}")));
        var values = from?.Zip(columns, (value, column) => session.Dialect.Write(value, column));
        return SelectAsync(
            type,
            hasRedirects,
            values is null ? Sql.Of($"1 = 1") : Sql.Of($"({names}) >= ({Sql.Join(", ", values)})"),
            limit is { } most ? Sql.Of($" LIMIT {most}") : Sql.Empty,
            columns,
            cancellationToken
        );
    }

    private IAsyncEnumerable<(MatchRecord Record, ColumnValue[] Key)> SelectAsync(
        RecordType type,
        bool hasRedirects,
        Sql chosen,
        Sql limit,
        IReadOnlyList<ColumnSchema> keyColumns,
        CancellationToken cancellationToken
    )
    {
        var table = map.Catalog.Require(type.Table);
        var key = session.Keys.Text(table.Require(type.Key));
        var columns = type
            .Fields.Select(field => field.Column)
            .Concat(keyColumns.Select(column => column.Name))
            .Select(column => session.Dialect.Read(Sql.Of($"t.{new SqlName(column)}")));

        // SQLite allows NULL in a primary key; such a row cannot be named, and so is no record.
        var conditions = new List<Sql> { chosen };
        conditions.AddRange(
            table
                .Require(type.Key)
                .Where(column => !column.NotNull)
                .Select(column => Sql.Of($"t.{new SqlName(column.Name)} IS NOT NULL"))
        );
        if (hasRedirects)
            conditions.Add(
                Sql.Of(
                    $"{key} NOT IN (SELECT f.old_key FROM {session.Dialect.Own("redirect")} f WHERE "
                        + $"f.record_type = {type.Name})"
                )
            );

        // Records may have been retired in this way before Kettlefog was used.
        if (type.Retirement.Mark.Count > 0)
        {
            var marks = type
                .Retirement.Mark.Select(mark => (Column: table.Require([mark.Key])[0], mark.Value))
                .Select(mark =>
                    session.Dialect.NullSafeEqual(
                        Sql.Of($"t.{new SqlName(mark.Column.Name)}"),
                        session.Dialect.Write(
                            mark.Column.TryRead(mark.Value) ?? ColumnValue.Of(mark.Value),
                            mark.Column
                        )
                    )
                );
            conditions.Add(Sql.Of($"NOT ({Sql.Join(" AND ", marks)})"));
        }

        return session.StreamAsync(
            Sql.Of(
                $"SELECT {key}, {Sql.Join(", ", columns)} FROM {session.Dialect.Table(table)} t WHERE "
                    + $"{Sql.Join(" AND ", conditions)} ORDER BY "
                    + $"{Sql.Join(", ", type.Key.Select(column => Sql.Of($"t.{new SqlName(column)}")))}{limit}"
            ),
            row =>
            {
                var text = row.Text();
                var values = new string?[type.Fields.Count];
                for (var index = 0; index < values.Length; index++)
                    values[index] = row.Value().ToText();
                var keyValues = new ColumnValue[keyColumns.Count];
                for (var index = 0; index < keyValues.Length; index++)
                    keyValues[index] = row.Value();
                return (new MatchRecord(text, values), keyValues);
            },
            cancellationToken
        );
    }

    /// <summary>Reads one record.</summary>
    /// <exception cref="KettlefogException">There is no such record.</exception>
    public async Task<MatchRecord> OneAsync(RecordType type, RecordKey key, CancellationToken cancellationToken)
    {
        var record = (await new SnapshotReader(session, map).ReadRecordsAsync(type, [key], cancellationToken))[0];
        return new MatchRecord(key.ToString(), [.. type.Fields.Select(field => record[field.Column].ToText())]);
    }
}
