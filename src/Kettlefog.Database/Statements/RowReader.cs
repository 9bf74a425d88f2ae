using System.Data.Common;
using Kettlefog.Core.Values;

namespace Kettlefog.Database.Statements;

/// <summary>Reads the columns of a row from left to right.</summary>
internal sealed class RowReader(DbDataReader reader)
{
    private int _column;

    public void Begin() => _column = 0;

    public ColumnValue Value() => ColumnValue.FromDriver(reader.GetValue(_column++));

    public string Text() => reader.GetString(_column++);

    public string? OptionalText() => reader.IsDBNull(_column++) ? null : reader.GetString(_column - 1);

    public long Long() => reader.GetInt64(_column++);

    public long? OptionalLong() => reader.IsDBNull(_column++) ? null : reader.GetInt64(_column - 1);

    public double Real() => reader.GetDouble(_column++);

    public bool Flag() => Long() != 0;

    public RecordKey Key(int columns) => new(Enumerable.Range(0, columns).Select(_ => Value()).ToList());

    public IReadOnlyList<ColumnValue> Values(int columns)
    {
        var values = new ColumnValue[columns];
        for (var index = 0; index < columns; index++)
            values[index] = Value();
        return values;
    }
}
