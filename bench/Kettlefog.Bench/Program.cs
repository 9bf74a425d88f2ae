using System.Globalization;
using Kettlefog.Bench;

CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var wanted = args.Length == 0 ? ["merge", "pages", "duplicates"] : args;
var met = true;
foreach (var name in wanted)
{
    met &= name switch
    {
        "merge" => await SmallMerge.RunAsync(),
        "engine" => await EngineMerge.RunAsync(10_000),
        "pages" => await Pages.RunAsync(),
        "proofs" => await Proofs.RunAsync(),
        "accuracy" => Duplicates.Quality(100_000, 7) & Duplicates.Quality(30_000, 8),
        "learning" => Learning.Run(),
        "duplicates" => await Duplicates.RunAsync(100_000, 8, byHand: true),
        "million" => await Duplicates.RunAsync(1_000_000, 90, byHand: false),
        _ => throw new ArgumentException(
            $"There is no benchmark '{name}': write merge, engine, pages, proofs, accuracy, learning, duplicates or "
                + "million."
        ),
    };
}

return met ? 0 : 1;
