using System.Globalization;
using Microsoft.Data.Sqlite;

namespace Kettlefog.Demo;

/// <summary>Makes the database of the Saltmarrow Harbour Trust: the same seed and size give the same world.</summary>
internal sealed class World
{
    private readonly Random _random;
    private readonly VendorMaker _maker;
    private readonly List<Vendor> _vendors = [];
    private readonly SqliteConnection _connection;
    private readonly SqliteTransaction _transaction;
    private readonly Dictionary<string, SqliteCommand> _inserts = [];
    private readonly int _seed;
    private long _nextVendor = 1001;
    private long _nextOrder = 1;
    private long _nextBill = 1;
    private long _nextLine = 1;
    private long _nextPayment = 1;
    private long _nextNote = 1;
    private long _nextActivity = 1;

    private World(SqliteConnection connection, SqliteTransaction transaction, int seed)
    {
        _connection = connection;
        _transaction = transaction;
        _seed = seed;
        _random = new Random(seed);
        _maker = new VendorMaker(_random);
    }

    /// <summary>Makes the world in a new file.</summary>
    /// <param name="file">The file; it must not exist.</param>
    /// <param name="vendors">How many different vendors there are, before copies.</param>
    /// <param name="seed">The seed.</param>
    public static void Make(string file, int vendors, int seed)
    {
        var connectionString = new SqliteConnectionStringBuilder
        {
            DataSource = file,
            Pooling = false,
        }.ConnectionString;
        using var connection = new SqliteConnection(connectionString);
        connection.Open();
        using (var schema = connection.CreateCommand())
        {
            schema.CommandText = Resource("saltmarrow.sql");
            schema.ExecuteNonQuery();
        }

        using var transaction = connection.BeginTransaction();
        new World(connection, transaction, seed).Fill(vendors);
        transaction.Commit();
    }

    /// <summary>An embedded file.</summary>
    public static string Resource(string name)
    {
        using var reader = new StreamReader(typeof(World).Assembly.GetManifestResourceStream(name)!);
        return reader.ReadToEnd();
    }

    private void Fill(int vendors)
    {
        Showcase();
        for (var count = 4; count < vendors; count++)
        {
            var vendor = Add(_maker.Make(_nextVendor));
            var kind = _random.NextDouble();
            if (kind < 0.10)
                Add(_maker.Copy(vendor, _nextVendor));
            if (kind < 0.02)
                Add(_maker.Copy(vendor, _nextVendor));
            if (kind is > 0.10 and < 0.14)
                Add(_maker.Branch(vendor, _nextVendor));
        }

        foreach (var vendor in _vendors)
            Trade(vendor);
        Collide();
        new HarbourMaker(_seed, Insert).Fill(vendors / 2);
    }

    /// <summary>The copies that the first page and the instructions mention.</summary>
    private void Showcase()
    {
        var gannet = Add(
            _maker.Make(_nextVendor) with
            {
                Name = "Gannet Chandlery Ltd",
                Category = "chandler",
                LegalEntity = "SHT",
                Currency = "GBP",
                TaxNumber = "GB404118207",
                Email = "office@gannet-chandler.example",
                Phone = "01632 960118",
                Street = "12 Fish Street",
                Postcode = "SM1 4QD",
                City = "Saltmarrow",
                Country = "GB",
                ContactPerson = "Maud Tilling",
                PaymentTermsDays = 30,
                BankAccount = "XX29SALT00418207000118",
                Website = null,
                Remark = "Prefers bills by e-mail.",
                Source = "clerk",
                Buyer = "m.tilling",
                Created = new DateTime(2015, 4, 13, 9, 20, 0, DateTimeKind.Utc),
                Changed = new DateTime(2024, 11, 5, 15, 2, 0, DateTimeKind.Utc),
            }
        );
        Add(
            gannet with
            {
                Id = _nextVendor,
                Name = "Gannett Chandlery Limited",
                TaxNumber = null,
                Email = "orders@gannet-chandler.example",
                Phone = "+44 1632 960118",
                Phone2 = "01632 960733",
                Street = "12 Fish St.",
                ContactPerson = "M. Tilling",
                BankAccount = null,
                Website = "https://gannet-chandler.example",
                PaymentTermsDays = 14,
                Source = "import 2021",
                Buyer = "c.weeks",
                Remark =
                    "Took over the stock of Marram Ship Stores in 2022; asks for separate bills for the boatyard shop.",
                Created = new DateTime(2021, 6, 30, 2, 0, 0, DateTimeKind.Utc),
                Changed = new DateTime(2025, 8, 19, 10, 41, 0, DateTimeKind.Utc),
            }
        );
        var fuel = Add(
            _maker.Make(_nextVendor) with
            {
                Name = "Brackwater Marine Fuels",
                Category = "fuel",
                LegalEntity = "SHT",
                Currency = "GBP",
                City = "Brackwater",
                Country = "GB",
                Postcode = "SM4 1AA",
                Street = "3 Quayside Road",
                Phone = "01632 960200",
                Email = "accounts@brackwater-fuel.example",
                TaxNumber = "GB551200934",
                Created = new DateTime(2016, 2, 1, 8, 0, 0, DateTimeKind.Utc),
            }
        );
        Add(_maker.Copy(fuel, _nextVendor) with { Name = "BRACKWATER MARINE FUELS LTD", Source = "bank feed" });
        Add(_maker.Copy(fuel, _nextVendor) with { Name = "Brackwater Marin Fuels", Source = "web form" });
        var collides = Add(
            _maker.Make(_nextVendor) with
            {
                Name = "Skerry Mast & Rigging",
                Category = "rigger",
                LegalEntity = "SHT",
                Currency = "GBP",
            }
        );
        Add(_maker.Copy(collides, _nextVendor) with { Name = "Skerry Mast and Rigging" });
        var differs = Add(
            _maker.Make(_nextVendor) with
            {
                Name = "Oskarssen Dredging AS",
                Category = "dredging",
                LegalEntity = "SHT",
                Currency = "NOK",
                Country = "NO",
            }
        );
        Add(_maker.Copy(differs, _nextVendor) with { Name = "Oskarssen Dredging A/S", Currency = "EUR" });
    }

    private Vendor Add(Vendor vendor)
    {
        _nextVendor++;
        _vendors.Add(vendor);
        Insert(
            "vendor",
            ("vendor_id", vendor.Id),
            ("vendor_no", $"V-{vendor.Id:00000}"),
            ("name", vendor.Name),
            ("trading_name", vendor.TradingName),
            ("legal_entity", vendor.LegalEntity),
            ("currency", vendor.Currency),
            ("category", vendor.Category),
            ("tax_number", vendor.TaxNumber),
            ("contact_person", vendor.ContactPerson),
            ("email", vendor.Email),
            ("phone", vendor.Phone),
            ("phone_2", vendor.Phone2),
            ("street", vendor.Street),
            ("postcode", vendor.Postcode),
            ("city", vendor.City),
            ("country", vendor.Country),
            ("website", vendor.Website),
            ("bank_account", vendor.BankAccount),
            ("payment_terms_days", vendor.PaymentTermsDays),
            ("credit_limit", vendor.CreditLimit),
            ("status", vendor.Status),
            ("remark", vendor.Remark),
            ("source", vendor.Source),
            ("buyer", vendor.Buyer),
            ("created_at", Time(vendor.Created)),
            ("changed_at", Time(vendor.Changed)),
            ("legacy_ref", vendor.LegacyRef),
            ("print_flags", (long)_random.Next(0, 8))
        );
        return vendor;
    }

    private void Trade(Vendor vendor)
    {
        var day = vendor.Created.Date;
        for (var count = _random.Next(0, 14); count > 0; count--)
        {
            day = day.AddDays(_random.Next(5, 160));
            if (day > VendorMaker.Today)
                break;
            long? order = _random.NextDouble() < 0.6 ? Order(vendor, day) : null;
            Bill(vendor, day.AddDays(_random.Next(1, 20)), $"{_random.Next(10_000, 99_999)}", order);
        }

        for (var count = _random.Next(0, 4); count > 0; count--)
        {
            Insert(
                "note",
                ("note_id", _nextNote++),
                ("subject_type", "vendor"),
                ("subject_id", vendor.Id),
                ("written_at", Time(vendor.Created.AddDays(_random.Next(1, 300)))),
                ("author", Pick(Words.Clerks)),
                ("body", Pick(Words.Notes))
            );
        }

        for (var count = _random.Next(0, 3); count > 0; count--)
        {
            var due = vendor.Created.AddDays(_random.Next(30, 700));
            Insert(
                "activity",
                ("activity_id", _nextActivity++),
                ("subject_type", "vendor"),
                ("subject_id", vendor.Id),
                ("kind", Pick("call", "letter", "visit")),
                ("summary", Pick(Words.Tasks)),
                ("due_on", Date(due)),
                ("done_on", due < VendorMaker.Today ? Date(due) : null),
                ("assigned_to", Pick(Words.Clerks))
            );
        }
    }

    private long Order(Vendor vendor, DateTime day)
    {
        var id = _nextOrder++;
        Insert(
            "purchase_order",
            ("po_id", id),
            ("vendor_id", vendor.Id),
            ("po_number", $"PO-{id:000000}"),
            ("ordered_on", Date(day)),
            ("amount", _random.Next(2_000, 900_000) / 100m),
            ("status", "closed"),
            ("placed_by", Pick(Words.Clerks))
        );
        return id;
    }

    private void Bill(Vendor vendor, DateTime day, string number, long? order)
    {
        var id = _nextBill++;
        var lines = Enumerable
            .Range(1, _random.Next(1, 5))
            .Select(line => (Line: line, Quantity: _random.Next(1, 40), Price: _random.Next(150, 45_000) / 100m))
            .ToList();
        var amount = lines.Sum(line => line.Quantity * line.Price);
        var paid = day.AddDays(60) < VendorMaker.Today || _random.NextDouble() < 0.3;
        Insert(
            "vendor_bill",
            ("bill_id", id),
            ("vendor_id", vendor.Id),
            ("bill_number", $"{number}-{id % 97}"),
            ("billed_on", Date(day)),
            ("due_on", Date(day.AddDays(vendor.PaymentTermsDays ?? 30))),
            ("amount", amount),
            ("open_amount", paid ? 0m : amount),
            ("status", paid ? "paid" : "open"),
            ("po_id", order)
        );
        foreach (var (line, quantity, price) in lines)
        {
            Insert(
                "vendor_bill_line",
                ("line_id", _nextLine++),
                ("bill_id", id),
                ("line_no", (long)line),
                ("description", Pick(Words.Goods)),
                ("quantity", (long)quantity),
                ("unit_price", price),
                ("amount", quantity * price)
            );
        }

        if (paid)
        {
            Insert(
                "payment",
                ("payment_id", _nextPayment++),
                ("vendor_id", vendor.Id),
                ("paid_on", Date(day.AddDays(_random.Next(10, 60)))),
                ("amount", amount),
                ("method", Pick("transfer", "transfer", "card")),
                ("reference", $"Bill {number}-{id % 97}")
            );
        }
    }

    /// <summary>A bill that arrived by post and by e-mail, and was entered for both copies of the vendor.</summary>
    private void Collide()
    {
        foreach (
            var vendor in _vendors.Where(vendor =>
                vendor.Name.StartsWith("Skerry Mast", StringComparison.Ordinal) && vendor.Id < 1010
            )
        )
        {
            Insert(
                "vendor_bill",
                ("bill_id", _nextBill++),
                ("vendor_id", vendor.Id),
                ("bill_number", "SK-2026-014"),
                ("billed_on", "2026-02-11"),
                ("due_on", "2026-03-13"),
                ("amount", 1_284.60m),
                ("open_amount", 1_284.60m),
                ("status", "open"),
                ("po_id", null)
            );
        }
    }

    private void Insert(string table, params (string Column, object? Value)[] values)
    {
        if (!_inserts.TryGetValue(table, out var command))
        {
            command = _connection.CreateCommand();
            command.Transaction = _transaction;
            command.CommandText =
                $"INSERT INTO {table} ({string.Join(", ", values.Select(value => value.Column))}) "
                + $"VALUES ({string.Join(", ", values.Select(value => "$" + value.Column))})";
            foreach (var (column, _) in values)
                command.Parameters.Add(new SqliteParameter { ParameterName = "$" + column });
            _inserts[table] = command;
        }

        for (var index = 0; index < values.Length; index++)
        {
            command.Parameters[index].Value = values[index].Value switch
            {
                null => DBNull.Value,
                decimal amount => amount.ToString(CultureInfo.InvariantCulture),
                var value => value,
            };
        }

        command.ExecuteNonQuery();
    }

    private T Pick<T>(params T[] items) => items[_random.Next(items.Length)];

    private static string Time(DateTime moment) =>
        moment.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture);

    private static string Date(DateTime day) => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
}
