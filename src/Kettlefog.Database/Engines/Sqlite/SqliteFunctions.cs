using Kettlefog.Core.Text;
using Kettlefog.Core.Values;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>
/// Functions that SQLite lacks: folded text, exact decimal sums, digests of rows, and a numbering that does not
/// materialise all rows first.
/// </summary>
internal static class SqliteFunctions
{
    public const string Fold = "kettlefog_fold";
    public const string Sum = "kettlefog_sum";
    public const string Digest = "kettlefog_digest";
    public const string Number = "kettlefog_number";

    public static void Register(SqliteConnection connection)
    {
        connection.CreateFunction<object?, string?>(
            Fold,
            value => ColumnValue.FromDriver(value).ToText() is { } text ? FoldedText.Of(text) : null,
            isDeterministic: true
        );
        SqliteNativeFunctions.Register(connection, Sum, Digest, Number);
    }
}
