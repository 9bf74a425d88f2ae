using System.CommandLine;
using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database;
using Kettlefog.Database.Users;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>The command line of the service, for administration on the machine itself.</summary>
internal static class ServiceCommand
{
    public static RootCommand Create() =>
        new(CommandHelp.WithExamples("The Kettlefog service and its administration on this machine.", "service setup"))
        {
            ServiceSettings.ConfigOption,
            SetupCommand.Create(),
            Start(),
            Serve(),
            OwnTableCommands.Init(),
            OwnTableCommands.BackUp(),
            OwnTableCommands.Restore(),
            OwnTableCommands.Uninstall(),
            SettingsCommand.Create(),
            CheckMapCommand.Create(),
            DraftCommand.Create(),
            TryCommands.Plan(),
            TryCommands.Rehearse(),
            FindCommand.Create(),
            CheckProofCommand.Create(),
            UserOnMachineCommands.Add(),
            UserOnMachineCommands.Change(),
            UserOnMachineCommands.Token(),
            UserOnMachineCommands.SignInLink(),
        };

    private static Command Start()
    {
        var admin = new Option<string>("--user")
        {
            Description = "Administrator to add if there is no such user yet.",
            DefaultValueFactory = _ => "admin",
        };
        var command = new Command(
            "start",
            CommandHelp.WithExamples(
                "Set up a database with a map and serve it: create Kettlefog's tables, add an "
                    + "administrator, and print how to sign in.",
                "service start --database books.db --map books.map.yaml"
            )
        )
        {
            admin,
        };
        foreach (var option in ServiceSettings.OfServing)
            command.Add(option);
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var settings = ServiceSettings.Of(result);
                var file = settings.Database;
                var document = ReadMap(settings.Map);

                // Nothing is created in a database that the map does not fit.
                (await UninitialisedDatabase.CheckMapAsync(file, document, cancellationToken)).RequireMap();
                await OwnTablesMaintenance.InitialiseAsync(file, settings.Backups, cancellationToken);
                var user = result.GetRequiredValue(admin);
                if (await UserOnMachineCommands.Users(result).FindAsync(user, cancellationToken) is null)
                    await UserOnMachineCommands
                        .Users(result)
                        .AddAsync(user, user, Role.Administrator, null, cancellationToken);
                var database = await OperationalDatabase.OpenAsync(
                    file,
                    document,
                    settings.BusyTimeout,
                    TimeProvider.System,
                    cancellationToken
                );
                var link = await UserOnMachineCommands
                    .Tokens(result)
                    .IssueAsync(
                        new NewSecret(user, TokenPurpose.SignInLink, "start", TimeSpan.FromHours(1)),
                        cancellationToken
                    );
                await ServiceHost.RunAsync(database, settings, cancellationToken, address =>
                {
                    Console.WriteLine($"  In a browser (once, within an hour):  {address}/sign-in#{link}");
                    Console.WriteLine(
                        $"  On the command line:                  kettlefog service token --user {user} "
                            + $"--database {file} | kettlefog sign-in --url {address} --token-stdin"
                    );
                    Console.WriteLine(
                        $"  Then, for example:                    kettlefog scan {document.Map.RecordTypes[0].Name}"
                    );
                });
                return 0;
            }
        );
        return command;
    }

    private static Command Serve()
    {
        var command = new Command(
            "serve",
            CommandHelp.WithExamples(
                "Serve the API and the console; upgrade Kettlefog's tables first, if they are of an "
                    + "earlier version.",
                "service serve --database books.db --map books.map.yaml"
            )
        );
        foreach (var option in ServiceSettings.OfServing)
            command.Add(option);
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var settings = ServiceSettings.Of(result);
                var document = ReadMap(settings.Map);
                if (
                    await OwnTablesMaintenance.UpgradeAsync(settings.Database, settings.Backups, cancellationToken) is
                    { } backup
                )
                    await Console.Error.WriteLineAsync($"Kettlefog's tables were upgraded. A backup is in {backup}.");
                var database = await OperationalDatabase.OpenAsync(
                    settings.Database,
                    document,
                    settings.BusyTimeout,
                    TimeProvider.System,
                    cancellationToken
                );
                await ServiceHost.RunAsync(database, settings, cancellationToken);
                return 0;
            }
        );
        return command;
    }

    internal static MapDocument ReadMap(string file)
    {
        try
        {
            return MapReader.Read(File.ReadAllText(file), Path.GetFileName(file));
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new KettlefogException(
                ErrorCode.InvalidMap,
                $"The record map {file} cannot be read: {error.Message}",
                "Check the path and the rights of the file.",
                inner: error
            );
        }
    }
}
