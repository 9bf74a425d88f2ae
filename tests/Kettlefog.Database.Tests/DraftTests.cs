using Kettlefog.Core;
using Kettlefog.Core.Drafting;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Core.Merging;
using Kettlefog.Core.Reversing;
using Kettlefog.Database.History;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Reversing;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// Maps are drafted of databases of different styles; each draft, unchanged, serves for a merge and its exact reversal.
/// </summary>
public abstract class DraftTests(Engine engine)
{
    private const string Snake = """
        CREATE TABLE customers (id INTEGER PRIMARY KEY, first_name VARCHAR(40), last_name VARCHAR(40) NOT NULL, email
          VARCHAR(80), phone VARCHAR(30), phone_2 VARCHAR(30), street VARCHAR(60), city VARCHAR(40), zip VARCHAR(10),
          country CHAR(2), remarks TEXT, created_at TIMESTAMP, updated_at TIMESTAMP, is_deleted INTEGER DEFAULT 0);
        INSERT INTO customers VALUES (1, 'Rhoda', 'Marrick', 'rhoda@marrick.example', '01632 960101', NULL,
          '12 Curlew Lane', 'Saltmarrow', 'SM2 4QT', 'GB', 'Pays late.', '2015-01-01 10:00:00',
          '2020-01-01 10:00:00', 0),
          (2, 'Rhoda', 'MARRICK', 'r.marrick@post.example', '01632 960102', NULL, '12 Curlew Ln', 'Saltmarrow',
            'SM2 4QT', 'GB', 'Prefers to be called in the morning, and never on a Sunday.', '2016-01-01 10:00:00',
            '2021-01-01 10:00:00', 0),
          (3, 'Hob', 'Trewin', 'hob@trewin.example', '01632 960103', NULL, '3 Kelp Row', 'Gannet Ness', 'GN1 1AA',
            'GB', NULL, '2017-01-01 10:00:00', '2021-01-01 10:00:00', 0);
        CREATE TABLE invoices (id INTEGER PRIMARY KEY, customer_id INTEGER NOT NULL REFERENCES customers (id),
          invoice_no VARCHAR(20), amount NUMERIC(10,2), issued_on DATE, UNIQUE (customer_id, invoice_no));
        CREATE INDEX invoices_customer ON invoices (customer_id);
        INSERT INTO invoices VALUES (1, 1, 'A1', 10.10, '2020-01-01'), (2, 2, 'A2', 20.20, '2020-02-01'), (3, 2, 'A3',
          30.30, '2020-03-01'), (4, 3, 'A4', 1.00, '2020-03-01');
        CREATE TABLE notes (id INTEGER PRIMARY KEY, subject_type VARCHAR(20), subject_id INTEGER, body TEXT);
        INSERT INTO notes VALUES (1, 'customer', 1, 'one'), (2, 'customer', 2, 'two'), (3, 'invoice', 2, 'of a bill'),
          (4, 'customer', 3, 'three');
        CREATE TABLE customer_tags (customer_id INTEGER NOT NULL REFERENCES customers (id), tag VARCHAR(20) NOT NULL,
          PRIMARY KEY (customer_id, tag));
        INSERT INTO customer_tags VALUES (1, 'sails'), (2, 'sails'), (2, 'fuel');
        CREATE TABLE currencies (code CHAR(3) PRIMARY KEY, name VARCHAR(30));
        INSERT INTO currencies VALUES ('GBP', 'Pound'), ('EUR', 'Euro');
        """;

    private const string German = """
        CREATE TABLE "TBL_KUNDEN" ("KD_NR" INTEGER PRIMARY KEY, "KD_FIRMA" VARCHAR(60), "KD_STRASSE" VARCHAR(60),
          "KD_PLZ" VARCHAR(10), "KD_ORT" VARCHAR(40), "KD_TELEFON" VARCHAR(30), "KD_EMAIL" VARCHAR(80), "KD_STATUS"
          VARCHAR(10), "KD_ANGELEGT_AM" DATE);
        INSERT INTO "TBL_KUNDEN" VALUES (501, 'Möwenwerft GmbH', 'Deichweg 1', '26721', 'Emden', '04921 555010',
          'buero@moewenwerft.example', 'aktiv', '2010-05-01'), (502, 'Moewenwerft GmbH', 'Deichweg 1', '26721',
          'Emden', '04921 555010', NULL, 'aktiv', '2012-05-01'), (503, 'Kutter & Söhne KG', 'Am Kai 7', '26506',
          'Norden', '04931 555020', 'post@kutter.example', 'inaktiv', '2011-05-01');
        CREATE TABLE "TBL_RECHNUNGEN" ("RE_NR" INTEGER PRIMARY KEY, "KUNDENNR" INTEGER, "RE_DATUM" DATE, "RE_BETRAG"
          NUMERIC(10,2));
        INSERT INTO "TBL_RECHNUNGEN" VALUES (1, 501, '2020-01-01', 100.50), (2, 502, '2020-01-02', 200.25), (3, 503,
          '2020-01-03', 1.00);
        CREATE TABLE "TBL_ANSPRECHPARTNER" ("AP_NR" INTEGER PRIMARY KEY, "AP_KD_NR" INTEGER, "AP_VORNAME" VARCHAR(30),
          "AP_NACHNAME" VARCHAR(30), "AP_TELEFON" VARCHAR(30));
        INSERT INTO "TBL_ANSPRECHPARTNER" VALUES (1, 501, 'Elke', 'Siel', '04921 555011'), (2, 502, 'Elke', 'Siel',
          '04921 555011');
        """;

    private const string Camel = """
        CREATE TABLE "Person" ("personId" VARCHAR(36) PRIMARY KEY, "givenName" TEXT, "familyName" TEXT, "birthDate"
          DATE, "emailAddress" TEXT, "isActive" INTEGER, "dateCreated" TIMESTAMP);
        INSERT INTO "Person" VALUES ('0a1b2c3d-0000-4000-8000-000000000001', 'Maud', 'Tilling', '1980-02-03',
          'maud@tilling.example', 1, '2019-01-01 00:00:00'), ('0a1b2c3d-0000-4000-8000-000000000002', 'Maude',
          'Tilling', '1980-02-03', 'maud@tilling.example', 1, '2020-01-01 00:00:00'),
          ('0a1b2c3d-0000-4000-8000-000000000003', 'Ivo', 'Crane', '1975-07-07', 'ivo@crane.example', 1,
          '2020-01-01 00:00:00');
        CREATE TABLE "Membership" ("membershipId" VARCHAR(36) PRIMARY KEY, "personId" VARCHAR(36), "validFrom" DATE,
          "annualFee" NUMERIC(8,2));
        INSERT INTO "Membership" VALUES ('m1', '0a1b2c3d-0000-4000-8000-000000000001', '2020-01-01', 50.00), ('m2',
          '0a1b2c3d-0000-4000-8000-000000000002', '2021-01-01', 60.00);
        CREATE TABLE "ActivityLog" ("logId" INTEGER PRIMARY KEY, "entityType" TEXT, "entityId" VARCHAR(36), "message"
          TEXT);
        INSERT INTO "ActivityLog" VALUES (1, 'Person', '0a1b2c3d-0000-4000-8000-000000000002', 'called'), (2,
          'Membership', 'm1', 'renewed');
        """;

    private const string Composite = """
        CREATE TABLE supplier (company_code VARCHAR(4) NOT NULL, supplier_no INTEGER NOT NULL, name VARCHAR(60),
          vat_number VARCHAR(20), iban VARCHAR(34), city VARCHAR(40), phone VARCHAR(30), currency CHAR(3), status
          VARCHAR(10), PRIMARY KEY (company_code, supplier_no));
        INSERT INTO supplier VALUES ('SHT', 1, 'Gannet Chandlery Ltd', 'GB404118207', 'XX29 SALT 0041 8207 0001 18',
          'Saltmarrow', '01632 960118', 'GBP', 'open'), ('SHT', 2, 'Gannett Chandlery Limited', NULL, NULL,
          'Saltmarrow', '01632 960118', 'GBP', 'open'), ('BYD', 1, 'Petrel Fuels Ltd', 'GB111',
          'XX29 SALT 0041 8207 0001 19', 'Ternhaven', '01632 960119', 'GBP', 'closed');
        CREATE TABLE bill (bill_id INTEGER PRIMARY KEY, company_code VARCHAR(4) NOT NULL, supplier_no INTEGER NOT
          NULL, total NUMERIC(12,2), due_date DATE, FOREIGN KEY (company_code, supplier_no) REFERENCES supplier
          (company_code, supplier_no));
        INSERT INTO bill VALUES (1, 'SHT', 1, 100.10, '2020-01-01'), (2, 'SHT', 2, 7.05, '2021-01-01'), (3, 'BYD', 1,
          1.00, '2021-01-01');
        CREATE TABLE supplier_profile (company_code VARCHAR(4) NOT NULL, supplier_no INTEGER NOT NULL, rating INTEGER,
          comment VARCHAR(200), PRIMARY KEY (company_code, supplier_no), FOREIGN KEY (company_code, supplier_no)
          REFERENCES supplier (company_code, supplier_no));
        INSERT INTO supplier_profile VALUES ('SHT', 1, 3, NULL), ('SHT', 2, NULL, 'delivers on Mondays');
        """;

    private const string Spanish = """
        CREATE TABLE clientes (codigo VARCHAR(10) PRIMARY KEY, razon_social VARCHAR(60) NOT NULL, nif VARCHAR(15),
          direccion VARCHAR(60), localidad VARCHAR(40), correo VARCHAR(80), telefono VARCHAR(30), fecha_alta DATE,
          deleted_at TIMESTAMP);
        INSERT INTO clientes VALUES ('C001', 'Astilleros Gaviota SL', 'B12345678', 'Calle Mar 1', 'Puerto',
          'info@gaviota.example', '955 010 101', '2015-01-01', NULL), ('C002', 'Astilleros Gaviota S.L.',
          'B12345678', 'C/ Mar 1', 'Puerto', 'ventas@gaviota.example', '955 010 101', '2018-01-01', NULL), ('C003',
          'Redes del Sur SA', 'A87654321', 'Calle Red 2', 'Bahia', 'info@redes.example', '955 010 202', '2016-01-01',
          NULL);
        CREATE TABLE facturas (numero INTEGER PRIMARY KEY, cliente VARCHAR(10) NOT NULL REFERENCES clientes (codigo),
          enviar_a VARCHAR(10) REFERENCES clientes (codigo), importe NUMERIC(10,2), fecha DATE);
        INSERT INTO facturas VALUES (1, 'C001', 'C002', 10.00, '2020-01-01'), (2, 'C002', NULL, 20.00, '2020-01-02'),
          (3, 'C003', 'C003', 5.00, '2020-01-03');
        """;

    private const string Practice = """
        CREATE TABLE patients (patient_id INTEGER PRIMARY KEY, given_name VARCHAR(40), family_name VARCHAR(40), born
          DATE, email VARCHAR(80), mobile VARCHAR(30), do_not_contact INTEGER NOT NULL DEFAULT 0, tags VARCHAR(200),
          notes TEXT, state VARCHAR(10) NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'closed')), guardian_no
          INTEGER);
        INSERT INTO patients VALUES (1, 'Maud', 'Tilling', '1980-02-03', 'maud@tilling.example', '01632 960201', 0,
          'sails, dogs', 'Likes mornings.', 'open', NULL), (2, 'Maude', 'Tilling', '1980-02-03',
          'maude@post.example', '01632 960202', 1, 'dogs, cats', 'Has a dog.', 'open', NULL), (3, 'Ivo', 'Crane',
          '1975-07-07', 'ivo@crane.example', '01632 960203', 0, NULL, NULL, 'open', NULL);
        CREATE TABLE patient_emails (id INTEGER PRIMARY KEY, patient_id INTEGER NOT NULL REFERENCES patients
          (patient_id) ON DELETE CASCADE, address VARCHAR(80) NOT NULL, label VARCHAR(10) NOT NULL, is_primary
          INTEGER NOT NULL);
        INSERT INTO patient_emails VALUES (1, 1, 'm.tilling@work.example', 'work', 0), (2, 3, 'ivo@home.example',
          'home', 0), (3, 3, 'ivo@other.example', 'other', 0);
        CREATE TABLE activities (id INTEGER PRIMARY KEY, patient_id INTEGER REFERENCES patients (patient_id), kind
          VARCHAR(10) NOT NULL, summary VARCHAR(200) NOT NULL, happened_at TIMESTAMP NOT NULL, author VARCHAR(20) NOT
          NULL);
        INSERT INTO activities VALUES (1, 1, 'call', 'called', '2020-01-01 10:00:00', 'm.ashe'), (2, 2, 'note',
          'wrote', '2020-01-01 10:00:00', 'm.ashe');
        """;

    private const string NoKeys = """
        CREATE TABLE lieferant (mandant VARCHAR(4) NOT NULL, lief_nr INTEGER NOT NULL, firma VARCHAR(60), strasse
          VARCHAR(60), ort VARCHAR(40), plz VARCHAR(10), telefon VARCHAR(30), aktiv INTEGER NOT NULL);
        CREATE UNIQUE INDEX lieferant_eins ON lieferant (mandant, lief_nr);
        INSERT INTO lieferant VALUES ('A', 1, 'Möwenwerft GmbH', 'Deichweg 1', 'Emden', '26721', '04921 555010', 1),
          ('A', 2, 'Moewenwerft GmbH', 'Deichweg 1', 'Emden', '26721', '04921 555010', 1), ('B', 1, 'Kutter KG',
          'Am Kai 7', 'Norden', '26506', '04931 555020', 1);
        CREATE TABLE eingangsrechnung (id INTEGER PRIMARY KEY, mandant VARCHAR(4), lief_nr INTEGER, betrag
          NUMERIC(10,2), datum DATE);
        INSERT INTO eingangsrechnung VALUES (1, 'A', 1, 10.00, '2020-01-01'), (2, 'A', 2, 20.00, '2020-01-02'), (3,
          'B', 1, 1.00, '2020-01-02');
        CREATE TABLE kunden_alt (name VARCHAR(60), vorname VARCHAR(30), nachname VARCHAR(30), email VARCHAR(80),
          telefon VARCHAR(30), ort VARCHAR(40));
        """;

    private const string Parents = """
        CREATE TABLE company (id INTEGER PRIMARY KEY, name VARCHAR(60), city VARCHAR(40), phone VARCHAR(30),
          vat_number VARCHAR(20), status VARCHAR(10));
        INSERT INTO company VALUES (1, 'Gannet Chandlery Ltd', 'Saltmarrow', '01632 960118', 'GB1', 'inactive'), (2,
          'Gannett Chandlery', 'Saltmarrow', '01632 960118', NULL, 'active'), (3, 'Petrel Fuels Ltd', 'Ternhaven',
          '01632 960119', 'GB2', 'active');
        CREATE TABLE contact (id INTEGER PRIMARY KEY, company_id INTEGER REFERENCES company (id), first_name
          VARCHAR(30), last_name VARCHAR(30), email VARCHAR(80), phone VARCHAR(30), status VARCHAR(10));
        INSERT INTO contact VALUES (1, 1, 'Maud', 'Tilling', 'maud@tilling.example', NULL, 'inactive'), (2, 2, 'Maud',
          'Tilling', 'maud@tilling.example', '01632 960300', 'active'), (3, 3, 'Ivo', 'Crane', 'ivo@crane.example',
          NULL, 'active');
        """;

    private const string TextKeys = """
        CREATE TABLE "tblCustomer" (name VARCHAR(40) PRIMARY KEY, customer_name VARCHAR(60), trade VARCHAR(20),
          email_id VARCHAR(60), phone VARCHAR(30), city VARCHAR(30), creation TIMESTAMP, modified TIMESTAMP, disabled
          INTEGER);
        INSERT INTO "tblCustomer" VALUES ('CUST-1', 'Gannet Chandlery Ltd', 'Trade', 'office@gannet.example',
          '01632 960118', 'Saltmarrow', '2015-01-01 10:00:00', '2020-01-01 10:00:00', 0), ('CUST-2',
          'Gannett Chandlery Ltd', 'Trade', 'orders@gannet.example', '01632 960118', 'Saltmarrow',
          '2016-01-01 10:00:00', '2021-01-01 10:00:00', 0), ('CUST-3', 'Petrel Fuels Ltd', 'Trade',
          'post@petrel.example', '01632 960119', 'Ternhaven', '2016-01-01 10:00:00', '2021-01-01 10:00:00', 1);
        CREATE TABLE "tblBerth Invoice" (name VARCHAR(40) PRIMARY KEY, customer VARCHAR(40), customer_name
          VARCHAR(60), city VARCHAR(30), postal_code VARCHAR(10), phone VARCHAR(30), contact_email VARCHAR(60),
          grand_total NUMERIC(12,2), posting_date DATE);
        INSERT INTO "tblBerth Invoice" VALUES ('BI-1', 'CUST-1', 'Gannet Chandlery Ltd', 'Saltmarrow', 'SM2',
          '01632 960118', 'office@gannet.example', 10.10, '2020-01-01'), ('BI-2', 'CUST-2', 'Gannett Chandlery Ltd',
          'Saltmarrow', 'SM2', '01632 960118', 'office@gannet.example', 20.20, '2020-02-01');
        CREATE TABLE "tblHarbour Payment" (name VARCHAR(40) PRIMARY KEY, party_type VARCHAR(20), party VARCHAR(40),
          paid_amount NUMERIC(12,2));
        INSERT INTO "tblHarbour Payment" VALUES ('HP-1', 'Customer', 'CUST-2', 20.20), ('HP-2', 'Supplier', 'SUPP-9',
          5.00);
        CREATE TABLE logged_call (id INTEGER PRIMARY KEY, model VARCHAR(30), record_id VARCHAR(40), body TEXT);
        INSERT INTO logged_call VALUES (1, 'Customer', 'CUST-2', 'called'), (2, 'Invoice', 'BI-1', 'sent');
        CREATE TABLE campaign (id INTEGER PRIMARY KEY, customer VARCHAR(40));
        INSERT INTO campaign VALUES (1, 'anybody'), (2, 'everybody');
        """;

    [Fact]
    public async Task Text_keys_in_columns_called_as_the_table_types_without_lead_and_bills_that_carry_addresses()
    {
        var (draft, _) = await ProvenAsync(TextKeys, "customer", "CUST-1", "CUST-2");
        draft.RecordTypes.ShouldBe(["customer"]);
        draft.Yaml.ShouldContain(
            "{ table: tblBerth Invoice, columns: customer, amount: grand_total } # 95 %: it has the table's "
                + "name, and the keys are texts; 100 % of its values found"
        );
        draft.Yaml.ShouldContain(
            "{ table: tblHarbour Payment, columns: party, when: { party_type: Customer }, amount: paid_amount }"
        );
        draft.Yaml.ShouldContain("{ table: logged_call, columns: record_id, when: { model: Customer } }");
        draft.Yaml.ShouldNotContain("table: campaign");
        draft.Yaml.ShouldContain("created: creation");
        draft.Yaml.ShouldContain("retire: { mark: { disabled: 1 } }");
    }

    private const string Values = """
        CREATE TABLE tbl_Socio (CodSocio VARCHAR(8) PRIMARY KEY, Cognome VARCHAR(30) NOT NULL, Nome VARCHAR(30),
          CodFiscale VARCHAR(16), DataNascita VARCHAR(10), Cell VARCHAR(20), Indirizzo VARCHAR(40), Citta
          VARCHAR(30), Presentato VARCHAR(8), DataIns DATE);
        INSERT INTO tbl_Socio VALUES ('S00001', 'Marrick', 'Rhoda', 'XX2736429881', '03/04/1971', '07700 900101',
          'Via del Molo 1', 'Saltmarrow', NULL, '2015-02-03'), ('S00002', 'MARRICK', 'Rhoda', NULL, '03/04/1971',
          '07700 900101', 'V. del Molo 1', 'Saltmarrow', 'S00003', '2016-02-03'),
          ('S00003', 'Trewin', 'Hob', NULL, '11/12/1950', '07700 900103', 'Via del Faro 3', 'Gannet Ness', 'S00004',
            '2017-02-03'), ('S00004', 'Ashe', 'Maud', NULL, '01/02/1960', '07700 900104', 'Via del Faro 4',
            'Gannet Ness', 'S00001', '2018-02-03');
        CREATE TABLE tbl_Delega (Delegante VARCHAR(8), Delegato VARCHAR(8), PRIMARY KEY (Delegante, Delegato));
        INSERT INTO tbl_Delega VALUES ('S00001', 'S00003'), ('S00002', 'S00003'), ('S00002', 'S00004'), ('S00003',
          'S00001'), ('S00004', 'S00002');
        CREATE TABLE tbl_Registro (Id INTEGER PRIMARY KEY, Oggetto VARCHAR(40), Testo VARCHAR(40));
        INSERT INTO tbl_Registro VALUES (1, 'SOCIO:S00001', 'a'), (2, 'SOCIO:S00002', 'b'), (3, 'SOCIO:S00003', 'c'),
          (4, 'BARCA:S00002', 'd'), (5, 'BARCA:B001', 'e'), (6, 'BARCA:B002', 'f'), (7, 'BARCA:B003', 'g');
        CREATE TABLE merce (codice VARCHAR(8) PRIMARY KEY, lotto VARCHAR(8));
        INSERT INTO merce VALUES ('M1', 'L00001'), ('M2', 'L00002'), ('M3', 'L00009'), ('M4', 'L00007');
        """;

    [Fact]
    public async Task References_without_telling_names_are_found_by_values_alone_or_within_a_text()
    {
        var (draft, moved) = await ProvenAsync(Values, "socio", "S00001", "S00002");
        draft.Yaml.ShouldContain(
            "delega_delegante: { table: tbl_Delega, columns: Delegante, collision: keep-equal } # 80 %: its values "
                + "look like the keys; 100 % of its values found",
            Case.Insensitive
        );
        draft.Yaml.ShouldContain(
            "delega_delegato: { table: tbl_Delega, columns: Delegato, collision: keep-equal }",
            Case.Insensitive
        );
        draft.Yaml.ShouldContain(
            "socio: { table: tbl_Socio, columns: Presentato, hierarchy: false } # 80 %",
            Case.Insensitive
        );
        draft.Yaml.ShouldContain(
            "registro: { table: tbl_Registro, columns: Oggetto, as: \"SOCIO:{key}\" } # 95 %: its texts start "
                + "with 'SOCIO:'",
            Case.Insensitive
        );
        draft.Yaml.ShouldContain("nome: { kind: given-name } # 75 %: by its name, beside a family name");
        draft.Yaml.ShouldContain("kind: birth-date }");
        draft.Yaml.ShouldContain("kind: tax-number }");
        draft.Yaml.ShouldNotContain("BARCA");
        draft.Yaml.ShouldNotContain("merce");
        moved.ShouldNotBeEmpty();
    }

    private const string Repeatable = """
        CREATE TABLE mitglied (vorname VARCHAR(30), nachname VARCHAR(30), nr VARCHAR(10), email VARCHAR(80), telefon
          VARCHAR(30), ort VARCHAR(40), plz VARCHAR(10));
        INSERT INTO mitglied VALUES ('Maud', 'Ashe', 'M1', 'm.ashe@ashe.example', '01632 960001', 'Saltmarrow', '1'),
          ('Maude', 'Ashe', 'M2', 'm.ashe@ashe.example', '01632 960001', 'Saltmarrow', '1'),
          ('Hob', 'Trewin', 'M3', 'h.trewin@trewin.example', '01632 960003', 'Kelp Point', '2');
        CREATE TABLE beitrag (id INTEGER PRIMARY KEY, mitglied_nr VARCHAR(10), betrag NUMERIC(10,2), datum DATE);
        INSERT INTO beitrag VALUES (1, 'M1', 10.00, '2020-01-01'), (2, 'M2', 20.00, '2020-01-02'), (3, 'M2', 1.00,
          '2020-01-02'), (4, 'M3', 1.00, '2020-01-02');
        """;

    [Fact]
    public async Task A_key_that_only_the_values_make_unique_is_drafted_and_asked_about()
    {
        var (draft, moved) = await ProvenAsync(Repeatable, "mitglied", "M1", "M2");
        draft.Yaml.ShouldContain("key: nr # its values are all different today; nothing in the database keeps them so");
        draft.Questions.ShouldContain(question =>
            question.StartsWith("Does nr identify a row of mitglied?", StringComparison.Ordinal)
        );
        moved.ShouldBe("beitrag 2");
    }

    private const string Undeclared = """
        CREATE TABLE member (id INTEGER PRIMARY KEY, first_name VARCHAR(30), last_name VARCHAR(30), email VARCHAR(80),
          phone VARCHAR(30), city VARCHAR(40));
        INSERT INTO member VALUES (1003, 'Maud', 'Ashe', 'm.ashe@ashe.example', '01632 960001', 'Saltmarrow'),
          (1047, 'Maude', 'Ashe', 'm.ashe@ashe.example', '01632 960001', 'Saltmarrow'),
          (2051, 'Hob', 'Trewin', 'h.trewin@trewin.example', '01632 960003', 'Kelp Point'),
          (3377, 'Ivo', 'Crane', 'i.crane@crane.example', '01632 960004', 'Kelp Point');
        CREATE TABLE task (id INTEGER PRIMARY KEY, title VARCHAR(30), creator INTEGER, checked_by INTEGER);
        INSERT INTO task VALUES (1, 'a', 1003, 2051), (2, 'b', 1047, 3377), (3, 'c', 2051, 1003), (4, 'd', 1047, 9);
        CREATE TABLE log (id INTEGER PRIMARY KEY, entity_type INTEGER, entity_id INTEGER);
        INSERT INTO log VALUES (1, 7, 1003), (2, 7, 1047), (3, 7, 2051), (4, 8, 1), (5, 8, 2), (6, 8, 3);
        CREATE TABLE setting (id INTEGER PRIMARY KEY, name VARCHAR(30), content VARCHAR(30));
        INSERT INTO setting VALUES (1, 'member_id', '1003'), (2, 'member_id', '1047'), (3, 'member_id', '3377'),
          (4, 'colour', 'blue');
        CREATE TABLE link (id INTEGER PRIMARY KEY, address VARCHAR(60));
        INSERT INTO link VALUES (1, 'https://crm.example/p/1003'), (2, 'https://crm.example/p/1047'),
          (3, 'https://crm.example/p/2051');
        CREATE TABLE stock (id INTEGER PRIMARY KEY, quantity INTEGER, shelf INTEGER);
        INSERT INTO stock VALUES (1, 3, 1003), (2, 9, 17), (3, 27, 18), (4, 4, 19);
        """;

    [Fact]
    public async Task Columns_whose_values_are_all_keys_are_asked_about_where_nothing_declares_them()
    {
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, "draft");
        file.Execute(Undeclared);
        var draft = await UninitialisedDatabase.DraftMapAsync(file.Address, ["member"], default);
        foreach (
            var line in new[]
            {
                "# task_creator: { table: task, columns: creator } # 40 %: its name is a role",
                "# log: { table: log, columns: entity_id, when: { entity_type: \"7\" } } # 40 %: its values are keys "
                    + "where 'entity_type' is '7'",
                "# setting: { table: setting, columns: content, when: { name: member_id } } # 40 %: its values "
                    + "are keys where 'name' is 'member_id'",
                "# link: { table: link, columns: address, as: \"https://crm.example/p/{key}\" } # 40 %: after "
                    + "'https://crm.example/p/' all its values are keys",
            }
        )
            draft.Yaml.ShouldContain(line);
        draft.Yaml.ShouldNotContain("stock");
        draft.Questions.ShouldContain(question =>
            question.Contains("task.checked_by") && question.Contains("only 75 %")
        );
        draft.Yaml.ShouldNotContain("entity_type: \"8\"");
        draft.Questions.ShouldContain(question =>
            question.StartsWith("Does task.creator refer to member?", StringComparison.Ordinal)
        );

        // What is only asked about is not in the map; a merge says what it leaves behind.
        var document = MapReader.Read(draft.Yaml, "draft.yaml");
        await OwnTablesMaintenance.InitialiseAsync(file.Address, null, default);
        using var database = await OperationalDatabase.OpenAsync(
            file.Address,
            document,
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            default
        );
        (await database.Maps.CheckAsync(default)).Findings.ShouldContain(finding =>
            finding.Severity == FindingSeverity.Advice
            && finding.Message.StartsWith("task.creator may refer to 'member'")
        );
        var type = database.Map.Map.Require("member");
        var plan = await database.Merges.PlanAsync(
            new MergeChoices(
                "member",
                database.Records.ReadKey(type, "1003"),
                [database.Records.ReadKey(type, "1047")],
                new Dictionary<string, FieldChoice>()
            ),
            default
        );
        plan.Warnings.ShouldContain(
            "2 rows of 'task' hold 1047 in 'creator', which the record map does not name as a reference: "
                + "they are left as they are."
        );
        plan.Warnings.ShouldContain(
            "1 row of 'log' holds 1047 in 'entity_id', which the record map does not name as a reference: it "
                + "is left as it is."
        );
        plan.Warnings.ShouldContain(warning =>
            warning.StartsWith("1 row of 'link' holds https://crm.example/p/1047 in")
        );
        plan.Warnings.ShouldContain(warning => warning.StartsWith("1 row of 'setting' holds 1047 in 'content'"));
    }

    private const string States = """
        CREATE TABLE party_state (code INTEGER PRIMARY KEY, label VARCHAR(20) NOT NULL);
        INSERT INTO party_state VALUES (1, 'Active'), (2, 'Dormant'), (3, 'Merged');
        CREATE TABLE organisation (id INTEGER PRIMARY KEY, legal_name VARCHAR(40) NOT NULL, phone VARCHAR(20), city
          VARCHAR(20), status INTEGER REFERENCES party_state (code), deleted_utc TIMESTAMP);
        INSERT INTO organisation VALUES (1, 'Gannet Chandlery Ltd', '01632 960118', 'Saltmarrow', 1, NULL), (2,
          'Gannett Chandlery Limited', '01632 960118', 'Saltmarrow', 1, NULL), (3, 'Petrel Rigging Ltd',
          '01632 960119', 'Ternhaven', 2, NULL);
        CREATE TABLE organisation_address (organisation_id INTEGER NOT NULL REFERENCES organisation (id), kind
          VARCHAR(10) NOT NULL, line VARCHAR(40), postcode VARCHAR(10), town VARCHAR(20), PRIMARY KEY
          (organisation_id, kind));
        INSERT INTO organisation_address VALUES (1, 'office', '12 Fish Street', 'SM1 4QD', 'Saltmarrow'), (2, 'yard',
          '1 Kelp Row', 'SM1 4QE', 'Saltmarrow');
        CREATE TABLE organisation_mail (id INTEGER PRIMARY KEY, organisation_id INTEGER NOT NULL REFERENCES
          organisation (id), address VARCHAR(60) NOT NULL, is_primary INTEGER NOT NULL);
        CREATE UNIQUE INDEX organisation_mail_primary ON organisation_mail (organisation_id) WHERE is_primary = 1;
        INSERT INTO organisation_mail VALUES (1, 1, 'office@gannet.example', 1), (2, 2, 'orders@gannet.example', 0),
          (3, 2, 'bills@gannet.example', 0), (4, 3, 'office@petrel.example', 1);
        CREATE TABLE event_log (id INTEGER PRIMARY KEY, urn VARCHAR(60) NOT NULL, happened_at TIMESTAMP NOT NULL,
          message VARCHAR(120));
        INSERT INTO event_log VALUES (1, 'urn:harbour:organisation:1', '2024-01-01 10:00:00', 'a'), (2,
          'urn:harbour:organisation:2', '2024-01-01 10:00:00', 'b'), (3, 'urn:harbour:organisation:3',
          '2024-01-01 10:00:00', 'c');
        """;

    [Fact]
    public async Task A_table_of_states_one_primary_at_most_one_row_a_kind_and_events_by_a_name_around_the_key()
    {
        var (draft, _) = await ProvenAsync(Counting(States), "organisation", "1", "2");
        draft.RecordTypes.ShouldBe(["organisation"]);
        draft.Yaml.ShouldContain("retire: { mark: { status: \"3\" } } # party_state calls it Merged");
        draft.Yaml.ShouldContain(
            "organisation_mail: { table: organisation_mail, columns: organisation_id } # a foreign key of the "
                + "database; two with"
        );
        draft.Yaml.ShouldContain(
            "event_log: { table: event_log, columns: urn, as: \"urn:harbour:organisation:{key}\" }"
        );
        draft.Yaml.ShouldContain(
            "values: { urn: \"urn:harbour:organisation:{key}\", happened_at: \"{at}\", message: \"Merged with "
                + "{duplicates}: {reason}\" }"
        );
        draft.Questions.ShouldContain(question =>
            question.StartsWith(
                "Where both records have a row of organisation_address with the same kind",
                StringComparison.Ordinal
            )
        );
        draft.Questions.ShouldContain(question =>
            question.StartsWith("A record has at most one row of organisation_mail with ", StringComparison.Ordinal)
        );
    }

    private const string Filled = """
        CREATE TABLE debiteuren (deb_nr VARCHAR(8) PRIMARY KEY, bedrijfsnaam VARCHAR(40), straat VARCHAR(40), huisnr
          VARCHAR(6), pc VARCHAR(8), plaats VARCHAR(20), e_mail VARCHAR(60), btw_nr VARCHAR(20), opm VARCHAR(200));
        INSERT INTO debiteuren VALUES ('010001', 'Gannet Touwslagerij B.V.', 'Havenkade', '1', '1234 AB',
          'Zuiderplaat', 'info@gannet.example', 'NL100000001B01', NULL), ('010002', 'Gannet Touwslagerij',
          'Havenkade', '1', '1234 AB', 'Zuiderplaat', 'post@gannet.example', NULL, NULL),
          ('010003', 'Petrel Verf B.V.', 'Havenkade', '3', '1234 AB', 'Zuiderplaat', 'info@petrel.example',
            'NL100000003B01', NULL), ('010004', 'Tern Zeilmakerij B.V.', 'Havenkade', '4', '1234 AC', 'Zuiderplaat',
            'info@tern.example', 'NL100000004B01', NULL);
        CREATE TABLE facturen (factuurnr INTEGER PRIMARY KEY, debnr VARCHAR(8), datum DATE, bedrag NUMERIC(10,2));
        INSERT INTO facturen VALUES (1, '010001', '2024-01-01', 10.00), (2, '010002', '2024-01-02', 20.00);
        CREATE TABLE boekingen (id INTEGER PRIMARY KEY, relatie VARCHAR(8), bedrag NUMERIC(10,2));
        INSERT INTO boekingen VALUES (1, '010001', 1.00), (2, '010002', 2.00), (3, '010003', 3.00);
        CREATE TABLE bijlagen (id INTEGER PRIMARY KEY, tabel VARCHAR(20), sleutel VARCHAR(20), bestand VARCHAR(20));
        INSERT INTO bijlagen VALUES (1, 'debiteuren', '010002', 'a'), (2, 'facturen', '1', 'b'), (3, 'debiteuren',
          '010004', 'c');
        """;

    [Fact]
    public async Task Numbers_filled_up_with_zeros_names_grown_together_and_a_table_with_a_key()
    {
        var (draft, _) = await ProvenAsync(Filled, "debiteuren", "010001", "010002");
        draft.Yaml.ShouldContain(
            "facturen: { table: facturen, columns: debnr, amount: bedrag } # 95 %: it has the key's name"
        );
        draft.Yaml.ShouldContain(
            "boekingen: { table: boekingen, columns: relatie, amount: bedrag } # 80 %: its values look like the keys"
        );
        draft.Yaml.ShouldContain("bijlagen: { table: bijlagen, columns: sleutel, when: { tabel: debiteuren } } # 95 %");
        draft.Yaml.ShouldContain("btw_nr: { kind: tax-number }");
        draft.Yaml.ShouldContain("huisnr: { kind: house-number }");
        draft.Yaml.ShouldContain("pc: { kind: postcode }");
    }

    [Fact]
    public async Task What_only_values_show_is_found_by_every_check_of_a_map()
    {
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, "draft");
        file.Execute(Values);
        var draft = await UninitialisedDatabase.DraftMapAsync(file.Address, [], default);
        var without = string.Join(
            '\n',
            draft
                .Yaml.Split('\n')
                .Where(line =>
                    !line.Contains("Registro", StringComparison.OrdinalIgnoreCase)
                    && !line.Contains("registro", StringComparison.Ordinal)
                )
        );
        var report = await UninitialisedDatabase.CheckMapAsync(
            file.Address,
            MapReader.Read(without, "draft.yaml"),
            default
        );
        report.Findings.ShouldContain(finding =>
            finding.Message.Contains(
                "its texts start with 'SOCIO:'; 100 % of its values found",
                StringComparison.Ordinal
            ) && finding.Remedy.Contains("as: \"SOCIO:{key}\"", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task Tables_of_further_mails_and_of_what_happened_consent_sets_and_a_state_that_a_check_allows()
    {
        var (draft, _) = await ProvenAsync(Counting(Practice), "patient", "1", "2");
        draft.RecordTypes.ShouldBe(["patient"]);
        draft.Yaml.ShouldContain(
            "email: { kind: email, overflow_rows: { reference: patient_emails, column: address, values: { "
                + "label: other, is_primary: \"0\" } } }"
        );
        draft.Yaml.ShouldContain("do_not_contact: { kind: integer, survivorship: largest }");
        draft.Yaml.ShouldContain("tags: { survivorship: union }");
        draft.Yaml.ShouldContain("notes: { kind: long-text, survivorship: append }");
        draft.Yaml.ShouldContain("retire: { mark: { state: closed } } # a check constraint allows it: open, closed");
        draft.Yaml.ShouldContain(
            "values: { patient_id: \"{key}\", kind: note, happened_at: \"{at}\", author: \"{actor}\", "
                + "summary: \"Merged with {duplicates}: {reason}\" }"
        );
    }

    [Fact]
    public async Task Composite_keys_that_no_constraint_names_and_a_table_without_any_key()
    {
        var (draft, _) = await ProvenAsync(NoKeys, "lieferant", "A|1", "A|2");
        draft.Yaml.ShouldContain("key: [mandant, lief_nr] # there is no primary key");
        draft.Yaml.ShouldContain(
            "eingangsrechnung: { table: eingangsrechnung, columns: [mandant, lief_nr], amount: betrag } # 95 "
                + "%: its columns have the names of the key's columns; 100 % of its values found"
        );
        draft.Yaml.ShouldContain("retire: { mark: { aktiv: 0 } }");
        draft.Questions.ShouldContain(question =>
            question.StartsWith(
                "kunden_alt looks like a list of people or organisations, but its rows cannot be told apart",
                StringComparison.Ordinal
            )
        );
    }

    [Fact]
    public async Task Children_that_turn_out_to_be_duplicates_are_offered()
    {
        var (draft, _) = await ProvenAsync(Parents, "company", "1", "2");
        draft.RecordTypes.ShouldBe(["company", "contact"], ignoreOrder: true);
        draft.Yaml.ShouldContain(
            "contact: { type: contact, through: contact, same: [[first_name, last_name], [email]] }"
        );
    }

    [Fact]
    public async Task Snake_case_with_soft_deletion_tags_and_notes_of_several_types()
    {
        var (draft, _) = await ProvenAsync(Snake, "customer", "1", "2");
        draft.RecordTypes.ShouldBe(["customer"]);
        draft.Yaml.ShouldContain("label: \"{first_name} {last_name}, {city}\"");
        draft.Yaml.ShouldContain("email: { kind: email } # 98 %: its values are e-mail addresses");
        draft.Yaml.ShouldContain("phone: { kind: phone, overflow: phone_2 }");
        draft.Yaml.ShouldContain("retire: { mark: { is_deleted: 1 } }");
        draft.Yaml.ShouldContain(
            "invoices: { table: invoices, columns: customer_id, amount: amount } # a foreign key of the "
                + "database; rows with the same unique values block the merge"
        );
        draft.Yaml.ShouldContain(
            "customer_tags: { table: customer_tags, columns: customer_id, collision: keep-equal }"
        );
        draft.Yaml.ShouldContain(
            "notes: { table: notes, columns: subject_id, when: { subject_type: customer } } # 95 %: "
                + "'subject_type' says 'customer'; 100 % of its values found"
        );
        draft.Yaml.ShouldContain("invoices_amount: { reference: invoices, sum: amount, control: true }");
        draft.Yaml.ShouldContain("country: GB");
    }

    [Fact]
    public async Task German_names_with_prefixes_and_no_foreign_keys()
    {
        var (draft, world) = await ProvenAsync(German, "kunden", "501", "502");
        draft.RecordTypes.ShouldContain("ansprechpartner");
        draft.Yaml.ShouldContain("kd_firma: { kind: organisation-name }");
        draft.Yaml.ShouldContain("created: KD_ANGELEGT_AM");
        draft.Yaml.ShouldContain("retire: { mark: { KD_STATUS: inaktiv } } # a value that it has already");
        draft.Yaml.ShouldContain("columns: KUNDENNR");
        draft.Yaml.ShouldContain("columns: AP_KD_NR");
        world.ShouldBe("ansprechpartner 1|rechnungen 1");
        draft.Questions.ShouldContain(question => question.StartsWith("Which country do", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Camel_case_with_uuids_and_a_log_of_several_types()
    {
        var (draft, _) = await ProvenAsync(
            Camel,
            "person",
            "0a1b2c3d-0000-4000-8000-000000000001",
            "0a1b2c3d-0000-4000-8000-000000000002"
        );
        draft.Yaml.ShouldContain("given_name: { column: givenName, kind: given-name }");
        draft.Yaml.ShouldContain("birth_date: { column: birthDate, kind: birth-date }");
        draft.Yaml.ShouldContain("retire: { mark: { isActive: 0 } }");
        draft.Yaml.ShouldContain("membership: { table: Membership, columns: personId, amount: annualFee }");
        draft.Yaml.ShouldContain("when: { entityType: Person }");
    }

    [Fact]
    public async Task A_key_of_its_own_that_is_called_alike_is_asked_about_and_not_taken_for_a_reference()
    {
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, "draft");
        file.Execute(
            """
            CREATE TABLE berth (berthid INTEGER PRIMARY KEY, name TEXT, holder TEXT);
            CREATE TABLE spare_berth (spare_berthid INTEGER PRIMARY KEY, quay TEXT);
            CREATE TABLE fee_class (fee_classid INTEGER PRIMARY KEY, berthid_kind INTEGER, code_berthid INTEGER);
            INSERT INTO berth VALUES (1, 'North 1', 'Ida Wells'), (2, 'North 2', 'Jory Tilling'),
              (3, 'North 3', 'M. Quill');
            INSERT INTO spare_berth VALUES (1, 'east'), (2, 'west');
            INSERT INTO fee_class VALUES (1, 7, 1);
            """
        );
        var draft = await UninitialisedDatabase.DraftMapAsync(file.Address, ["berth"], default);
        draft.Yaml.ShouldContain("# spare_berth: { table: spare_berth, columns: spare_berthid");
        draft.Yaml.ShouldContain("# fee_class: { table: fee_class, columns: code_berthid");
        draft.Questions.ShouldContain(question => question.Contains("Does spare_berth.spare_berthid refer to berth?"));
        MapReader.Read(draft.Yaml, "draft.yaml").Map.RecordTypes.Single().References.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_draft_of_tables_without_names_or_usable_keys_is_a_map_that_fits()
    {
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, "draft");
        file.Execute(
            """
            CREATE TABLE device (id INTEGER PRIMARY KEY, serial INTEGER, weight INTEGER);
            CREATE TABLE reading (device_id INTEGER NOT NULL REFERENCES device (id), at TEXT, value INTEGER,
                                  UNIQUE (device_id, at));
            INSERT INTO device VALUES (1, 7, 8), (2, 7, 8);
            INSERT INTO reading VALUES (1, '2026-01-01', 3), (2, NULL, 4), (2, NULL, 4);
            """
        );
        var draft = await UninitialisedDatabase.DraftMapAsync(file.Address, ["device"], default);
        draft.Yaml.ShouldContain("policy: block");
        draft.Questions.ShouldContain(question =>
            question.StartsWith("reading has no primary key", StringComparison.Ordinal)
        );
        var document = MapReader.Read(draft.Yaml, "draft.yaml");
        (await UninitialisedDatabase.CheckMapAsync(file.Address, document, default)).RequireMap();
    }

    [Fact]
    public async Task Composite_keys_with_a_legal_entity_and_one_row_a_record()
    {
        var (draft, _) = await ProvenAsync(Composite, "supplier", "SHT|1", "SHT|2", yaml =>
            yaml.Replace("collision: keep-equal", "collision: combine", StringComparison.Ordinal)
        );
        draft.Yaml.ShouldContain("bill: { table: bill, columns: [company_code, supplier_no], amount: total }");
        draft.Yaml.ShouldContain(
            "supplier_profile: { table: supplier_profile, columns: [company_code, supplier_no], collision: keep-equal }"
        );
        draft.Yaml.ShouldContain("blockers: { must_agree: currency }");
        draft.Yaml.ShouldContain("retire: { mark: { status: closed } }");
    }

    [Fact]
    public async Task Spanish_names_natural_keys_and_two_references_of_one_table()
    {
        var (draft, _) = await ProvenAsync(Spanish, "cliente", "C001", "C002");
        draft.Yaml.ShouldContain("razon_social: { kind: organisation-name }");
        draft.Yaml.ShouldContain("nif: { kind: tax-number }");
        draft.Yaml.ShouldContain("facturas_cliente: { table: facturas, columns: cliente, amount: importe }");
        draft.Yaml.ShouldContain("facturas_enviar_a: { table: facturas, columns: enviar_a, amount: importe }");
        draft.Yaml.ShouldContain("retire: { mark: { deleted_at: \"1970-01-01 00:00:00\" } }");
        draft.Questions.ShouldContain(question =>
            question.Contains("Would another timestamp be better?", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task Three_hundred_tables_are_read_in_seconds_and_the_few_of_parties_found()
    {
        var tables = string.Join(
            '\n',
            Enumerable
                .Range(1, 300)
                .Select(number =>
                    (
                        $"CREATE TABLE lookup_{number} (id INTEGER PRIMARY KEY, code VARCHAR(10), label "
                        + $"VARCHAR(40), sort INTEGER); INSERT INTO lookup_{number} VALUES (1, 'a', 'A', 1), (2, "
                        + "'b', 'B', 2);"
                    )
                )
        );
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var (draft, _) = await ProvenAsync(Snake + tables, "customer", "1", "2");
        draft.RecordTypes.ShouldBe(["customer"]);
        clock.Elapsed.ShouldBeLessThan(TimeSpan.FromMinutes(4), "a loop over loops would take far longer");
    }

    [Fact]
    public async Task What_is_not_sure_is_asked_and_what_was_named_is_drafted()
    {
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, "draft");
        file.Execute(
            """
            CREATE TABLE thing (id INTEGER PRIMARY KEY, name VARCHAR(20));
            INSERT INTO thing VALUES (1, 'A'), (2, 'B');
            CREATE TABLE part (id INTEGER PRIMARY KEY, thing_id INTEGER);
            INSERT INTO part VALUES (1, 1), (2, 77), (3, 2), (4, 1);
            CREATE TABLE plan (id INTEGER PRIMARY KEY, thing_id INTEGER);
            CREATE TABLE slip (id INTEGER PRIMARY KEY, bill_to INTEGER, pages INTEGER);
            INSERT INTO slip VALUES (1, 1, 1), (2, 2, 1), (3, 1, 2);
            """
        );
        var refusal = await Should.ThrowAsync<KettlefogException>(() =>
            UninitialisedDatabase.DraftMapAsync(file.Address, [], default)
        );
        refusal.Message.ShouldContain("None of the 4 tables");
        refusal.Hint!.ShouldContain("--table");
        (
            await Should.ThrowAsync<KettlefogException>(() =>
                UninitialisedDatabase.DraftMapAsync(file.Address, ["thong"], default)
            )
        ).Message.ShouldContain("no table 'thong'");
        var draft = await UninitialisedDatabase.DraftMapAsync(file.Address, ["thing"], default);
        draft.Yaml.ShouldContain(
            "# part: { table: part, columns: thing_id } # 40 %: its name; 67 % of its values found"
        );
        draft.Questions.ShouldContain(question =>
            question.StartsWith("Does part.thing_id refer to thing?", StringComparison.Ordinal)
        );
        draft.Questions.ShouldContain(question =>
            question.StartsWith("Does plan.thing_id refer to thing?", StringComparison.Ordinal)
        );
        draft.Yaml.ShouldContain(
            "# slip: { table: slip, columns: bill_to } # 40 %: its name is a role; 100 % of its values found"
        );
        draft.Questions.ShouldContain(question =>
            question.StartsWith(
                "Does slip.bill_to refer to thing? It seems so (its name is a role), but numbers may be among "
                    + "its keys by chance",
                StringComparison.Ordinal
            )
        );
        draft.Yaml.ShouldNotContain("columns: pages");
        draft.Questions.ShouldContain(question =>
            question.Contains("duplicates are deleted", StringComparison.Ordinal)
        );
    }

    /// <summary>Generated keys on either engine.</summary>
    private string Counting(string sql) =>
        engine == Engine.Sqlite
            ? sql
            : sql.Replace(
                "(id INTEGER PRIMARY KEY",
                "(id INTEGER GENERATED BY DEFAULT AS IDENTITY (START 100) PRIMARY KEY",
                StringComparison.Ordinal
            );

    /// <summary>Drafts a map, merges two records with it unchanged, and reverses the merge exactly.</summary>
    /// <returns>The draft, and how many rows each reference with any moved.</returns>
    private async Task<(MapDraft Draft, string Moved)> ProvenAsync(
        string sql,
        string type,
        string master,
        string duplicate,
        Func<string, string>? answer = null
    )
    {
        using var folder = new TempFolder();
        using var file = TestDatabase.Create(engine, folder, "draft");
        file.Execute(sql);
        var before = file.Dump();
        var draft = await UninitialisedDatabase.DraftMapAsync(file.Address, [], default);
        file.Dump().ShouldBe(before, "drafting writes nothing");
        var document = MapReader.Read(answer?.Invoke(draft.Yaml) ?? draft.Yaml, "draft.yaml");
        (await UninitialisedDatabase.CheckMapAsync(file.Address, document, default)).RequireMap();
        await OwnTablesMaintenance.InitialiseAsync(file.Address, null, default);
        before = file.Dump();
        using var database = await OperationalDatabase.OpenAsync(
            file.Address,
            document,
            TimeSpan.FromSeconds(5),
            TimeProvider.System,
            default
        );
        var recordType = database.Map.Map.Require(type);
        var choices = new MergeChoices(
            type,
            database.Records.ReadKey(recordType, master),
            [database.Records.ReadKey(recordType, duplicate)],
            new Dictionary<string, FieldChoice>()
        );
        var plan = await database.Merges.PlanAsync(choices, default);
        plan.Blockers.ShouldBeEmpty(draft.Yaml);
        var merge = await database.Merges.ApplyAsync(
            new MergeRequest(choices, plan.Fingerprint.Text, new AuditContext("m.ashe", "one"), "one"),
            default
        );
        file.Dump().ShouldNotBe(before);
        var after = await database.Reversals.PlanAsync(new ReversalChoices(merge.Entry.Number), default);
        await database.Reversals.ApplyAsync(
            new ReversalRequest(
                new ReversalChoices(merge.Entry.Number),
                after.Fingerprint.Text,
                new AuditContext("m.ashe", "two"),
                "two"
            ),
            default
        );
        file.Dump().ShouldBe(before);
        return (
            draft,
            string.Join(
                '|',
                plan.Moves.Where(move => move.Count > 0).Select(move => $"{move.Reference.Name} {move.Count}")
            )
        );
    }

    public sealed class OnSqlite() : DraftTests(Engine.Sqlite);

    public sealed class OnPostgres() : DraftTests(Engine.Postgres);
}
