using System.CommandLine;
using System.Text;
using Kettlefog.Core;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Matching;
using Kettlefog.Database;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>Drafts a record map of a database.</summary>
internal static class DraftCommand
{
    public static Command Create()
    {
        var tables = new Option<string[]>("--table")
        {
            Description = "Table that holds records; repeatable (default: all that look like it).",
            AllowMultipleArgumentsPerToken = false,
        };
        var output = new Option<string?>("--out")
        {
            Description = "File to write the draft to (default: standard output).",
        };
        var command = new Command(
            "draft-map",
            CommandHelp.WithExamples(
                "Draft a record map from a database's catalog and samples of its values; the database is "
                    + "not written to.",
                "service draft-map --database books.db --out books.map.yaml"
            )
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
                var name = result.GetValue(output) ?? "draft.map.yaml";
                var document = MapReader.Read(draft.Yaml, Path.GetFileName(name));
                await Console.Error.WriteLineAsync(
                    $"Record types: {string.Join(", ", MatchAdvice.Entities(document.Map.RecordTypes))}."
                );
                if (draft.Questions.Count > 0)
                    await Console.Error.WriteLineAsync("Questions that only you can answer:");
                for (var number = 1; number <= draft.Questions.Count; number++)
                    await Console.Error.WriteLineAsync($"  {number}. {VisibleText.Of(draft.Questions[number - 1])}");

                // Problems that the draft could not avoid are reported now, not when the service starts.
                var report = await UninitialisedDatabase.CheckMapAsync(database, document, cancellationToken);
                report.RequireMap();
                var findings = TextFormat.Counted(report.Findings.Count, "finding", "findings");
                await Console.Error.WriteLineAsync(
                    report.Findings.Count == 0
                        ? "The draft fits the database."
                        : $"The draft fits the database, with {findings}: see 'kettlefog service check-map'."
                );
            }
        );
        return command;
    }

    /// <summary>Writes a draft to a new file.</summary>
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
                "Name a file that does not exist yet, in a folder that you may write to.",
                inner: error
            );
        }
    }
}
