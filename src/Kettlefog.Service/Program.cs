using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Service.Commands;
using Kettlefog.Terminal;

// Output is also read by programs: it must not depend on the locale.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.InvariantCulture;
CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var parsed = ServiceCommand.Create().Parse(args);
if (parsed.Errors.Count > 0 && parsed.Action is not { ClearsParseErrors: true })
    return ErrorOutput.Usage(
        string.Join(' ', parsed.Errors.Select(error => error.Message)),
        "See 'kettlefog service --help', or '--help' after a command."
    );
try
{
    return await parsed.InvokeAsync(new() { EnableDefaultExceptionHandler = false });
}
catch (KettlefogException refusal)
{
    return ErrorOutput.Failure(refusal.Message, refusal.Hint, refusal.Details);
}
catch (UsageException usage)
{
    return ErrorOutput.Usage(usage.Message, usage.Hint);
}
catch (IOException error)
{
    return ErrorOutput.Failure(error.Message, null);
}
