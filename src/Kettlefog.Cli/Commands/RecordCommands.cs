using System.CommandLine;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Finds and shows records.</summary>
internal static class RecordCommands
{
    public static Argument<string> TypeArgument() =>
        new("type") { Description = "Record type, such as vendor; 'kettlefog types' lists them." };

    public static Option<int> PageOption() =>
        new("--page") { Description = "Page, counted from 1.", DefaultValueFactory = _ => 1 };

    public static Option<int> SizeOption() =>
        new("--size") { Description = "Number of rows per page.", DefaultValueFactory = _ => 50 };

    public static Command Types() =>
        new Command("types", CommandHelp.WithExamples("List the record types of the map.", "types")).Calling(
            async (result, client, cancellationToken) =>
            {
                var map = await client.MapAsync(cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        map,
                        new Grid(
                            ["type", "title", "key", "fields", "references"],
                            [
                                .. map.RecordTypes.Select(type =>
                                    (IReadOnlyList<string?>)
                                        [
                                            type.Name,
                                            type.Title,
                                            string.Join(", ", type.Key),
                                            string.Join(", ", type.Fields.Select(field => field.Name)),
                                            string.Join(", ", type.References.Select(reference => reference.Name)),
                                        ]
                                ),
                            ]
                        )
                    );
                return 0;
            }
        );

    public static Command Search()
    {
        var type = TypeArgument();
        var text = new Argument<string[]>("text")
        {
            Description =
                "Words to find, each in any field. '*' and '?' are wildcards; 'field:word' " + "searches one field.",
            Arity = ArgumentArity.ZeroOrMore,
        };
        var sort = new Option<string?>("--sort")
        {
            Description = "Field, key, created or changed; '-' before it reverses the order.",
        };
        var retired = new Option<bool>("--retired") { Description = "Include merged records." };
        var page = PageOption();
        var size = SizeOption();
        return new Command(
            "search",
            CommandHelp.WithExamples(
                "Search records.",
                "search vendor gannet",
                "search vendor 'name:gann*' city:saltmarrow --sort -changed",
                "search vendor 'phone:*960118' --output csv"
            )
        )
        {
            type,
            text,
            sort,
            retired,
            page,
            size,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var map = await client.MapAsync(cancellationToken);
                var name = result.GetRequiredValue(type);
                var words = result.GetValue(text) ?? [];
                var found = await client.SearchAsync(
                    name,
                    words.Length == 0 ? null : string.Join(' ', words.Select(Quoted)),
                    result.GetValue(sort),
                    result.GetValue(page),
                    result.GetValue(size),
                    result.GetValue(retired),
                    cancellationToken
                );
                var recordType = map.RecordTypes.First(known => known.Name == name);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        found,
                        () =>
                            new Grid(
                                [
                                    "key",
                                    .. recordType.Fields.Select(field => field.Name),
                                    "created",
                                    "changed",
                                    "source",
                                    .. recordType.Figures.Select(figure => figure.Name),
                                    "retired_into",
                                ],
                                [
                                    .. found.Items.Select(record =>
                                        (IReadOnlyList<string?>)
                                            [
                                                record.Key,
                                                .. recordType.Fields.Select(field =>
                                                    record.Values.GetValueOrDefault(field.Name)
                                                ),
                                                record.Created,
                                                record.Changed,
                                                record.Source,
                                                .. recordType.Figures.Select(figure =>
                                                    record.Figures.GetValueOrDefault(figure.Name)
                                                ),
                                                record.Retired?.Master,
                                            ]
                                    ),
                                ]
                            ),
                        output => PrintFound(output, recordType, found)
                    );
                return 0;
            }
        );
    }

    public static Command Show()
    {
        var type = TypeArgument();
        var key = new Argument<string>("key") { Description = "Key of the record, old or new." };
        return new Command(
            "show",
            CommandHelp.WithExamples("Show one record: values, figures, related rows and history.", "show vendor 1001")
        )
        {
            type,
            key,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var map = await client.MapAsync(cancellationToken);
                var record = await client.RecordAsync(
                    result.GetRequiredValue(type),
                    result.GetRequiredValue(key),
                    cancellationToken
                );
                var history = await client.RecordHistoryAsync(
                    result.GetRequiredValue(type),
                    record.Key,
                    cancellationToken
                );
                var recordType = map.RecordTypes.First(known => known.Name == result.GetRequiredValue(type));
                var values = new Grid(
                    ["field", "value"],
                    [
                        .. recordType.Fields.Select(field =>
                            (IReadOnlyList<string?>)[field.Name, record.Values.GetValueOrDefault(field.Name)]
                        ),
                        .. record
                            .Values.Where(pair => pair.Key.StartsWith("column:", StringComparison.Ordinal))
                            .Select(pair => (IReadOnlyList<string?>)[pair.Key, pair.Value]),
                        .. record.Figures.Select(pair => (IReadOnlyList<string?>)[$"figure:{pair.Key}", pair.Value]),
                    ]
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        new { record, history },
                        () => values,
                        output =>
                        {
                            output.Line($"{recordType.Title} {record.Key}: {record.Label}");
                            if (history.Retired is { } redirect)
                                output.Line($"Merged into {redirect.Master} (merge {redirect.Merge}).");
                            foreach (var old in history.OldKeys)
                                output.Line($"Old key {old.OldKey} redirects here (merge {old.Merge}).");
                            output.Table(values);
                            output.Heading("Related rows");
                            output.Table(
                                new Grid(
                                    ["reference", "title", "rows"],
                                    [
                                        .. recordType.References.Select(reference =>
                                            (IReadOnlyList<string?>)
                                                [
                                                    reference.Name,
                                                    reference.Title,
                                                    $"{record.Counts.GetValueOrDefault(reference.Name)}",
                                                ]
                                        ),
                                    ],
                                    [2]
                                )
                            );
                            if (history.Entries.Count > 0)
                            {
                                output.Heading("History");
                                output.Table(HistoryCommands.GridOf(history.Entries));
                            }
                        }
                    );
                return 0;
            }
        );
    }

    public static Command Related()
    {
        var type = TypeArgument();
        var key = new Argument<string>("key") { Description = "The record's key." };
        var reference = new Argument<string>("reference")
        {
            Description = "Reference, such as bills; 'kettlefog types' lists them.",
        };
        var search = new Option<string?>("--search")
        {
            Description = "Only rows that contain every word; * and ? are wildcards.",
        };
        var page = PageOption();
        var size = SizeOption();
        return new Command(
            "related",
            CommandHelp.WithExamples(
                "List the related rows of a record.",
                "related vendor 1001 bills",
                "related vendor 1001 bills --search 'open 2026-03*'"
            )
        )
        {
            type,
            key,
            reference,
            search,
            page,
            size,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var rows = await client.RelatedAsync(
                    result.GetRequiredValue(type),
                    result.GetRequiredValue(key),
                    result.GetRequiredValue(reference),
                    result.GetValue(page),
                    result.GetValue(size),
                    result.GetValue(search),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        rows,
                        new Grid([.. rows.Columns.Select(column => column.Name)], rows.Rows),
                        $"{rows.Rows.Count} of {rows.Total} {rows.Title.ToLowerInvariant()}."
                    );
                return 0;
            }
        );
    }

    private static void PrintFound(Printer output, RecordTypeView type, RecordPage found)
    {
        if (found.Items.Count == 0)
        {
            output.Line(
                found.Total == 0
                    ? $"No {type.Plural.ToLowerInvariant()} found. A word without wildcards is found anywhere in "
                        + "a value; try fewer or shorter words."
                    : $"Page {found.Page} is empty: there are {found.Total} {type.Plural.ToLowerInvariant()} in all."
            );
            return;
        }

        string[] wanted = ["phone", "email", "tax-number"];
        var fields = type.Fields.Where(field => wanted.Contains(field.Kind)).Take(3).ToList();
        var figures = type.Figures.Take(3).ToList();
        output.Table(
            new Grid(
                [
                    "key",
                    type.Title.ToLowerInvariant(),
                    .. fields.Select(field => field.Name),
                    .. figures.Select(figure => figure.Name),
                    "changed",
                ],
                [
                    .. found.Items.Select(record =>
                        (IReadOnlyList<string?>)
                            [
                                record.Key,
                                record.Label
                                    + (record.Retired is { } redirect ? $" (retired, now {redirect.Master})" : ""),
                                .. fields.Select(field => record.Values.GetValueOrDefault(field.Name)),
                                .. figures.Select(figure =>
                                    PlanReport.Figure(figure.Operation, record.Figures.GetValueOrDefault(figure.Name))
                                ),
                                record.Changed?.Split('T')[0],
                            ]
                    ),
                ],
                [.. figures.Select((_, index) => 2 + fields.Count + index)]
            )
        );
        var first = ((found.Page - 1L) * found.Size) + 1;
        output.Line(
            $"{first} to {first + found.Items.Count - 1} of {found.Total} {type.Plural.ToLowerInvariant()}."
                + (first + found.Items.Count - 1 < found.Total ? $" More with --page {found.Page + 1}." : "")
        );
    }

    /// <summary>The shell removed the quotes; words with spaces are quoted again.</summary>
    private static string Quoted(string word)
    {
        if (!word.Contains(' ') || word.Contains('"'))
            return word;
        var colon = word.IndexOf(':', StringComparison.Ordinal);
        var space = word.IndexOf(' ', StringComparison.Ordinal);
        return colon > 0 && colon < space ? $"{word[..(colon + 1)]}\"{word[(colon + 1)..]}\"" : word;
    }
}
