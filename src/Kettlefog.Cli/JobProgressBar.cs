using Kettlefog.Contracts;
using Kettlefog.Terminal;
using Spectre.Console;

namespace Kettlefog.Cli;

/// <summary>Shows progress at a terminal; nothing if the output is not a terminal.</summary>
internal static class JobProgressBar
{
    private static readonly TimeSpan Between = TimeSpan.FromMilliseconds(100);

    /// <summary>Runs work that may take long. The bar appears with the first report.</summary>
    /// <param name="output">Where the result will be printed.</param>
    /// <param name="work">
    /// The work; its argument reports a description, the amount done, and the total (0 if unknown).
    /// </param>
    public static async Task<T> WhileAsync<T>(Printer output, Func<Action<string, double, double>, Task<T>> work)
    {
        if (!output.ForPeople || Console.IsOutputRedirected)
            return await work((_, _, _) => { });
        var said = new TaskCompletionSource();
        (string What, double Done, double Total) now = ("", 0, 0);
        var working = work(
            (what, done, total) =>
            {
                now = (what, done, total);
                said.TrySetResult();
            }
        );
        if (await Task.WhenAny(working, said.Task) == working)
            return await working;
        return await AnsiConsole
            .Progress()
            .AutoClear(true)
            .Columns(
                new TaskDescriptionColumn(),
                new ProgressBarColumn(),
                new PercentageColumn(),
                new ElapsedTimeColumn()
            )
            .StartAsync(async context =>
            {
                var bar = context.AddTask(now.What);
                while (await Task.WhenAny(working, Task.Delay(Between)) != working)
                {
                    bar.Description = now.What;
                    bar.IsIndeterminate = now.Total == 0;
                    bar.MaxValue = Math.Max(1, now.Total);
                    bar.Value = now.Done;
                }

                return await working;
            });
    }

    /// <summary>Runs a merge or a reversal, with its progress.</summary>
    public static Task<T> WhileJobAsync<T>(Printer output, string what, Func<Action<JobView>, Task<T>> work) =>
        WhileAsync(output, tell =>
            work(job =>
                tell(
                    job.TotalRows == 0 ? $"{what}: looking" : $"{what}: {job.MovedRows:N0} of {job.TotalRows:N0} rows",
                    job.MovedRows,
                    job.TotalRows
                )
            )
        );
}
