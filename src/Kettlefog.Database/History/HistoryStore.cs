using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Naming;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.History;

/// <summary>Writes and reads the history.</summary>
internal sealed class HistoryStore(Session session)
{
    private readonly Sql _history = session.Dialect.Own("history");
    private readonly Sql _nonDuplicates = session.Dialect.Own("non_duplicate");
    private readonly Sql _records = session.Dialect.Own("history_record");

    /// <summary>The number and the previous hash of the next entry.</summary>
    public async Task<(long Number, string PreviousHash)> NextAsync(CancellationToken cancellationToken)
    {
        var last = await session.QueryAsync(
            Sql.Of($"SELECT number, hash FROM {_history} ORDER BY number DESC LIMIT 1"),
            row => (Number: row.Long(), Hash: row.Text()),
            cancellationToken
        );
        return last.Count == 0 ? (1, HistoryEntry.NoHash) : (last[0].Number + 1, last[0].Hash);
    }

    /// <summary>Appends an entry.</summary>
    /// <param name="entry">The entry.</param>
    /// <param name="journal">What it journaled; see <see cref="JournalIdentifier"/>.</param>
    /// <param name="duplicates">The keys of its records, without the master.</param>
    public void Append(HistoryEntry entry, long journal, IEnumerable<string> duplicates)
    {
        session.Enqueue(
            Sql.Of(
                $"""
                INSERT INTO {_history} (number, kind, record_type, master, at, actor, reason, rule, approved_by,
                  reverses,
                                        details, journal_digest, previous_hash, hash, journal)
                VALUES ({entry.Number}, {EnumName.Of(
                    entry.Kind
                )}, {entry.RecordType}, {entry.Master}, {StoredTimestamp.Write(entry.At)},
                        {entry.Actor}, {entry.Reason}, {entry.Rule}, {entry.ApprovedBy}, {entry.Reverses},
                        {entry.Details}, {entry.JournalDigest}, {entry.PreviousHash}, {entry.ComputeHash()}, {journal})
                """
            )
        );
        var records = duplicates.Select(key => (Key: key, IsMaster: 0L)).Prepend((Key: entry.Master, IsMaster: 1L));
        session.Enqueue(
            Sql.Of(
                $"""
                INSERT INTO {_records} (record_type, record_key, number, is_master)
                VALUES {Sql.Join(
                    ", ",
                    records.Select(record =>
                        Sql.Of($"({entry.RecordType}, {record.Key}, {entry.Number}, {record.IsMaster})")
                    )
                )}
                """
            )
        );
    }

    /// <summary>True if the history has this very entry.</summary>
    public async Task<bool> HasAsync(HistoryEntry entry, CancellationToken cancellationToken) =>
        await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM {_history} WHERE number = {entry.Number} AND hash = {entry.ComputeHash()}"),
            cancellationToken
        ) > 0;

    /// <summary>One entry.</summary>
    /// <exception cref="KettlefogException">There is none of that number.</exception>
    public async Task<RecordedEntry> RequireAsync(long number, CancellationToken cancellationToken) =>
        (
            await session.QueryAsync(Select(Sql.Of($"WHERE h.number = {number}")), Read, cancellationToken)
        ).SingleOrDefault()
        ?? throw new KettlefogException(
            ErrorCode.UnknownEntry,
            $"The history has no entry {number}.",
            "List the history to see the numbers there are."
        );

    /// <summary>A page of entries, latest first, with how many there are in all.</summary>
    public async Task<(IReadOnlyList<RecordedEntry> Entries, long Total)> ListAsync(
        HistoryFilter filter,
        int page,
        int size,
        CancellationToken cancellationToken
    )
    {
        var where = Where(filter);
        var total = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM {_history} h {where}"),
            cancellationToken
        );
        var entries = await session.QueryAsync(
            Select(
                Sql.Of(
                    $"WHERE h.number IN (SELECT h.number FROM {_history} h {where} ORDER BY h.number DESC LIMIT "
                        + $"{(long)size} OFFSET {(page - 1) * (long)size}) ORDER BY h.number DESC"
                )
            ),
            Read,
            cancellationToken
        );
        return (entries, total);
    }

    /// <summary>Entries one by one, latest first.</summary>
    public IAsyncEnumerable<RecordedEntry> StreamAsync(HistoryFilter filter, CancellationToken cancellationToken) =>
        session.StreamAsync(Select(Sql.Of($"{Where(filter)} ORDER BY h.number DESC")), Read, cancellationToken);

    private Sql Where(HistoryFilter filter)
    {
        var conditions = new List<Sql> { Sql.Of($"1 = 1") };
        if (filter.RecordType is not null)
            conditions.Add(Sql.Of($"h.record_type = {filter.RecordType}"));
        if (filter.Record is not null)
            conditions.Add(
                Sql.Of(
                    $"h.number IN (SELECT r.number FROM {_records} r WHERE r.record_type = h.record_type AND "
                        + $"r.record_key = {filter.Record})"
                )
            );
        if (filter.Actor is not null)
            conditions.Add(Sql.Of($"h.actor = {filter.Actor}"));
        if (filter.Rule is not null)
            conditions.Add(Sql.Of($"h.rule = {filter.Rule}"));
        if (filter.Kind is { } kind)
            conditions.Add(Sql.Of($"h.kind = {EnumName.Of(kind)}"));
        if (filter.Before is { } before)
            conditions.Add(Sql.Of($"h.number < {before}"));
        if (filter.Since is { } since)
            conditions.Add(Sql.Of($"h.at >= {StoredTimestamp.Write(since)}"));
        if (filter.Until is { } until)
            conditions.Add(Sql.Of($"h.at < {StoredTimestamp.Write(until)}"));
        return Sql.Of($"WHERE {Sql.Join(" AND ", conditions)}");
    }

    /// <summary>How many entries of each kind everybody made, day by day (UTC).</summary>
    /// <param name="since">The first day.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<List<DayCount>> CountAsync(DateOnly since, CancellationToken cancellationToken) =>
        session.QueryAsync(
            Sql.Of(
                $"SELECT d.day, d.record_type, d.kind, d.actor, COUNT(*) FROM (SELECT substr(at, 1, 10) AS day, "
                    + $"record_type, kind, actor FROM {_history} WHERE at >= "
                    + $"{since.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture)}) d GROUP BY d.day, "
                    + $"d.record_type, d.kind, d.actor ORDER BY d.day"
            ),
            row => new DayCount(
                DateOnly.ParseExact(row.Text(), "yyyy-MM-dd", CultureInfo.InvariantCulture),
                row.Text(),
                EnumName.TryRead<EntryKind>(row.Text(), out var kind)
                    ? kind
                    : throw new InvalidOperationException("The history has an entry of unknown kind."),
                row.Text(),
                row.Long()
            ),
            cancellationToken
        );

    /// <summary>The entries that follow a number, by number.</summary>
    /// <param name="number">The number; 0 for the first entries.</param>
    /// <param name="count">The most to read.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<List<RecordedEntry>> AfterAsync(long number, int count, CancellationToken cancellationToken) =>
        session.QueryAsync(
            Select(Sql.Of($"WHERE h.number > {number} ORDER BY h.number LIMIT {(long)count}")),
            Read,
            cancellationToken
        );

    /// <summary>The numbers and hashes of the entries that follow a number, by number.</summary>
    /// <param name="number">The number; 0 for the first entries.</param>
    /// <param name="count">The most to read.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<List<(long Number, string Hash)>> HashesAsync(
        long number,
        int count,
        CancellationToken cancellationToken
    ) =>
        session.QueryAsync(
            Sql.Of($"SELECT number, hash FROM {_history} WHERE number > {number} ORDER BY number LIMIT {(long)count}"),
            row => (row.Long(), row.Text()),
            cancellationToken
        );

    /// <summary>
    /// The later merges that depend directly on a merge: its master was merged into another record, or the same
    /// column of the master was written again.
    /// </summary>
    public Task<List<long>> DependentMergesAsync(HistoryEntry merge, CancellationToken cancellationToken)
    {
        var steps = session.Dialect.Own("journal_step");
        var rows = session.Dialect.Own("journal_row");
        var cells = session.Dialect.Own("journal_cell");
        var column = new SqlName("column");
        var sameKey = Sql.Join(
            " AND ",
            KeyConditions
                .JournalColumns(KeyConditions.MaxColumns)
                .Select(key =>
                    session.Dialect.NullSafeEqual(Sql.Of($"lr.{new SqlName(key)}"), Sql.Of($"r.{new SqlName(key)}"))
                )
        );
        return session.QueryAsync(
            Sql.Of(
                $"""
                SELECT h.number FROM {_records} hr JOIN {_history} h ON h.number = hr.number
                WHERE hr.record_type = {merge.RecordType} AND hr.record_key = {merge.Master} AND hr.number >
                  {merge.Number}
                  AND h.kind = {EnumName.Of(EntryKind.Merge)}
                  AND NOT EXISTS (SELECT 1 FROM {_history} back WHERE back.reverses = h.number)
                  AND (hr.is_master = 0 OR EXISTS (
                    SELECT 1 FROM {steps} s
                    JOIN {rows} r ON r.journal = s.journal AND r.step = s.step
                    JOIN {cells} c ON c.journal = s.journal AND c.step = s.step
                    JOIN {steps} ls ON ls.journal = h.journal AND ls.table_name = s.table_name AND ls.operation =
                      s.operation
                    JOIN {rows} lr ON lr.journal = ls.journal AND lr.step = ls.step AND {sameKey}
                    JOIN {cells} lc ON lc.journal = ls.journal AND lc.step = ls.step AND lc.{column} = c.{column}
                    WHERE s.journal = (SELECT own.journal FROM {_history} own WHERE own.number = {merge.Number})
                      AND s.operation = {EnumName.Of(JournalOperation.Update)}))
                """
            ),
            row => row.Long(),
            cancellationToken
        );
    }

    /// <summary>
    /// The duplicates that were taken out of a merge, by key in text form, with the entry that did it.
    /// </summary>
    public async Task<IReadOnlyDictionary<string, long>> ReadPartialReversalsAsync(
        long merge,
        CancellationToken cancellationToken
    ) =>
        (
            await session.QueryAsync(
                Sql.Of(
                    $"SELECT record_key, number FROM {session.Dialect.Own("partial_reversal")} WHERE merge = {merge}"
                ),
                row => (Key: row.Text(), Number: row.Long()),
                cancellationToken
            )
        ).ToDictionary(row => row.Key, row => row.Number);

    /// <summary>Notes that an entry took one duplicate out of a merge.</summary>
    public Task AddPartialReversalAsync(long merge, string key, long number, CancellationToken cancellationToken) =>
        session.ExecuteAsync(
            Sql.Of(
                $"INSERT INTO {session.Dialect.Own("partial_reversal")} (merge, record_key, number) VALUES "
                    + $"({merge}, {key}, {number})"
            ),
            cancellationToken
        );

    /// <summary>A point in time as the history stores it: to the microsecond.</summary>
    public static DateTimeOffset Truncate(DateTimeOffset moment) =>
        new(moment.UtcTicks - (moment.UtcTicks % TimeSpan.TicksPerMicrosecond), TimeSpan.Zero);

    private Sql Select(Sql rest) =>
        Sql.Of(
            $"""
            SELECT h.number, h.kind, h.record_type, h.master, h.at, h.actor, h.reason, h.rule, h.approved_by,
              h.reverses,
                   h.details, h.journal_digest, h.previous_hash, h.hash,
                   (SELECT back.number FROM {_history} back WHERE back.reverses = h.number),
                   (SELECT COUNT(*) FROM {_nonDuplicates} n WHERE n.number = h.number), h.journal
            FROM {_history} h {rest}
            """
        );

    private static RecordedEntry Read(RowReader row)
    {
        var entry = new HistoryEntry(
            row.Long(),
            EnumName.TryRead<EntryKind>(row.Text(), out var kind)
                ? kind
                : throw new InvalidOperationException("The history has an entry of unknown kind."),
            row.Text(),
            row.Text(),
            StoredTimestamp.Read(row.Text()),
            row.Text(),
            row.Text(),
            row.Text(),
            row.OptionalText(),
            row.OptionalLong(),
            row.Text(),
            row.Text(),
            row.Text()
        );
        var (hash, reversedBy, markedPairs) = (row.Text(), row.OptionalLong(), row.Long());
        var isInEffect = kind switch
        {
            EntryKind.Merge => reversedBy is null,
            EntryKind.NonDuplicates => markedPairs > 0,
            _ => true,
        };
        return new RecordedEntry(entry, hash, reversedBy, isInEffect) { Journal = row.Long() };
    }
}
