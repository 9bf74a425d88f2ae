using System.Globalization;
using Kettlefog.Core.Map.Model;

namespace Kettlefog.Core.Merging;

/// <summary>A record of another type that refers to records of a merge, or to which they refer.</summary>
/// <param name="Record">The record.</param>
/// <param name="Holders">The indices of the records of the merge that it is linked with.</param>
public sealed record LinkedRecord(RecordSnapshot Record, IReadOnlySet<int> Holders);

/// <summary>The linked records of a merge by one link, read in one snapshot.</summary>
/// <param name="Link">The link.</param>
/// <param name="Type">The record type of the linked records.</param>
/// <param name="Records">The records, none of them retired.</param>
/// <param name="NonDuplicates">
/// The pairs of them that are marked as not duplicates, by key in text form, the lesser first.
/// </param>
public sealed record LinkedSnapshot(
    LinkedRecords Link,
    RecordType Type,
    IReadOnlyList<LinkedRecord> Records,
    IReadOnlySet<(string A, string B)> NonDuplicates
);

/// <summary>Linked records that would be duplicates of one another.</summary>
/// <param name="Records">The records; two at least.</param>
/// <param name="Because">Why, in words.</param>
public sealed record LinkedGroup(IReadOnlyList<RecordSnapshot> Records, string Because);

/// <summary>A linked merge that is offered with another merge.</summary>
/// <param name="Link">The link by which they were found.</param>
/// <param name="Type">Their record type.</param>
/// <param name="Of">The merge that offers them: its record type and its master.</param>
/// <param name="Records">The records.</param>
/// <param name="Reason">Why they are offered, in words.</param>
/// <param name="Suggestion">The record that is suggested as the master.</param>
/// <param name="Chosen">True if the choices merge some of them.</param>
public sealed record LinkedOffer(
    LinkedRecords Link,
    RecordType Type,
    (string RecordType, string Master) Of,
    IReadOnlyList<PlannedRecord> Records,
    string Reason,
    SuggestedMaster Suggestion,
    bool Chosen
);

/// <summary>Finds out which linked records become duplicates of one another.</summary>
public static class LinkedOffers
{
    /// <summary>
    /// The groups of linked records that agree, each linked with at least two records of the merge: what was
    /// a duplicate within one of them before is not offered. Records marked as not duplicates are never in one group.
    /// </summary>
    /// <param name="snapshot">The linked records.</param>
    public static IReadOnlyList<LinkedGroup> Groups(LinkedSnapshot snapshot)
    {
        ArgumentNullException.ThrowIfNull(snapshot);
        var groups = new List<(List<LinkedRecord> Records, SortedSet<string> Because)>();

        // Only records that share a value can agree: the others are never compared, since they may be thousands.
        var byValue = new Dictionary<string, HashSet<List<LinkedRecord>>>();
        foreach (var record in snapshot.Records.OrderBy(record => record.Record.Key.ToString(), StringComparer.Ordinal))
        {
            var values = ValuesOf(snapshot, record.Record);
            var near = values.SelectMany(value => byValue.GetValueOrDefault(value) ?? []).ToHashSet();
            var places = (near.Count == 0 ? [] : groups.Where(group => near.Contains(group.Records)))
                .Select(group =>
                    (
                        group.Records,
                        group.Because,
                        Says: group
                            .Records.Select(other => Same(snapshot, record.Record, other.Record))
                            .FirstOrDefault(said => said is not null)
                    )
                )
                .Where(group =>
                    group.Says is not null
                    && !group.Records.Exists(other => AreNonDuplicates(snapshot, record.Record, other.Record))
                )
                .ToList();
            if (places.Count == 0)
            {
                groups.Add(([record], []));
                Note(values, groups[^1].Records);
                continue;
            }

            // A record that agrees with two groups joins them, unless that would put non-duplicates in one
            // group.
            var (records, because, says) = places[0];
            records.Add(record);
            because.Add(says!);
            Note(values, records);
            foreach (
                var other in places
                    .Skip(1)
                    .Where(other =>
                        !other.Records.Exists(a => records.Exists(b => AreNonDuplicates(snapshot, a.Record, b.Record)))
                    )
            )
            {
                records.AddRange(other.Records);
                because.UnionWith(other.Because.Append(other.Says!));
                groups.RemoveAll(group => group.Records == other.Records);
                Note(other.Records.SelectMany(each => ValuesOf(snapshot, each.Record)), records);
            }
        }

        void Note(IEnumerable<string> values, List<LinkedRecord> group)
        {
            foreach (var value in values)
            {
                if (!byValue.TryGetValue(value, out var known))
                    byValue[value] = known = [];
                known.Add(group);
            }
        }

        return
        [
            .. groups
                .Where(group =>
                    group.Records.Count > 1 && group.Records.SelectMany(record => record.Holders).Distinct().Count() > 1
                )
                .Select(group => new LinkedGroup(
                    [.. group.Records.Select(record => record.Record)],
                    string.Join("; ", group.Because)
                )),
        ];
    }

    /// <summary>
    /// For each group of fields in which records may agree, a record's values as one text; without groups in which one
    /// is blank.
    /// </summary>
    private static List<string> ValuesOf(LinkedSnapshot snapshot, RecordSnapshot record) =>
        snapshot.Link.Same.Count == 0
            ? [""]
            :
            [
                .. snapshot
                    .Link.Same.Select(
                        (group, place) => (Fields: group.Select(snapshot.Type.RequireField).ToList(), Place: place)
                    )
                    .Where(group =>
                        group.Fields.TrueForAll(field => !snapshot.Type.IsBlank(field, record[field.Column]))
                    )
                    .Select(group =>
                        string.Join(
                            '\u001f',
                            group
                                .Fields.Select(field => NormalisedValue.Said(field.Kind, record[field.Column]))
                                .Prepend(group.Place.ToString(CultureInfo.InvariantCulture))
                        )
                    ),
            ];

    /// <summary>The values in which two records agree, in words; null if they do not.</summary>
    private static string? Same(LinkedSnapshot snapshot, RecordSnapshot a, RecordSnapshot b)
    {
        if (snapshot.Link.Same.Count == 0)
            return "they belong to the merged records";
        foreach (var group in snapshot.Link.Same)
        {
            var fields = group.Select(snapshot.Type.RequireField).ToList();
            if (
                fields.TrueForAll(field =>
                    !snapshot.Type.IsBlank(field, a[field.Column])
                    && !snapshot.Type.IsBlank(field, b[field.Column])
                    && NormalisedValue.Said(field.Kind, a[field.Column])
                        == NormalisedValue.Said(field.Kind, b[field.Column])
                )
            )
                return string.Join(
                    ", ",
                    fields.Select(field => $"same {field.Title.ToLowerInvariant()} {a[field.Column].ToText()!.Trim()}")
                );
        }

        return null;
    }

    private static bool AreNonDuplicates(LinkedSnapshot snapshot, RecordSnapshot a, RecordSnapshot b)
    {
        var (first, second) = (a.Key.ToString(), b.Key.ToString());
        return snapshot.NonDuplicates.Contains(
            string.CompareOrdinal(first, second) <= 0 ? (first, second) : (second, first)
        );
    }
}
