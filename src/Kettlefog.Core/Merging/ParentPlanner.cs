using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>
/// The master's place in its own hierarchy after the merge. A master that was below a duplicate would become its own
/// ancestor when the duplicate's children move to it: it takes the place of the highest of the merged records.
/// </summary>
internal static class ParentPlanner
{
    /// <summary>Plans the master's parent by each reference of the record type to itself.</summary>
    /// <param name="choices">What the operator chose.</param>
    /// <param name="snapshot">The snapshot.</param>
    /// <param name="fields">The fields as planned; the one that holds the parent takes the value planned here.</param>
    /// <param name="blockers">Receives what blocks the merge.</param>
    public static IReadOnlyList<PlannedParent> Plan(
        MergeChoices choices,
        MergeSnapshot snapshot,
        List<PlannedField> fields,
        List<Blocker> blockers
    )
    {
        var parents = new List<PlannedParent>();
        foreach (
            var reference in snapshot.References.Where(each =>
                each.Parents is not null && each.Reference.Policy == ReferencePolicy.Reassign
            )
        )
        {
            var parentOf = reference.Parents!;
            var merged = snapshot.Records.Select(record => record.Key).ToHashSet();
            var master = snapshot.Records[0].Key;
            var before = parentOf.GetValueOrDefault(master);
            var after = AboveAll(master, merged, parentOf);
            var place =
                reference.Reference.Columns.Count == 1
                    ? fields.FindIndex(field => Identifiers.Same(field.Field.Column, reference.Reference.Columns[0]))
                    : -1;
            if (place >= 0)
            {
                var field = fields[place];
                var chosen = field.Value.IsNull ? null : new RecordKey(field.Value);
                if (chosen is null || !LeadsTo(chosen, merged, parentOf))
                {
                    after = chosen;
                }
                else if (choices.Fields.ContainsKey(field.Field.Name))
                {
                    blockers.Add(
                        new Blocker(
                            $"{field.Field.Title} {chosen} would put the master below itself.",
                            $"Choose another {field.Field.Title.ToLowerInvariant()}."
                        )
                    );
                    continue;
                }
                else
                {
                    fields[place] = field with { Value = after?.Parts[0] ?? ColumnValue.Null, From = null };
                }
            }

            if (!Equals(before, after))
                parents.Add(new PlannedParent(reference.Reference, before, after));
        }

        return parents;
    }

    /// <summary>The parent of the highest merged record, upwards from the master.</summary>
    private static RecordKey? AboveAll(
        RecordKey master,
        HashSet<RecordKey> merged,
        IReadOnlyDictionary<RecordKey, RecordKey?> parentOf
    )
    {
        var highest = master;
        var seen = new HashSet<RecordKey> { master };
        for (
            var above = parentOf.GetValueOrDefault(master);
            above is not null && seen.Add(above);
            above = parentOf.GetValueOrDefault(above)
        )
        {
            if (merged.Contains(above))
                highest = above;
        }

        var parent = parentOf.GetValueOrDefault(highest);
        return parent is not null && merged.Contains(parent) ? null : parent;
    }

    private static bool LeadsTo(
        RecordKey from,
        HashSet<RecordKey> merged,
        IReadOnlyDictionary<RecordKey, RecordKey?> parentOf
    )
    {
        var seen = new HashSet<RecordKey>();
        for (var at = from; at is not null && seen.Add(at); at = parentOf.GetValueOrDefault(at))
        {
            if (merged.Contains(at))
                return true;
        }

        return false;
    }
}
