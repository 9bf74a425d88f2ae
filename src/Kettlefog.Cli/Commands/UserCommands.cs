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
                            ["name", "full_name", "role", "added"],
                            [
                                .. users.Select(user =>
                                    (IReadOnlyList<string?>)
                                        [user.Name, user.FullName, user.Role, TextFormat.Date(user.CreatedAt)]
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
        var role = new Option<string>("--role")
        {
            Description = "Role: viewer, operator, approver or administrator.",
            DefaultValueFactory = _ => "operator",
        };
        role.AcceptOnlyFromAmong("viewer", "operator", "approver", "administrator");
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
                var secret = result.GetValue(password)
                    ? (await Console.In.ReadLineAsync(cancellationToken) ?? "").TrimEnd('\r')
                    : null;
                var user = result.GetRequiredValue(name);
                var added = await client.AddUserAsync(
                    new NewUser(user, result.GetValue(fullName) ?? user, result.GetRequiredValue(role), secret),
                    cancellationToken
                );
                Console.Out.WriteLine($"Added {added.Name} ({added.Role}).");
                return 0;
            }
        );
        return new Command("users", "Manage users.") { list, add };
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
                            ["id", "user", "label", "made"],
                            [
                                .. tokens.Select(token =>
                                    (IReadOnlyList<string?>)
                                        [
                                            token.Id.ToString(CultureInfo.InvariantCulture),
                                            token.User,
                                            token.Label,
                                            TextFormat.Date(token.CreatedAt),
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
}
