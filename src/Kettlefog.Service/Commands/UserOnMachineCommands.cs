using System.CommandLine;
using Kettlefog.Core.Naming;
using Kettlefog.Database;
using Kettlefog.Database.Users;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>
/// Users and their secrets, for whoever has the database itself: how the first administrator begins, and how one gets
/// in again who cannot sign in any more.
/// </summary>
internal static class UserOnMachineCommands
{
    public static Command Add()
    {
        var name = new Argument<string>("name") { Description = "Name to sign in with." };
        var fullName = new Option<string?>("--full-name") { Description = "Full name." };
        var role = Role();
        role.DefaultValueFactory = _ => "operator";
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
                EnumName.TryRead<Role>(result.GetRequiredValue(role)!, out var parsed);
                var secret = await PasswordAsync(result.GetValue(password), cancellationToken);
                var user = result.GetRequiredValue(name);
                if (result.GetValue(ifMissing) && await Users(result).FindAsync(user, cancellationToken) is not null)
                    return;
                await Users(result)
                    .AddAsync(user, result.GetValue(fullName) ?? user, parsed, secret, cancellationToken);
            }
        );
        return command;
    }

    public static Command Change()
    {
        var name = new Argument<string>("name") { Description = "Name of the user." };
        var fullName = new Option<string?>("--full-name") { Description = "New full name." };
        var role = Role();
        var password = new Option<bool>("--password-stdin")
        {
            Description = "Read a new password from standard input; the user's sessions end.",
        };
        var disable = new Option<bool>("--disable")
        {
            Description = "Let the user no longer sign in, neither with a password nor by token or link; sessions end.",
        };
        var enable = new Option<bool>("--enable") { Description = "Let the user sign in again." };
        var command = new Command(
            "change-user",
            CommandHelp.WithExamples(
                "Change a user: full name, role, password, or whether the user may sign in.",
                "service change-user c.weeks --role approver --database books.db"
            )
        )
        {
            name,
            fullName,
            role,
            password,
            disable,
            enable,
            ServiceSettings.DatabaseOption,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                if (result.GetValue(disable) && result.GetValue(enable))
                    throw new UsageException(
                        "A user cannot be both disabled and enabled.",
                        "Use '--disable' or '--enable'."
                    );
                Role? parsed = EnumName.TryRead<Role>(result.GetValue(role) ?? "", out var known) ? known : null;
                var change = new UserChange(
                    result.GetValue(fullName),
                    parsed,
                    result.GetValue(disable) ? true
                        : result.GetValue(enable) ? false
                        : null,
                    await PasswordAsync(result.GetValue(password), cancellationToken)
                );
                if (change == new UserChange())
                    throw new UsageException(
                        "There is nothing to change.",
                        "Use '--role', '--full-name', '--password-stdin', '--disable' or '--enable'."
                    );
                var user = await Users(result).ChangeAsync(result.GetRequiredValue(name), change, cancellationToken);
                Console.WriteLine(
                    $"{user.Name}: {user.FullName}, {EnumName.Of(user.Role)}, "
                        + $"{(user.IsDisabled ? "disabled" : "enabled")}."
                );
            }
        );
        return command;
    }

    public static Command Token()
    {
        var days = new Option<int>("--days")
        {
            Description = "Days until it expires, at most 3650.",
            DefaultValueFactory = _ => 365,
        };
        days.Validators.Add(result =>
        {
            if (result.GetValueOrDefault<int>() is < 1 or > 3650)
                result.AddError("'--days' is 1 to 3650.");
        });
        return Issue(
            "token",
            "Create an API token for a user and print it.",
            TokenPurpose.Api,
            result => TimeSpan.FromDays(result.GetValue(days)),
            days
        );
    }

    public static Command SignInLink() =>
        Issue(
            "sign-in-link",
            "Create a secret for one sign-in within an hour and print it.",
            TokenPurpose.SignInLink,
            _ => TimeSpan.FromHours(1)
        );

    public static TokenStore Tokens(ParseResult result) =>
        OperationalDatabase.OpenTokens(ServiceSettings.Of(result).Database, TimeProvider.System);

    public static UserStore Users(ParseResult result) =>
        OperationalDatabase.OpenUsers(ServiceSettings.Of(result).Database, TimeProvider.System);

    private static Option<string?> Role()
    {
        var role = new Option<string?>("--role") { Description = "Role: viewer, operator, approver or administrator." };
        role.AcceptOnlyFromAmong([.. EnumName.All<Role>()]);
        return role;
    }

    private static async Task<string?> PasswordAsync(bool isRead, CancellationToken cancellationToken) =>
        isRead ? (await Console.In.ReadLineAsync(cancellationToken) ?? "").TrimEnd('\r') : null;

    private static Command Issue(
        string verb,
        string description,
        TokenPurpose purpose,
        Func<ParseResult, TimeSpan> lifetime,
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
                            result.GetRequiredValue(user),
                            purpose,
                            result.GetRequiredValue(label),
                            lifetime(result),
                            isSignIn: false,
                            cancellationToken
                        )
                )
        );
        return command;
    }
}
