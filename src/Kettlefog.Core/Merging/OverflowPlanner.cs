using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>
/// Moves values that do not survive in one field to another: a second phone goes to the next free phone field. Values
/// are compared in normal form, so that one number in two spellings is not kept twice.
/// </summary>
internal static class OverflowPlanner
{
    /// <summary>Places the values that do not survive, for all fields that overflow.</summary>
    /// <param name="snapshot">The snapshot.</param>
    /// <param name="fields">The fields as planned without overflow.</param>
    /// <param name="lost">A warning for each value that does not fit anywhere.</param>
    /// <param name="additions">The related rows that take a value each.</param>
    /// <returns>The fields with their slots filled.</returns>
    public static List<PlannedField> Place(
        MergeSnapshot snapshot,
        List<PlannedField> fields,
        out IReadOnlyList<string> lost,
        out IReadOnlyList<PlannedAddition> additions
    )
    {
        var warnings = new List<string>();
        var added = new List<PlannedAddition>();
        foreach (
            var main in snapshot.Type.Fields.Where(field =>
                field.Overflow is { Count: > 0 } || field.OverflowRows is not null
            )
        )
        {
            var slots = (main.Overflow ?? [])
                .Select(name => fields.FindIndex(field => field.Field.Name == name))
                .ToList();
            var places = slots.Prepend(fields.FindIndex(field => field.Field == main)).ToList();

            // The values that are kept in any case: the main value, the operator's choices, the master's own slots, and
            // related rows.
            var kept = snapshot
                .Further.GetValueOrDefault(main.Name, [])
                .Where(value => !snapshot.Type.IsBlank(main, value))
                .Select(value => NormalisedValue.Spelt(main.Kind, value))
                .ToHashSet();
            foreach (var place in places)
            {
                var field = fields[place];
                if (place != places[0] && field.ChosenBy == ChosenBy.Rule)
                    fields[place] = field = snapshot.Type.IsBlank(main, field.Values[0])
                        ? field with
                        {
                            Value = ColumnValue.Null,
                            From = 0,
                        }
                        : field with
                        {
                            Value = field.Values[0],
                            From = 0,
                        };
                if (snapshot.Type.IsBlank(main, field.Value))
                    continue;

                // A slot that repeats an earlier one is free.
                if (
                    !kept.Add(NormalisedValue.Spelt(main.Kind, field.Value))
                    && place != places[0]
                    && field.ChosenBy == ChosenBy.Rule
                )
                    fields[place] = field with { Value = ColumnValue.Null, From = null };
            }

            for (var record = 0; record < snapshot.Records.Count; record++)
            {
                foreach (var place in places)
                {
                    var value = fields[place].Values[record];
                    if (snapshot.Type.IsBlank(main, value) || !kept.Add(NormalisedValue.Spelt(main.Kind, value)))
                        continue;
                    var free = slots.FirstOrDefault(
                        slot =>
                            snapshot.Type.IsBlank(main, fields[slot].Value) && fields[slot].ChosenBy == ChosenBy.Rule,
                        -1
                    );
                    if (free >= 0)
                        fields[free] = fields[free] with
                        {
                            Value = value,
                            From = free == place ? record : null,
                            Overflowed = free == place ? null : (record, fields[place].Field.Column),
                            ChosenBy = ChosenBy.Overflow,
                        };
                    else if (InRow(snapshot, main, value) is { } held)
                        added.Add(new PlannedAddition(main, record, fields[place].Field.Column, held));
                    else
                        warnings.Add(
                            $"{main.Title} '{value}' of {snapshot.Records[record].Key} "
                                + "does not fit in any further field; "
                                + "it is kept only in the merge history."
                        );
                }
            }

            // A slot that remains empty keeps the master's value, even a placeholder.
            foreach (
                var slot in slots.Where(slot =>
                    fields[slot].ChosenBy == ChosenBy.Rule && fields[slot].Value.IsNull && fields[slot].From == 0
                )
            )
                fields[slot] = fields[slot] with { Value = fields[slot].Values[0] };
        }

        lost = warnings;
        additions = added;
        return fields;
    }

    /// <summary>A value as the column of a related row holds it; null if there is none, or it cannot.</summary>
    private static ColumnValue? InRow(MergeSnapshot snapshot, Field main, ColumnValue value)
    {
        if (main.OverflowRows is not { } rows)
            return null;
        var column = snapshot
            .References.First(reference => reference.Reference.Name == rows.Reference)
            .Table.Require([rows.Column])[0];
        var text = value.ToText()!;
        return column.HasRoomFor(text) ? column.TryRead(text) : null;
    }
}
