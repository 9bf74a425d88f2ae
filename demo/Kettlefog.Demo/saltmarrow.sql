-- The operational database of the Saltmarrow Harbour Trust, an invented harbour authority with a boatyard.

CREATE TABLE vendor (
  vendor_id          INTEGER PRIMARY KEY,
  vendor_no          VARCHAR(12) NOT NULL UNIQUE,
  name               VARCHAR(80) NOT NULL,
  trading_name       VARCHAR(80),
  legal_entity       VARCHAR(8) NOT NULL,
  currency           CHAR(3) NOT NULL,
  category           VARCHAR(24) NOT NULL,
  tax_number         VARCHAR(20),
  contact_person     VARCHAR(60),
  email              VARCHAR(80),
  phone              VARCHAR(30),
  phone_2            VARCHAR(30),
  street             VARCHAR(80),
  postcode           VARCHAR(12),
  city               VARCHAR(40),
  country            CHAR(2),
  website            VARCHAR(120),
  bank_account       VARCHAR(34),
  payment_terms_days INTEGER,
  credit_limit       NUMERIC(12, 2),
  status             VARCHAR(16) NOT NULL DEFAULT 'active',
  remark             TEXT,
  source             VARCHAR(24) NOT NULL,
  buyer              VARCHAR(24),
  created_at         TEXT NOT NULL,
  changed_at         TEXT NOT NULL,
  legacy_ref         TEXT,
  print_flags        INTEGER NOT NULL DEFAULT 0
);

CREATE TABLE purchase_order (
  po_id      INTEGER PRIMARY KEY,
  vendor_id  INTEGER NOT NULL REFERENCES vendor (vendor_id),
  po_number  VARCHAR(12) NOT NULL UNIQUE,
  ordered_on DATE NOT NULL,
  amount     NUMERIC(12, 2) NOT NULL,
  status     VARCHAR(16) NOT NULL,
  placed_by  VARCHAR(24) NOT NULL
);

CREATE INDEX purchase_order_vendor ON purchase_order (vendor_id);

CREATE TABLE vendor_bill (
  bill_id     INTEGER PRIMARY KEY,
  vendor_id   INTEGER NOT NULL REFERENCES vendor (vendor_id),
  bill_number VARCHAR(20) NOT NULL,
  billed_on   DATE NOT NULL,
  due_on      DATE NOT NULL,
  amount      NUMERIC(12, 2) NOT NULL,
  open_amount NUMERIC(12, 2) NOT NULL,
  status      VARCHAR(16) NOT NULL,
  po_id       INTEGER REFERENCES purchase_order (po_id),
  CONSTRAINT one_bill_number_per_vendor UNIQUE (vendor_id, bill_number)
);

CREATE TABLE vendor_bill_line (
  line_id     INTEGER PRIMARY KEY,
  bill_id     INTEGER NOT NULL REFERENCES vendor_bill (bill_id) ON DELETE CASCADE,
  line_no     INTEGER NOT NULL,
  description VARCHAR(80) NOT NULL,
  quantity    NUMERIC(10, 3) NOT NULL,
  unit_price  NUMERIC(12, 2) NOT NULL,
  amount      NUMERIC(12, 2) NOT NULL,
  UNIQUE (bill_id, line_no)
);

CREATE TABLE payment (
  payment_id INTEGER PRIMARY KEY,
  vendor_id  INTEGER NOT NULL REFERENCES vendor (vendor_id),
  paid_on    DATE NOT NULL,
  amount     NUMERIC(12, 2) NOT NULL,
  method     VARCHAR(16) NOT NULL,
  reference  VARCHAR(40)
);

CREATE INDEX payment_vendor ON payment (vendor_id);

-- Notes and activities hang on any kind of record: the database does not enforce where they point.
CREATE TABLE note (
  note_id      INTEGER PRIMARY KEY,
  subject_type VARCHAR(16) NOT NULL,
  subject_id   INTEGER NOT NULL,
  written_at   TEXT NOT NULL,
  author       VARCHAR(24) NOT NULL,
  body         TEXT NOT NULL
);

CREATE INDEX note_subject ON note (subject_type, subject_id);

CREATE TABLE activity (
  activity_id  INTEGER PRIMARY KEY,
  subject_type VARCHAR(16) NOT NULL,
  subject_id   INTEGER NOT NULL,
  kind         VARCHAR(16) NOT NULL,
  summary      VARCHAR(120) NOT NULL,
  due_on       DATE NOT NULL,
  done_on      DATE,
  assigned_to  VARCHAR(24) NOT NULL
);

CREATE INDEX activity_subject ON activity (subject_type, subject_id);
