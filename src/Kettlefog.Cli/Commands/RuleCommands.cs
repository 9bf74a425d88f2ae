using System.CommandLine;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Match rules.</summary>
internal static class RuleCommands
{
    public static Command Rules() =>
        new(
            "rules",
            CommandHelp.WithExamples(
                "Show, save and try match rules.",
                "rules list vendor",
                "rules try vendor rule.yaml",
                "rules save vendor same_tax rule.yaml --note 'agreed with audit'"
            )
        )
        {
            List(),
            Show(),
            Versions(),
            Save(),
            Remove(),
            RuleTrialCommands.Try(),
            RuleTrialCommands.Evaluate(),
            LearningCommand.Create(),
        };

    private static Command List()
    {
        var type = RecordCommands.TypeArgument();
        return new Command(
            "list",
            CommandHelp.WithExamples("List the match rules of a record type that are in force.", "rules list vendor")
        )
        {
            type,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var rules = await client.RulesAsync(result.GetRequiredValue(type), cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        rules,
                        () =>
                            new Grid(
                                ["name", "title", "version", "review", "automatic", "in_words"],
                                [
                                    .. rules.Select(rule =>
                                        (IReadOnlyList<string?>)
                                            [
                                                rule.Name,
                                                rule.Title,
                                                $"{rule.Version}",
                                                TextFormat.Number(rule.Review),
                                                rule.Automatic is { } automatic ? TextFormat.Number(automatic) : null,
                                                string.Join(' ', rule.Description),
                                            ]
                                    ),
                                ]
                            ),
                        page =>
                        {
                            foreach (var rule in rules)
                            {
                                var saved = rule.Version > 0 ? $" (version {rule.Version}, saved by {rule.Actor})" : "";
                                page.Heading(
                                    rule.Faults is null
                                        ? $"{rule.Name}: {rule.Title}{saved}"
                                        : $"{rule.Name}: broken{saved}"
                                );
                                foreach (var line in rule.Description)
                                    page.Line(line);
                            }
                        }
                    );
                return 0;
            }
        );
    }

    private static Command Show()
    {
        var type = RecordCommands.TypeArgument();
        var name = NameArgument();
        return new Command(
            "show",
            CommandHelp.WithExamples(
                "Print a rule in the form used by 'rules try' and 'rules save'.",
                "rules show vendor ready"
            )
        )
        {
            type,
            name,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var (types, wanted) = (result.GetRequiredValue(type), result.GetRequiredValue(name));
                var rules = await client.RulesAsync(types, cancellationToken);
                var rule = rules.FirstOrDefault(each => each.Name == wanted)
                    ?? throw new UsageException(
                        $"There is no rule '{wanted}' for '{types}'.",
                        $"The rules are: {string.Join(", ", rules.Select(each => each.Name))}."
                    );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        rule,
                        () =>
                            new Grid(
                                ["name", "version", "body"],
                                [
                                    [rule.Name, $"{rule.Version}", rule.Body],
                                ]
                            ),
                        page => page.Line(rule.Body.TrimEnd())
                    );
                return 0;
            }
        );
    }

    private static Command Versions()
    {
        var type = RecordCommands.TypeArgument();
        var name = NameArgument();
        return new Command(
            "versions",
            CommandHelp.WithExamples(
                "List all saved versions of a rule, latest first.",
                "rules versions vendor same_tax"
            )
        )
        {
            type,
            name,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var versions = await client.RuleVersionsAsync(
                    result.GetRequiredValue(type),
                    result.GetRequiredValue(name),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        versions,
                        new Grid(
                            ["version", "actor", "at", "note", "rule"],
                            [
                                .. versions.Select(version =>
                                    (IReadOnlyList<string?>)
                                        [
                                            $"{version.Version}",
                                            version.Actor,
                                            version.At is { } at ? TextFormat.Minute(at) : null,
                                            version.Note,
                                            version.Body ?? "(removed)",
                                        ]
                                ),
                            ]
                        ),
                        versions.Count == 0 ? "No saved versions; the rule comes from the map, if it exists." : null
                    );
                return 0;
            }
        );
    }

    private static Command Save()
    {
        var type = RecordCommands.TypeArgument();
        var name = NameArgument();
        var file = FileArgument();
        var note = new Option<string>("--note")
        {
            Description = "Note, stored with the version.",
            DefaultValueFactory = _ => "",
        };
        return new Command(
            "save",
            CommandHelp.WithExamples(
                "Save a rule as a new version; earlier versions are kept.",
                "rules save vendor same_tax rule.yaml --note 'agreed with audit'"
            )
        )
        {
            type,
            name,
            file,
            note,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var rule = await client.SaveRuleAsync(
                    result.GetRequiredValue(type),
                    result.GetRequiredValue(name),
                    new RuleBody(Read(result.GetRequiredValue(file)), result.GetRequiredValue(note)),
                    cancellationToken
                );
                var others = (await client.RulesAsync(result.GetRequiredValue(type), cancellationToken))
                    .Where(other => other.Name != rule.Name && other.Faults is null)
                    .Select(other => other.Name)
                    .ToList();
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        rule,
                        () =>
                            new Grid(
                                ["name", "version"],
                                [
                                    [rule.Name, $"{rule.Version}"],
                                ]
                            ),
                        page =>
                        {
                            page.Line($"Saved '{rule.Name}' as version {rule.Version}. The next scan uses it.");
                            foreach (var line in rule.Description)
                                page.Line(line);
                            if (others.Count > 0)
                                page.Line(
                                    $"Also in force: {string.Join(", ", others)}. 'kettlefog rules remove "
                                        + $"{result.GetRequiredValue(type)} NAME' switches one off."
                                );
                        }
                    );
                return 0;
            }
        );
    }

    private static Command Remove()
    {
        var type = RecordCommands.TypeArgument();
        var name = NameArgument();
        var note = new Option<string>("--note") { Description = "Why.", DefaultValueFactory = _ => "" };
        return new Command(
            "remove",
            CommandHelp.WithExamples("Remove a rule; its versions are kept.", "rules remove vendor same_tax")
        )
        {
            type,
            name,
            note,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                await client.RemoveRuleAsync(
                    result.GetRequiredValue(type),
                    result.GetRequiredValue(name),
                    result.GetRequiredValue(note),
                    cancellationToken
                );
                CommonOptions
                    .PrinterOf(result)
                    .Line($"Removed '{result.GetRequiredValue(name)}'. If no rule is left, the built-in rule applies.");
                return 0;
            }
        );
    }

    private static Argument<string> NameArgument() => new("name") { Description = "Name of the rule." };

    internal static Argument<FileInfo> FileArgument() =>
        new("file")
        {
            Description = "File with the rule, in YAML or JSON, as under its name in a map; '-' for standard input.",
        };

    internal static string Read(FileInfo file)
    {
        try
        {
            return file.Name == "-" ? Console.In.ReadToEnd() : File.ReadAllText(file.FullName);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new UsageException(
                $"{file.Name} cannot be read: {error.Message}",
                "Check the path and the rights of the file."
            );
        }
    }
}
