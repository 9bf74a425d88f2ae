using System.Text.Json;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Matching.Rules;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Decisions;
using Kettlefog.Database.Engines;

namespace Kettlefog.Database.Duplicates.Finding;

/// <summary>A finder with the records of a database.</summary>
internal sealed class LoadedFinder : IDisposable
{
    private const int BatchSize = 16_384;
    private const int Seed = 20_260_302;

    private readonly Dictionary<string, int> _numbers = [];

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

    /// <summary>Reads the records of a type.</summary>
    /// <param name="session">Where to read.</param>
    /// <param name="map">The map.</param>
    /// <param name="type">The record type.</param>
    /// <param name="rules">The rules.</param>
    /// <param name="hasOwn">False if the database does not have Kettlefog's tables.</param>
    /// <param name="progress">Is told how many records were read.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public static async Task<LoadedFinder> LoadAsync(
        Session session,
        CheckedMap map,
        RecordType type,
        IReadOnlyList<MatchRule> rules,
        bool hasOwn,
        Action<long> progress,
        CancellationToken cancellationToken
    )
    {
        var loaded = new LoadedFinder(type, rules);
        await foreach (
            var batch in new RecordStream(session, map).BatchesAsync(type, hasOwn, BatchSize, cancellationToken)
        )
        {
            foreach (var record in batch)
            {
                loaded._numbers[record.Key] = loaded.Keys.Count;
                loaded.Keys.Add(record.Key);
                loaded.ContentHashes.Add(record.ContentHash());
            }

            loaded.Finder.Add([.. batch.Select(record => record.Values)]);
            progress(loaded.Keys.Count);
        }

        if (!hasOwn)
            return loaded;
        foreach (var pair in await new NonDuplicateStore(session).ListAsync(type.Name, cancellationToken))
        {
            var (a, b) = (loaded.NumberOf(pair.A), loaded.NumberOf(pair.B));
            if (a >= 0 && b >= 0 && a != b)
                loaded.Finder.AddNonDuplicates(a, b);
        }

        return loaded;
    }

    /// <summary>A digest of everything that scores depend on: records, rules, non-duplicates and decisions.</summary>
    public string Digest(CheckedMap map, IReadOnlyList<NonDuplicatePair> nonDuplicates, int decisions)
    {
        using var digest = new Sha256Digest();
        digest.Add(RulesDigest(map)).Add(decisions);
        foreach (var pair in nonDuplicates)
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
