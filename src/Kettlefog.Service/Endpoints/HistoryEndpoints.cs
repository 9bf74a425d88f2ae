using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Maps;
using Kettlefog.Database;

namespace Kettlefog.Service.Endpoints;

/// <summary>Looking at what was done.</summary>
internal static class HistoryEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/history").WithTags("history");
        group.MapGet("", ListAsync).WithName("listHistory").WithSummary("Lists merges and reversals, latest first.");
        group.MapGet("{number:long}", ReadAsync).WithName("readEntry").WithSummary("Reads one merge or reversal with every old value.");
        group.MapGet("check", CheckAsync).WithName("checkHistory").WithSummary("Checks that the history and its journal were not altered.");
    }

    private static async Task<HistoryPage> ListAsync(
        OperationalDatabase database,
        CancellationToken cancel,
        string? type = null,
        string? record = null,
        string? actor = null,
        string? kind = null,
        DateTimeOffset? since = null,
        DateTimeOffset? until = null,
        int? page = null,
        int? size = null)
    {
        var (number, length) = Paging.Check(page, size);
        var wanted = kind switch
        {
            null => (EntryKind?)null,
            _ when WrittenName.TryRead<EntryKind>(kind, out var read) => read,
            _ => throw new Refusal(RefusalCode.InvalidQuery, $"There is no kind '{kind}' of entry.", $"Kinds are: {string.Join(", ", WrittenName.All<EntryKind>())}."),
        };
        var found = await database.ListHistoryAsync(new HistoryFilter(type, record, actor, wanted, since, until), number, length, cancel);
        return new HistoryPage([.. found.Items.Select(Views.Summary)], found.Total, number, length);
    }

    private static async Task<EntryView> ReadAsync(long number, OperationalDatabase database, CancellationToken cancel) =>
        Views.Full(await database.ReadEntryAsync(number, cancel));

    private static async Task<HistoryCheck> CheckAsync(OperationalDatabase database, CancellationToken cancel)
    {
        var check = await database.VerifyHistoryAsync(cancel);
        return new HistoryCheck(check.Entries, check.Head, check.Faults);
    }
}
