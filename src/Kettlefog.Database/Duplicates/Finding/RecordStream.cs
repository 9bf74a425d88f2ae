using System.IO.Hashing;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
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
    /// <summary>Reads all of them, or those with some keys.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="hasRedirects">False if the database does not have Kettlefog's tables.</param>
    /// <param name="keys">The keys in text form; null for all.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public IAsyncEnumerable<MatchRecord> ReadAsync(
        RecordType type,
        bool hasRedirects,
        IReadOnlyList<string>? keys,
        CancellationToken cancellationToken
    )
    {
        var table = map.Catalog.Require(type.Table);
        var key = session.Keys.Text(table.Require(type.Key));
        var columns = type.Fields.Select(field => session.Dialect.Read(Sql.Of($"t.{new SqlName(field.Column)}")));
        var conditions = new List<Sql> { Sql.Of($"1 = 1") };
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

        if (keys is not null)
            conditions.Add(Sql.Of($"{key} IN ({Sql.Join(", ", keys.Select(each => Sql.Of($"{each}")))})"));
        var count = type.Fields.Count;
        return session.StreamAsync(
            Sql.Of(
                $"SELECT {key}, {Sql.Join(", ", columns)} FROM {session.Dialect.Table(table)} t WHERE "
                    + $"{Sql.Join(" AND ", conditions)} ORDER BY "
                    + $"{Sql.Join(", ", type.Key.Select(column => Sql.Of($"t.{new SqlName(column)}")))}"
            ),
            row =>
            {
                var text = row.Text();
                var values = new string?[count];
                for (var index = 0; index < count; index++)
                    values[index] = row.Value().ToText();
                return new MatchRecord(text, values);
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

    /// <summary>Reads records in batches, the next while the caller works on the last.</summary>
    public async IAsyncEnumerable<List<MatchRecord>> BatchesAsync(
        RecordType type,
        bool hasRedirects,
        int size,
        [EnumeratorCancellation] CancellationToken cancellationToken
    )
    {
        await using var records = ReadAsync(type, hasRedirects, null, cancellationToken)
            .GetAsyncEnumerator(cancellationToken);
        var next = Task.Run(() => TakeAsync(records, size), cancellationToken);
        while (await next is { Count: > 0 } batch)
        {
            next = Task.Run(() => TakeAsync(records, size), cancellationToken);
            yield return batch;
        }
    }

    private static async Task<List<MatchRecord>> TakeAsync(IAsyncEnumerator<MatchRecord> records, int size)
    {
        var batch = new List<MatchRecord>(size);
        while (batch.Count < size && await records.MoveNextAsync())
            batch.Add(records.Current);
        return batch;
    }
}
