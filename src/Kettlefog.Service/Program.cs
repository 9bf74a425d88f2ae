using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Service.Commands;

// Output is read by programs too: it must not depend on where it runs.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.InvariantCulture;
CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
try
{
    return await ServiceCommand.Create().Parse(args).InvokeAsync(new() { EnableDefaultExceptionHandler = false });
}
catch (Refusal refusal)
{
    await Console.Error.WriteLineAsync($"error: {refusal.Message}");
    foreach (var detail in refusal.Details)
        await Console.Error.WriteLineAsync($"  {detail}");
    if (refusal.Hint is not null)
        await Console.Error.WriteLineAsync($"hint: {refusal.Hint}");
    return 1;
}
catch (IOException error)
{
    await Console.Error.WriteLineAsync($"error: {error.Message}");
    return 1;
}
