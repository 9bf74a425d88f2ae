using Kettlefog.Core.History;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;

namespace Kettlefog.Database.Records;

/// <summary>A reference, with the values by which its columns refer to each of some records.</summary>
/// <param name="Reference">The reference.</param>
/// <param name="Table">The table of the related rows.</param>
/// <param name="Keys">One key for each record; NULL where a record has no value to refer to.</param>
/// <param name="IsRecordKey">True if those are the records' own keys, in the type of the record's table.</param>
internal sealed record ReferenceTarget(
    Reference Reference,
    TableSchema Table,
    IReadOnlyList<RecordKey> Keys,
    bool IsRecordKey
)
{
    /// <summary>The referring columns.</summary>
    public IReadOnlyList<ColumnSchema> Columns => Table.Require(Reference.Columns);

    /// <summary>The target of a reference to records that were read.</summary>
    public static ReferenceTarget Of(
        CheckedMap map,
        RecordType type,
        Reference reference,
        IReadOnlyList<RecordSnapshot> records
    )
    {
        var table = map.Catalog.Require(reference.Table);
        return Of(
            map,
            type,
            reference,
            [.. records.Select(record => reference.KeyOf(type, table, column => record[column]))]
        );
    }

    /// <summary>The target of a reference to the records of an earlier merge.</summary>
    public static ReferenceTarget Of(CheckedMap map, RecordType type, Reference reference, MergeDetails details)
    {
        var columns = map.Catalog.Require(reference.Table).Require(reference.Columns);
        var nothing = new RecordKey([.. columns.Select(_ => ColumnValue.Null)]);
        return Of(
            map,
            type,
            reference,
            [
                .. details
                    .PointedAt(reference.Name)
                    .Select(text => text is null ? nothing : RecordKeyParser.Parse(text, columns)),
            ]
        );
    }

    /// <summary>The target of a reference, from known column values.</summary>
    public static ReferenceTarget Of(
        CheckedMap map,
        RecordType type,
        Reference reference,
        IReadOnlyList<RecordKey> pointedAt
    )
    {
        var table = map.Catalog.Require(reference.Table);
        var target = map.Catalog.Require(type.Table).Require(type.Key);
        var sameTypes = table
            .Require(reference.Columns)
            .Zip(target)
            .All(pair =>
                (pair.First.Storage ?? pair.Second.Storage) == pair.Second.Storage
                && pair.First.TextType == pair.Second.TextType
            );
        return new ReferenceTarget(reference, table, pointedAt, reference.HoldsKey && sameTypes);
    }
}
