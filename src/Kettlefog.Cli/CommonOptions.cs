using System.CommandLine;
using Kettlefog.Client;
using Kettlefog.Terminal;

namespace Kettlefog.Cli;

/// <summary>The options of every command, and what is built from them.</summary>
internal static class CommonOptions
{
    public static readonly Option<string?> Url = new("--url")
    {
        Description = "Address of the service (default: KETTLEFOG_URL, then the last sign-in).",
        Recursive = true,
    };

    public static readonly Option<string?> Token = new("--token")
    {
        Description = "API token (default: KETTLEFOG_TOKEN, then the last sign-in).",
        Recursive = true,
    };

    public static readonly Option<OutputFormat> Format = Recursive(Printer.FormatOption());

    private static Option<OutputFormat> Recursive(Option<OutputFormat> option)
    {
        option.Recursive = true;
        return option;
    }

    /// <summary>A command that calls the service.</summary>
    public static Command Calling(
        this Command command,
        Func<ParseResult, KettlefogClient, CancellationToken, Task<int>> action
    )
    {
        command.SetAction(
            async (result, cancellationToken) =>
            {
                using var http = Http(AddressOf(result));
                return await action(result, new KettlefogClient(http, TokenOf(result)), cancellationToken);
            }
        );
        return command;
    }

    /// <summary>The address of the service.</summary>
    public static Uri AddressOf(ParseResult result)
    {
        var text = result.GetValue(Url)
            ?? Variable("KETTLEFOG_URL")
            ?? SignInFile.Read()?.Url
            ?? throw new UsageException(
                "No service address was given.",
                "Use --url or KETTLEFOG_URL, or sign in with 'kettlefog sign-in'."
            );
        return
            Uri.TryCreate(text.TrimEnd('/') + "/", UriKind.Absolute, out var address)
            && address.Scheme is "http" or "https"
            ? address
            : throw new UsageException(
                $"'{text}' is not the address of a service.",
                "Write it as in http://127.0.0.1:7420."
            );
    }

    /// <summary>An HTTP client for an address.</summary>
    public static HttpClient Http(Uri address) => new() { BaseAddress = address, Timeout = TimeSpan.FromMinutes(10) };

    /// <summary>The printer.</summary>
    public static Printer PrinterOf(ParseResult result) => new(result.GetValue(Format));

    private static string TokenOf(ParseResult result)
    {
        var given = result.GetValue(Token) ?? Variable("KETTLEFOG_TOKEN");
        if (given is not null)
            return given;
        var kept = SignInFile.Read();

        // The stored token is for the service that issued it, and is not sent to any other.
        if (kept is not null && new Uri(kept.Url.TrimEnd('/') + "/") == AddressOf(result))
            return kept.Token;
        throw new UsageException(
            "You are not signed in.",
            "Sign in with 'kettlefog sign-in', or use --token or KETTLEFOG_TOKEN."
        );
    }

    private static string? Variable(string name) =>
        Environment.GetEnvironmentVariable(name) is { Length: > 0 } value ? value : null;
}
