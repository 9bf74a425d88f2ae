using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Computes the fingerprint of a plan: over request, map, records and related rows.</summary>
internal static class PlanFingerprint
{
    /// <summary>The fingerprint of everything that a plan is computed from.</summary>
    public static Fingerprint Of(MergeChoices choices, MergeSnapshot snapshot, List<PlannedRecord> records)
    {
        var builder = new Fingerprint.Builder(digest => AddChoices(digest, choices))
            .Part("The record map was changed.", digest => digest.Add(snapshot.Map.Fingerprint))
            .Part("The match rule was changed.", digest =>
            {
                foreach (
                    var (field, rule) in (
                        snapshot.Rule?.Survivorship ?? new Dictionary<string, SurvivorshipRule>()
                    ).OrderBy(pair => pair.Key, StringComparer.Ordinal)
                )
                    digest.Add(field).Add(EnumName.Of(rule));
            })
            .Part(string.Join(' ', ["The tables of the database were changed.", .. snapshot.CatalogChanges]), digest =>
                digest.Add(snapshot.CatalogVersion)
            );
        for (var index = 0; index < records.Count; index++)
        {
            var row = snapshot.Records[index].Row;
            builder.Part(ChangedRecord(snapshot.Type, records[index]), digest =>
            {
                foreach (var value in row)
                    digest.Add(value);
            });
        }

        foreach (var reference in snapshot.References)
        {
            var total = reference.Related.Sum(related => related.Count);
            builder.Part(
                $"{reference.Reference.Title}: a related row was added, changed or removed (there are {total} now).",
                digest =>
                {
                    foreach (var related in reference.Related)
                        digest.Add(related.Count).Add(related.Digest);
                    foreach (
                        var (key, parent) in (reference.Parents ?? new Dictionary<RecordKey, RecordKey?>()).OrderBy(
                            pair => pair.Key.ToString(),
                            StringComparer.Ordinal
                        )
                    )
                        digest.Add(key).Add(parent ?? new RecordKey(ColumnValue.Null));
                }
            );
        }

        builder.Part("Rows that only one record may have were added, changed or removed.", digest =>
        {
            foreach (var count in snapshot.Active.SelectMany(active => active.Counts))
                digest.Add(count);
            foreach (var ended in snapshot.Ended)
                digest.Add(ended.Rule.Name).Add(ended.Key);
        });
        builder.Part("Records were marked as not duplicates, or such a decision was reopened.", digest =>
        {
            foreach (var marked in snapshot.NonDuplicates)
                digest.Add(marked.A).Add(marked.B).Add(marked.Number);
        });
        return builder.Build();
    }

    private static string ChangedRecord(RecordType type, PlannedRecord record) =>
        $"{type.Title} {record.Key} ({record.Label}) was changed"
        + (record.Changed.IsBlank ? "." : $"; it was last changed at {record.Changed}.");

    private static void AddChoices(Sha256Digest digest, MergeChoices choices)
    {
        digest.Add("merge").Add(choices.RecordType).Add(choices.Duplicates.Count);
        foreach (var key in choices.Keys)
            digest.Add(key);
        foreach (var (name, choice) in choices.Fields.OrderBy(pair => pair.Key, StringComparer.Ordinal))
        {
            digest.Add(name);
            if (choice is FieldChoice.FromRecord(var key))
                digest.Add("from").Add(key);
            else if (choice is FieldChoice.Typed(var text))
                digest.Add("typed").Add(text);
            else if (choice is FieldChoice.ByRule(var rule))
                digest.Add("by rule").Add(EnumName.Of(rule));
        }

        if (choices.Rule is not null)
            digest.Add("rule").Add(choices.Rule);
        foreach (var name in choices.Exclude.Order(StringComparer.Ordinal))
            digest.Add("exclude").Add(name);
        foreach (var name in choices.End.Order(StringComparer.Ordinal))
            digest.Add("end").Add(name);
        if (choices.Reopen)
            digest.Add("reopen");
    }
}
