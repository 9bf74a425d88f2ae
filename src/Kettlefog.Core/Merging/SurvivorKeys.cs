using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>What blocks a merge because of the table's keys, which the database alone can be asked about.</summary>
public static class SurvivorKeys
{
    /// <summary>A record outside the merge has the surviving value, which must be unique.</summary>
    /// <param name="field">The field.</param>
    /// <param name="unique">The unique key.</param>
    /// <param name="holder">The record that has it.</param>
    public static Blocker Taken(PlannedField field, UniqueKey unique, RecordKey holder)
    {
        ArgumentNullException.ThrowIfNull(field);
        ArgumentNullException.ThrowIfNull(unique);
        return new Blocker(
            $"{field.Field.Title} would be {ValueText.Of(field.Value)}, which {holder} has already: "
                + $"{unique.Description} must be unique.",
            $"Choose another {field.Field.Title.ToLowerInvariant()}, or merge {holder} too."
        );
    }

    /// <summary>A foreign key refers to a row that is not there.</summary>
    /// <param name="field">The field.</param>
    /// <param name="key">The foreign key.</param>
    public static Blocker WithoutTarget(PlannedField field, ForeignKey key)
    {
        ArgumentNullException.ThrowIfNull(field);
        ArgumentNullException.ThrowIfNull(key);
        return new Blocker(
            $"{field.Field.Title} would be {ValueText.Of(field.Value)}, but {key.Target} has no such "
                + $"{key.TargetColumns[0]}.",
            $"Choose one that {key.Target} has."
        );
    }
}
