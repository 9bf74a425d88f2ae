using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>What the operator chose for one field.</summary>
public abstract record FieldChoice
{
    private FieldChoice() { }

    /// <summary>The value of one of the records.</summary>
    /// <param name="Key">The record's key.</param>
    public sealed record FromRecord(RecordKey Key) : FieldChoice;

    /// <summary>A value typed in.</summary>
    /// <param name="Text">The text as typed; empty for a blank.</param>
    public sealed record Typed(string Text) : FieldChoice;

    /// <summary>The result of another survivorship rule, such as all texts joined.</summary>
    /// <param name="Rule">The rule.</param>
    public sealed record ByRule(SurvivorshipRule Rule) : FieldChoice;
}

/// <summary>The records to merge and the operator's choices; everything else follows from the map.</summary>
/// <param name="RecordType">The name of the record type.</param>
/// <param name="Master">The key of the record that is kept.</param>
/// <param name="Duplicates">The keys of the others; at least one.</param>
/// <param name="Fields">
/// The operator's choices by field name; a field without a choice follows its survivorship rule.
/// </param>
/// <param name="Rule">
/// The match rule that found the records, whose survivorship rules and preferences apply; null for the map's.
/// </param>
public sealed record MergeChoices(
    string RecordType,
    RecordKey Master,
    IReadOnlyList<RecordKey> Duplicates,
    IReadOnlyDictionary<string, FieldChoice> Fields,
    string? Rule = null
)
{
    /// <summary>The references whose rows stay with the retired records in this merge, by name.</summary>
    public IReadOnlySet<string> Exclude { get; init; } = new HashSet<string>();

    /// <summary>The <c>at_most_one</c> rules whose rows of the duplicates are to be ended, by name.</summary>
    public IReadOnlySet<string> End { get; init; } = new HashSet<string>();

    /// <summary>True if the merge reopens decisions that records of it are not duplicates.</summary>
    public bool Reopen { get; init; }

    /// <summary>True if the plan depends on steps before it: linked merges, or rows that are ended.</summary>
    public bool NeedsTrial => InOrder.Any(merge => merge != this || merge.End.Count > 0);

    /// <summary>
    /// The linked merges that were chosen, to be done in the same transaction. They are done before this
    /// one, last first: a merge is listed after the one that offered it.
    /// </summary>
    public IReadOnlyList<MergeChoices> Linked { get; init; } = [];

    /// <summary>The merges in the order in which they are done; this one last.</summary>
    public IReadOnlyList<MergeChoices> InOrder => [.. Linked.Reverse(), this];

    /// <summary>The record type with the choices of this merge applied.</summary>
    /// <param name="type">The record type of the map.</param>
    /// <exception cref="KettlefogException">
    /// A reference to be excluded does not exist, or may not be excluded.
    /// </exception>
    public RecordType Applied(RecordType type)
    {
        ArgumentNullException.ThrowIfNull(type);
        foreach (
            var name in End.Where(name => type.Blockers.AtMostOne.All(rule => rule.Name != name || rule.End.Count == 0))
        )
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"There is no rule '{name}' whose rows can be ended.",
                type.Blockers.AtMostOne.Where(rule => rule.End.Count > 0).Select(rule => rule.Name).ToList()
                    is { Count: > 0 } names
                    ? $"The rules are: {string.Join(", ", names)}."
                    : "The map must define it, with 'end' under 'at_most_one'."
            );
        }

        foreach (var name in Exclude)
        {
            if (!type.RequireReference(name).MayExclude)
            {
                throw new KettlefogException(
                    ErrorCode.InvalidChoice,
                    $"The reference '{name}' may not be excluded from a merge.",
                    "Let its rows move, or add 'may_exclude: true' to the map."
                );
            }
        }

        return Exclude.Count == 0
            ? type
            : type with
            {
                References =
                [
                    .. type.References.Select(reference =>
                        Exclude.Contains(reference.Name) ? reference with { Policy = ReferencePolicy.Leave } : reference
                    ),
                ],
            };
    }

    /// <summary>All keys, the master's first.</summary>
    public IEnumerable<RecordKey> Keys => Duplicates.Prepend(Master);

    /// <summary>True if other choices are the same.</summary>
    /// <param name="other">The other choices.</param>
    public bool IsSameAs(MergeChoices other)
    {
        ArgumentNullException.ThrowIfNull(other);
        return RecordType == other.RecordType
            && Keys.SequenceEqual(other.Keys)
            && Rule == other.Rule
            && Fields.Count == other.Fields.Count
            && Fields.All(pair => other.Fields.TryGetValue(pair.Key, out var choice) && choice == pair.Value)
            && Exclude.SetEquals(other.Exclude)
            && End.SetEquals(other.End)
            && Reopen == other.Reopen
            && Linked.Count == other.Linked.Count
            && Linked.Zip(other.Linked).All(pair => pair.First.IsSameAs(pair.Second));
    }

    /// <summary>The most records of one merge: nobody could review more, and each costs time.</summary>
    public const int MaxRecords = 1_000;

    /// <summary>Checks the list of records, which needs no database.</summary>
    /// <exception cref="KettlefogException">
    /// There is no duplicate, the master is also a duplicate, or a record is named twice.
    /// </exception>
    public void Check()
    {
        if (Duplicates.Count == 0)
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                "A merge needs a master and at least one duplicate.",
                "Name the keys of two records or more."
            );
        }

        if (Duplicates.Count >= MaxRecords)
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"A merge of {Duplicates.Count + 1} records is too large: at most {MaxRecords} are merged at once.",
                "Merge some of them first, then the rest into the same master."
            );
        }

        if (Duplicates.Contains(Master))
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"The master {Master} is also among the duplicates.",
                "Leave it out of the duplicates."
            );
        }

        if (Duplicates.GroupBy(key => key).FirstOrDefault(group => group.Count() > 1) is { } twice)
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"The record {twice.Key} is named twice among the duplicates.",
                "Name each record once."
            );
        }

        if (Linked.Count == 0)
            return;
        foreach (var linked in Linked)
        {
            if (linked.Linked.Count > 0)
                throw new KettlefogException(
                    ErrorCode.InvalidChoice,
                    "A linked merge has linked merges of its own.",
                    "List all of them with the main merge."
                );
            linked.Check();
        }

        if (
            InOrder
                .SelectMany(merge => merge.Keys.Select(key => (merge.RecordType, Key: key)))
                .GroupBy(record => record)
                .FirstOrDefault(group => group.Count() > 1) is
            { } two
        )
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"The {two.Key.RecordType} {two.Key.Key} is in two merges of the same request.",
                "Name each record in only one of them."
            );
        }
    }
}
