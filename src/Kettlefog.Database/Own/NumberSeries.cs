using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Own;

/// <summary>
/// Gives numbers that are never given again: somebody may have noted one, and must not meet something else under it.
/// </summary>
/// <param name="session">The session, which writes.</param>
internal sealed class NumberSeries(Session session)
{
    /// <summary>The name of the series of clusters.</summary>
    public const string Clusters = "cluster";

    private readonly Sql _series = session.Dialect.Own("number_series");

    /// <summary>Takes some numbers.</summary>
    /// <param name="name">The series.</param>
    /// <param name="count">How many.</param>
    /// <param name="highest">The highest number in use, where the series was not kept yet.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The first of them; the others follow it.</returns>
    public async Task<long> TakeAsync(string name, long count, Sql highest, CancellationToken cancellationToken)
    {
        var known = await session.ExecuteAsync(
            Sql.Of($"UPDATE {_series} SET last = last + {count} WHERE name = {name}"),
            cancellationToken
        );
        if (known == 0)
            await session.ExecuteAsync(
                Sql.Of($"INSERT INTO {_series} (name, last) SELECT {name}, COALESCE(({highest}), 0) + {count}"),
                cancellationToken
            );
        var last = await session.QueryLongAsync(
            Sql.Of($"SELECT last FROM {_series} WHERE name = {name}"),
            cancellationToken
        );
        return last - count + 1;
    }
}
