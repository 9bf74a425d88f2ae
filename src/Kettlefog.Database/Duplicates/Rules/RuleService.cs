using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database.History;
using Kettlefog.Database.Own;

namespace Kettlefog.Database.Duplicates.Rules;

/// <summary>Match rules: those in force, their versions, and trying them.</summary>
public sealed class RuleService
{
    private readonly DatabaseContext _context;
    private readonly Action<string> _saved;

    /// <param name="context">The database.</param>
    /// <param name="saved">Called with the record type whose rules changed.</param>
    internal RuleService(DatabaseContext context, Action<string> saved) => (_context, _saved) = (context, saved);

    /// <summary>The rules of a record type that are in force.</summary>
    public async Task<IReadOnlyList<RuleInForce>> ListAsync(RecordType type, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new RuleStore(session).InForceAsync(type, cancellationToken);
    }

    /// <summary>The rules of a record type: those in force, and the broken ones.</summary>
    public async Task<RuleList> ReadAsync(RecordType type, CancellationToken cancellationToken)
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new RuleStore(session).ReadAsync(type, cancellationToken);
    }

    /// <summary>All saved versions of a rule, latest first.</summary>
    public async Task<IReadOnlyList<RuleVersion>> ListVersionsAsync(
        RecordType type,
        string name,
        CancellationToken cancellationToken
    )
    {
        await using var session = await _context.OpenReadAsync(cancellationToken);
        return await new RuleStore(session).VersionsAsync(type, name, cancellationToken);
    }

    /// <summary>Saves a rule, or removes it.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="name">The rule's name.</param>
    /// <param name="body">The rule in YAML or JSON; null to remove it.</param>
    /// <param name="audit">Who, and why.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">The rule is wrong, or there is none to remove.</exception>
    public async Task<RuleVersion> SaveAsync(
        RecordType type,
        string name,
        string? body,
        AuditContext audit,
        CancellationToken cancellationToken
    )
    {
        ArgumentNullException.ThrowIfNull(audit);
        if (body is not null)
            MatchRuleReader.Read(name, body, type);
        await using var session = await _context.OpenWriteAsync(cancellationToken);
        var saved = await new RuleStore(session).SaveAsync(
            type,
            name,
            body,
            audit.Reason,
            audit.Actor,
            _context.Clock.GetUtcNow(),
            cancellationToken
        );
        await session.CommitAsync(cancellationToken);
        _saved(type.Name);
        return saved;
    }

    /// <summary>Try a rule on today's records without saving it.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="rule">The rule.</param>
    /// <param name="replaces">The name of the rule that it would replace; null if it would apply beside all.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public Task<RuleTrial> TryAsync(
        RecordType type,
        MatchRule rule,
        string? replaces,
        CancellationToken cancellationToken
    ) => new RuleTrials(_context).TryAsync(type, rule, replaces, cancellationToken);

    /// <summary>Measures a rule against pairs whose truth is known.</summary>
    public Task<RuleEvaluation> EvaluateAsync(
        RecordType type,
        MatchRule? rule,
        IReadOnlyList<LabelledPair> pairs,
        CancellationToken cancellationToken
    ) => new RuleTrials(_context).EvaluateAsync(type, rule, pairs, cancellationToken);
}
