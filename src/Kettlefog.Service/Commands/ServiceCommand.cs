using System.CommandLine;
using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Naming;
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
            AddUser(),
            Issue("token", "Create an API token for a user and print it.", TokenPurpose.Api, null),
            Issue(
                "sign-in-link",
                "Create a secret for one sign-in within an hour and print it.",
                TokenPurpose.SignInLink,
                TimeSpan.FromHours(1)
            ),
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
            ServiceSettings.DatabaseOption,
            ServiceSettings.MapOption,
            ServiceSettings.HostOption,
            ServiceSettings.PortOption,
            ServiceSettings.BackupsOption,
            admin,
        };
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
                if (await Users(result).FindAsync(user, cancellationToken) is null)
                    await Users(result).AddAsync(user, user, Role.Administrator, null, cancellationToken);
                var database = await OperationalDatabase.OpenAsync(
                    file,
                    document,
                    settings.BusyTimeout,
                    TimeProvider.System,
                    cancellationToken
                );
                var link = await Users(result)
                    .IssueAsync(user, TokenPurpose.SignInLink, "start", TimeSpan.FromHours(1), cancellationToken);
                await ServiceHost.RunAsync(database, settings.Host, settings.Port, cancellationToken, address =>
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
        )
        {
            ServiceSettings.DatabaseOption,
            ServiceSettings.MapOption,
            ServiceSettings.HostOption,
            ServiceSettings.PortOption,
            ServiceSettings.BusyTimeoutOption,
            ServiceSettings.BackupsOption,
        };
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
                await ServiceHost.RunAsync(database, settings.Host, settings.Port, cancellationToken);
                return 0;
            }
        );
        return command;
    }

    private static Command AddUser()
    {
        var name = new Argument<string>("name") { Description = "Name to sign in with." };
        var fullName = new Option<string?>("--full-name") { Description = "Full name." };
        var role = new Option<string>("--role")
        {
            Description = "Role: viewer, operator, approver or administrator.",
            DefaultValueFactory = _ => "operator",
        };
        role.AcceptOnlyFromAmong([.. EnumName.All<Role>()]);
        var password = new Option<bool>("--password-stdin")
        {
            Description =
                "Read the password from standard input; without a password the user signs in by token or link only.",
        };
        var ifMissing = new Option<bool>("--if-missing") { Description = "Do nothing if the user already exists." };
        var command = new Command(
            "add-user",
            CommandHelp.WithExamples("Add a user.", "service add-user c.weeks --role operator --database books.db")
        )
        {
            name,
            fullName,
            role,
            password,
            ifMissing,
            ServiceSettings.DatabaseOption,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                EnumName.TryRead<Role>(result.GetRequiredValue(role), out var parsed);
                var secret = result.GetValue(password)
                    ? (await Console.In.ReadLineAsync(cancellationToken) ?? "").TrimEnd('\r')
                    : null;
                var user = result.GetRequiredValue(name);
                if (result.GetValue(ifMissing) && await Users(result).FindAsync(user, cancellationToken) is not null)
                    return;
                await Users(result)
                    .AddAsync(user, result.GetValue(fullName) ?? user, parsed, secret, cancellationToken);
            }
        );
        return command;
    }

    private static Command Issue(string verb, string description, TokenPurpose purpose, TimeSpan? lifetime)
    {
        var user = new Option<string>("--user") { Description = "User of the secret.", Required = true };
        var label = new Option<string>("--label")
        {
            Description = "Label of the secret.",
            DefaultValueFactory = _ => "created on the server",
        };
        var command = new Command(
            verb,
            CommandHelp.WithExamples(description, $"service {verb} --user c.weeks --database books.db")
        )
        {
            user,
            label,
            ServiceSettings.DatabaseOption,
        };
        command.SetAction(
            async (result, cancellationToken) =>
                Console.WriteLine(
                    await Users(result)
                        .IssueAsync(
                            result.GetRequiredValue(user),
                            purpose,
                            result.GetRequiredValue(label),
                            lifetime,
                            cancellationToken
                        )
                )
        );
        return command;
    }

    private static UserStore Users(ParseResult result) =>
        OperationalDatabase.OpenUsers(ServiceSettings.Of(result).Database, TimeProvider.System);

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
