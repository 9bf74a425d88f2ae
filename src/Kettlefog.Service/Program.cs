using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Service.Commands;
using Kettlefog.Terminal;

// Output is read by programs too: it must not depend on where it runs.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.InvariantCulture;
CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
try
{
    return await ServiceCommand.Create().Parse(args).InvokeAsync(new() { EnableDefaultExceptionHandler = false });
}
catch (Refusal refusal)
{
    return Complaint.Failure(refusal.Message, refusal.Hint, refusal.Details);
}
catch (UsageException usage)
{
    return Complaint.Usage(usage.Message, usage.Hint);
}
catch (IOException error)
{
    return Complaint.Failure(error.Message, null);
}
