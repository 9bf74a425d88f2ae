using System.Globalization;
using System.Text;
using Kettlefog.Core.Planning;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>A child table of a random world.</summary>
internal sealed record RandomChild(string Table, IReadOnlyList<string> References, string Policy, bool Polymorphic);

/// <summary>
/// A random operational database with its map: keys of several shapes, columns of all types with and without a place
/// in the map, references declared or not, polymorphic or part of a key, and data that attacks.
/// </summary>
internal sealed class RandomWorld
{
    private static readonly string[] Types = ["TEXT", "VARCHAR(20)", "INTEGER", "NUMERIC", "REAL", "BLOB", ""];

    private static readonly object?[] Nasty =
    [
        null, "", " ", "a", "A", "a ", "Ωmega", "e\u0301", "\u00e9", "O'Dunnagh; DROP TABLE party", "\"quoted\"", "line\nbreak", "x|y\\z", "1", "1.0",
        "-0", 0L, 1L, -1L, 9007199254740993L, long.MaxValue, long.MinValue, 0.1, -0.0, 1e300, double.PositiveInfinity, 1.5, new byte[] { 0, 255 }, Array.Empty<byte>(),
    ];

    /// <summary>What PostgreSQL's types hold, the awkward first.</summary>
    private static readonly Dictionary<string, string?[]> Typed = new()
    {
        ["TEXT"] = [null, "", " ", "a", "A", "a ", "Ωmega", "e\u0301", "\u00e9", "O'Dunnagh; DROP TABLE party", "\"quoted\"", "line\nbreak", "x|y\\z", "1", "\U0001F6A2"],
        ["VARCHAR(20)"] = [null, "", "b ", "twenty characters...", "Ærø"],
        ["CHAR(4)"] = [null, "ab", "abcd", ""],
        ["BIGINT"] = [null, "0", "-1", "9007199254740993", "9223372036854775807", "-9223372036854775808"],
        ["NUMERIC"] = [null, "0", "1.50", "1.5", "-0.000000000000000000000000000001", "123456789012345678901234567890.123456789", "NaN"],
        ["NUMERIC(12,2)"] = [null, "0.10", "9999999999.99"],
        ["DOUBLE PRECISION"] = [null, "0.1", "-0", "1e300", "Infinity", "NaN", "2.2250738585072014e-308"],
        ["REAL"] = [null, "0.1", "3.4028235e38", "1e-45"],
        ["BYTEA"] = [null, "\\x", "\\x00ff", "\\x5c"],
        ["BOOLEAN"] = [null, "true", "false"],
        ["DATE"] = [null, "2024-02-29", "0044-03-15 BC", "infinity"],
        ["TIMESTAMPTZ"] = [null, "2026-03-29 01:30:00.123456+00", "-infinity"],
        ["TIMESTAMP"] = [null, "2026-03-29 02:30:00"],
        ["INTERVAL"] = [null, "1 year 2 mons -3 days +04:05:06.789", "-00:00:01"],
        ["UUID"] = [null, "00000000-0000-0000-0000-000000000000", "a0eebc99-9c0b-4ef8-bb6d-6bb9bd380a11"],
        ["JSONB"] = [null, "{}", "{\"b\": [1, 2.50, null], \"a\": \"x\"}"],
        ["JSON"] = [null, "{\"a\":1, \"a\":  2}"],
        ["TEXT[]"] = [null, "{}", "{a,NULL,\"b,c\",\"\"}"],
        ["INT4RANGE"] = [null, "empty", "[1,5)"],
        ["INET"] = [null, "10.0.0.1", "2001:db8::/32"],
        ["BIT VARYING(8)"] = [null, "", "10101"],
        ["POINT"] = [null, "(1.5,-2)"],
    };

    private readonly Random _random;
    private readonly int _keyShape;

    public RandomWorld(int seed, int size, TestDatabase file)
    {
        _random = new Random(seed);
        _keyShape = _random.Next(3);
        File = file;
        MarkRetires = _random.Next(3) > 0;
        KeyColumns = _keyShape switch { 0 => ["id"], 1 => ["code"], _ => ["region", "no"] };
        MakeParties(size);
        MakeChildren(size);
        Yaml = MakeMap();
    }

    public TestDatabase File { get; }

    private bool IsPostgres => File.Engine == Engine.Postgres;

    public bool MarkRetires { get; }

    public IReadOnlyList<string> KeyColumns { get; }

    public List<object?[]> Keys { get; } = [];

    public List<string> Fields { get; } = [];

    public List<RandomChild> Children { get; } = [];

    public string Yaml { get; }

    /// <summary>Random records to merge, and random choices.</summary>
    public MergeChoices Choose()
    {
        var keys = Keys.OrderBy(_ => _random.Next()).Take(_random.Next(2, Math.Min(5, Keys.Count) + 1)).Select(KeyOf).ToList();
        var fields = new Dictionary<string, FieldChoice>();
        foreach (var field in Fields.Where(_ => _random.Next(3) == 0))
            fields[field] = new FieldChoice.FromRecord(keys[_random.Next(keys.Count)]);
        return new MergeChoices("party", keys[0], keys[1..], fields);
    }

    public RecordKey KeyOf(object?[] parts) => new([.. parts.Select(part => ColumnValue.FromDriver(IsPostgres ? part?.ToString() : part))]);

    private void MakeParties(int size)
    {
        var key = _keyShape switch
        {
            0 => IsPostgres ? "id BIGINT PRIMARY KEY" : "id INTEGER PRIMARY KEY",
            1 => "code TEXT NOT NULL PRIMARY KEY",
            _ => "region TEXT NOT NULL, no INTEGER NOT NULL, PRIMARY KEY (region, no)",
        };
        var columns = Enumerable.Range(0, _random.Next(3, 7)).Select(number => (Name: $"f{number}", Type: IsPostgres ? Pick([.. Typed.Keys]) : Pick(Types))).ToList();
        Fields.AddRange(columns.Select(column => column.Name).Where(_ => _random.Next(3) > 0));
        if (Fields.Count == 0)
            Fields.Add("f0");
        var plain = string.Concat(columns.Select(column => $"{column.Name} {column.Type}, "));
        var withoutRowid = _keyShape > 0 && !IsPostgres && _random.Next(2) == 0 ? " WITHOUT ROWID" : "";
        var head = _keyShape == 2 ? "" : $"{key}, ";
        var tail = _keyShape == 2 ? $", {key}" : "";
        File.Execute($"CREATE TABLE party ({head}{plain}status TEXT NOT NULL DEFAULT 'ok', created TEXT, changed TEXT{tail}){withoutRowid}");
        for (var number = 0; number < 3 + size; number++)
        {
            object?[] parts = _keyShape switch
            {
                0 => [number < 3 ? number - 1L : 9007199254740990L + number],
                1 => [new[] { "a", "A", "a ", "x|y", "back\\slash", "", "é", "e\u0301", "9" }[number]],
                _ => [number % 2 == 0 ? "north|" : "", (long)number],
            };
            Keys.Add(parts);
            var values = columns.Select(column => IsPostgres ? Pick(Typed[column.Type]) : Pick(Nasty)).Append("ok").Append(Pick<object?>(null, "2020-01-01", "2021-05-05")).Append(Pick<object?>(null, "2024-01-01", "2025-05-05"));
            Insert("party", [.. KeyColumns, .. columns.Select(column => column.Name), "status", "created", "changed"], [.. parts, .. values]);
        }
    }

    private void MakeChildren(int size)
    {
        for (var number = 0; number < _random.Next(1, 5); number++)
        {
            var table = $"child {number}";
            var references = KeyColumns.Select(column => $"{column}_ref").ToList();
            var polymorphic = _random.Next(3) == 0;
            var declared = !polymorphic && _random.Next(2) == 0;
            var keyShape = _random.Next(3);
            var definition = new StringBuilder();
            definition.Append(keyShape switch { 0 => "cid INTEGER PRIMARY KEY, ", 1 => "cid TEXT PRIMARY KEY, ", _ => "cid INTEGER NOT NULL, " });
            foreach (var (column, at) in references.Select((column, at) => (column, at)))
                definition.Append(CultureInfo.InvariantCulture, $"\"{column}\" {(KeyColumns[at] is "id" or "no" ? IsPostgres ? "BIGINT" : "INTEGER" : "TEXT")}, ");
            definition.Append(IsPostgres ? "kind TEXT, amount NUMERIC, extra TEXT" : "kind TEXT, amount NUMERIC, extra");
            var names = string.Join(", ", references.Select(column => $"\"{column}\""));
            if (keyShape == 2)
                definition.Append(CultureInfo.InvariantCulture, $", PRIMARY KEY ({names}, cid)");
            if (_random.Next(3) == 0)
                definition.Append(CultureInfo.InvariantCulture, $", UNIQUE ({names}, extra)");
            if (declared)
                definition.Append(CultureInfo.InvariantCulture, $", FOREIGN KEY ({names}) REFERENCES party ({string.Join(", ", KeyColumns)}){Pick("", " ON DELETE CASCADE", " ON DELETE RESTRICT")}");
            File.Execute($"CREATE TABLE \"{table}\" ({definition})");
            var policy = _random.Next(12) switch { 0 => "block", 1 or 2 when MarkRetires => "leave", _ => "reassign" };
            Children.Add(new RandomChild(table, references, policy, polymorphic));
            for (var row = 0; row < size * _random.Next(1, 6); row++)
            {
                var owner = !declared && keyShape != 2 && _random.Next(8) == 0 ? [.. KeyColumns.Select(_ => (object?)null)] : Keys[_random.Next(Keys.Count)];
                object cid = keyShape == 1 ? $"row {row}" : (long)row;
                Insert(table, ["cid", .. references, "kind", "amount", "extra"], [cid, .. owner, polymorphic ? Pick("party", "other") : null, Pick<object?>(null, 1L, 0.1, 12.35, -3L), row % 3 == 0 ? (IsPostgres ? Pick(Typed["TEXT"]) : Pick(Nasty)) : $"extra {row}"], ignore: true);
            }
        }
    }

    private string MakeMap()
    {
        var yaml = new StringBuilder($"""
            kettlefog: 1
            name: Random
            record_types:
              party:
                table: party
                label: "{Fields[0]}"
                created: created
                changed: changed
                survivorship: {Pick("master", "master-unless-blank", "newest", "oldest", "longest", "most-common", "largest", "smallest")}
                retire: {(MarkRetires ? "{ mark: { status: merged } }" : "{ delete: true }")}
                fields:

            """);
        foreach (var field in Fields)
            yaml.AppendLine(CultureInfo.InvariantCulture, $"      {field}:");
        yaml.AppendLine("    references:");
        foreach (var (child, number) in Children.Select((child, number) => (child, number)))
        {
            yaml.AppendLine(CultureInfo.InvariantCulture, $"      r{number}:");
            yaml.AppendLine(CultureInfo.InvariantCulture, $"        table: {child.Table}");
            yaml.AppendLine(CultureInfo.InvariantCulture, $"        columns: [{string.Join(", ", child.References)}]");
            yaml.AppendLine(CultureInfo.InvariantCulture, $"        policy: {child.Policy}");
            yaml.AppendLine("        amount: amount");
            if (child.Polymorphic)
                yaml.AppendLine("        when: { kind: party }");
        }

        yaml.AppendLine("    figures:");
        for (var number = 0; number < Children.Count; number++)
        {
            yaml.AppendLine(CultureInfo.InvariantCulture, $"      n{number}: {{ reference: r{number}, count: true, control: true }}");
            yaml.AppendLine(CultureInfo.InvariantCulture, $"      s{number}: {{ reference: r{number}, sum: amount, control: true }}");
        }

        return yaml.ToString();
    }

    private void Insert(string table, IReadOnlyList<string> columns, object?[] values, bool ignore = false) => File.Execute(
        $"INSERT INTO \"{table}\" ({string.Join(", ", columns.Select(column => $"\"{column}\""))}) VALUES ({string.Join(", ", values.Select((_, at) => $"?{at + 1}"))}){(ignore ? " ON CONFLICT DO NOTHING" : "")}",
        values);

    private T Pick<T>(params T[] items) => items[_random.Next(items.Length)];
}
