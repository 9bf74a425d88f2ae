using System.CommandLine;
using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Users and their tokens.</summary>
internal static class UserCommands
{
    public static Command Users()
    {
        var list = new Command(
            "list",
            CommandHelp.WithExamples("List users (administrators only).", "users list")
        ).Calling(
            async (result, client, cancellationToken) =>
            {
                var users = await client.UsersAsync(cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        users,
                        new Grid(
                            ["name", "full_name", "role", "state", "added", "last_sign_in"],
                            [
                                .. users.Select(user =>
                                    (IReadOnlyList<string?>)
                                        [
                                            user.Name,
                                            user.FullName,
                                            user.Role,
                                            user.DisabledAt is null ? "enabled" : "disabled",
                                            TextFormat.Date(user.CreatedAt),
                                            DateOf(user.LastSignInAt),
                                        ]
                                ),
                            ]
                        )
                    );
                return 0;
            }
        );
        var name = new Argument<string>("name")
        {
            Description = "Name to sign in with: lower-case letters, digits, dots and hyphens.",
        };
        var fullName = new Option<string?>("--full-name") { Description = "Full name." };
        var role = Role();
        role.DefaultValueFactory = _ => "operator";
        var password = new Option<bool>("--password-stdin")
        {
            Description =
                "Read the password from standard input; without a password the user signs in by link or token only.",
        };
        var add = new Command(
            "add",
            CommandHelp.WithExamples(
                "Add a user (administrators only).",
                "users add n.quill --full-name 'Nessa Quill' --role operator --password-stdin"
            )
        )
        {
            name,
            fullName,
            role,
            password,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var secret = await PasswordAsync(result.GetValue(password), cancellationToken);
                var user = result.GetRequiredValue(name);
                var added = await client.AddUserAsync(
                    new NewUser(user, result.GetValue(fullName) ?? user, result.GetRequiredValue(role)!, secret),
                    cancellationToken
                );
                Console.Out.WriteLine($"Added {added.Name} ({added.Role}).");
                return 0;
            }
        );
        return new Command("users", "Manage users.") { list, add, Change() };
    }

    public static Command Sessions()
    {
        var list = new Command(
            "list",
            CommandHelp.WithExamples(
                "List your sessions of the console; administrators see all sessions.",
                "sessions list"
            )
        ).Calling(
            async (result, client, cancellationToken) =>
            {
                var sessions = await client.SessionsAsync(cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        sessions,
                        new Grid(
                            ["id", "user", "address", "began", "ends"],
                            [
                                .. sessions.Select(session =>
                                    (IReadOnlyList<string?>)
                                        [
                                            session.Id.ToString(CultureInfo.InvariantCulture),
                                            session.User,
                                            session.Address,
                                            TextFormat.Minute(session.CreatedAt),
                                            TextFormat.Minute(session.ExpiresAt),
                                        ]
                                ),
                            ]
                        )
                    );
                return 0;
            }
        );
        var id = new Argument<long?>("id")
        {
            Description = "Number of the session, as in 'sessions list'.",
            Arity = ArgumentArity.ZeroOrOne,
        };
        var user = new Option<string?>("--user")
        {
            Description = "End all sessions of this user (administrators only).",
        };
        var end = new Command(
            "end",
            CommandHelp.WithExamples("End a session of the console, or all of a user.", "sessions end --user c.weeks")
        )
        {
            id,
            user,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                switch (result.GetValue(id), result.GetValue(user))
                {
                    case ({ } number, null):
                        await client.EndSessionAsync(number, cancellationToken);
                        Console.Out.WriteLine($"Session {number} is ended.");
                        return 0;
                    case (null, { } name):
                        var ended = await client.EndSessionsAsync(name, cancellationToken);
                        Console.Out.WriteLine(
                            $"{TextFormat.Counted(ended.Count, "session", "sessions")} of {name} ended."
                        );
                        return 0;
                    default:
                        throw new UsageException(
                            "It is not clear which session to end.",
                            "Name the number of a session, or '--user' and a name."
                        );
                }
            }
        );
        return new Command("sessions", "Manage sessions of the console.") { list, end };
    }

    public static Command Tokens()
    {
        var list = new Command(
            "list",
            CommandHelp.WithExamples("List your API tokens; administrators see all tokens.", "tokens list")
        ).Calling(
            async (result, client, cancellationToken) =>
            {
                var tokens = await client.TokensAsync(cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        tokens,
                        new Grid(
                            ["id", "user", "label", "made", "expires"],
                            [
                                .. tokens.Select(token =>
                                    (IReadOnlyList<string?>)
                                        [
                                            token.Id.ToString(CultureInfo.InvariantCulture),
                                            token.User,
                                            token.Label,
                                            TextFormat.Date(token.CreatedAt),
                                            DateOf(token.ExpiresAt),
                                        ]
                                ),
                            ]
                        )
                    );
                return 0;
            }
        );
        var id = new Argument<long>("id") { Description = "Number of the token, as in 'tokens list'." };
        var revoke = new Command("revoke", CommandHelp.WithExamples("Revoke an API token.", "tokens revoke 3"))
        {
            id,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                await client.RevokeTokenAsync(result.GetRequiredValue(id), cancellationToken);
                Console.Out.WriteLine($"Token {result.GetRequiredValue(id)} is revoked.");
                return 0;
            }
        );
        return new Command("tokens", "Manage API tokens.") { list, revoke };
    }

    private static Command Change()
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
        return new Command(
            "change",
            CommandHelp.WithExamples(
                "Change a user: full name, role, password, or whether the user may sign in (administrators only).",
                "users change c.weeks --role approver"
            )
        )
        {
            name,
            fullName,
            role,
            password,
            disable,
            enable,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                if (result.GetValue(disable) && result.GetValue(enable))
                    throw new UsageException(
                        "A user cannot be both disabled and enabled.",
                        "Use '--disable' or '--enable'."
                    );
                var change = new UserChangeBody(
                    result.GetValue(fullName),
                    result.GetValue(role),
                    result.GetValue(disable) ? true
                        : result.GetValue(enable) ? false
                        : null,
                    await PasswordAsync(result.GetValue(password), cancellationToken)
                );
                if (change == new UserChangeBody())
                    throw new UsageException(
                        "There is nothing to change.",
                        "Use '--role', '--full-name', '--password-stdin', '--disable' or '--enable'."
                    );
                var user = await client.ChangeUserAsync(result.GetRequiredValue(name), change, cancellationToken);
                Console.Out.WriteLine(
                    $"{user.Name}: {user.FullName}, {user.Role}, "
                        + $"{(user.DisabledAt is null ? "enabled" : "disabled")}."
                );
                return 0;
            }
        );
    }

    private static Option<string?> Role()
    {
        var role = new Option<string?>("--role") { Description = "Role: viewer, operator, approver or administrator." };
        role.AcceptOnlyFromAmong("viewer", "operator", "approver", "administrator");
        return role;
    }

    private static async Task<string?> PasswordAsync(bool isRead, CancellationToken cancellationToken) =>
        isRead ? (await Console.In.ReadLineAsync(cancellationToken) ?? "").TrimEnd('\r') : null;

    private static string? DateOf(DateTimeOffset? at) => at is { } known ? TextFormat.Date(known) : null;
}
