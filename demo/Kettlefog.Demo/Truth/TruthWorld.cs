using Microsoft.Data.Sqlite;

namespace Kettlefog.Demo.Truth;

/// <summary>Writes made-up people or organisations: a database, its map and the truth.</summary>
internal static class TruthWorld
{
    /// <summary>
    /// Writes <c>people.db</c> or <c>organisations.db</c>, a map beside it, and <c>truth.csv</c> with the entity of
    /// each record.
    /// </summary>
    /// <param name="what"><c>people</c> or <c>organisations</c>.</param>
    /// <param name="folder">The folder; existing files are overwritten.</param>
    /// <param name="records">The number of records.</param>
    /// <param name="seed">The seed.</param>
    public static void Make(string what, string folder, int records, int seed)
    {
        var people = what == "people";
        var columns = people ? PeopleMaker.Columns : OrganisationMaker.Columns;
        var made = people ? PeopleMaker.Make(records, seed) : OrganisationMaker.Make(records, seed);
        var type = people ? "person" : "organisation";
        Directory.CreateDirectory(folder);
        WriteDatabase(Path.Combine(folder, what + ".db"), type, columns, made);
        File.WriteAllText(Path.Combine(folder, what + ".map.yaml"), Map(type, columns));
        File.WriteAllLines(
            Path.Combine(folder, "truth.csv"),
            made.Select((record, index) => $"{index + 1},{record.Entity},{record.Class}").Prepend("id,entity,class")
        );
    }

    private static void WriteDatabase(
        string file,
        string type,
        IReadOnlyList<(string Name, string Kind)> columns,
        IReadOnlyList<TruthRecord> records
    )
    {
        File.Delete(file);
        using var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder { DataSource = file, Pooling = false }.ConnectionString
        );
        connection.Open();
        using (var create = connection.CreateCommand())
        {
            create.CommandText =
                $"CREATE TABLE {type} (id INTEGER PRIMARY KEY, "
                + $"{string.Join(", ", columns.Select(column => column.Name + " TEXT"))}, status TEXT NOT NULL "
                + "DEFAULT 'active')";
            create.ExecuteNonQuery();
        }

        using var transaction = connection.BeginTransaction();
        using var insert = connection.CreateCommand();
        insert.Transaction = transaction;
        insert.CommandText =
            $"INSERT INTO {type} (id, {string.Join(", ", columns.Select(column => column.Name))}) VALUES ($id, "
            + $"{string.Join(", ", columns.Select(column => "$" + column.Name))})";
        insert.Parameters.Add(new SqliteParameter { ParameterName = "$id" });
        foreach (var column in columns)
            insert.Parameters.Add(new SqliteParameter { ParameterName = "$" + column.Name });
        for (var index = 0; index < records.Count; index++)
        {
            insert.Parameters[0].Value = index + 1L;
            for (var column = 0; column < columns.Count; column++)
                insert.Parameters[column + 1].Value = (object?)records[index].Values[column] ?? DBNull.Value;
            insert.ExecuteNonQuery();
        }

        transaction.Commit();
    }

    private static string Map(string type, IReadOnlyList<(string Name, string Kind)> columns) =>
        $$"""
            kettlefog: 1
            name: Made-up {{type}}s

            record_types:
              {{type}}:
                table: {{type}}
                label: "{{{columns[0].Name}}}{{(type == "person" ? " {family_name}" : "")}}"
                fields:
            {{string.Join('\n', columns.Select(column => $"      {column.Name}: {{ kind: {column.Kind} }}"))}}
                retire:
                  mark: { status: merged }
                matching:
                  country: GB

            """;
}
