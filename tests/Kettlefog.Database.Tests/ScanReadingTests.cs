using Kettlefog.Core.Map.Reading;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// In SQLite without a write-ahead log a reader keeps every writer waiting: records are read in parts, and none is
/// left out where one part ends and the next begins.
/// </summary>
public class ScanReadingTests
{
    private const int Records = 40_000;

    [Fact]
    public async Task Other_programs_write_between_the_parts_of_a_scan()
    {
        using var folder = new TempFolder();
        var file = Many(folder, "id INTEGER PRIMARY KEY", "n");
        var map = Map("id");
        var written = 0;
        var found = await UninitialisedDatabase.FindDuplicatesAsync(
            file.Path,
            map,
            "person",
            (phase, share) =>
            {
                if (phase != "reading" || share >= 1)
                    return;
                file.Execute("UPDATE person SET name = name WHERE id = ?1", ++written);
            },
            default
        );
        written.ShouldBe(2);
        found.Report.Records.ShouldBe(Records);
    }

    [Theory]
    [InlineData("id TEXT COLLATE NOCASE PRIMARY KEY", "CASE n % 2 WHEN 0 THEN 'a' ELSE 'A' END || n", "id")]
    [InlineData("id PRIMARY KEY", "CASE n % 3 WHEN 0 THEN n WHEN 1 THEN 'k' || n ELSE n + 0.5 END", "id")]
    [InlineData("id TEXT", "'k' || n", "id")]
    [InlineData("id INTEGER, part INTEGER NOT NULL DEFAULT 7, PRIMARY KEY (part, id)", "n", "part, id")]
    [InlineData("id INTEGER, part INTEGER NOT NULL DEFAULT 7, PRIMARY KEY (id, part)", "n", "part, id")]
    public async Task No_record_is_left_out_between_two_parts(string columns, string key, string keyColumns)
    {
        using var folder = new TempFolder();
        var file = Many(folder, columns, key);
        var found = await UninitialisedDatabase.FindDuplicatesAsync(
            file.Path,
            Map(keyColumns),
            "person",
            (_, _) => { },
            default
        );
        found.Report.Records.ShouldBe(Records);
    }

    [Fact]
    public async Task A_row_without_a_key_is_no_record_and_does_not_end_a_scan()
    {
        using var folder = new TempFolder();
        var file = Many(folder, "id TEXT PRIMARY KEY", "CASE WHEN n % 20000 = 1 THEN NULL ELSE 'k' || n END");
        var found = await UninitialisedDatabase.FindDuplicatesAsync(
            file.Path,
            Map("id"),
            "person",
            (_, _) => { },
            default
        );
        found.Report.Records.ShouldBe(Records - 2);
    }

    [Fact]
    public async Task Rows_that_are_added_and_deleted_while_a_scan_reads_do_not_end_it()
    {
        using var folder = new TempFolder();
        var file = Many(folder, "id INTEGER PRIMARY KEY", "n");
        var changed = false;
        var found = await UninitialisedDatabase.FindDuplicatesAsync(
            file.Path,
            Map("id"),
            "person",
            (phase, _) =>
            {
                if (phase != "reading" || changed)
                    return;
                changed = true;
                file.Execute("DELETE FROM person WHERE id <= 30000");
                file.Execute("INSERT INTO person (id, name) VALUES (50000, 'Odile Marrable')");
            },
            default
        );
        found.Report.Records.ShouldBeInRange(10_001, Records + 1);
    }

    private static SqliteFile Many(TempFolder folder, string columns, string key)
    {
        var file = new SqliteFile(Path.Combine(folder.Path, "people.db"));
        var cut = columns.IndexOf("PRIMARY KEY (", StringComparison.Ordinal);
        var (own, constraint) = cut < 0 ? (columns, "") : (columns[..cut].TrimEnd(' ', ','), ", " + columns[cut..]);
        file.Execute($"CREATE TABLE person ({own}, name TEXT{constraint})");
        file.Execute(
            "WITH RECURSIVE numbers (n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM numbers WHERE n < ?1) "
                + $"INSERT INTO person (id, name) SELECT {key}, 'Vessel ' || n FROM numbers",
            Records
        );
        return file;
    }

    private static MapDocument Map(string key) =>
        MapReader.Read(
            TestMap.Of("person", $"key: [{key}]\nfields:\n  name: {{ kind: organisation-name }}"),
            "people.yaml"
        );
}
