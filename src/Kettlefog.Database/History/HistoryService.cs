using System.Runtime.CompilerServices;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Database.Journal;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.History;

/// <summary>Reads the history, and verifies that it was not altered.</summary>
public sealed class HistoryService
{
    private const int EntriesPerSession = 50;

    private readonly DatabaseContext _context;

    internal HistoryService(DatabaseContext context) => _context = context;

    /// <summary>One entry of the history.</summary>
    /// <exception cref="KettlefogException">There is none of that number.</exception>
    public async Task<RecordedEntry> ReadAsync(long number, CancellationToken cancellationToken)
    {
        await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
        return await new HistoryStore(session).RequireAsync(number, cancellationToken);
    }

    /// <summary>A page of the history, latest first.</summary>
    public async Task<Page<RecordedEntry>> ListAsync(
        HistoryFilter filter,
        int page,
        int size,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(filter);
        await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
        var (entries, total) = await new HistoryStore(session).ListAsync(filter, page, size, cancellationToken);
        return new Page<RecordedEntry>(entries, total);
    }

    /// <summary>Entries of the history one by one, latest first, however many there are.</summary>
    public async IAsyncEnumerable<RecordedEntry> StreamAsync(
        HistoryFilter filter,
        [EnumeratorCancellation] CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(filter);
        await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
        await foreach (var entry in new HistoryStore(session).StreamAsync(filter, cancellationToken))
            yield return entry;
    }

    /// <summary>How many entries of each kind there are, day by day (UTC).</summary>
    /// <param name="since">The first day.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<DayCount>> CountAsync(DateOnly since, CancellationToken cancellationToken)
    {
        await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
        return await new HistoryStore(session).CountAsync(since, cancellationToken);
    }

    /// <summary>Checks the hash chain of the whole history, and the journal against it.</summary>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<ChainCheck> VerifyAsync(CancellationToken cancellationToken) => VerifyAsync(null, cancellationToken);

    /// <summary>Checks the hash chain of the history, and the journal against it.</summary>
    /// <param name="after">
    /// The entry up to which it was verified before, to check only what follows; null to check everything.
    /// </param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The history has no such entry.</exception>
    public async Task<ChainCheck> VerifyAsync(HistoryPosition? after, CancellationToken cancellationToken)
    {
        var chain = new ChainVerifier(after?.Number ?? 0, after?.Hash ?? HistoryEntry.NoHash);

        // Entries do not change, so each part can have a session of its own: one that took minutes would keep other
        // programs from writing.
        while (true)
        {
            await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
            var history = new HistoryStore(session);
            if (after is not null && chain.Entries == 0)
                chain.EnsureStartsAt((await history.RequireAsync(after.Number, cancellationToken)).Hash);
            var part = await history.AfterAsync(chain.Last, EntriesPerSession, cancellationToken);
            if (part.Count == 0)
                return chain.Result;
            var journal = new JournalDigest(session);
            foreach (var recorded in part)
            {
                var digest = await journal.ComputeAsync(recorded.Journal, cancellationToken);
                if (digest != recorded.Entry.JournalDigest)
                    digest = await journal.ComputeEarlyAsync(recorded.Journal, cancellationToken);
                chain.Add(new ChainedEntry(recorded.Entry, recorded.Hash), digest);
            }
        }
    }
}
