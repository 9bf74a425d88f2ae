using Kettlefog.Core.Values;

namespace Kettlefog.Database.Duplicates.Clusters;

/// <summary>The related rows of records and their amounts, by which clusters are ordered.</summary>
internal sealed class ClusterWeights
{
    private readonly Dictionary<string, (long Rows, decimal Amount)> _ofRecords = [];

    /// <summary>The related rows of a record, and the sum of their amounts.</summary>
    /// <param name="key">The key of the record, in text form.</param>
    public (long Rows, decimal Amount) this[string key] => _ofRecords.GetValueOrDefault(key);

    /// <summary>Adds related rows of a record.</summary>
    public void Add(string key, long rows, decimal amount) => _ofRecords[key] = Added(this[key], (rows, amount));

    /// <summary>The sum of two weights; an amount counts whatever its sign, and stops at the largest.</summary>
    public static (long Rows, decimal Amount) Added((long Rows, decimal Amount) one, (long Rows, decimal Amount) two) =>
        (
            one.Rows + two.Rows,
            new ExactSum(one.Amount, null).Plus(new ExactSum(Math.Abs(two.Amount), null)).Total ?? decimal.MaxValue
        );
}
