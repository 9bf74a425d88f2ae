using System.CommandLine;
using System.Text;
using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database;
using Kettlefog.Service.Settings;

namespace Kettlefog.Service.Commands;

/// <summary>Drafts a record map of a database that nobody has described yet.</summary>
internal static class DraftCommand
{
    public static Command Create()
    {
        var tables = new Option<string[]>("--table")
        {
            Description = "A table that holds records; left out, they are found. May be repeated.",
            AllowMultipleArgumentsPerToken = false,
        };
        var output = new Option<string?>("--out") { Description = "Write the draft there; left out, it is printed." };
        var command = new Command(
            "draft-map",
            "Draft a record map from a database's catalog and samples of its values; the database is not "
                + "written to. Example: draft-map --database books.db --out books.map.yaml"
        )
        {
            ServiceSettings.DatabaseOption,
            tables,
            output,
        };
        command.SetAction(
            async (result, cancellationToken) =>
            {
                var database = ServiceSettings.Of(result).Database;
                var draft = await UninitialisedDatabase.DraftMapAsync(
                    database,
                    result.GetValue(tables) ?? [],
                    cancellationToken
                );
                if (result.GetValue(output) is { } file)
                    Write(file, draft.Yaml);
                else
                    Console.Write(draft.Yaml);
                await Console.Error.WriteLineAsync($"Record types: {string.Join(", ", draft.RecordTypes)}.");
                if (draft.Questions.Count > 0)
                    await Console.Error.WriteLineAsync("What only you know:");
                for (var number = 1; number <= draft.Questions.Count; number++)
                    await Console.Error.WriteLineAsync($"  {number}. {draft.Questions[number - 1]}");

                // What the draft could not make fit is said now, not when the service is to start.
                var name = result.GetValue(output) ?? "draft.map.yaml";
                var report = await UninitialisedDatabase.CheckMapAsync(
                    database,
                    MapReader.Read(draft.Yaml, Path.GetFileName(name)),
                    cancellationToken
                );
                report.RequireMap();
                await Console.Error.WriteLineAsync(
                    report.Findings.Count == 0
                        ? "The draft fits the database."
                        : "The draft fits the database. "
                            + $"{(report.Findings.Count == 1 ? "One thing is"
                                : $"{report.Findings.Count} things are")} "
                            + "worth a look, which 'check-map' tells."
                );
            }
        );
        return command;
    }

    /// <summary>Writes a draft to a file that is not there yet.</summary>
    public static void Write(string file, string yaml)
    {
        try
        {
            using var stream = new FileStream(file, FileMode.CreateNew, FileAccess.Write);
            stream.Write(Encoding.UTF8.GetBytes(yaml));
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new KettlefogException(
                ErrorCode.InvalidMap,
                $"The draft cannot be written to {file}: {error.Message}",
                "Name a file that is not there yet, in a folder that you may write to.",
                inner: error
            );
        }
    }
}
