using System.Collections.Concurrent;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Records;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.LiveIndex;

/// <summary>
/// The records of each type in memory, ready to find similar records. An index is built when it is first
/// used, and updated before each answer if the map names a column with the time of change; otherwise it is
/// rebuilt when it is older than a few minutes. It remembers the values that it is asked about, and is rebuilt before
/// they take more memory than its own records.
/// </summary>
internal sealed class LiveIndexes(DatabaseContext context) : IDisposable
{
    private static readonly TimeSpan Oldest = TimeSpan.FromMinutes(5);

    /// <summary>How many characters may be asked about until an index is rebuilt: for a record, and at least.</summary>
    private const long AskedPerRecord = 100;
    private const long MinAsked = 4_000_000;

    /// <summary>More rows that were changed "in the future" are not looked beyond.</summary>
    private const int MaxFutureRows = 200;

    private readonly ConcurrentDictionary<string, Lazy<Task<LiveIndex>>> _indexes = new();

    /// <summary>Drops an index, because rules or decisions changed.</summary>
    public void Forget(string recordType) => _indexes.TryRemove(recordType, out _);

    /// <summary>Drops all indexes, because the tables changed.</summary>
    public void ForgetAll() => _indexes.Clear();

    /// <summary>
    /// Waits until the index of a type is built; called before a session is opened, which would be held meantime.
    /// </summary>
    public async Task WaitForAsync(RecordType type, CancellationToken cancellationToken)
    {
        var made = Made(type);
        var index = await BuiltAsync(type, made, cancellationToken);
        if (!await IsOutdatedAsync(index, cancellationToken))
            return;
        Forget(type, made);
        await BuiltAsync(type, Made(type), cancellationToken);
    }

    private async Task<LiveIndex> BuiltAsync(
        RecordType type,
        Lazy<Task<LiveIndex>> made,
        CancellationToken cancellationToken
    )
    {
        try
        {
            return await made.Value.WaitAsync(cancellationToken);
        }
        catch when (made.Value.IsFaulted)
        {
            Forget(type, made);
            throw;
        }
    }

    private void Forget(RecordType type, Lazy<Task<LiveIndex>> made) =>
        _indexes.TryRemove(new KeyValuePair<string, Lazy<Task<LiveIndex>>>(type.Name, made));

    private async Task<bool> IsOutdatedAsync(LiveIndex index, CancellationToken cancellationToken)
    {
        if (index.Asked > Math.Max(MinAsked, AskedPerRecord * index.Loaded.Keys.Count))
            return true;
        if (index.Loaded.Type.Changed is null && context.Clock.GetUtcNow() - index.MadeAt > Oldest)
            return true;

        // Another instance of the service may have saved a rule.
        await using var session = await context.Engine.OpenReadAsync(cancellationToken);
        return await new RuleStore(session).CountAsync(cancellationToken) > index.RuleVersions;
    }

    private Lazy<Task<LiveIndex>> Made(RecordType type) =>
        _indexes.GetOrAdd(type.Name, _ => new Lazy<Task<LiveIndex>>(() => MakeAsync(type)));

    /// <summary>Finds similar records.</summary>
    public async Task<IReadOnlyList<SimilarDuplicate>> FindAsync(
        Session session,
        RecordType type,
        IReadOnlyList<string?> values,
        string? self,
        int limit,
        CancellationToken cancellationToken
    )
    {
        var index = await ReadyAsync(session, type, cancellationToken);
        index.Ask(values);
        var nonDuplicates = self is null
            ? []
            : (await new NonDuplicateStore(session).ListAsync(type.Name, cancellationToken, self))
                .Select(pair => pair.A == self ? pair.B : pair.A)
                .ToHashSet();
        var found = index
            .Loaded.Finder.FindSimilar(values, limit + 1 + nonDuplicates.Count, DuplicateFinder.Floor)
            .Select(each => index.Loaded.Keys[each.Number])
            .Where(key => key != self && !nonDuplicates.Contains(key))
            .Take(limit)
            .ToList();

        // The records found are scored with their current values.
        var stream = new RecordStream(session, session.Map);
        var similar = new List<SimilarDuplicate>();
        if (found.Count == 0)
            return similar;
        var now = new Dictionary<string, MatchRecord>();
        await foreach (var record in stream.ReadAsync(type, found, cancellationToken))
            now[record.Key] = record;
        var schema = session.Map.Catalog.Require(type.Table).Require(type.Key);
        var keys = found.Where(now.ContainsKey).ToList();
        if (keys.Count == 0)
            return similar;
        var snapshots = await new SnapshotReader(session, session.Map).ReadRecordsAsync(
            type,
            [.. keys.Select(key => RecordKeyParser.Parse(key, schema))],
            cancellationToken
        );
        foreach (var (key, snapshot) in keys.Zip(snapshots))
        {
            var explanation = self is null
                ? index.Loaded.Finder.ExplainAsked(values, now[key].Values)
                : index.Loaded.Finder.Explain(values, now[key].Values);
            if (explanation.Score >= DuplicateFinder.Floor || explanation.Proposed)
                similar.Add(new SimilarDuplicate(key, MergePlanner.Describe(type, snapshot).Label, explanation));
        }

        return
        [
            .. similar
                .OrderByDescending(each => each.Explanation.Score)
                .ThenBy(each => each.Key, StringComparer.Ordinal),
        ];
    }

    /// <summary>Explains the score of every pair of some records.</summary>
    public async Task<IReadOnlyList<(string A, string B, PairExplanation Explanation)>> ExplainAllAsync(
        Session session,
        RecordType type,
        IReadOnlyList<MatchRecord> records,
        CancellationToken cancellationToken
    )
    {
        var index = await ReadyAsync(session, type, cancellationToken);
        var nonDuplicates = (await new NonDuplicateStore(session).ListAsync(type.Name, cancellationToken)).ToLookup(
            pair => NonDuplicateStore.Ordered(pair.A, pair.B),
            pair => pair.Number
        );
        foreach (var record in records)
            index.Ask(record.Values);
        var explained = new List<(string, string, PairExplanation)>();
        for (var i = 0; i < records.Count; i++)
        {
            for (var j = i + 1; j < records.Count; j++)
            {
                var (a, b) = (records[i], records[j]);
                var explanation = index.Loaded.Finder.Explain(a.Values, b.Values);
                foreach (var number in nonDuplicates[NonDuplicateStore.Ordered(a.Key, b.Key)].Take(1))
                    explanation = explanation with
                    {
                        Proposed = false,
                        Notes =
                        [
                            .. explanation.Notes,
                            $"They were marked as not duplicates (history entry {number}), so no rule proposes them.",
                        ],
                    };
                explained.Add((a.Key, b.Key, explanation));
            }
        }

        return explained;
    }

    public void Dispose() => _indexes.Clear();

    private async Task<LiveIndex> ReadyAsync(Session session, RecordType type, CancellationToken cancellationToken)
    {
        var index = await BuiltAsync(type, Made(type), cancellationToken);
        if (type.Changed is not null)
            await RefreshAsync(session, index, cancellationToken);
        return index;
    }

    private async Task<LiveIndex> MakeAsync(RecordType type)
    {
        var index = await ReadAsync(type, CancellationToken.None);
        index.Loaded.Finder.Prepare(index.Loaded.Decisions, live: true, CancellationToken.None);
        return index;
    }

    /// <summary>Reads the records; learning from them takes its time, and needs no session.</summary>
    private async Task<LiveIndex> ReadAsync(RecordType type, CancellationToken cancellationToken)
    {
        var (lastKey, latest, ruleVersions) = (ColumnValue.Null, ColumnValue.Null, 0L);
        var loaded = await LoadedFinder.LoadAsync(
            context.OpenReadAsync,
            type,
            async session =>
            {
                // Before the records, so that what changes while they are read is read again.
                lastKey = await LastKeyAsync(session, type, cancellationToken);
                if (type.Changed is not null)
                    latest = await LatestAsync(session, type, cancellationToken);
                ruleVersions = await new RuleStore(session).CountAsync(cancellationToken);
                return await new RuleStore(session).MatchRulesAsync(type, cancellationToken);
            },
            hasOwn: true,
            (_, _) => { },
            cancellationToken
        );
        return new LiveIndex(loaded, context.Clock.GetUtcNow(), latest, ruleVersions, lastKey);
    }

    /// <summary>Reads the changes since the index was last updated.</summary>
    private async Task RefreshAsync(Session session, LiveIndex index, CancellationToken cancellationToken)
    {
        var type = index.Loaded.Type;
        var latest = await LatestAsync(session, type, cancellationToken);
        var last = await LastKeyAsync(session, type, cancellationToken);
        if (latest.IsNull || (latest == index.Latest && last == index.LastKey))
            return;
        await index.Refreshing.WaitAsync(cancellationToken);
        try
        {
            var table = session.Map.Catalog.Require(type.Table);
            var since = session.Dialect.Write(index.Latest, table.Require([type.Changed!])[0]);
            var keys = await session.QueryAsync(
                Sql.Of(
                    $"SELECT {session.Keys.Text(table.Require(type.Key))} FROM {session.Dialect.Table(table)} "
                        + $"t WHERE t.{new SqlName(type.Changed!)} >= {since}{NewKeys(session, type, index.LastKey)}"
                ),
                row => row.Text(),
                cancellationToken
            );
            foreach (var chunk in keys.Chunk(500))
            {
                var now = new Dictionary<string, MatchRecord>();
                await foreach (
                    var record in new RecordStream(session, session.Map).ReadAsync(type, chunk, cancellationToken)
                )
                    now[record.Key] = record;
                foreach (var key in chunk)
                    index.Loaded.Update(key, now.GetValueOrDefault(key)?.Values);
            }

            (index.Latest, index.LastKey) = (latest, last);
        }
        finally
        {
            index.Refreshing.Release();
        }
    }

    /// <summary>The highest key of a table, where it is one whole number; otherwise NULL.</summary>
    private static async Task<ColumnValue> LastKeyAsync(
        Session session,
        RecordType type,
        CancellationToken cancellationToken
    )
    {
        var table = session.Map.Catalog.Require(type.Table);
        if (type.Key.Count != 1 || table.Require(type.Key)[0].Storage != StorageClass.Integer)
            return ColumnValue.Null;
        return (
            await session.QueryAsync(
                Sql.Of(
                    $"SELECT {session.Dialect.Read(Sql.Of($"MAX(t.{new SqlName(type.Key[0])})"))} FROM "
                        + $"{session.Dialect.Table(table)} t"
                ),
                row => row.Value(),
                cancellationToken
            )
        ).Single();
    }

    private static Sql NewKeys(Session session, RecordType type, ColumnValue after) =>
        after.IsNull
            ? Sql.Empty
            : Sql.Of(
                $" OR t.{new SqlName(type.Key[0])} > "
                    + $"{session.Dialect.Write(after, session.Map.Catalog.Require(type.Table).Require(type.Key)[0])}"
            );

    /// <summary>
    /// The latest time of change that is not in the future: a row that says it was changed in 2999 would hide all
    /// changes until then. Rows of the future are read again with every other change.
    /// </summary>
    private async Task<ColumnValue> LatestAsync(Session session, RecordType type, CancellationToken cancellationToken)
    {
        var changed = Sql.Of($"t.{new SqlName(type.Changed!)}");
        var table = session.Dialect.Table(session.Map.Catalog.Require(type.Table));
        var tomorrow = context.Clock.GetUtcNow().AddDays(1);
        bool IsPast(ColumnValue value) =>
            value.ToText() is not { } text || !TimestampText.TryRead(text, out var moment) || moment <= tomorrow;
        var highest = (
            await session.QueryAsync(
                Sql.Of($"SELECT {session.Dialect.Read(Sql.Of($"MAX({changed})"))} FROM {table} t"),
                row => row.Value(),
                cancellationToken
            )
        ).Single();
        if (IsPast(highest))
            return highest;
        var latest = await session.QueryAsync(
            Sql.Of(
                $"SELECT {session.Dialect.Read(changed)} FROM {table} t WHERE {changed} IS NOT NULL "
                    + $"ORDER BY {changed} DESC LIMIT {(long)MaxFutureRows}"
            ),
            row => row.Value(),
            cancellationToken
        );
        return latest.Find(IsPast) is { IsNull: false } past ? past : latest[^1];
    }

    private sealed class LiveIndex(
        LoadedFinder loaded,
        DateTimeOffset madeAt,
        ColumnValue latest,
        long ruleVersions,
        ColumnValue lastKey
    )
    {
        private long _asked;

        /// <summary>How many characters it was asked about.</summary>
        public long Asked => Interlocked.Read(ref _asked);

        /// <summary>Counts values that are asked about.</summary>
        public void Ask(IReadOnlyList<string?> values) =>
            Interlocked.Add(ref _asked, values.Sum(value => (long)(value?.Length ?? 0)));

        /// <summary>The number of versions of rules when it was built.</summary>
        public long RuleVersions => ruleVersions;

        public LoadedFinder Loaded { get; } = loaded;

        public DateTimeOffset MadeAt { get; } = madeAt;

        public ColumnValue Latest { get; set; } = latest;

        /// <summary>
        /// The highest key, where keys are whole numbers: rows may be added with an old time of change.
        /// </summary>
        public ColumnValue LastKey { get; set; } = lastKey;

        public SemaphoreSlim Refreshing { get; } = new(1, 1);
    }
}
