using System.Runtime.CompilerServices;
using System.Text;
using Kettlefog.Core.Values;

namespace Kettlefog.Database.Statements;

/// <summary>An identifier, which the dialect quotes.</summary>
internal readonly record struct SqlName(string Name);

/// <summary>The kind of a parameter, so that a statement is always prepared for the same types.</summary>
internal enum SqlParameterType
{
    /// <summary>Text of Kettlefog's tables.</summary>
    Text,

    /// <summary>A 64-bit integer.</summary>
    Whole,

    /// <summary>A double.</summary>
    Real,

    /// <summary>A value of the operational database, in the engine's form.</summary>
    Column,
}

/// <summary>A parameter value, which is never part of a statement's text.</summary>
internal sealed record SqlParameter(object? Value, SqlParameterType Type);

/// <summary>
/// A statement or a fragment of one. In an interpolated string a <see cref="SqlName"/> becomes a quoted identifier,
/// a <see cref="Sql"/> is inserted, and everything else becomes a parameter: no value is ever part of the text.
/// </summary>
[InterpolatedStringHandler]
internal sealed class Sql
{
    private readonly List<object> _parts = [];

    public Sql(int literalLength, int formattedCount) =>
        _parts.Capacity = literalLength == 0 ? 4 : (2 * formattedCount) + 1;

    private Sql() { }

    public static Sql Empty { get; } = new();

    /// <summary>The identity; it lets the compiler turn an interpolated string into a statement.</summary>
    public static Sql Of(Sql sql) => sql;

    /// <summary>Text as it is; never user input.</summary>
    public static Sql Literal(string text)
    {
        var sql = new Sql();
        sql._parts.Add(text);
        return sql;
    }

    public static Sql Join(string separator, IEnumerable<Sql> items)
    {
        var joined = new Sql();
        foreach (var item in items)
        {
            if (joined._parts.Count > 0)
                joined._parts.Add(separator);
            joined._parts.AddRange(item._parts);
        }

        return joined;
    }

    public static Sql Join(string separator, IEnumerable<string> names) =>
        Join(separator, names.Select(name => Of($"{new SqlName(name)}")));

    public void AppendLiteral(string text) => _parts.Add(text);

    public void AppendFormatted(SqlName name) => _parts.Add(name);

    public void AppendFormatted(Sql sql) => _parts.AddRange(sql._parts);

    public void AppendFormatted(ColumnValue value) => _parts.Add(new SqlParameter(value.Raw, SqlParameterType.Column));

    public void AppendFormatted(string? value) => _parts.Add(new SqlParameter(value, SqlParameterType.Text));

    public void AppendFormatted(long value) => _parts.Add(new SqlParameter(value, SqlParameterType.Whole));

    public void AppendFormatted(long? value) => _parts.Add(new SqlParameter(value, SqlParameterType.Whole));

    public void AppendFormatted(double value) => _parts.Add(new SqlParameter(value, SqlParameterType.Real));

    /// <summary>The text in a dialect, with a marker for each parameter, and the parameters in order.</summary>
    public (string Text, IReadOnlyList<SqlParameter> Parameters) Render(SqlDialect dialect)
    {
        var text = new StringBuilder();
        var parameters = new List<SqlParameter>();
        foreach (var part in _parts)
        {
            switch (part)
            {
                case SqlParameter parameter:
                    text.Append(dialect.ParameterMarker(parameters.Count));
                    parameters.Add(parameter);
                    break;
                case SqlName name:
                    text.Append(dialect.Quote(name.Name));
                    break;
                default:
                    text.Append((string)part);
                    break;
            }
        }

        return (text.ToString(), parameters);
    }
}
