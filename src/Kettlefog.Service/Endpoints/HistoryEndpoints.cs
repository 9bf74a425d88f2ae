using System.Globalization;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Proving;
using Kettlefog.Database;
using Kettlefog.Database.History;
using Kettlefog.Service.Jobs;
using Microsoft.AspNetCore.Mvc;

namespace Kettlefog.Service.Endpoints;

/// <summary>Reads, exports and verifies the history.</summary>
internal static class HistoryEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/history").WithTags("history");
        group
            .MapGet("", ListAsync)
            .WithName("listHistory")
            .WithSummary("List the history, latest entry first.")
            .WithDescription(
                "'before' lists the entries before a number: give the last number of a page to read the next one, "
                    + "however many entries are added in between."
            );
        group
            .MapGet("{number:long}", ReadAsync)
            .WithName("readEntry")
            .WithSummary("Read one history entry with every old value.");
        api.MapGet("/exports/history", ExportAsync)
            .WithTags("history")
            .WithName("exportHistory")
            .WithSummary("Export the matching history entries, one per line, latest first.")
            .Produces<string>(200, Exports.Csv, Exports.JsonLines);
        group
            .MapGet("check", CheckAsync)
            .WithName("checkHistory")
            .WithSummary("Verify that the history and its journal were not altered.")
            .WithDescription(
                "'after' and 'hash' name the last entry of an earlier check, to verify only what follows it. "
                    + "'checkpoint' is the text of a signed checkpoint, with which the history must begin."
            );
        group
            .MapGet("key", KeyAsync)
            .WithName("readCheckpointKey")
            .WithSummary("Read the public key that verifies checkpoints and proofs.");
        group
            .MapGet("checkpoint", SignAsync)
            .WithName("signCheckpoint")
            .WithSummary("Sign what the history is now.")
            .WithDescription(
                "The root is computed from all entries. It is refused if the history does not continue the checkpoint "
                    + "that was signed last."
            );
        group
            .MapGet("{number:long}/proof", ProveAsync)
            .WithName("proveEntry")
            .WithSummary("Prove that an entry is in the history of a checkpoint.")
            .WithDescription(
                "'checkpoint' is the text of a signed checkpoint; without it a new one is signed. The proof is "
                    + "verified by 'kettlefog service check-proof', without service or database."
            );
    }

    private static async Task<HistoryPage> ListAsync(
        [AsParameters] HistoryQuery query,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        int? page = null,
        int? size = null
    )
    {
        var (number, length) = Paging.Check(page, size);
        var found = await database.History.ListAsync(query.ToFilter(), number, length, cancellationToken);
        return new HistoryPage([.. found.Items.Select(Views.Summary)], found.Total, number, length);
    }

    private static IResult ExportAsync(
        [AsParameters] HistoryQuery query,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        string format = "csv"
    ) =>
        Exports.Of(
            format,
            [
                "number",
                "kind",
                "record_type",
                "master",
                "others",
                "at",
                "actor",
                "reason",
                "rule",
                "approved_by",
                "rows",
                "reverses",
                "reversed_by",
                "hash",
            ],
            database
                .History.StreamAsync(query.ToFilter(), cancellationToken)
                .Select(Views.Summary)
                .Select(entry =>
                    new object[]
                    {
                        entry.Number,
                        entry.Kind,
                        entry.RecordType,
                        entry.Records[0].Key,
                        string.Join(' ', entry.Records.Skip(1).Select(record => record.Key)),
                        entry.At.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ss.ffffffZ", CultureInfo.InvariantCulture),
                        entry.Actor,
                        entry.Reason,
                        entry.Rule,
                        entry.ApprovedBy ?? "",
                        entry.Rows,
                        (object?)entry.Reverses ?? "",
                        (object?)entry.ReversedBy ?? "",
                        entry.Hash,
                    }
                )
        );

    /// <summary>The filter of a request.</summary>
    private sealed record HistoryQuery(
        [FromQuery(Name = "type")] string? Type,
        [FromQuery(Name = "record")] string? Record,
        [FromQuery(Name = "actor")] string? Actor,
        [FromQuery(Name = "kind")] string? Kind,
        [FromQuery(Name = "rule")] string? Rule,
        [FromQuery(Name = "since")] DateTimeOffset? Since,
        [FromQuery(Name = "until")] DateTimeOffset? Until,
        [FromQuery(Name = "before")] long? Before
    )
    {
        public HistoryFilter ToFilter()
        {
            var wanted = Kind switch
            {
                null => (EntryKind?)null,
                _ when EnumName.TryRead<EntryKind>(Kind, out var read) => read,
                _ => throw new KettlefogException(
                    ErrorCode.InvalidQuery,
                    $"There is no kind '{Kind}' of entry.",
                    $"Kinds are: {string.Join(", ", EnumName.All<EntryKind>())}."
                ),
            };
            return new HistoryFilter(Type, Record, Actor, wanted, Since, Until, Rule, Before);
        }
    }

    private static async Task<EntryView> ReadAsync(
        long number,
        OperationalDatabase database,
        CancellationToken cancellationToken
    ) => Views.Full(await database.History.ReadAsync(number, cancellationToken));

    private static async Task<HistoryCheck> CheckAsync(
        OperationalDatabase database,
        CheckpointKeeper keeper,
        CancellationToken cancellationToken,
        long? after = null,
        string? hash = null,
        string? checkpoint = null
    )
    {
        var position = (after, hash) switch
        {
            (null, null) => null,
            ({ } number, { Length: > 0 }) => new HistoryPosition(number, hash),
            _ => throw new KettlefogException(
                ErrorCode.InvalidQuery,
                "A check that continues from an entry needs both its number and its hash.",
                "Give 'after' and 'hash' as the last check reported them, or neither of them."
            ),
        };
        var (known, compared) = checkpoint is null
            ? (null, null)
            : await CompareAsync(checkpoint, keeper, cancellationToken);
        var check = await database.History.VerifyAsync(position, known, cancellationToken);
        return new HistoryCheck(check.Entries, check.Last, check.Head, check.Faults, compared);
    }

    /// <summary>Reads a checkpoint, and verifies its signature if it says to be by the key of this service.</summary>
    private static async Task<(Checkpoint Known, ComparedCheckpoint View)> CompareAsync(
        string note,
        CheckpointKeeper keeper,
        CancellationToken cancellationToken
    )
    {
        var known = Checkpoint.Read(note);
        var key = await keeper.ReadKeyAsync(cancellationToken);
        var isOwnKey = key.IsNamedBy(note);
        return isOwnKey && !key.Verifies(note)
            ? throw new KettlefogException(
                ErrorCode.NotProven,
                "The checkpoint was altered after it was signed.",
                "Use the one that was kept elsewhere."
            )
            : (known, new ComparedCheckpoint(known.Size, known.At, known.Origin, isOwnKey));
    }

    private static async Task<CheckpointKey> KeyAsync(CheckpointKeeper keeper, CancellationToken cancellationToken)
    {
        var key = await keeper.ReadKeyAsync(cancellationToken);
        return new CheckpointKey(key.Name, key.Text);
    }

    private static Task<SignedCheckpoint> SignAsync(CheckpointKeeper keeper, CancellationToken cancellationToken) =>
        keeper.SignAsync(cancellationToken);

    private static async Task<EntryProofView> ProveAsync(
        long number,
        OperationalDatabase database,
        CheckpointKeeper keeper,
        CancellationToken cancellationToken,
        string? checkpoint = null
    )
    {
        // That there is no such entry is known before anything is signed.
        await database.History.ReadAsync(number, cancellationToken);
        checkpoint ??= (await keeper.SignAsync(cancellationToken)).Text;
        return await database.History.ProveAsync(number, checkpoint, cancellationToken);
    }
}
