using Kettlefog.Core.Map.Model;

namespace Kettlefog.Core.Merging;

/// <summary>Amounts of money that are combined must share a currency, and keep it.</summary>
internal sealed class CurrencyCheck : IBlockerCheck
{
    /// <inheritdoc/>
    public IEnumerable<Blocker> Check(BlockerContext context)
    {
        var (snapshot, records, fields, _) = context;
        var type = snapshot.Type;
        // Where the currency must agree, records that differ in it are blocked already.
        foreach (
            var amount in fields.Where(field =>
                field.Field.Currency is { } name
                && !type.Blockers.MustAgree.Contains(name)
                && field.ChosenBy != ChosenBy.Typed
                && !type.IsBlank(field.Value)
            )
        )
        {
            var currency = fields.First(field => field.Field.Name == amount.Field.Currency);
            string? CurrencyOf(int record) =>
                type.IsBlank(currency.Values[record]) ? null : currency.Values[record].ToText();
            var filled = Enumerable
                .Range(0, records.Count)
                .Where(record => !type.IsBlank(amount.Values[record]))
                .ToList();
            var title = amount.Field.Title;
            if (
                amount.ChosenBy == ChosenBy.Rule
                && amount.Rule is SurvivorshipRule.Total or SurvivorshipRule.Largest or SurvivorshipRule.Smallest
                && filled.Select(CurrencyOf).OfType<string>().Distinct(StringComparer.OrdinalIgnoreCase).Count() > 1
            )
            {
                var amounts = filled.Select(record =>
                    $"{records[record].Key} has {amount.Values[record]} {CurrencyOf(record)}".TrimEnd()
                );
                yield return new Blocker(
                    $"{title} cannot be {(amount.Rule == SurvivorshipRule.Total ? "added up" : "compared")}: "
                        + $"{string.Join(", ", amounts)}.",
                    $"Choose or type the {title.ToLowerInvariant()} yourself, in the currency of the result."
                );
                continue;
            }

            if (
                amount.From is { } from
                && CurrencyOf(from) is { } own
                && currency.Value.ToText() is { } stays
                && !type.IsBlank(currency.Value)
                && !string.Equals(own, stays, StringComparison.OrdinalIgnoreCase)
            )
            {
                yield return new Blocker(
                    $"{title} would be {amount.Value} of {records[from].Key}, which is in {own}, but the "
                        + $"{currency.Field.Title.ToLowerInvariant()} of the result is {stays}.",
                    $"Take both from the same record, or type the {title.ToLowerInvariant()} in {stays}."
                );
            }
        }
    }
}
