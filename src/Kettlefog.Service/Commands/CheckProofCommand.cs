using System.CommandLine;
using System.Text.Json;
using System.Text.Json.Serialization;
using Kettlefog.Contracts;
using Kettlefog.Core.History;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Proving;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>Verifies the proof of an entry, with the public key alone.</summary>
internal static class CheckProofCommand
{
    /// <summary>Far above any proof; what is longer is none.</summary>
    private const int MaxLength = 256 * 1024 * 1024;

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        RespectNullableAnnotations = true,
        RespectRequiredConstructorParameters = true,
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
    };

    public static Command Create()
    {
        var file = new Argument<string>("file") { Description = "The proof, as 'kettlefog history prove' printed it." };
        var key = new Option<string>("--key")
        {
            Description =
                "The public key, as 'kettlefog history key' printed it, or a file that holds it; from where it is "
                + "published, not from the hands that gave you the proof.",
            Required = true,
        };
        var command = new Command(
            "check-proof",
            CommandHelp.WithExamples(
                "Verify the proof of an entry of a history; needs neither service nor database.",
                "service check-proof proof.json --key kettlefog.pub"
            )
        )
        {
            file,
            key,
        };
        command.SetAction(result =>
        {
            var proof = ReadProof(result.GetRequiredValue(file));
            var checkpoint = EntryProof.Verify(proof, ReadKey(result.GetRequiredValue(key)));
            var entry = proof.Entry;
            Console.WriteLine(
                VisibleText.Of(
                    $"Proven: entry {entry.Number} is in the history of "
                        + $"{TextFormat.Counted(checkpoint.Size, "entry", "entries")} that {checkpoint.Origin} signed "
                        + $"at {TextFormat.Minute(checkpoint.At)}."
                )
            );
            Console.WriteLine(
                VisibleText.Of(
                    $"{entry.Kind} of {entry.RecordType} {string.Join(", ", KeysOf(entry))}, "
                        + $"{TextFormat.Minute(entry.At)}, by {entry.Actor}"
                        + (entry.ApprovedBy is { } approver ? $", approved by {approver}" : "")
                        + (entry.Reason.Length > 0 ? $": {entry.Reason}" : ".")
                )
            );
            return 0;
        });
        return command;
    }

    /// <summary>The records of an entry, the master first.</summary>
    private static IEnumerable<string> KeysOf(ProvenEntry entry)
    {
        EnumName.TryRead<EntryKind>(entry.Kind, out var kind);
        try
        {
            return kind == EntryKind.Merge
                ? DetailsJson.Read<MergeDetails>(entry.Details).Records.Select(record => record.Key)
                : [entry.Master];
        }
        catch (JsonException)
        {
            return [entry.Master];
        }
    }

    private static EntryProofView ReadProof(string file)
    {
        try
        {
            if (
                new FileInfo(file).Length <= MaxLength
                && JsonSerializer.Deserialize<EntryProofView>(File.ReadAllText(file), Json)
                    is { Kettlefog: EntryProofView.Kind } proof
            )
                return proof;
        }
        catch (JsonException)
        {
            // Reported below.
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new UsageException($"The proof {file} cannot be read: {error.Message}", "Check the path.");
        }

        throw new UsageException(
            $"The file {file} is no proof of an entry.",
            "Give one that 'kettlefog history prove' printed."
        );
    }

    private static NoteKey ReadKey(string given)
    {
        try
        {
            return NoteKey.TryRead(File.Exists(given) ? File.ReadAllText(given) : given)
                ?? throw new UsageException(
                    "This is no public key.",
                    "Give what 'kettlefog history key' printed, or a file that holds it."
                );
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new UsageException($"The key {given} cannot be read: {error.Message}", "Check the path.");
        }
    }
}
