using System.CommandLine;
using System.Globalization;
using Kettlefog.Cli;
using Kettlefog.Cli.Commands;
using Kettlefog.Client;
using Kettlefog.Terminal;

// Output is also read by programs: it must not depend on the locale.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.InvariantCulture;
CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
if (args is ["service", ..])
    return ServiceProgram.Become(args[1..]);
var parsed = RootCommandFactory.Create().Parse(args);
if (parsed.Errors.Count > 0 && parsed.Action is not { ClearsParseErrors: true })
    return ErrorOutput.Usage(
        string.Join(' ', parsed.Errors.Select(error => error.Message)),
        $"See '{CommandHelp.Path(parsed.CommandResult)} --help'."
    );
try
{
    return await parsed.InvokeAsync(new InvocationConfiguration { EnableDefaultExceptionHandler = false });
}
catch (UsageException usage)
{
    return ErrorOutput.Usage(usage.Message, usage.Hint);
}
catch (ProblemException problem)
{
    return ErrorOutput.Of(problem.Problem);
}
catch (HttpRequestException error)
{
    return ErrorOutput.Failure(
        $"Cannot reach the service: {error.Message}",
        "Check the address (--url or KETTLEFOG_URL), and that the service is running."
    );
}
catch (TaskCanceledException)
{
    return ErrorOutput.Failure(
        "The service did not answer in time.",
        "Check the history before you try again: the request may have been carried out."
    );
}
catch (OperationCanceledException)
{
    return ErrorOutput.Failure("Cancelled. Nothing was changed.", null);
}
catch (Exception error) when (error is IOException or UnauthorizedAccessException)
{
    return ErrorOutput.Failure(error.Message, null);
}
