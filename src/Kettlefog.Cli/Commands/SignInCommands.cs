using System.CommandLine;
using Kettlefog.Client;
using Kettlefog.Contracts;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Signs in and out.</summary>
internal static class SignInCommands
{
    public static Command SignIn()
    {
        var name = new Option<string?>("--user") { Description = "Name to sign in with (default: ask)." };
        var stdin = new Option<bool>("--token-stdin")
        {
            Description = "Read an API token from standard input instead of asking for name and password.",
        };
        var command = new Command(
            "sign-in",
            CommandHelp.WithExamples(
                "Sign in, and store the address and a token in the XDG config folder.",
                "sign-in --url http://127.0.0.1:7420 --user c.weeks"
            )
        )
        {
            name,
            stdin,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var address = CommonOptions.AddressOf(result);
                using var http = CommonOptions.Http(address);
                var token = result.GetValue(stdin)
                    ? (await Console.In.ReadLineAsync(cancellationToken) ?? "").Trim()
                    : await IssueAsync(
                        new KettlefogClient(http),
                        new TokenBody($"kettlefog on {Environment.MachineName}", result.GetValue(name)),
                        cancellationToken
                    );
                var session = await new KettlefogClient(http, token).SessionAsync(cancellationToken);
                new SignInFile(address.ToString(), token).Write();
                Console.Out.WriteLine($"Signed in to {address} as {session.Name} ({session.Role}).");
                return 0;
            }
        );
        return command;
    }

    public static Command SignOut()
    {
        var command = new Command(
            "sign-out",
            CommandHelp.WithExamples("Sign out: remove the stored address and token.", "sign-out")
        );
        command.SetAction(_ =>
        {
            Console.Out.WriteLine(SignInFile.Forget() ? "Signed out." : "You were not signed in.");
            return 0;
        });
        return command;
    }

    public static Command WhoAmI() =>
        new Command("whoami", CommandHelp.WithExamples("Show who is signed in.", "whoami")).Calling(
            async (result, client, cancellationToken) =>
            {
                var session = await client.SessionAsync(cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        session,
                        () =>
                            new Grid(
                                ["name", "full_name", "role"],
                                [
                                    [session.Name, session.FullName, session.Role],
                                ]
                            ),
                        page =>
                            page.Line(
                                $"{session.FullName} ({session.Name}), {session.Role}, at "
                                    + $"{CommonOptions.AddressOf(result)}"
                            )
                    );
                return 0;
            }
        );

    /// <summary>Creates a token; asks for the password, and for the name unless it is given.</summary>
    public static async Task<string> IssueAsync(
        KettlefogClient client,
        TokenBody body,
        CancellationToken cancellationToken
    )
    {
        var named = body with { Name = body.Name ?? Ask("User: ", hidden: false) };
        var whole = named with { Password = Ask("Password: ", hidden: true) };
        return (await client.IssueTokenAsync(whole, cancellationToken)).Token;
    }

    private static string Ask(string question, bool hidden)
    {
        if (Console.IsInputRedirected)
            return Console.In.ReadLine()
                ?? throw new UsageException(
                    "Nothing more to read from standard input.",
                    "Use --user and write the password on one line, or use --token-stdin."
                );
        Console.Error.Write(question);
        if (!hidden)
            return Console.ReadLine() ?? "";
        var text = new System.Text.StringBuilder();
        for (
            var key = Console.ReadKey(intercept: true);
            key.Key != ConsoleKey.Enter;
            key = Console.ReadKey(intercept: true)
        )
        {
            if (key.Key == ConsoleKey.Backspace)
                text.Length = Math.Max(0, text.Length - 1);
            else
                text.Append(key.KeyChar);
        }

        Console.Error.WriteLine();
        return text.ToString();
    }
}
