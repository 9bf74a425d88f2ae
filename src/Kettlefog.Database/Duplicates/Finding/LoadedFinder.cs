using System.Runtime.CompilerServices;
using System.Text.Json;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Rules;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Finding;

/// <summary>A finder with the records of a database.</summary>
internal sealed class LoadedFinder : IDisposable
{
    private const int BatchSize = 16_384;
    private const int Seed = 20_260_302;

    /// <summary>How many records are read at once where each part has to sort all of them.</summary>
    private const long UnorderedPartSize = 1_000_000;

    private readonly Dictionary<string, int> _numbers = [];
    private IReadOnlyList<NonDuplicatePair> _nonDuplicates = [];

    private LoadedFinder(RecordType type, IReadOnlyList<MatchRule> rules)
    {
        Type = type;
        Rules = rules;
        Finder = new DuplicateFinder(
            type,
            rules,
            new FinderOptions(Seed, type.Matching.Country, type.Matching.Partition, type.Matching.Nicknames)
        );
    }

    public RecordType Type { get; }

    public IReadOnlyList<MatchRule> Rules { get; }

    public DuplicateFinder Finder { get; }

    /// <summary>The keys of the records, by number.</summary>
    public List<string> Keys { get; } = [];

    /// <summary>The digests of the records' values, by number.</summary>
    public List<long> ContentHashes { get; } = [];

    /// <summary>The number of a record, or -1.</summary>
    public int NumberOf(string key) => _numbers.GetValueOrDefault(key, -1);

    /// <summary>The decisions that weights are learned from.</summary>
    public IReadOnlyList<Decision> Decisions { get; private set; } = [];

    /// <summary>For each of them the number of its history entry.</summary>
    public IReadOnlyList<long> DecisionNumbers { get; private set; } = [];

    /// <summary>
    /// Reads the records of a type. Where readers keep writers waiting, they are read in parts, each in a session of
    /// its own, so that records are not all of one moment: what changes between two parts is found by whoever reads
    /// the record again, as what changes after reading is.
    /// </summary>
    /// <param name="openAsync">Opens a session to read in.</param>
    /// <param name="type">The record type.</param>
    /// <param name="readRulesAsync">Reads the rules, in the first session.</param>
    /// <param name="hasOwn">False if the database does not have Kettlefog's tables.</param>
    /// <param name="progress">Receives the number of records read, and of those to read.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static async Task<LoadedFinder> LoadAsync(
        Func<CancellationToken, Task<Session>> openAsync,
        RecordType type,
        Func<Session, Task<IReadOnlyList<MatchRule>>> readRulesAsync,
        bool hasOwn,
        Action<long, long> progress,
        CancellationToken cancellationToken
    )
    {
        IReadOnlyList<MatchRule> rules;
        long total;
        long? partSize;
        await using (var session = await openAsync(cancellationToken))
        {
            session.ExpectLongStatements();
            var table = session.Map.Catalog.Require(type.Table);
            rules = await readRulesAsync(session);
            total = await session.QueryLongAsync(
                Sql.Of($"SELECT COUNT(*) FROM {session.Dialect.Table(table)}"),
                cancellationToken
            );
            partSize =
                !session.Engine.ReadersBlockWriters ? null
                : table.HasIndexOn(type.Key) ? BatchSize
                : UnorderedPartSize;
        }

        var loaded = new LoadedFinder(type, rules);
        try
        {
            await foreach (var batch in loaded.BatchesAsync(openAsync, hasOwn, partSize, cancellationToken))
            {
                loaded.Add(batch);
                progress(loaded.Keys.Count, Math.Max(total, loaded.Keys.Count));
            }

            if (hasOwn)
                await loaded.ReadDecisionsAsync(openAsync, cancellationToken);
            return loaded;
        }
        catch
        {
            loaded.Dispose();
            throw;
        }
    }

    private void Add(List<MatchRecord> batch)
    {
        foreach (var record in batch)
        {
            _numbers[record.Key] = Keys.Count;
            Keys.Add(record.Key);
            ContentHashes.Add(record.ContentHash());
        }

        Finder.Add([.. batch.Select(record => record.Values)]);
    }

    private async Task ReadDecisionsAsync(
        Func<CancellationToken, Task<Session>> openAsync,
        CancellationToken cancellationToken
    )
    {
        await using var session = await openAsync(cancellationToken);
        await ReadNonDuplicatesAsync(session, cancellationToken);
        var decided = await new NonDuplicateStore(session).DecisionsAsync(Type, cancellationToken);
        Decisions = [.. decided.Select(each => each.Decision)];
        DecisionNumbers = [.. decided.Select(each => each.Number)];
    }

    /// <summary>Reads the non-duplicates, or those that were marked since.</summary>
    public async Task ReadNonDuplicatesAsync(Session session, CancellationToken cancellationToken)
    {
        _nonDuplicates = await new NonDuplicateStore(session).ListAsync(Type.Name, cancellationToken);
        foreach (var pair in _nonDuplicates)
        {
            var (a, b) = (NumberOf(pair.A), NumberOf(pair.B));
            if (a >= 0 && b >= 0 && a != b)
                Finder.AddNonDuplicates(a, b);
        }
    }

    /// <summary>Reads the records in batches, the next while the caller works on the last.</summary>
    private async IAsyncEnumerable<List<MatchRecord>> BatchesAsync(
        Func<CancellationToken, Task<Session>> openAsync,
        bool hasOwn,
        long? partSize,
        [EnumeratorCancellation] CancellationToken cancellationToken
    )
    {
        await using var batches = PartsAsync(openAsync, hasOwn, partSize, cancellationToken)
            .GetAsyncEnumerator(cancellationToken);
        async Task<List<MatchRecord>?> NextAsync() => await batches.MoveNextAsync() ? batches.Current : null;
        var next = Task.Run(NextAsync, cancellationToken);
        try
        {
            while (await next is { } batch)
            {
                next = Task.Run(NextAsync, cancellationToken);
                yield return batch;
            }
        }
        finally
        {
            // Reading must have ended before its session is closed.
            await ((Task)next).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    /// <summary>Reads the records, no session being open when the last batch of a part is returned.</summary>
    private async IAsyncEnumerable<List<MatchRecord>> PartsAsync(
        Func<CancellationToken, Task<Session>> openAsync,
        bool hasOwn,
        long? partSize,
        [EnumeratorCancellation] CancellationToken cancellationToken
    )
    {
        ColumnValue[]? last = null;
        string? lastKey = null;
        for (var limit = partSize; ; )
        {
            var batch = new List<MatchRecord>();
            var (read, news) = (0L, 0L);
            await using (var session = await openAsync(cancellationToken))
            {
                session.ExpectLongStatements();
                var records = new RecordStream(session, session.Map);
                await foreach (var (record, key) in records.ReadFromAsync(Type, hasOwn, last, limit, cancellationToken))
                {
                    (last, read) = (key, read + 1);

                    // A part begins where the last one ended: rows of one key may lie on both sides.
                    if (record.Key == lastKey)
                        continue;
                    if (batch.Count == BatchSize)
                    {
                        yield return batch;
                        batch = [];
                    }

                    (lastKey, news) = (record.Key, news + 1);
                    batch.Add(record);
                }
            }

            if (batch.Count > 0)
                yield return batch;
            if (limit is null || read < limit)
                yield break;
            if (news == 0)
                limit *= 2;
        }
    }

    /// <summary>A digest of everything that scores depend on: records, rules, non-duplicates and decisions.</summary>
    public string Digest(CheckedMap map)
    {
        using var digest = new Sha256Digest();
        digest.Add(RulesDigest(map)).Add(Decisions.Count);
        foreach (var pair in _nonDuplicates)
            digest.Add(pair.A).Add(pair.B);
        for (var number = 0; number < Keys.Count; number++)
            digest.Add(Keys[number]).Add(ContentHashes[number]);
        return Convert.ToHexStringLower(digest.Finish());
    }

    /// <summary>A digest of the map and the rules.</summary>
    public string RulesDigest(CheckedMap map)
    {
        using var digest = new Sha256Digest();
        digest.Add(map.Map.Fingerprint);
        foreach (var rule in Rules)
            digest.Add(JsonSerializer.Serialize(rule));
        return Convert.ToHexStringLower(digest.Finish());
    }

    /// <summary>Adds, replaces or removes a record.</summary>
    public void Update(string key, string?[]? values)
    {
        if (_numbers.Remove(key, out var old))
            Finder.Remove(old);
        if (values is null)
            return;

        // The key first: another thread may find the number at once and look it up.
        Keys.Add(key);
        _numbers[key] = Finder.AddFresh(values);
    }

    public void Dispose() => Finder.Dispose();
}
