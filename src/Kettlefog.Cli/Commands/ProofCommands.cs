using System.CommandLine;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Signs checkpoints of the history, and proves entries by them.</summary>
internal static class ProofCommands
{
    /// <summary>Far above any checkpoint; what is longer is none, and is not sent as a whole.</summary>
    private const int MaxLength = 4_000;

    /// <summary>The file of a checkpoint.</summary>
    public static Option<string?> CheckpointOption(string description) =>
        new("--checkpoint") { Description = description };

    /// <summary>Reads the file of a checkpoint, or the last one of a file to which they are appended.</summary>
    /// <exception cref="UsageException">It cannot be read.</exception>
    public static async Task<string?> ReadCheckpointAsync(string? file, CancellationToken cancellationToken)
    {
        if (file is null)
            return null;
        try
        {
            var blocks = (await File.ReadAllTextAsync(file, cancellationToken)).Trim().Split("\n\n");
            var last = blocks.Length < 2 ? blocks[0] : $"{blocks[^2].TrimStart()}\n\n{blocks[^1]}\n";
            return last.Length <= MaxLength ? last : last[..MaxLength];
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new UsageException($"The checkpoint {file} cannot be read: {error.Message}", "Check the path.");
        }
    }

    public static Command Key() =>
        new Command(
            "key",
            CommandHelp.WithExamples(
                "Print the public key that verifies checkpoints and proofs; keep it where your auditors find it.",
                "history key"
            )
        ).Calling(
            async (result, client, cancellationToken) =>
            {
                var key = await client.CheckpointKeyAsync(cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        key,
                        () =>
                            new Grid(
                                ["key"],
                                [
                                    [key.Key],
                                ]
                            ),
                        page => page.Line(key.Key)
                    );
                return 0;
            }
        );

    public static Command Checkpoint() =>
        new Command(
            "checkpoint",
            CommandHelp.WithExamples(
                "Sign what the history is now, and print it. Kept elsewhere, it proves later that nothing was "
                    + "rewritten.",
                "history checkpoint > checkpoint.txt"
            )
        ).Calling(
            async (result, client, cancellationToken) =>
            {
                var checkpoint = await client.SignCheckpointAsync(cancellationToken);
                CommonOptions
                    .PrinterOf(result)
                    .Print(
                        checkpoint,
                        () =>
                            new Grid(
                                ["size", "root"],
                                [
                                    [$"{checkpoint.Size}", checkpoint.Root],
                                ]
                            ),
                        _ => Console.Out.Write(checkpoint.Text)
                    );
                return 0;
            }
        );

    public static Command Prove()
    {
        var number = new Argument<long>("number") { Description = "Number of the entry, as in 'history list'." };
        var checkpoint = CheckpointOption("File of the checkpoint to prove it by (default: a new one).");
        return new Command(
            "prove",
            CommandHelp.WithExamples(
                "Print a proof that an entry is in the history, as a small JSON file for an auditor. It holds every "
                    + "value of the entry.",
                "history prove 1 > proof.json"
            )
        )
        {
            number,
            checkpoint,
        }.Calling(
            async (result, client, cancellationToken) =>
            {
                var proof = await client.ProveEntryAsync(
                    result.GetRequiredValue(number),
                    await ReadCheckpointAsync(result.GetValue(checkpoint), cancellationToken),
                    cancellationToken
                );
                new Printer(OutputFormat.Json).Print(proof, new Grid([], []));
                return 0;
            }
        );
    }
}
