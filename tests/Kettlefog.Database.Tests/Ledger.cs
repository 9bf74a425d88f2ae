using Kettlefog.Core;
using Kettlefog.Core.History;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Core.Values;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>A small vendor ledger with eight vendors, each with bills and notes.</summary>
internal sealed class Ledger : IDisposable
{
    public const string Yaml = """
        kettlefog: 1
        name: Ledger
        record_types:
          vendor:
            table: vendor
            label: "{name}"
            changed: changed_at
            fields:
              code: { kind: code, survivorship: master }
              name: { kind: organisation-name }
              phone: { kind: phone }
              currency: { kind: currency, survivorship: master }
              status: { survivorship: master }
              terms: { kind: integer }
            references:
              bills: { table: bill, columns: vendor_id, amount: amount }
              notes: { table: note, columns: subject_id, when: { subject_type: vendor } }
            figures:
              bill_count: { reference: bills, count: true, control: true }
              billed: { reference: bills, sum: amount, control: true }
            retire: { mark: { status: merged } }
            blockers:
              must_agree: [currency]
              forbid: { status: [in dispute] }
        """;

    private const string Schema = """
        CREATE TABLE vendor (id INTEGER PRIMARY KEY, code TEXT UNIQUE, name VARCHAR(40) NOT NULL, phone TEXT, currency
          TEXT NOT NULL,
                             status TEXT NOT NULL, terms INTEGER, changed_at TEXT, hidden TEXT);
        CREATE TABLE bill (id INTEGER PRIMARY KEY, vendor_id INTEGER NOT NULL REFERENCES vendor (id), number TEXT NOT
          NULL,
                           amount NUMERIC(12, 2) NOT NULL, UNIQUE (vendor_id, number));
        CREATE TABLE note (id INTEGER PRIMARY KEY, subject_type TEXT, subject_id INTEGER, body TEXT);
        """;

    private readonly TempFolder _folder = new();
    private int _requests;

    private Ledger(Engine engine)
    {
        File = Prepared.Create(engine, _folder, "ledger");
        File.Execute(Schema);
        for (var id = 1L; id <= 8; id++)
        {
            File.Execute(
                "INSERT INTO vendor VALUES (?1, ?2, ?3, ?4, 'GBP', 'active', 30, '2026-01-01', ?5)",
                id,
                $"V{id}",
                $"Vendor {id}",
                id % 2 == 0 ? null : $"01632 96000{id}",
                $"hidden {id}"
            );
            for (var bill = 1L; bill <= 3; bill++)
                File.Execute(
                    "INSERT INTO bill VALUES (?1, ?2, ?3, ?4)",
                    (id * 10) + bill,
                    id,
                    $"B{id}-{bill}",
                    (double)(100.1m * bill)
                );
            File.Execute(
                "INSERT INTO note VALUES (?1, 'vendor', ?2, 'a note'), (?3, 'account', ?2, 'of something else')",
                id,
                id,
                100 + id
            );
        }
    }

    public TestDatabase File { get; }

    public OperationalDatabase Database { get; private set; } = null!;

    public static Task<Ledger> OpenAsync(string change = "", string yaml = Yaml) =>
        OpenAsync(Engine.Sqlite, change, yaml);

    public static async Task<Ledger> OpenAsync(Engine engine, string change = "", string yaml = Yaml)
    {
        var ledger = new Ledger(engine);
        if (change.Length > 0)
            ledger.File.Execute(change);
        ledger.Database = await ledger.OpenAgainAsync(yaml);
        return ledger;
    }

    public Task<OperationalDatabase> OpenAgainAsync(string yaml = Yaml, int busySeconds = 5) =>
        OperationalDatabase.OpenAsync(
            File.Address,
            MapReader.Read(yaml, "ledger.yaml"),
            TimeSpan.FromSeconds(busySeconds),
            TimeProvider.System,
            default
        );

    public static RecordKey Key(long id) => new(ColumnValue.Of(id));

    public static MergeChoices Choices(long master, params long[] duplicates) =>
        new("vendor", Key(master), [.. duplicates.Select(Key)], new Dictionary<string, FieldChoice>());

    public static MergeChoices With(MergeChoices choices, string field, FieldChoice choice) =>
        choices with
        {
            Fields = new Dictionary<string, FieldChoice>(choices.Fields) { [field] = choice },
        };

    public Task<MergePlan> PlanAsync(MergeChoices choices) => Database.Merges.PlanAsync(choices, default);

    public MergeRequest Request(MergeChoices choices, string fingerprint, string? key = null) =>
        new(
            choices,
            fingerprint,
            new AuditContext("c.weeks", "same firm"),
            key ?? $"request {Interlocked.Increment(ref _requests)}"
        );

    public async Task<HistoryEntry> MergeAsync(MergeChoices choices)
    {
        var plan = await PlanAsync(choices);
        return (await Database.Merges.ApplyAsync(Request(choices, plan.Fingerprint.Text), default)).Entry;
    }

    public Task<HistoryEntry> MergeAsync(long master, params long[] duplicates) =>
        MergeAsync(Choices(master, duplicates));

    public Task<IReadOnlyList<HistoryEntry>> ReverseAsync(long number, bool withLater = false) =>
        ReverseAsync(new ReversalChoices(number, withLater));

    public async Task<IReadOnlyList<HistoryEntry>> ReverseAsync(ReversalChoices choices)
    {
        var plan = await Database.Reversals.PlanAsync(choices, default);
        var request = new ReversalRequest(
            choices,
            plan.Fingerprint.Text,
            new AuditContext("c.weeks", "two firms"),
            $"request {Interlocked.Increment(ref _requests)}"
        );
        return (await Database.Reversals.ApplyAsync(request, default)).Entries;
    }

    public async Task<KettlefogException> RefusedAsync(Func<Task> action)
    {
        var before = File.DumpAll();
        var refusal = await Should.ThrowAsync<KettlefogException>(action);
        File.DumpAll().ShouldBe(before, "a refusal changes nothing");
        return refusal;
    }

    public void Dispose()
    {
        Database.Dispose();
        File.Dispose();
        _folder.Dispose();
    }
}
