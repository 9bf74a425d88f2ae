using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Bench;

/// <summary>The requests of the console's pages, with ten thousand vendors.</summary>
internal static class Pages
{
    private const double MostAllowed = 200;
    private const int Rounds = 30;

    public static async Task<bool> RunAsync()
    {
        await using var service = await RunningService.StartAsync(8800);
        var client = service.Client;
        var total = (await client.SearchAsync("vendor")).Total;
        Console.WriteLine(
            $"What the pages ask for, with {total} vendors, median (95th percentile) of {Rounds}; at most "
                + $"{MostAllowed:0} ms is allowed:"
        );
        (string Name, Func<Task> Call)[] calls =
        [
            ("list, first page", () => client.SearchAsync("vendor")),
            ("list, last page", () => client.SearchAsync("vendor", page: (int)(total / 50))),
            ("list, sorted by name", () => client.SearchAsync("vendor", sort: "-name")),
            ("search, one word in any field", () => client.SearchAsync("vendor", "hakonsen")),
            ("search, two words with wildcards", () => client.SearchAsync("vendor", "*rigging* 96011?")),
            ("search, nothing found", () => client.SearchAsync("vendor", "nobody has this")),
            ("one record", () => client.RecordAsync("vendor", "1001")),
            ("its bills", () => client.RelatedAsync("vendor", "1001", "bills")),
            ("compare and plan, three vendors", () =>
                client.PlanAsync(new PlanRequest("vendor", "1003", ["1004", "1005"]))
            ),
            ("history", () => client.HistoryAsync()),
        ];
        var met = true;
        foreach (var (name, call) in calls)
        {
            var times = new Times();
            for (var round = 0; round < 5; round++)
                await call();
            for (var round = 0; round < Rounds; round++)
                await times.MeasureAsync(call);
            met &= times.P95 <= MostAllowed;
            Console.WriteLine(
                $"  {name, -34}{times.Median, 8:0.0} ms ({times.P95:0.0} "
                    + $"ms){(times.P95 <= MostAllowed ? "" : "  TOO SLOW")}"
            );
        }

        return met;
    }
}
