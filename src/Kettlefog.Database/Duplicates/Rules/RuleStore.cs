using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Own;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Duplicates.Rules;

/// <summary>A version of a rule.</summary>
/// <param name="Name">The rule's name.</param>
/// <param name="Version">Its number, counted from 1; 0 for the one in the map, or the built-in one.</param>
/// <param name="Body">
/// The rule as it was sent, in YAML or JSON, or as written from the map; null if it was removed.
/// </param>
/// <param name="Note">Why, in the author's words.</param>
/// <param name="Actor">Who saved it; empty for the map.</param>
/// <param name="At">When; null for the map.</param>
public sealed record RuleVersion(
    string Name,
    long Version,
    string? Body,
    string Note,
    string Actor,
    DateTimeOffset? At
);

/// <summary>A rule in force.</summary>
/// <param name="Rule">The rule.</param>
/// <param name="Saved">Where it comes from.</param>
public sealed record RuleInForce(MatchRule Rule, RuleVersion Saved);

/// <summary>A saved rule that does not fit its record type any longer, and is left out.</summary>
/// <param name="Saved">The version.</param>
/// <param name="Faults">What is wrong with it, one sentence each.</param>
public sealed record BrokenRule(RuleVersion Saved, IReadOnlyList<string> Faults);

/// <summary>The rules of a record type.</summary>
/// <param name="InForce">Those in force.</param>
/// <param name="Broken">Those that are left out, because the map changed since they were saved.</param>
public sealed record RuleList(IReadOnlyList<RuleInForce> InForce, IReadOnlyList<BrokenRule> Broken);

/// <summary>The rules that were saved in addition to those of the map. All versions are kept.</summary>
internal sealed class RuleStore(Session session)
{
    private readonly Sql _rules = session.Dialect.Own("rule");

    /// <summary>
    /// The rules in force: those of the map, or the built-in one if it has none, then those that were saved. A saved
    /// one replaces the one of its name. One that was removed is left out, but the built-in one applies where no other
    /// does.
    /// </summary>
    public async Task<IReadOnlyList<RuleInForce>> InForceAsync(RecordType type, CancellationToken cancellationToken) =>
        (await ReadAsync(type, cancellationToken)).InForce;

    /// <summary>The rules in force, without who saved them.</summary>
    public async Task<IReadOnlyList<MatchRule>> MatchRulesAsync(RecordType type, CancellationToken cancellationToken) =>
        [.. (await InForceAsync(type, cancellationToken)).Select(each => each.Rule)];

    /// <summary>The rules in force, and the broken ones, which are left out.</summary>
    public async Task<RuleList> ReadAsync(RecordType type, CancellationToken cancellationToken)
    {
        var saved = session.Engine.IsUninitialised
            ? []
            : await session.QueryAsync(
                Sql.Of(
                    $"SELECT name, version, body, note, actor, at FROM {_rules} r WHERE record_type = "
                        + $"{type.Name} AND version = (SELECT MAX(version) FROM {_rules} l WHERE l.record_type = "
                        + $"r.record_type AND l.name = r.name) ORDER BY name"
                ),
                Read,
                cancellationToken
            );
        var inForce = new List<RuleInForce>();
        var broken = new List<BrokenRule>();
        void Add(RuleVersion version)
        {
            try
            {
                inForce.Add(new RuleInForce(MatchRuleReader.Read(version.Name, version.Body!, type), version));
            }
            catch (KettlefogException wrong)
            {
                broken.Add(new BrokenRule(version, wrong.Details.Count > 0 ? wrong.Details : [wrong.Message]));
            }
        }

        IReadOnlyList<MatchRule> given = type.Matching.Rules.Count > 0 ? type.Matching.Rules : [MatchRule.Ready];
        foreach (var rule in given)
        {
            var replaced = saved.FirstOrDefault(version => version.Name == rule.Name);
            if (replaced is null)
                inForce.Add(new RuleInForce(rule, FromMap(rule)));
            else if (replaced.Body is not null)
                Add(replaced);
        }

        foreach (
            var version in saved.Where(version =>
                version.Body is not null && given.All(rule => rule.Name != version.Name)
            )
        )
            Add(version);
        return new RuleList(
            inForce.Count > 0 ? inForce : [new RuleInForce(MatchRule.Ready, FromMap(MatchRule.Ready))],
            broken
        );
    }

    /// <summary>The rule of a name that is in force.</summary>
    /// <exception cref="KettlefogException">There is none.</exception>
    public async Task<RuleInForce> RequireAsync(RecordType type, string name, CancellationToken cancellationToken)
    {
        var rules = await InForceAsync(type, cancellationToken);
        return rules.FirstOrDefault(rule => rule.Rule.Name == name)
            ?? throw new KettlefogException(
                ErrorCode.UnknownRule,
                $"There is no rule '{name}' for {type.Plural.ToLowerInvariant()}.",
                $"The rules are: {string.Join(", ", rules.Select(rule => rule.Rule.Name))}."
            );
    }

    /// <summary>The number of versions of all rules.</summary>
    public Task<long> CountAsync(CancellationToken cancellationToken) =>
        session.QueryLongAsync(Sql.Of($"SELECT COUNT(*) FROM {_rules}"), cancellationToken);

    /// <summary>All versions of a rule, latest first.</summary>
    public Task<List<RuleVersion>> VersionsAsync(RecordType type, string name, CancellationToken cancellationToken) =>
        session.QueryAsync(
            Sql.Of(
                $"SELECT name, version, body, note, actor, at FROM {_rules} WHERE record_type = {type.Name} "
                    + $"AND name = {name} ORDER BY version DESC"
            ),
            Read,
            cancellationToken
        );

    /// <summary>Saves a version.</summary>
    /// <param name="type">The record type.</param>
    /// <param name="name">The rule's name.</param>
    /// <param name="body">The rule; null to remove it.</param>
    /// <param name="note">Why.</param>
    /// <param name="actor">Who.</param>
    /// <param name="at">When.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<RuleVersion> SaveAsync(
        RecordType type,
        string name,
        string? body,
        string note,
        string actor,
        DateTimeOffset at,
        CancellationToken cancellationToken
    )
    {
        var known = await ReadAsync(type, cancellationToken);
        if (
            body is null
            && known.InForce.All(rule => rule.Rule.Name != name)
            && known.Broken.All(rule => rule.Saved.Name != name)
        )
            throw new KettlefogException(
                ErrorCode.UnknownRule,
                $"There is no rule '{name}' for {type.Plural.ToLowerInvariant()}.",
                "List the rules to see their names."
            );
        if (body is null && known is { Broken: [], InForce: [{ Rule: var only }] } && only == MatchRule.Ready)
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"The built-in rule is the only one for {type.Plural.ToLowerInvariant()}.",
                "Save another rule first; without any, there is nothing to find duplicates by."
            );
        var version =
            1
            + await session.QueryLongAsync(
                Sql.Of(
                    $"SELECT COALESCE(MAX(version), 0) FROM {_rules} WHERE record_type = {type.Name} AND name = {name}"
                ),
                cancellationToken
            );
        await session.ExecuteAsync(
            Sql.Of(
                $"INSERT INTO {_rules} (record_type, name, version, body, note, actor, at) VALUES "
                    + $"({type.Name}, {name}, {version}, {body}, {note}, {actor}, {StoredTimestamp.Write(at)})"
            ),
            cancellationToken
        );
        return new RuleVersion(name, version, body, note, actor, at);
    }

    private static RuleVersion FromMap(MatchRule rule) => new(rule.Name, 0, MatchRuleWriter.Write(rule), "", "", null);

    private static RuleVersion Read(RowReader row) =>
        new(row.Text(), row.Long(), row.OptionalText(), row.Text(), row.Text(), StoredTimestamp.Read(row.Text()));
}
