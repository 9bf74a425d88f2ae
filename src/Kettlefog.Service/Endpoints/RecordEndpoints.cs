using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;
using Kettlefog.Core.Schema;
using Kettlefog.Core.Values;
using Kettlefog.Database;
using Kettlefog.Database.History;
using Kettlefog.Database.Records;

namespace Kettlefog.Service.Endpoints;

/// <summary>Finds and reads records.</summary>
internal static class RecordEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        var group = api.MapGroup("/records/{type}").WithTags("records");
        group
            .MapGet("", SearchAsync)
            .WithName("searchRecords")
            .WithSummary("Search records.")
            .WithDescription(
                "Every word of 'q' must be found in some field; '*' and '?' are wildcards, quotes keep words "
                    + "together, 'field:word' looks in one field."
            );
        api.MapGet("/field-choices/{type}/{field}", ReadChoicesAsync)
            .WithTags("records")
            .WithName("readFieldChoices")
            .WithSummary("List the values that a field may take, or usually takes.")
            .WithDescription(
                "A field with a foreign key or a list of allowed values takes no others. For other fields these are "
                    + "the values that records have now, if they are few."
            );
        group.MapGet("{key}", ReadAsync).WithName("readRecord").WithSummary("Read one record.");
        group
            .MapGet("{key}/related/{reference}", ReadRelatedAsync)
            .WithName("readRelatedRows")
            .WithSummary("List the related rows of a record.")
            .WithDescription("Every word of 'q' must be found in some column shown, as in a search for records.");
        group
            .MapGet("{key}/history", ReadHistoryAsync)
            .WithName("readRecordHistory")
            .WithSummary("Read the history of a record: its redirect, the keys that redirect to it, and its merges.");
    }

    private static async Task<RecordPage> SearchAsync(
        string type,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        string? q = null,
        string? sort = null,
        int? page = null,
        int? size = null,
        bool retired = false
    )
    {
        var recordType = database.Map.Map.Require(type);
        var (number, length) = Paging.Check(page, size);
        var found = await database.Records.SearchAsync(
            recordType,
            new RecordSearch(q, sort, number, length, retired),
            cancellationToken
        );
        return new RecordPage(
            [.. found.Items.Select(record => Views.Of(recordType, record))],
            found.Total,
            number,
            length
        );
    }

    private static async Task<FieldChoicesView> ReadChoicesAsync(
        string type,
        string field,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        var recordType = database.Map.Map.Require(type);
        var choices = await database.Records.ReadChoicesAsync(
            recordType,
            recordType.RequireField(field),
            cancellationToken
        );
        return new FieldChoicesView(
            choices.IsClosed,
            [.. choices.Values.Select(choice => new ChoiceView(choice.Value, choice.Label))]
        );
    }

    private static async Task<RecordView> ReadAsync(
        string type,
        string key,
        HttpContext http,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        key = AddressKey.Read(http);
        var recordType = database.Map.Map.Require(type);
        try
        {
            return Views.Of(
                recordType,
                await database.Records.ReadAsync(
                    recordType,
                    database.Records.ReadKey(recordType, key),
                    cancellationToken
                )
            );
        }
        catch (KettlefogException unknown)
            when (unknown.Code == ErrorCode.UnknownRecord && recordType.Retirement.Delete)
        {
            // A deleted duplicate no longer has a row, but its key still redirects.
            if (await database.Records.FindRedirectAsync(type, key, cancellationToken) is not { } redirect)
                throw;
            throw new KettlefogException(
                ErrorCode.RecordRetired,
                $"{recordType.Title} {key} was merged into {redirect.Master} (merge {redirect.Number}).",
                $"Read {redirect.Master}, or merge {redirect.Number} for its old values.",
                inner: unknown
            );
        }
    }

    private static async Task<RelatedRowsPage> ReadRelatedAsync(
        string type,
        string key,
        string reference,
        HttpContext http,
        OperationalDatabase database,
        CancellationToken cancellationToken,
        string? q = null,
        int? page = null,
        int? size = null
    )
    {
        key = AddressKey.Read(http);
        var recordType = database.Map.Map.Require(type);
        var wanted = recordType.RequireReference(reference);
        var (number, length) = Paging.Check(page, size);
        var rows = await database.Records.ReadRelatedAsync(
            recordType,
            wanted,
            database.Records.ReadKey(recordType, key),
            q,
            number,
            length,
            cancellationToken
        );
        return new RelatedRowsPage(
            wanted.Name,
            wanted.Title,
            [.. rows.Columns.Select(column => ColumnOf(database.Map, recordType, wanted, column))],
            [.. rows.Rows.Select(row => (IReadOnlyList<string?>)[.. row.Select(value => value.ToText())])],
            rows.Total,
            number,
            length
        );
    }

    private static RelatedColumn ColumnOf(CheckedMap map, RecordType type, Reference reference, string column)
    {
        var table = map.Catalog.Require(reference.Table);
        var title = map
            .Map.RecordTypes.Where(each => Identifiers.Same(each.Table, table.Name))
            .SelectMany(each => each.Fields)
            .FirstOrDefault(field => Identifiers.Same(field.Column, column))
            ?.Title;
        return new RelatedColumn(column, title ?? Title.Of(column), KindOf(table.Find(column)));

        string KindOf(ColumnSchema? schema)
        {
            if (reference.Key.Any(key => Identifiers.Same(key, column)))
                return "key";
            var amounts = type
                .Figures.Where(figure => figure.Reference == reference.Name && figure.Operation == FigureOperation.Sum)
                .Select(figure => figure.Column)
                .Append(reference.Amount);
            if (amounts.Any(amount => amount is not null && Identifiers.Same(amount, column)))
                return "amount";
            var declared = schema?.TextType ?? schema?.DeclaredType ?? "";
            if (
                declared.Contains("date", StringComparison.OrdinalIgnoreCase)
                || declared.Contains("timestamp", StringComparison.OrdinalIgnoreCase)
            )
                return "date";
            return
                schema?.Storage is StorageClass.Integer or StorageClass.Real
                || declared.StartsWith("numeric", StringComparison.OrdinalIgnoreCase)
                ? "number"
                : "text";
        }
    }

    private static async Task<RecordHistory> ReadHistoryAsync(
        string type,
        string key,
        HttpContext http,
        OperationalDatabase database,
        CancellationToken cancellationToken
    )
    {
        key = AddressKey.Read(http);
        var recordType = database.Map.Map.Require(type);
        var plain = database.Records.ReadKey(recordType, key).ToString();
        var redirect = await database.Records.FindRedirectAsync(type, plain, cancellationToken);
        var oldKeys = await database.Records.FindRedirectsToAsync(type, plain, cancellationToken);
        var entries = await database.History.ListAsync(new HistoryFilter(type, plain), 1, 200, cancellationToken);
        return new RecordHistory(
            redirect is null ? null : Views.Of(redirect),
            [.. oldKeys.Select(Views.Of)],
            [.. entries.Items.Select(Views.Summary)]
        );
    }
}
