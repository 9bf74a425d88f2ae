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

CREATE TABLE household (
  household_id INTEGER PRIMARY KEY,
  name         VARCHAR(80) NOT NULL,
  legal_entity VARCHAR(8) NOT NULL,
  phone        VARCHAR(30),
  street       VARCHAR(80),
  postcode     VARCHAR(12),
  city         VARCHAR(40),
  country      CHAR(2),
  status       VARCHAR(16) NOT NULL DEFAULT 'active',
  source       VARCHAR(24) NOT NULL,
  created_at   TEXT NOT NULL,
  changed_at   TEXT NOT NULL
);

CREATE TABLE contact (
  contact_id   INTEGER PRIMARY KEY,
  household_id INTEGER REFERENCES household (household_id),
  given_name   VARCHAR(40),
  middle_name  VARCHAR(40),
  family_name  VARCHAR(40) NOT NULL,
  suffix       VARCHAR(8),
  birth_date   DATE,
  email        VARCHAR(80),
  phone        VARCHAR(30),
  mobile       VARCHAR(30),
  street       VARCHAR(80),
  postcode     VARCHAR(12),
  city         VARCHAR(40),
  country      CHAR(2),
  status       VARCHAR(16) NOT NULL DEFAULT 'active',
  source       VARCHAR(24) NOT NULL,
  owner        VARCHAR(24),
  created_at   TEXT NOT NULL,
  changed_at   TEXT NOT NULL
);

CREATE INDEX contact_household ON contact (household_id);

CREATE TABLE account (
  account_id   INTEGER PRIMARY KEY,
  account_no   VARCHAR(12) NOT NULL UNIQUE,
  name         VARCHAR(80) NOT NULL,
  legal_entity VARCHAR(8) NOT NULL,
  currency     CHAR(3) NOT NULL,
  parent_id    INTEGER REFERENCES account (account_id),
  tax_number   VARCHAR(20),
  email        VARCHAR(80),
  phone        VARCHAR(30),
  street       VARCHAR(80),
  postcode     VARCHAR(12),
  city         VARCHAR(40),
  country      CHAR(2),
  status       VARCHAR(16) NOT NULL DEFAULT 'active',
  source       VARCHAR(24) NOT NULL,
  owner        VARCHAR(24),
  created_at   TEXT NOT NULL,
  changed_at   TEXT NOT NULL
);

CREATE INDEX account_parent ON account (parent_id);

CREATE TABLE account_contact (
  account_id INTEGER NOT NULL REFERENCES account (account_id),
  contact_id INTEGER NOT NULL REFERENCES contact (contact_id),
  role       VARCHAR(16) NOT NULL,
  PRIMARY KEY (account_id, contact_id, role)
);

CREATE INDEX account_contact_contact ON account_contact (contact_id);

CREATE TABLE vessel (
  vessel_id   INTEGER PRIMARY KEY,
  account_id  INTEGER NOT NULL REFERENCES account (account_id),
  name        VARCHAR(40) NOT NULL,
  hull_number VARCHAR(16),
  builder     VARCHAR(40),
  length_m    NUMERIC(5, 2),
  built       INTEGER,
  status      VARCHAR(16) NOT NULL DEFAULT 'active',
  source      VARCHAR(24) NOT NULL,
  created_at  TEXT NOT NULL,
  changed_at  TEXT NOT NULL
);

CREATE INDEX vessel_account ON vessel (account_id);

CREATE TABLE berth_agreement (
  agreement_id INTEGER PRIMARY KEY,
  account_id   INTEGER NOT NULL REFERENCES account (account_id),
  vessel_id    INTEGER REFERENCES vessel (vessel_id),
  berth        VARCHAR(8) NOT NULL,
  begins_on    DATE NOT NULL,
  ends_on      DATE,
  yearly_fee   NUMERIC(12, 2) NOT NULL
);

CREATE INDEX berth_agreement_account ON berth_agreement (account_id);
CREATE INDEX berth_agreement_vessel ON berth_agreement (vessel_id);

CREATE TABLE mooring_charge (
  charge_id  INTEGER PRIMARY KEY,
  account_id INTEGER NOT NULL REFERENCES account (account_id),
  vessel_id  INTEGER REFERENCES vessel (vessel_id),
  charged_on DATE NOT NULL,
  amount     NUMERIC(12, 2) NOT NULL,
  open_amount NUMERIC(12, 2) NOT NULL
);

CREATE INDEX mooring_charge_account ON mooring_charge (account_id);
CREATE INDEX mooring_charge_vessel ON mooring_charge (vessel_id);

CREATE TABLE receipt (
  receipt_id  INTEGER PRIMARY KEY,
  account_id  INTEGER NOT NULL REFERENCES account (account_id),
  received_on DATE NOT NULL,
  amount      NUMERIC(12, 2) NOT NULL
);

CREATE INDEX receipt_account ON receipt (account_id);

CREATE TABLE ledger_entry (
  entry_id   INTEGER PRIMARY KEY,
  account_id INTEGER NOT NULL REFERENCES account (account_id),
  posted_on  DATE NOT NULL,
  amount     NUMERIC(12, 2) NOT NULL,
  text       VARCHAR(60) NOT NULL
);

CREATE INDEX ledger_entry_account ON ledger_entry (account_id);

CREATE TABLE waiting_list (
  place_id   INTEGER PRIMARY KEY,
  pier       VARCHAR(16) NOT NULL,
  account_id INTEGER NOT NULL REFERENCES account (account_id),
  since      DATE NOT NULL,
  CONSTRAINT one_place_per_pier UNIQUE (pier, account_id)
);

CREATE INDEX waiting_list_account ON waiting_list (account_id);

-- Tags, files and follow-ups hang on any kind of record, as notes do.
CREATE TABLE tag (
  subject_type VARCHAR(16) NOT NULL,
  subject_id   INTEGER NOT NULL,
  word         VARCHAR(24) NOT NULL,
  PRIMARY KEY (subject_type, subject_id, word)
);

CREATE TABLE file (
  file_id      INTEGER PRIMARY KEY,
  subject_type VARCHAR(16) NOT NULL,
  subject_id   INTEGER NOT NULL,
  name         VARCHAR(80) NOT NULL,
  size         INTEGER NOT NULL
);

CREATE INDEX file_subject ON file (subject_type, subject_id);

CREATE TABLE follow_up (
  follow_up_id INTEGER PRIMARY KEY,
  subject_type VARCHAR(16) NOT NULL,
  subject_id   INTEGER NOT NULL,
  due_on       DATE NOT NULL,
  text         VARCHAR(120) NOT NULL,
  done         INTEGER NOT NULL DEFAULT 0
);

CREATE INDEX follow_up_subject ON follow_up (subject_type, subject_id);
