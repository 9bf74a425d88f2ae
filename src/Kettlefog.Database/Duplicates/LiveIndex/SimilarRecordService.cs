using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching;
using Kettlefog.Core.Values;
using Kettlefog.Database.Duplicates.Finding;
using Kettlefog.Database.Own;

namespace Kettlefog.Database.Duplicates.LiveIndex;

/// <summary>Finds similar records from the live index, and explains pairs.</summary>
public sealed class SimilarRecordService
{
    private readonly DatabaseContext _context;
    private readonly LiveIndexes _live;

    internal SimilarRecordService(DatabaseContext context, LiveIndexes live) => (_context, _live) = (context, live);

    /// <summary>The records that are likely the same entity as a record, from the live index.</summary>
    public async Task<IReadOnlyList<SimilarDuplicate>> FindToRecordAsync(
        RecordType type,
        RecordKey key,
        int limit,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(key);
        await _live.WaitForAsync(type, cancellationToken);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        var record = await new RecordStream(session, session.Map).OneAsync(type, key, cancellationToken);
        return await _live.FindAsync(session, type, record.Values, key.ToString(), limit, cancellationToken);
    }

    /// <summary>The records that are likely the same entity as one with given values.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="values">Values by the name of their field.</param>
    /// <param name="limit">Largest number of results.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">There is no such field.</exception>
    public async Task<IReadOnlyList<SimilarDuplicate>> FindToValuesAsync(
        RecordType type,
        IReadOnlyDictionary<string, string?> values,
        int limit,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(values);
        foreach (var name in values.Keys)
            type.RequireField(name);
        await _live.WaitForAsync(type, cancellationToken);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await _live.FindAsync(
            session,
            type,
            [.. type.Fields.Select(field => values.GetValueOrDefault(field.Name))],
            null,
            limit,
            cancellationToken
        );
    }

    /// <summary>Explains the score of every pair of some records; records that no longer exist are left out.</summary>
    public async Task<IReadOnlyList<(string A, string B, PairExplanation Explanation)>> ExplainAllAsync(
        RecordType type,
        IReadOnlyList<string> keys,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        await _live.WaitForAsync(type, cancellationToken);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        var records = new List<MatchRecord>();
        await foreach (var record in new RecordStream(session, session.Map).ReadAsync(type, keys, cancellationToken))
            records.Add(record);
        return await _live.ExplainAllAsync(session, type, records, cancellationToken);
    }

    /// <summary>Explain the score of two records.</summary>
    public async Task<PairExplanation> ExplainAsync(
        RecordType type,
        RecordKey a,
        RecordKey b,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(type);
        ArgumentNullException.ThrowIfNull(a);
        ArgumentNullException.ThrowIfNull(b);
        await _live.WaitForAsync(type, cancellationToken);
        await using var session = await _context.OpenReadAsync(cancellationToken);
        var stream = new RecordStream(session, session.Map);
        var (left, right) = (
            await stream.OneAsync(type, a, cancellationToken),
            await stream.OneAsync(type, b, cancellationToken)
        );
        return (await _live.ExplainAllAsync(session, type, [left, right], cancellationToken))[0].Explanation;
    }
}
