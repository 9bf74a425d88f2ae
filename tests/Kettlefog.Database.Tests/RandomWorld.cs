using System.Globalization;
using System.Text;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Values;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>A reference of a random child table.</summary>
/// <param name="Name">Its name in the map.</param>
/// <param name="Columns">The referring columns.</param>
/// <param name="Shape">
/// How they refer: by the key, by another unique column, by a text around the key, or by the key as text.
/// </param>
/// <param name="Policy">Its policy in the map.</param>
/// <param name="Polymorphic">True if it applies only for a value of the column <c>kind</c>.</param>
internal sealed record RandomReference(
    string Name,
    IReadOnlyList<string> Columns,
    RandomShape Shape,
    string Policy,
    bool Polymorphic
);

/// <summary>How a random reference refers to a record.</summary>
internal enum RandomShape
{
    Key,
    Alias,
    Template,
    Text,
}

/// <summary>A child table of a random world.</summary>
/// <param name="Table">Its name.</param>
/// <param name="References">Its references, at most two.</param>
internal sealed record RandomChild(string Table, IReadOnlyList<RandomReference> References);

/// <summary>
/// A random operational database with its map: keys of several shapes, columns of all types, in the map
/// or not, references declared or not, polymorphic or part of a key, and hostile data.
/// </summary>
internal sealed class RandomWorld
{
    private static readonly string[] Types = ["TEXT", "VARCHAR(20)", "INTEGER", "NUMERIC", "REAL", "BLOB", ""];

    private static readonly object?[] Nasty =
    [
        null,
        "",
        " ",
        "a",
        "A",
        "a ",
        "Ωmega",
        "e\u0301",
        "\u00e9",
        "O'Dunnagh; DROP TABLE party",
        "\"quoted\"",
        "line\nbreak",
        "x|y\\z",
        "1",
        "1.0",
        "-0",
        0L,
        1L,
        -1L,
        9007199254740993L,
        long.MaxValue,
        long.MinValue,
        0.1,
        -0.0,
        1e300,
        double.PositiveInfinity,
        1.5,
        new byte[] { 0, 255 },
        Array.Empty<byte>(),
    ];

    /// <summary>Values of PostgreSQL's types, awkward ones first.</summary>
    private static readonly Dictionary<string, string?[]> Typed = new()
    {
        ["TEXT"] =
        [
            null,
            "",
            " ",
            "a",
            "A",
            "a ",
            "Ωmega",
            "e\u0301",
            "\u00e9",
            "O'Dunnagh; DROP TABLE party",
            "\"quoted\"",
            "line\nbreak",
            "x|y\\z",
            "1",
            "\U0001F6A2",
        ],
        ["VARCHAR(20)"] = [null, "", "b ", "twenty characters...", "Ærø"],
        ["CHAR(4)"] = [null, "ab", "abcd", ""],
        ["BIGINT"] = [null, "0", "-1", "9007199254740993", "9223372036854775807", "-9223372036854775808"],
        ["NUMERIC"] =
        [
            null,
            "0",
            "1.50",
            "1.5",
            "-0.000000000000000000000000000001",
            "123456789012345678901234567890.123456789",
            "NaN",
        ],
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
    private readonly HashSet<string> _moved = [];
    private Action<string, object?[]> _execute = null!;

    public RandomWorld(int seed, int size, TestDatabase file)
    {
        _random = new Random(seed);
        _keyShape = _random.Next(3);
        File = file;
        MarkRetires = _random.Next(3) > 0;
        KeyColumns = _keyShape switch
        {
            0 => ["id"],
            1 => ["code"],
            _ => ["region", "no"],
        };
        file.Together(execute =>
        {
            _execute = execute;
            MakeParties(size);
            if (!IsPostgres && _random.Next(5) == 0)
            {
                execute("UPDATE party SET f0 = CAST(x'4DF67765' AS TEXT) WHERE alias IN ('alias 0', 'alias 2')", []);
                HasInvalidText = true;
            }

            MakeChildren(size);
            execute(
                "CREATE TABLE happening (id "
                    + $"{(IsPostgres ? "BIGINT GENERATED BY DEFAULT AS IDENTITY" : "INTEGER")} PRIMARY KEY, about "
                    + "TEXT, said TEXT)",
                []
            );
            execute("INSERT INTO happening (about, said) VALUES ('x', 'before')", []);
            if (IsPostgres && _random.Next(3) == 0)
                MoveTables();
        });
        Yaml = MakeMap();
    }

    public TestDatabase File { get; }

    private bool IsPostgres => File.Engine == Engine.Postgres;

    public bool MarkRetires { get; }

    public IReadOnlyList<string> KeyColumns { get; }

    public List<object?[]> Keys { get; } = [];

    /// <summary>Another unique value of each record; some have none, but the first always has one.</summary>
    public List<string?> Aliases { get; } = [];

    public List<string> Fields { get; } = [];

    public List<RandomChild> Children { get; } = [];

    public string Yaml { get; }

    /// <summary>The name of a table in the map.</summary>
    public string NameOf(string table) => _moved.Contains(table) ? $"{PostgresDatabase.OtherSchema}.{table}" : table;

    /// <summary>True if some texts of the first column are not valid UTF-8.</summary>
    public bool HasInvalidText { get; private set; }

    /// <summary>Random records to merge, and random choices.</summary>
    public MergeChoices Choose()
    {
        var keys = Keys.OrderBy(_ => _random.Next())
            .Take(_random.Next(2, Math.Min(5, Keys.Count) + 1))
            .Select(KeyOf)
            .ToList();
        var fields = new Dictionary<string, FieldChoice>();
        foreach (var field in Fields.Where(_ => _random.Next(3) == 0))
            fields[field] = new FieldChoice.FromRecord(keys[_random.Next(keys.Count)]);
        return new MergeChoices("party", keys[0], keys[1..], fields);
    }

    /// <summary>The values of a reference's columns that refer to a record.</summary>
    public RecordKey PointedAt(RandomReference reference, RecordKey key) =>
        reference.Shape switch
        {
            RandomShape.Alias => new RecordKey(
                ColumnValue.FromDriver(Aliases[Keys.FindIndex(parts => KeyOf(parts).Equals(key))])
            ),
            RandomShape.Template => new RecordKey(ColumnValue.Of($"party:{key}.")),
            RandomShape.Text => new RecordKey(ColumnValue.Of(key.ToString())),
            _ => key,
        };

    public RecordKey KeyOf(object?[] parts) =>
        new([.. parts.Select(part => ColumnValue.FromDriver(IsPostgres ? part?.ToString() : part))]);

    private void MakeParties(int size)
    {
        var key = _keyShape switch
        {
            0 => IsPostgres ? "id BIGINT PRIMARY KEY" : "id INTEGER PRIMARY KEY",
            1 => "code TEXT NOT NULL PRIMARY KEY",
            _ => "region TEXT NOT NULL, no INTEGER NOT NULL, PRIMARY KEY (region, no)",
        };
        var columns = Enumerable
            .Range(0, _random.Next(3, 7))
            .Select(number => (Name: $"f{number}", Type: IsPostgres ? Pick([.. Typed.Keys]) : Pick(Types)))
            .ToList();
        Fields.AddRange(columns.Select(column => column.Name).Where(_ => _random.Next(3) > 0));
        if (Fields.Count == 0)
            Fields.Add("f0");
        var plain = string.Concat(columns.Select(column => $"{column.Name} {column.Type}, "));
        var withoutRowid = _keyShape > 0 && !IsPostgres && _random.Next(2) == 0 ? " WITHOUT ROWID" : "";
        var head = _keyShape == 2 ? "" : $"{key}, ";
        var tail = _keyShape == 2 ? $", {key}" : "";
        _execute(
            $"CREATE TABLE party ({head}{plain}alias TEXT UNIQUE, status TEXT NOT NULL DEFAULT 'ok', created "
                + $"TEXT, changed TEXT{tail}){withoutRowid}",
            []
        );
        for (var number = 0; number < 3 + size; number++)
        {
            object?[] parts = _keyShape switch
            {
                0 => [number < 3 ? number - 1L : 9007199254740990L + number],
                1 => [new[] { "a", "A", "a ", "x|y", "back\\slash", "", "é", "e\u0301", "9" }[number]],
                _ => [number % 2 == 0 ? "north|" : "", (long)number],
            };
            Keys.Add(parts);
            Aliases.Add(number > 0 && _random.Next(6) == 0 ? null : $"alias {number}");
            var values = columns
                .Select(column => IsPostgres ? Pick(Typed[column.Type]) : Pick(Nasty))
                .Append(Aliases[number])
                .Append("ok")
                .Append(Pick<object?>(null, "2020-01-01", "2021-05-05"))
                .Append(Pick<object?>(null, "2024-01-01", "2025-05-05"));
            Insert(
                "party",
                [.. KeyColumns, .. columns.Select(column => column.Name), "alias", "status", "created", "changed"],
                [.. parts, .. values]
            );
        }
    }

    /// <summary>Adds a column with values to one of the tables, as another program might do at any time.</summary>
    /// <returns>The table.</returns>
    public string AddColumn(string column)
    {
        var table = Pick([.. Children.Select(child => child.Table).Append("party")]);
        File.Execute($"ALTER TABLE \"{table}\" ADD COLUMN {column} TEXT");
        File.Execute($"UPDATE \"{table}\" SET {column} = 'since then'");
        return table;
    }

    /// <summary>Renames a column that the map does not name.</summary>
    /// <returns>The table.</returns>
    public string RenameColumn()
    {
        var table = Pick([.. Children.Select(child => child.Table)]);
        File.Execute($"ALTER TABLE \"{table}\" RENAME COLUMN extra TO renamed");
        return table;
    }

    private void MakeChildren(int size)
    {
        var dirtyAmounts = _random.Next(6) == 0;
        for (var number = 0; number < _random.Next(1, 5); number++)
        {
            var table = $"child {number}";
            var references = Enumerable
                .Range(0, _random.Next(3) == 0 ? 2 : 1)
                .Select(place => MakeReference(number, place))
                .ToList();
            Children.Add(new RandomChild(table, references));
            var keyShape = Define(table, references);
            for (var row = 0; row < size * _random.Next(1, 6); row++)
            {
                var owners = references.SelectMany(reference => Owner(reference, mayBeNobody: keyShape < 2)).ToArray();
                object cid = keyShape == 1 ? $"row {row}" : (long)row;
                Insert(
                    table,
                    ["cid", .. references.SelectMany(reference => reference.Columns), "kind", "amount", "extra"],
                    [
                        cid,
                        .. owners,
                        references.Exists(reference => reference.Polymorphic) ? Pick("party", "other") : null,
                        dirtyAmounts && row % 4 == 0
                            ? (IsPostgres ? Pick("NaN", "1e300") : Pick<object?>("n/a", 1e300, double.PositiveInfinity))
                            : Pick<object?>(null, 1L, 0.1, 12.35, -3L),
                        row % 3 == 0 ? (IsPostgres ? Pick(Typed["TEXT"]) : Pick(Nasty)) : $"extra {row % 7}",
                    ],
                    ignore: true
                );
            }
        }
    }

    /// <summary>Moves some of the tables to a schema that is found by its name only.</summary>
    private void MoveTables()
    {
        _execute($"CREATE SCHEMA \"{PostgresDatabase.OtherSchema}\"", []);
        foreach (var table in Children.Select(child => child.Table).Append("party").Append("happening"))
        {
            if (_random.Next(2) == 0)
                continue;
            _execute($"ALTER TABLE \"{table}\" SET SCHEMA \"{PostgresDatabase.OtherSchema}\"", []);
            _moved.Add(table);
        }
    }

    private RandomReference MakeReference(int child, int place)
    {
        var shape = _random.Next(7) switch
        {
            0 => RandomShape.Alias,
            1 => RandomShape.Template,
            2 when _keyShape == 0 => RandomShape.Text,
            _ => RandomShape.Key,
        };
        IReadOnlyList<string> columns =
            shape == RandomShape.Key ? [.. KeyColumns.Select(column => $"{column}_ref{place}")] : [$"party_ref{place}"];
        var policy = _random.Next(20) switch
        {
            0 => "block",
            1 or 2 when MarkRetires => "leave",
            _ => "reassign",
        };
        return new RandomReference($"r{child}_{place}", columns, shape, policy, _random.Next(3) == 0);
    }

    /// <summary>Creates a child table with a key of some shape, and hostile unique keys.</summary>
    private int Define(string table, List<RandomReference> references)
    {
        var keyShape = _random.Next(4);
        var definition = new StringBuilder(
            keyShape switch
            {
                0 => "cid INTEGER PRIMARY KEY, ",
                1 => "cid TEXT PRIMARY KEY, ",
                _ => "cid INTEGER NOT NULL, ",
            }
        );
        foreach (var reference in references)
        {
            foreach (var (column, part) in reference.Columns.Select((column, part) => (column, part)))
                definition.Append(
                    CultureInfo.InvariantCulture,
                    $"\"{column}\" "
                        + $"{(reference.Shape == RandomShape.Key && KeyColumns[part] is "id" or "no" ? IsPostgres
                            ? "BIGINT" : "INTEGER" : "TEXT")}, "
                );
        }

        definition.Append(
            IsPostgres
                ? "kind TEXT, amount NUMERIC, extra TEXT, twice NUMERIC GENERATED ALWAYS AS (amount * 2) STORED"
                : "kind TEXT, amount NUMERIC, extra, twice GENERATED ALWAYS AS (amount * 2) STORED"
        );
        string Names(IEnumerable<string> columns) => string.Join(", ", columns.Select(column => $"\"{column}\""));
        var all = Names(references.SelectMany(reference => reference.Columns));
        var first = Names(references[0].Columns);
        if (keyShape > 1)
            definition.Append(
                CultureInfo.InvariantCulture,
                $", PRIMARY KEY ({(keyShape == 2 ? $"{first}, cid" : all)})"
            );
        foreach (
            var reference in references.Where(reference =>
                !reference.Polymorphic
                && reference.Shape is RandomShape.Key or RandomShape.Alias
                && _random.Next(2) == 0
            )
        )
            definition.Append(
                CultureInfo.InvariantCulture,
                $", FOREIGN KEY ({Names(reference.Columns)}) REFERENCES party "
                    + $"({(reference.Shape == RandomShape.Alias ? "alias"
                        : string.Join(", ", KeyColumns))}){Pick("", " ON DELETE CASCADE", " ON DELETE RESTRICT",
                            " DEFERRABLE INITIALLY DEFERRED")}"
            );
        var withoutRowid = keyShape > 0 && !IsPostgres && _random.Next(3) == 0 ? " WITHOUT ROWID" : "";
        _execute($"CREATE TABLE \"{table}\" ({definition}){withoutRowid}", []);
        var unique = _random.Next(12) switch
        {
            0 => $"({first}, extra)",
            1 => $"({all}, extra)",
            2 => $"({first}, lower(extra))",
            3 => IsPostgres ? $"({first}, extra) NULLS NOT DISTINCT" : $"({first}, extra COLLATE NOCASE)",
            4 => $"({first}, extra) WHERE amount > 0",
            5 => $"(extra, {all}) WHERE {Names(references[0].Columns.Take(1))} IS NOT NULL AND extra <> 'a'",
            6 => $"({first}, kind, extra)",
            _ => null,
        };
        if (unique is not null)
            _execute($"CREATE UNIQUE INDEX \"one of {table}\" ON \"{table}\" {unique}", []);
        return keyShape;
    }

    private object?[] Owner(RandomReference reference, bool mayBeNobody)
    {
        if (mayBeNobody && _random.Next(8) == 0)
            return [.. reference.Columns.Select(_ => (object?)null)];
        var place = _random.Next(Keys.Count);
        return reference.Shape switch
        {
            RandomShape.Alias => [Aliases[place] ?? (mayBeNobody ? null : Aliases[0])],
            RandomShape.Template => [$"party:{KeyOf(Keys[place])}."],
            RandomShape.Text => [KeyOf(Keys[place]).ToString()],
            _ => Keys[place],
        };
    }

    private string MakeMap()
    {
        var yaml = new StringBuilder(
            $"""
            kettlefog: 1
            name: Random
            record_types:
              party:
                table: {NameOf("party")}
                label: "{Fields[0]}"
                created: created
                changed: changed
                survivorship: {Pick(
                "master",
                "master-unless-blank",
                "newest",
                "oldest",
                "longest",
                "most-common",
                "largest",
                "smallest"
            )}
                retire: {(MarkRetires ? "{ mark: { status: merged } }" : "{ delete: true }")}
                fields:

            """
        );
        foreach (var field in Fields)
            yaml.AppendLine(CultureInfo.InvariantCulture, $"      {field}:");
        if (_random.Next(2) == 0)
            yaml.AppendLine(
                $"    timeline: {{ table: {NameOf("happening")}, values: {{ about: \"{{key}}\", "
                    + "said: \"{duplicates} {label}\" } }"
            );
        yaml.AppendLine("    references:");
        foreach (
            var (child, reference) in Children.SelectMany(child =>
                child.References.Select(reference => (child, reference))
            )
        )
        {
            yaml.AppendLine(CultureInfo.InvariantCulture, $"      {reference.Name}:");
            yaml.AppendLine(CultureInfo.InvariantCulture, $"        table: {NameOf(child.Table)}");
            yaml.AppendLine(CultureInfo.InvariantCulture, $"        columns: [{string.Join(", ", reference.Columns)}]");
            yaml.AppendLine(CultureInfo.InvariantCulture, $"        policy: {reference.Policy}");
            yaml.AppendLine(
                CultureInfo.InvariantCulture,
                $"        collision: {Pick("block", "keep", "keep", "combine", "combine")}"
            );
            yaml.AppendLine("        amount: amount");
            if (reference.Polymorphic)
                yaml.AppendLine("        when: { kind: party }");
            if (reference.Shape == RandomShape.Alias)
                yaml.AppendLine("        to: alias");
            if (reference.Shape == RandomShape.Template)
                yaml.AppendLine("        as: \"party:{key}.\"");
        }

        yaml.AppendLine("    figures:");
        var controlled = Pick("true", "false", "false", "false");
        foreach (var reference in Children.SelectMany(child => child.References))
        {
            yaml.AppendLine(
                CultureInfo.InvariantCulture,
                $"      n{reference.Name}: {{ reference: {reference.Name}, count: true, control: {controlled} }}"
            );
            yaml.AppendLine(
                CultureInfo.InvariantCulture,
                $"      s{reference.Name}: {{ reference: {reference.Name}, sum: amount, control: {controlled} }}"
            );
        }

        return yaml.ToString();
    }

    private void Insert(string table, IReadOnlyList<string> columns, object?[] values, bool ignore = false) =>
        _execute(
            $"INSERT INTO \"{table}\" ({string.Join(", ", columns.Select(column => $"\"{column}\""))}) VALUES "
                + $"({string.Join(", ", values.Select((_, at) => $"?{at + 1}"))}){(ignore
                    ? " ON CONFLICT DO NOTHING" : "")}",
            values
        );

    private T Pick<T>(params T[] items) => items[_random.Next(items.Length)];
}
