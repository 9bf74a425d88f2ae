using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>Searches records, and reads them with their related rows and redirects.</summary>
public sealed class RecordService
{
    private readonly DatabaseContext _context;

    internal RecordService(DatabaseContext context) => _context = context;

    /// <summary>Reads a key of a record type from its text form.</summary>
    /// <exception cref="KettlefogException">The text is not such a key.</exception>
    public RecordKey ReadKey(RecordType type, string text)
    {
        ArgumentNullException.ThrowIfNull(type);
        return RecordKeyParser.Parse(text, _context.Map.Catalog.Require(type.Table).Require(type.Key));
    }

    /// <summary>Finds records.</summary>
    public async Task<Page<FoundRecord>> SearchAsync(
        RecordType type,
        RecordSearch search,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new RecordStore(session, session.Map).SearchAsync(type, search, cancellationToken);
    }

    /// <summary>Reads one record.</summary>
    public async Task<FoundRecord> ReadAsync(RecordType type, RecordKey key, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new RecordStore(session, session.Map).ReadAsync(type, key, cancellationToken);
    }

    /// <summary>The labels of those of the records that exist, by key in text form.</summary>
    public async Task<IReadOnlyDictionary<string, string>> ReadLabelsAsync(
        RecordType type,
        IReadOnlyList<string> keys,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new RecordStore(session, session.Map).LabelsAsync(
            type,
            [.. keys.Select(key => ReadKey(type, key))],
            cancellationToken
        );
    }

    /// <summary>Reads the values that a field may take, or usually takes.</summary>
    public async Task<FieldChoices> ReadChoicesAsync(RecordType type, Field field, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new FieldChoiceReader(session).ReadAsync(type, field, cancellationToken);
    }

    /// <summary>Reads the related rows of a record by one reference.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="reference">The reference.</param>
    /// <param name="key">The record.</param>
    /// <param name="text">A search as typed; null finds all.</param>
    /// <param name="page">The page, counted from 1.</param>
    /// <param name="size">The number of rows on a page.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<RelatedPage> ReadRelatedAsync(
        RecordType type,
        Reference reference,
        RecordKey key,
        string? text,
        int page,
        int size,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new RecordStore(session, session.Map).ReadRelatedAsync(
            type,
            reference,
            key,
            text,
            page,
            size,
            cancellationToken
        );
    }

    /// <summary>The redirect of a retired key, or null if it is not retired.</summary>
    public async Task<Redirect?> FindRedirectAsync(string recordType, string key, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new RedirectStore(session).FindAsync(recordType, key, cancellationToken);
    }

    /// <summary>The retired keys that redirect to a record.</summary>
    public async Task<IReadOnlyList<Redirect>> FindRedirectsToAsync(
        string recordType,
        string key,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new RedirectStore(session).ListToAsync(recordType, key, cancellationToken);
    }
}
