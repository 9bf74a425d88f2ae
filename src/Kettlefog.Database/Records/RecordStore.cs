using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Search;
using Kettlefog.Core.Text;
using Kettlefog.Core.Values;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Statements;

namespace Kettlefog.Database.Records;

/// <summary>A record with its figures and its redirect.</summary>
/// <param name="Record">The record, as read.</param>
/// <param name="Figures">Its figures, by name.</param>
/// <param name="Counts">The number of its related rows, by reference.</param>
/// <param name="Retired">The redirect if it is retired, or null.</param>
public sealed record FoundRecord(
    RecordSnapshot Record,
    IReadOnlyDictionary<string, ColumnValue> Figures,
    IReadOnlyDictionary<string, long> Counts,
    Redirect? Retired
);

/// <summary>Which records to find.</summary>
/// <param name="Text">The search as typed; null finds all.</param>
/// <param name="Sort">
/// A field, key column, <c>created</c> or <c>changed</c>, with <c>-</c> before it to reverse the order; null for
/// the key.
/// </param>
/// <param name="Page">The page, counted from 1.</param>
/// <param name="Size">The number of records on a page.</param>
/// <param name="WithRetired">True to find retired records too.</param>
public sealed record RecordSearch(string? Text, string? Sort, int Page, int Size, bool WithRetired);

/// <summary>Related rows as they are shown.</summary>
/// <param name="Columns">The columns shown, those of the rows' key first.</param>
/// <param name="Rows">The rows.</param>
/// <param name="Total">How many there are in all.</param>
public sealed record RelatedPage(
    IReadOnlyList<string> Columns,
    IReadOnlyList<IReadOnlyList<ColumnValue>> Rows,
    long Total
);

/// <summary>Finds and reads records.</summary>
internal sealed class RecordStore(Session session, CheckedMap map)
{
    /// <summary>The record separator of ASCII, which people do not type into a field.</summary>
    private const string JointText = "\u001e";

    private static readonly Sql Joint = Sql.Literal(JointText);

    private readonly Sql _redirects = session.Dialect.Own("redirect");

    /// <summary>Finds records.</summary>
    public async Task<Page<FoundRecord>> SearchAsync(
        RecordType type,
        RecordSearch search,
        CancellationToken cancellationToken
    )
    {
        var table = map.Catalog.Require(type.Table);
        var where = Where(type, table, search);
        var columns = table.Columns.Select(Read);
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT {Sql.Join(", ", columns)} FROM {session.Dialect.Table(table)} t WHERE {where}
                ORDER BY {Order(type, table, search.Sort)}
                LIMIT {(long)search.Size} OFFSET {(search.Page - 1) * (long)search.Size}
                """
            ),
            row => row.Values(table.Columns.Count),
            cancellationToken
        );
        var records = rows.Select(row => Snapshot(type, table, row)).ToList();

        // A page that is not full is the last one, so the total is known.
        var total =
            rows.Count > 0 && rows.Count < search.Size
                ? ((search.Page - 1L) * search.Size) + rows.Count
                : await session.QueryLongAsync(
                    Sql.Of($"SELECT COUNT(*) FROM {session.Dialect.Table(table)} t WHERE {where}"),
                    cancellationToken
                );
        return new Page<FoundRecord>(await CompleteAsync(type, records, search.WithRetired, cancellationToken), total);
    }

    /// <summary>Reads one record; for a retired record that was deleted, only the redirect is known.</summary>
    /// <exception cref="KettlefogException">There is no such record.</exception>
    public async Task<FoundRecord> ReadAsync(RecordType type, RecordKey key, CancellationToken cancellationToken)
    {
        var records = await new SnapshotReader(session, map).ReadRecordsAsync(type, [key], cancellationToken);
        return (await CompleteAsync(type, records, withRetired: true, cancellationToken)).Single();
    }

    /// <summary>The labels of those of the records that exist, by key in text form.</summary>
    public async Task<IReadOnlyDictionary<string, string>> LabelsAsync(
        RecordType type,
        IReadOnlyList<RecordKey> keys,
        CancellationToken cancellationToken
    )
    {
        var labels = new Dictionary<string, string>();
        var table = map.Catalog.Require(type.Table);
        foreach (var chunk in keys.Chunk(200))
        {
            var rows = await session.QueryAsync(
                Sql.Of(
                    $"""
                    WITH {session.Keys.Table(chunk, table.Require(type.Key))}
                    SELECT {Sql.Join(", ", table.Columns.Select(Read))}
                    FROM keys k {session.Dialect.LookupJoin} {session.Dialect.Table(
                        table
                    )} t WHERE {KeyConditions.OnKeys(type.Key)}
                    """
                ),
                row => Snapshot(type, table, row.Values(table.Columns.Count)),
                cancellationToken
            );
            foreach (var record in rows)
                labels[record.Key.ToString()] = type.LabelOf(column => record[column]);
        }

        return labels;
    }

    /// <summary>
    /// Reads the related rows of a record in which every word of a search is found in some visible column.
    /// </summary>
    public async Task<RelatedPage> ReadRelatedAsync(
        RecordType type,
        Reference reference,
        RecordKey key,
        string? text,
        int page,
        int size,
        CancellationToken cancellationToken
    )
    {
        var table = map.Catalog.Require(reference.Table);
        var pointedAt = ReferenceTarget
            .Of(
                map,
                type,
                reference,
                await new SnapshotReader(session, map).ReadRecordsAsync(type, [key], cancellationToken)
            )
            .Keys[0];
        var shown = reference.Show.Count > 0 ? reference.Show : [.. table.Columns.Select(column => column.Name)];
        var columns = reference.Key.Concat(shown).Distinct(StringComparer.OrdinalIgnoreCase).ToList();
        var wanted = SearchQuery
            .Read(text, columns)
            .Terms.Select(term =>
                Matches(
                    term.Field is null ? columns : [columns.First(column => Identifiers.Same(column, term.Field))],
                    term
                )
            );
        var where = Sql.Join(
            " AND ",
            wanted
                .Prepend(session.Keys.Holds(reference, table, "t"))
                .Prepend(session.Keys.Equal(table.Require(reference.Columns), pointedAt, "t"))
        );
        var total = await session.QueryLongAsync(
            Sql.Of($"SELECT COUNT(*) FROM {session.Dialect.Table(table)} t WHERE {where}"),
            cancellationToken
        );
        var rows = await session.QueryAsync(
            Sql.Of(
                $"""
                SELECT {Sql.Join(", ", columns.Select(Read))} FROM {session.Dialect.Table(table)} t WHERE {where}
                ORDER BY {Sql.Join(
                    ", ",
                    (reference.Key.Count > 0 ? reference.Key : columns).Select(column =>
                        Sql.Of($"t.{new SqlName(column)}")
                    )
                )} LIMIT {(long)size} OFFSET {(page - 1) * (long)size}
                """
            ),
            row => row.Values(columns.Count),
            cancellationToken
        );
        return new RelatedPage(columns, rows, total);
    }

    private async Task<List<FoundRecord>> CompleteAsync(
        RecordType type,
        IReadOnlyList<RecordSnapshot> records,
        bool withRetired,
        CancellationToken cancellationToken
    )
    {
        if (records.Count == 0)
            return [];
        var keys = records.Select(record => record.Key).ToList();
        var reader = new RelatedRowsReader(session, map.Catalog);
        var related = type
            .References.Zip(
                await reader.ReadAsync(
                    type,
                    [.. type.References.Select(reference => ReferenceTarget.Of(map, type, reference, records))],
                    keys,
                    whole: false,
                    cancellationToken
                )
            )
            .ToDictionary(pair => pair.First.Name, pair => pair.Second);
        var redirects = withRetired
            ? (
                await new RedirectStore(session).FindAsync(
                    type.Name,
                    [.. keys.Select(key => key.ToString())],
                    cancellationToken
                )
            ).ToDictionary(redirect => redirect.OldKey)
            : [];
        var found = new List<FoundRecord>();
        for (var index = 0; index < records.Count; index++)
        {
            found.Add(
                new FoundRecord(
                    records[index],
                    type.Figures.ToDictionary(
                        figure => figure.Name,
                        figure => related[figure.Reference][index].Figures[figure.Name]
                    ),
                    type.References.ToDictionary(
                        reference => reference.Name,
                        reference => related[reference.Name][index].Count
                    ),
                    redirects.GetValueOrDefault(keys[index].ToString())
                )
            );
        }

        return found;
    }

    private Sql Where(RecordType type, TableSchema table, RecordSearch search)
    {
        var query = SearchQuery.Read(search.Text, [.. type.Fields.Select(field => field.Name), .. type.Key]);
        var searched = type.Key.Concat(type.Fields.Select(field => field.Column)).ToList();
        var conditions = query.Terms.Select(term =>
            Matches(term.Field is null ? searched : [Column(type, term.Field)], term)
        );
        if (!search.WithRetired)
        {
            var key = session.Keys.Text(table.Require(type.Key));
            conditions = conditions.Append(
                Sql.Of($"{key} NOT IN (SELECT f.old_key FROM {_redirects} f WHERE f.record_type = {type.Name})")
            );
        }

        return Sql.Join(" AND ", conditions.Prepend(Sql.Of($"1 = 1")));
    }

    /// <summary>
    /// True if one of the columns matches. Their concatenation is compared first, which takes one comparison per row
    /// instead of one per column; a wildcard may match across columns there, so the remaining rows are checked exactly.
    /// </summary>
    private Sql Matches(List<string> columns, SearchTerm term)
    {
        var pattern = FoldedText.Of(term.ToLikePattern());
        var each = Sql.Join(" OR ", columns.Select(column => session.Dialect.Matches(Read(column), pattern)));
        if (columns.Count == 1)
            return each;
        var parts = columns.Select(Read).Prepend(Sql.Of($"''")).Append(Sql.Of($"''"));
        var joined = Sql.Of($"concat_ws('{Joint}', {Sql.Join(", ", parts)})");
        var anywhere = session.Dialect.Matches(
            joined,
            term.HasWildcard ? $"%{JointText}{pattern}{JointText}%" : pattern
        );
        return term.HasWildcard || term.Pattern.Contains(JointText, StringComparison.Ordinal)
            ? Sql.Of($"({anywhere} AND ({each}))")
            : anywhere;
    }

    private Sql Order(RecordType type, TableSchema table, string? sort)
    {
        var keys = type.Key.Select(column => Sql.Of($"t.{new SqlName(column)}"));
        if (string.IsNullOrEmpty(sort))
            return Sql.Join(", ", keys);
        var descending = sort[0] == '-';
        var name = descending ? sort[1..] : sort;
        var column = table.Require([SortColumn(type, name)])[0];
        var expression =
            column.Storage == StorageClass.Text ? Folded(column.Name) : Sql.Of($"t.{new SqlName(column.Name)}");

        // Blank values come last in either order: nobody sorts to see them.
        var blankLast = Sql.Of(
            $"CASE WHEN t.{new SqlName(column.Name)} IS NULL OR {Read(column)} = '' THEN 1 ELSE 0 END"
        );
        var ordered = descending ? Sql.Of($"{expression} DESC") : expression;
        return Sql.Join(", ", keys.Prepend(ordered).Prepend(blankLast));
    }

    private static string SortColumn(RecordType type, string name)
    {
        if (name == "created" && type.Created is not null)
            return type.Created;
        if (name == "changed" && type.Changed is not null)
            return type.Changed;
        if (type.Fields.Any(field => field.Name == name) || type.Key.ContainsIdentifier(name))
            return Column(type, name);
        throw new KettlefogException(
            ErrorCode.InvalidQuery,
            $"'{name}' is not a column to sort by.",
            $"Sort by one of: {string.Join(", ", type.Key.Concat(type.Fields.Select(field => field.Name)))}, "
                + "created, changed."
        );
    }

    private static string Column(RecordType type, string name) =>
        type.Fields.FirstOrDefault(field => Identifiers.Same(field.Name, name))?.Column ?? name;

    private Sql Folded(string column) => session.Dialect.Fold(Read(column));

    private Sql Read(ColumnSchema column) => Read(column.Name);

    private Sql Read(string column) => session.Dialect.Read(Sql.Of($"t.{new SqlName(column)}"));

    private static RecordSnapshot Snapshot(RecordType type, TableSchema table, IReadOnlyList<ColumnValue> row)
    {
        var record = new RecordSnapshot(table, new RecordKey(ColumnValue.Null), row);
        return record with { Key = new RecordKey([.. type.Key.Select(column => record[column])]) };
    }
}
