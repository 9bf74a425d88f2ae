using System.Text.RegularExpressions;
using Kettlefog.Core.Schema;

namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>Facts about tables and triggers that SQLite shows only in their CREATE statements.</summary>
internal static partial class SqliteDefinitions
{
    private static readonly string[] ShadowEndings =
    [
        "data",
        "idx",
        "content",
        "docsize",
        "config",
        "segments",
        "segdir",
        "stat",
        "node",
        "parent",
        "rowid",
    ];

    /// <summary>True if a table is virtual, such as a full-text index.</summary>
    public static bool IsVirtual(string definition) =>
        definition.StartsWith("CREATE VIRTUAL TABLE", StringComparison.OrdinalIgnoreCase);

    /// <summary>True if a table is the storage of a virtual one.</summary>
    public static bool IsShadow(string table, IReadOnlyList<string> virtuals) =>
        virtuals.Any(name =>
            table.Length > name.Length
            && table.StartsWith(name + "_", StringComparison.OrdinalIgnoreCase)
            && ShadowEndings.ContainsIdentifier(table[(name.Length + 1)..])
        );

    /// <summary>True if the rows of a table have no row number.</summary>
    public static bool HasNoRowNumber(string definition) => WithoutRowNumber().IsMatch(definition);

    /// <summary>The values that check constraints of a table allow, by column.</summary>
    public static Dictionary<string, IReadOnlyList<string>> Allowed(string definition) =>
        AllowedValues
            .Conditions(definition)
            .Select(AllowedValues.Of)
            .Where(allowed => allowed is not null)
            .DistinctBy(allowed => allowed!.Value.Column, StringComparer.OrdinalIgnoreCase)
            .ToDictionary(
                allowed => allowed!.Value.Column,
                allowed => allowed!.Value.Values,
                StringComparer.OrdinalIgnoreCase
            );

    /// <summary>Reads a <c>CREATE TRIGGER</c> statement.</summary>
    public static Trigger Trigger(string name, string definition)
    {
        var match = TriggerPattern().Match(definition);
        var on = match.Groups["on"].Value.ToUpperInvariant() switch
        {
            "INSERT" => RowChanges.Insert,
            "DELETE" => RowChanges.Delete,
            "UPDATE" => RowChanges.Update,
            _ => RowChanges.None,
        };
        return new Trigger(name, on, match.Success ? match.Groups["body"].Value : null);
    }

    /// <summary>The action as <c>PRAGMA foreign_key_list</c> names it.</summary>
    public static KeyAction ReadKeyAction(string action) =>
        action switch
        {
            "CASCADE" => KeyAction.Cascade,
            "SET NULL" => KeyAction.SetNull,
            "SET DEFAULT" => KeyAction.SetDefault,
            _ => KeyAction.Refuse,
        };

    [GeneratedRegex(@"\)[^)]*\bWITHOUT\s+ROWID\b[^)]*$", RegexOptions.IgnoreCase)]
    private static partial Regex WithoutRowNumber();

    [GeneratedRegex(
        """^CREATE\s+(?:TEMP\w*\s+)?TRIGGER\s.*?\b(?<on>INSERT|DELETE|UPDATE)"""
            + """\b.*?\bON\b.*?\bBEGIN\b(?<body>.*)\bEND\b\s*;?\s*$""",
        RegexOptions.IgnoreCase | RegexOptions.Singleline
    )]
    private static partial Regex TriggerPattern();
}
