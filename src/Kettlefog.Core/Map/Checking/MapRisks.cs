using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Map.Checking;

/// <summary>Finds risks: what works, but should be known before anything is merged.</summary>
public static class MapRisks
{
    /// <summary>Finds the risks that the catalog shows; those of rights and data are found elsewhere.</summary>
    /// <param name="map">The map, which fits.</param>
    /// <param name="document">The map as read, for its line numbers.</param>
    public static IEnumerable<MapFinding> Of(CheckedMap map, MapDocument document)
    {
        ArgumentNullException.ThrowIfNull(map);
        ArgumentNullException.ThrowIfNull(document);
        return map
            .Map.RecordTypes.SelectMany(type => new TypeRisks(type, map.Catalog, document).All())
            .DistinctBy(finding => (finding.Message, finding.Statement));
    }

    /// <summary>The tables that merges of a type write to, and how.</summary>
    /// <param name="type">The record type.</param>
    public static IReadOnlyDictionary<string, RowChanges> Written(RecordType type)
    {
        ArgumentNullException.ThrowIfNull(type);
        var written = new Dictionary<string, RowChanges>(StringComparer.OrdinalIgnoreCase);
        void Add(string table, RowChanges changes) => written[table] = written.GetValueOrDefault(table) | changes;

        // A reversal inserts what the merge deleted, and deletes what it inserted.
        Add(
            type.Table,
            type.Retirement.Delete ? RowChanges.Insert | RowChanges.Update | RowChanges.Delete : RowChanges.Update
        );
        foreach (var reference in type.References.Where(reference => reference.Policy == ReferencePolicy.Reassign))
            Add(
                reference.Table,
                reference.Collision == CollisionPolicy.Block
                    ? RowChanges.Update
                    : RowChanges.Insert | RowChanges.Update | RowChanges.Delete
            );
        foreach (var dependent in type.References.SelectMany(reference => reference.Dependents))
            Add(dependent.Table, RowChanges.Update);
        foreach (var rows in type.Fields.Select(field => field.OverflowRows).OfType<OverflowRows>())
            Add(type.RequireReference(rows.Reference).Table, RowChanges.Insert | RowChanges.Delete);
        foreach (var rule in type.Blockers.AtMostOne.Where(rule => rule.End.Count > 0))
            Add(type.RequireReference(rule.Reference).Table, RowChanges.Update);
        if (type.Timeline is { } timeline)
            Add(timeline.Table, RowChanges.Insert | RowChanges.Delete);
        return written;
    }

    private sealed class TypeRisks(RecordType type, DatabaseCatalog catalog, MapDocument document)
    {
        private readonly string _path = $"record_types.{type.Name}";

        public IEnumerable<MapFinding> All() =>
            [
                .. Indexes(),
                .. Cascades(),
                .. Triggers(),
                .. ShortColumns(),
                .. HiddenRows(),
                .. OwnReferences(),
                .. Removals(),
            ];

        private MapFinding Risk(string path, string message, string remedy, string? statement = null) =>
            new(FindingSeverity.Warning, document.LineOf($"{_path}.{path}"), message, remedy) { Statement = statement };

        private MapFinding Advice(string path, string message, string remedy) =>
            Risk(path, message, remedy) with
            {
                Severity = FindingSeverity.Advice,
            };

        private IEnumerable<MapFinding> Indexes()
        {
            if (IndexAdvice.OfKey(type, catalog.Require(type.Table)) is { } unique)
                yield return Risk("key", unique.Warning, "Create a unique index.", unique.Statement);
            foreach (var reference in type.References)
            {
                if (IndexAdvice.Of(reference, catalog.Require(reference.Table)) is { } advice)
                    yield return Risk(
                        $"references.{reference.Name}",
                        advice.Warning,
                        "Create the index.",
                        advice.Statement
                    );
            }
        }

        /// <summary>
        /// Rows that a merge may remove, although the database does not declare that they belong to a record.
        /// </summary>
        private IEnumerable<MapFinding> Removals() =>
            type
                .References.Where(reference =>
                    reference is { Policy: ReferencePolicy.Reassign, Collision: not CollisionPolicy.Block }
                    && !catalog
                        .Require(reference.Table)
                        .ForeignKeys.Any(key =>
                            Identifiers.Same(key.Target, type.Table)
                            && key.Columns.All(column => reference.Columns.ContainsIdentifier(column))
                        )
                )
                .Select(reference =>
                    Risk(
                        $"references.{reference.Name}",
                        $"A merge may remove rows of '{reference.Table}' (collision: "
                            + $"{EnumName.Of(reference.Collision)}), "
                            + "although the database does not declare that "
                            + $"{string.Join(", ", reference.Columns)} refers to "
                            + $"'{type.Table}'.",
                        "Make sure that it does; otherwise unrelated rows are removed. 'collision: "
                            + "block' removes nothing."
                    )
                );

        /// <summary>References of the table to itself of which the map does not say what they mean.</summary>
        private IEnumerable<MapFinding> OwnReferences() =>
            type
                .References.Where(reference =>
                    reference is { Hierarchy: null, Policy: ReferencePolicy.Reassign }
                    && Identifiers.Same(reference.Table, type.Table)
                )
                .Select(reference =>
                    Risk(
                        $"references.{reference.Name}",
                        $"'{reference.Name}' refers to records of the same type, and the map does not say whether they "
                            + "form a tree.",
                        "Write 'hierarchy: true' if it names a parent, so that no record becomes its own ancestor, or "
                            + "'hierarchy: false' if a record may refer to itself, as to its last editor."
                    )
                );

        /// <summary>Rows that refer to related rows, and what the database does to them by itself.</summary>
        private IEnumerable<MapFinding> Cascades()
        {
            foreach (
                var reference in type.References.Where(reference =>
                    reference.Policy == ReferencePolicy.Reassign && !Identifiers.Same(reference.Table, type.Table)
                )
            )
            {
                foreach (
                    var (table, key) in catalog.Tables.SelectMany(table =>
                        table
                            .ForeignKeys.Where(key => Identifiers.Same(key.Target, reference.Table))
                            .Select(key => (table, key))
                    )
                )
                {
                    var path = $"references.{reference.Name}";
                    var moves = key.TargetColumns.Any(column => reference.Columns.ContainsIdentifier(column));
                    if (moves && key.OnUpdate == KeyAction.Refuse)
                        yield return Risk(
                            path,
                            $"Rows of '{table.Name}' refer to the key of '{reference.Table}', which changes "
                                + "when its rows are reassigned, and the database does not update them: it refuses a "
                                + "merge that affects any.",
                            "Declare that foreign key ON UPDATE CASCADE."
                        );
                    else if (moves)
                        yield return Advice(
                            path,
                            $"Rows of '{table.Name}' change with those of '{reference.Table}' that are "
                                + "reassigned, by a foreign key of the database.",
                            "No action is needed: the reversal changes them back."
                        );
                    if (reference.Collision != CollisionPolicy.Block && key.OnDelete != KeyAction.Refuse)
                        yield return Advice(
                            path,
                            $"Rows of '{table.Name}' would "
                                + $"{(key.OnDelete == KeyAction.Cascade ? "be deleted with" : "be detached from")} "
                                + $"rows of '{reference.Table}' that are removed in a conflict, by a foreign key "
                                + "of the database.",
                            "No action is needed: a merge first moves them to the row that is kept."
                        );
                }
            }
        }

        private IEnumerable<MapFinding> Triggers()
        {
            foreach (var (name, changes) in Written(type))
            {
                foreach (var trigger in catalog.Require(name).Triggers.Where(trigger => (trigger.On & changes) != 0))
                {
                    var reference = type.References.FirstOrDefault(each => Identifiers.Same(each.Table, name));
                    var path = Identifiers.Same(name, type.Table) ? "table" : $"references.{reference?.Name}";
                    if (trigger.Writes is null)
                        yield return Risk(
                            path,
                            $"The trigger '{trigger.Name}' of '{name}' runs when rows are merged; what it "
                                + "does cannot be determined.",
                            "Check whether it writes to any table: a reversal undoes only what the merge itself wrote."
                        );
                    else if (
                        trigger.Writes.Where(written => !Identifiers.Same(written, name)).ToList() is
                        { Count: > 0 } elsewhere
                    )
                        yield return Risk(
                            path,
                            $"The trigger '{trigger.Name}' of '{name}' runs when rows are merged, and writes "
                                + $"to {string.Join(", ", elsewhere.Select(each => $"'{each}'"))}.",
                            "Make sure that it may run twice, once for the merge and once for its "
                                + "reversal: what the trigger wrote is not undone."
                        );
                    else if (trigger.ChangesItsRow || trigger.Writes.Count > 0)
                        yield return Risk(
                            path,
                            $"The trigger '{trigger.Name}' of '{name}' changes the rows that are merged.",
                            "On a reversal the trigger runs again, so the value it sets is not restored."
                        );
                }
            }
        }

        private IEnumerable<MapFinding> ShortColumns()
        {
            var table = catalog.Require(type.Table);
            foreach (var field in type.Fields)
            {
                var length = table.Find(field.Column)!.MaxLength;
                if (table.Find(field.Column)!.Storage == StorageClass.Blob)
                    yield return Advice(
                        $"fields.{field.Name}",
                        $"'{field.Column}' is binary: its value can be taken from a record, but neither "
                            + "shown nor typed.",
                        "Leave the field out if nobody chooses it: the master's value is then kept, and the column is "
                            + "journaled like all columns."
                    );
                var rule = field.Survivorship ?? type.Survivorship;
                if (length is not null && rule is SurvivorshipRule.Append or SurvivorshipRule.Union)
                    yield return Risk(
                        $"fields.{field.Name}",
                        $"'{field.Column}' holds {length} characters, and combined texts may be longer: such a "
                            + "merge is blocked until a shorter text is typed.",
                        "Make the column longer, or choose another survivorship rule."
                    );
                foreach (var slot in (field.Overflow ?? []).Select(type.RequireField))
                {
                    if (table.Find(slot.Column)!.MaxLength is { } room && (length is null || length > room))
                        yield return Risk(
                            $"fields.{field.Name}",
                            $"'{slot.Column}' holds {room} characters, fewer than '{field.Column}', whose "
                                + "values overflow to it.",
                            "Make the column as long."
                        );
                }

                if (
                    field.OverflowRows is { } rows
                    && catalog.Require(type.RequireReference(rows.Reference).Table).Find(rows.Column)!.MaxLength
                        is { } space
                    && (length is null || length > space)
                )
                    yield return Risk(
                        $"fields.{field.Name}",
                        $"'{rows.Column}' of '{rows.Reference}' holds {space} characters, fewer than "
                            + $"'{field.Column}', whose values overflow to it.",
                        "Make the column as long."
                    );
            }

            if (type.Timeline is not { } timeline)
                yield break;
            foreach (
                var (name, text) in timeline.Values.Where(value =>
                    Timeline.WordsIn(value.Value).Any(word => word is "reason" or "label" or "duplicates")
                )
            )
            {
                if (catalog.Require(timeline.Table).Find(name)!.MaxLength is { } room and < 200)
                    yield return Risk(
                        "timeline",
                        $"'{name}' of '{timeline.Table}' holds {room} characters: '{text}' is cut off if "
                            + "it is longer.",
                        "Name a longer column, or shorten the text."
                    );
            }
        }

        private IEnumerable<MapFinding> HiddenRows()
        {
            foreach (var name in Written(type).Keys.Where(name => catalog.Require(name).HidesRows))
                yield return Risk(
                    "table",
                    $"The database shows the service's user only some rows of '{name}' (row-level security): "
                        + "the others stay with the duplicate.",
                    "Give the user BYPASSRLS, or a policy that shows all rows."
                );
        }
    }
}
