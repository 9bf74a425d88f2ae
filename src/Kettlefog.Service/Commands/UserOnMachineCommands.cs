using System.CommandLine;
using Kettlefog.Core.Naming;
using Kettlefog.Database;
using Kettlefog.Database.Users;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>
/// Users and their secrets, for whoever has the database itself: how the first administrator begins, and how one gets
/// in again who cannot sign in.
/// </summary>
internal static class UserOnMachineCommands
{
    public static Command Add()
    {
        var command = new Command(
            "add-user",
            CommandHelp.WithExamples("Add a user.", "service add-user c.weeks --role operator --database books.db")
        );
        var options = UserOptions.ForNew(command);
        var ifMissing = new Option<bool>("--if-missing") { Description = "Do nothing if the user already exists." };
        command.Add(ifMissing);
        command.Add(ServiceSettings.DatabaseOption);
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var user = await options.ReadNewAsync(result, cancellationToken);
                EnumName.TryRead<Role>(user.Role, out var role);
                if (
                    result.GetValue(ifMissing)
                    && await Users(result).FindAsync(user.Name, cancellationToken) is not null
                )
                    return;
                await Users(result).AddAsync(user.Name, user.FullName, role, user.Password, cancellationToken);
            }
        );
        return command;
    }

    public static Command Change()
    {
        var command = new Command(
            "change-user",
            CommandHelp.WithExamples(
                "Change a user: full name, role, password, or whether the user may sign in.",
                "service change-user c.weeks --role approver --database books.db"
            )
        );
        var options = UserOptions.ForChange(command);
        command.Add(ServiceSettings.DatabaseOption);
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var body = await options.ReadChangeAsync(result, cancellationToken);
                Role? role = EnumName.TryRead<Role>(body.Role ?? "", out var known) ? known : null;
                var change = new UserChange(body.FullName, role, body.IsDisabled, body.Password);
                var user = await Users(result).ChangeAsync(options.Name(result), change, cancellationToken);
                Console.WriteLine(
                    UserOptions.InWords(user.Name, user.FullName, EnumName.Of(user.Role), user.IsDisabled)
                );
            }
        );
        return command;
    }

    public static Command Token()
    {
        var (days, role) = (TokenOptions.Days(), TokenOptions.Role());
        return Issue(
            "token",
            "Create an API token for a user and print it.",
            TokenPurpose.Api,
            result => TimeSpan.FromDays(result.GetValue(days)),
            result => EnumName.TryRead<Role>(result.GetValue(role) ?? "", out var most) ? most : null,
            days,
            role
        );
    }

    public static Command SignInLink() =>
        Issue(
            "sign-in-link",
            "Create a secret for one sign-in within an hour and print it.",
            TokenPurpose.SignInLink,
            _ => TimeSpan.FromHours(1),
            _ => null
        );

    public static TokenStore Tokens(ParseResult result) =>
        OperationalDatabase.OpenTokens(ServiceSettings.Of(result).Database, TimeProvider.System);

    public static UserStore Users(ParseResult result) =>
        OperationalDatabase.OpenUsers(ServiceSettings.Of(result).Database, TimeProvider.System);

    private static Command Issue(
        string verb,
        string description,
        TokenPurpose purpose,
        Func<ParseResult, TimeSpan> lifetime,
        Func<ParseResult, Role?> role,
        params Option[] options
    )
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
        foreach (var option in options)
            command.Add(option);
        command.SetAction(
            async (result, cancellationToken) =>
                Console.WriteLine(
                    await Tokens(result)
                        .IssueAsync(
                            new NewSecret(
                                result.GetRequiredValue(user),
                                purpose,
                                result.GetRequiredValue(label),
                                lifetime(result),
                                role(result)
                            ),
                            cancellationToken
                        )
                )
        );
        return command;
    }
}
