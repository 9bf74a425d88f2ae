using System.CommandLine;
using System.Globalization;
using Kettlefog.Database;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>Creates, upgrades, backs up, restores and removes Kettlefog's tables.</summary>
internal static class OwnTableCommands
{
    public static Command Init()
    {
        var command = new Command(
            "init",
            CommandHelp.WithExamples(
                "Create Kettlefog's tables beside the operational ones, or upgrade them after a backup.",
                "service init --database books.db"
            )
        )
        {
            ServiceSettings.DatabaseOption,
            ServiceSettings.BackupsOption,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var settings = ServiceSettings.Of(result);
                if (
                    await OwnTablesMaintenance.InitialiseAsync(
                        settings.Database,
                        settings.Backups,
                        cancellationToken
                    ) is
                    { } backup
                )
                    Console.WriteLine($"Kettlefog's tables were upgraded. A backup is in {backup}.");
            }
        );
        return command;
    }

    public static Command BackUp()
    {
        var output = new Option<string>("--out")
        {
            Description = "File to write; it must not exist yet.",
            Required = true,
        };
        var command = new Command(
            "backup",
            CommandHelp.WithExamples(
                "Back up Kettlefog's tables: history, journal, users, decisions, rules.",
                "service backup --database books.db --out kettlefog.jsonl.gz"
            )
        )
        {
            ServiceSettings.DatabaseOption,
            output,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var file = result.GetRequiredValue(output);
                var rows = await OwnTablesMaintenance.BackUpAsync(
                    ServiceSettings.Of(result).Database,
                    file,
                    cancellationToken
                );
                Console.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{rows} rows written to {file}. Back up the operational database as usual."
                    )
                );
            }
        );
        return command;
    }

    public static Command Restore()
    {
        var input = new Option<string>("--from") { Description = "The backup.", Required = true };
        var command = new Command(
            "restore",
            CommandHelp.WithExamples(
                "Restore Kettlefog's tables from a backup, in a database that has none.",
                "service restore --database books.db --from kettlefog.jsonl.gz"
            )
        )
        {
            ServiceSettings.DatabaseOption,
            input,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var rows = await OwnTablesMaintenance.RestoreAsync(
                    ServiceSettings.Of(result).Database,
                    result.GetRequiredValue(input),
                    cancellationToken
                );
                Console.WriteLine(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{rows} rows restored. Merges that the operational database does not contain, or that "
                            + $"it has lost since, cannot be reversed."
                    )
                );
            }
        );
        return command;
    }

    public static Command Uninstall()
    {
        var yes = new Option<bool>("--yes")
        {
            Description = "Remove the tables; without it, only say what would be removed.",
        };
        var command = new Command(
            "uninstall",
            CommandHelp.WithExamples(
                "Remove Kettlefog's tables from the operational database, after a backup. Merges remain, "
                    + "and can no longer be reversed.",
                "service uninstall --database books.db --yes"
            )
        )
        {
            ServiceSettings.DatabaseOption,
            ServiceSettings.BackupsOption,
            yes,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var settings = ServiceSettings.Of(result);
                if (!result.GetValue(yes))
                    throw new UsageException(
                        "This would remove history, journal, users and queue from "
                            + $"{UninitialisedDatabase.DisplayNameOf(settings.Database)}: merges could no longer be "
                            + "reversed.",
                        "Stop the service, then repeat the command with '--yes'. A backup is written first."
                    );
                var backup = await OwnTablesMaintenance.UninstallAsync(
                    settings.Database,
                    settings.Backups,
                    cancellationToken
                );
                Console.WriteLine(
                    "Kettlefog's tables were removed from "
                        + $"{UninitialisedDatabase.DisplayNameOf(settings.Database)}. A backup is in {backup}; "
                        + "'kettlefog service restore' restores it."
                );
            }
        );
        return command;
    }
}
