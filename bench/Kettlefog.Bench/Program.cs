using System.Globalization;
using Kettlefog.Bench;

CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var wanted = args.Length == 0 ? ["merge", "pages"] : args;
var met = true;
foreach (var name in wanted)
{
    met &= name switch
    {
        "merge" => await SmallMerge.RunAsync(),
        "pages" => await Pages.RunAsync(),
        _ => throw new ArgumentException($"There is no benchmark '{name}': write merge or pages."),
    };
}

return met ? 0 : 1;
