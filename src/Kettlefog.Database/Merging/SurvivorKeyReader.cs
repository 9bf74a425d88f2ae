using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Merging;

/// <summary>
/// Asks the table's keys about the values that survive: a record outside the merge may have what must be unique, or
/// there may be no row that a foreign key asks for. The database would refuse the merge then, in words of its own.
/// </summary>
internal sealed class SurvivorKeyReader(Session session, CheckedMap map)
{
    /// <summary>What blocks the merge; empty if nothing does.</summary>
    /// <param name="plan">The plan, whose surviving values are asked about as far as they change the master.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<IReadOnlyList<Blocker>> BlockersAsync(MergePlan plan, CancellationToken cancellationToken)
    {
        var changed = plan.Fields.Where(field => field.Changes).ToList();
        var blockers = new List<Blocker>();
        if (changed.Count == 0)
            return blockers;
        var table = map.Catalog.Require(plan.Type.Table);
        foreach (var unique in table.UniqueKeys)
        {
            if (changed.Find(field => unique.DependsOn(field.Field.Column)) is not { } field)
                continue;
            foreach (var holder in await HoldersAsync(plan, table, unique, changed, cancellationToken))
                blockers.Add(SurvivorKeys.Taken(field, unique, holder));
        }

        foreach (var key in table.ForeignKeys)
        {
            var field = changed.Find(each => each.ChosenBy == ChosenBy.Typed && IsOf(key, each.Field.Column));
            if (field is not null && !field.Value.IsNull && !await HasTargetAsync(key, field, cancellationToken))
                blockers.Add(SurvivorKeys.WithoutTarget(field, key));
        }

        return blockers;
    }

    private static bool IsOf(ForeignKey key, string column) =>
        key.Columns.Count == 1 && Identifiers.Same(key.Columns[0], column);

    /// <summary>The records outside the merge that have the values which the master would get; one is enough.</summary>
    private Task<List<RecordKey>> HoldersAsync(
        MergePlan plan,
        TableSchema table,
        UniqueKey unique,
        List<PlannedField> changed,
        CancellationToken cancellationToken
    )
    {
        var keyColumns = table.Require(plan.Type.Key);
        Sql After(ColumnSchema column) =>
            changed.Find(field => Identifiers.Same(field.Field.Column, column.Name)) is { } field
                ? Sql.Of($"{session.Dialect.Write(field.Value, column)} AS {new SqlName(column.Name)}")
                : Sql.Of($"m.{new SqlName(column.Name)}");
        // An expression and a filter name columns without a table: each is evaluated where there is only one.
        Sql Term(KeyPart part) =>
            part.Column is { } column ? Sql.Of($"{new SqlName(column)}") : Sql.Literal($"({part.Expression})");
        var terms = unique.Parts.Select(
            (part, place) => Sql.Of($"{Term(part)} AS {new SqlName($"kettlefog_part_{place}")}")
        );
        var filter = unique.Filter is null ? Sql.Of($"1 = 1") : Sql.Literal($"({unique.Filter})");
        var same = unique.Parts.Select(
            (_, place) =>
                Sql.Of($"u.{new SqlName($"kettlefog_part_{place}")} = c.{new SqlName($"kettlefog_part_{place}")}")
        );
        var others = plan.Records.Select(record => Sql.Of($"NOT ({session.Keys.Equal(keyColumns, record.Key, "u")})"));
        return session.QueryAsync(
            Sql.Of(
                $"""
                SELECT {Sql.Join(
                    ", ",
                    plan.Type.Key.Select((column) => session.Dialect.Read(Sql.Of($"u.{new SqlName(column)}")))
                )}
                FROM (SELECT {Sql.Join(
                    ", ",
                    terms.Concat(plan.Type.Key.Select(column => Sql.Of($"{new SqlName(column)}")))
                )} FROM {session.Dialect.Table(table)} WHERE {filter}) u
                JOIN (SELECT {Sql.Join(", ", terms)} FROM (SELECT {Sql.Join(
                    ", ",
                    table.Columns.Select(After)
                )} FROM {session.Dialect.Table(table)} m WHERE {session.Keys.Equal(
                    keyColumns,
                    plan.Master.Key,
                    "m"
                )}) t WHERE {filter}) c ON {Sql.Join(" AND ", same)}
                WHERE {Sql.Join(" AND ", others)} LIMIT 1
                """
            ),
            row => row.Key(plan.Type.Key.Count),
            cancellationToken
        );
    }

    private async Task<bool> HasTargetAsync(ForeignKey key, PlannedField field, CancellationToken cancellationToken)
    {
        if (map.Catalog.Find(key.Target) is not { } target || target.Find(key.TargetColumns[0]) is not { } column)
            return true;
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT 1 FROM {session.Dialect.Table(target)}
                WHERE {new SqlName(column.Name)} = {session.Dialect.Write(field.Value, column)} LIMIT 1
                """
            ),
            row => row.Long(),
            cancellationToken
        );
        return rows.Count > 0;
    }
}
