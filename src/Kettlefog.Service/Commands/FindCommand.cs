using System.CommandLine;
using System.Globalization;
using System.Text;
using Kettlefog.Core;
using Kettlefog.Database;
using Kettlefog.Service.Endpoints;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>Finds duplicates in a database with a map, without a service, and writes them to files.</summary>
internal static class FindCommand
{
    public static Command Create()
    {
        var type = new Argument<string>("type") { Description = "The record type." };
        var pairs = new Option<string?>("--pairs")
        {
            Description = "File to write the pairs to, as CSV: id_a,id_b,score,proposed,rule.",
        };
        var clusters = new Option<string?>("--clusters")
        {
            Description = "File to write the clusters to, as CSV: id,cluster.",
        };
        var minScore = new Option<double>("--min-score")
        {
            Description = "Minimum score of the pairs written, in percent (default: all pairs that are kept).",
            DefaultValueFactory = _ => 0,
        };
        var command = new Command(
            "find",
            CommandHelp.WithExamples(
                "Find duplicates in a database; the database is not written to.",
                "service find vendor --database books.db --map books.map.yaml --pairs pairs.csv "
                    + "--clusters clusters.csv"
            )
        )
        {
            type,
            ServiceSettings.DatabaseOption,
            ServiceSettings.MapOption,
            pairs,
            clusters,
            minScore,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var found = await UninitialisedDatabase.FindDuplicatesAsync(
                    ServiceSettings.Of(result).Database,
                    ServiceCommand.ReadMap(ServiceSettings.Of(result).Map),
                    result.GetRequiredValue(type),
                    Progress,
                    cancellationToken
                );
                if (!Console.IsErrorRedirected)
                    Console.Error.Write("\r\e[K");
                if (result.GetValue(pairs) is { } pairFile)
                    Write(
                        pairFile,
                        ["id_a", "id_b", "score", "proposed", "rule"],
                        found
                            .Pairs.Where(pair => pair.Score * 100 >= result.GetValue(minScore))
                            .Select(pair =>
                                new object[] { pair.A, pair.B, pair.Score, pair.Proposed ? 1 : 0, pair.Rule }
                            )
                    );
                if (result.GetValue(clusters) is { } clusterFile)
                    Write(
                        clusterFile,
                        ["id", "cluster"],
                        found.Clusters.SelectMany(
                            (members, index) => members.Select(member => new object[] { member, index + 1 })
                        )
                    );
                foreach (var line in ScanSummary.LinesOf(DuplicateViews.Of(found.Report)))
                    Console.WriteLine(line);
                if (result.GetValue(pairs) is null && result.GetValue(clusters) is null)
                    Console.WriteLine("Write them to files with '--pairs FILE' and '--clusters FILE'.");
            }
        );
        return command;
    }

    private static void Progress(string phase, double? share)
    {
        if (!Console.IsErrorRedirected)
            Console.Error.Write(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"\r\e[K{phase} {(share is { } part ? TextFormat.Share(part, 0) : "...")}"
                )
            );
    }

    private static void Write(string file, string[] columns, IEnumerable<object[]> rows)
    {
        try
        {
            using var writer = new StreamWriter(file, append: false, new UTF8Encoding(false));
            CsvText.Write(writer, columns, rows);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new KettlefogException(
                ErrorCode.InvalidChoice,
                $"{file} cannot be written: {error.Message}",
                "Choose another file.",
                inner: error
            );
        }
    }
}
