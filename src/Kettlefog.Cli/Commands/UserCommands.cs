using System.CommandLine;
using System.Globalization;
using Kettlefog.Client;
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
        return new Command("users", "Manage users.") { list, Add(), Change() };
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
                            ["id", "user", "address", "began", "used", "ends"],
                            [
                                .. sessions.Select(session =>
                                    (IReadOnlyList<string?>)
                                        [
                                            session.Id.ToString(CultureInfo.InvariantCulture),
                                            session.User,
                                            session.Address,
                                            TextFormat.Minute(session.CreatedAt),
                                            TextFormat.Minute(session.LastSeenAt),
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
                            ["id", "user", "label", "role", "made", "expires", "used"],
                            [
                                .. tokens.Select(token =>
                                    (IReadOnlyList<string?>)
                                        [
                                            token.Id.ToString(CultureInfo.InvariantCulture),
                                            token.User,
                                            token.Label,
                                            token.Role,
                                            TextFormat.Date(token.CreatedAt),
                                            DateOf(token.ExpiresAt),
                                            token.LastUsedAt is { } used ? TextFormat.Minute(used) : null,
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
        return new Command("tokens", "Manage API tokens.") { list, CreateToken(), revoke };
    }

    private static Command CreateToken()
    {
        var label = new Option<string>("--label") { Description = "What the token is for.", Required = true };
        var user = new Option<string?>("--user") { Description = "Name to sign in with (default: ask)." };
        var (days, role) = (TokenOptions.Days(), TokenOptions.Role());
        var command = new Command(
            "create",
            CommandHelp.WithExamples(
                "Create an API token with your password, and print it.",
                "tokens create --label nightly --role viewer --days 90"
            )
        )
        {
            label,
            user,
            days,
            role,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                using var http = CommonOptions.Http(CommonOptions.AddressOf(result));
                var body = new TokenBody(
                    result.GetRequiredValue(label),
                    result.GetValue(user),
                    Days: result.GetValue(days),
                    Role: result.GetValue(role)
                );
                Console.Out.WriteLine(
                    await SignInCommands.IssueAsync(new KettlefogClient(http), body, cancellationToken)
                );
                return 0;
            }
        );
        return command;
    }

    private static Command Add()
    {
        var command = new Command(
            "add",
            CommandHelp.WithExamples(
                "Add a user (administrators only).",
                "users add n.quill --full-name 'Nessa Quill' --role operator --password-stdin"
            )
        );
        var options = UserOptions.ForNew(command);
        return command.Calling(
            async (result, client, cancellationToken) =>
            {
                var added = await client.AddUserAsync(
                    await options.ReadNewAsync(result, cancellationToken),
                    cancellationToken
                );
                Console.Out.WriteLine($"Added {added.Name} ({added.Role}).");
                return 0;
            }
        );
    }

    private static Command Change()
    {
        var command = new Command(
            "change",
            CommandHelp.WithExamples(
                "Change a user: full name, role, password, or whether the user may sign in (administrators only).",
                "users change c.weeks --role approver"
            )
        );
        var options = UserOptions.ForChange(command);
        return command.Calling(
            async (result, client, cancellationToken) =>
            {
                var change = await options.ReadChangeAsync(result, cancellationToken);
                var user = await client.ChangeUserAsync(options.Name(result), change, cancellationToken);
                Console.Out.WriteLine(
                    UserOptions.InWords(user.Name, user.FullName, user.Role, user.DisabledAt is not null)
                );
                return 0;
            }
        );
    }

    private static string? DateOf(DateTimeOffset? at) => at is { } known ? TextFormat.Date(known) : null;
}
