-- Entries are never removed, so that a foreign key to them would guard against nothing; and as the entry is written
-- last, SQLite would look through each of these tables for rows that wait for it.

CREATE TABLE kettlefog_history (
  number         INTEGER PRIMARY KEY,
  kind           TEXT NOT NULL,
  record_type    TEXT NOT NULL,
  master         TEXT NOT NULL,
  at             TEXT NOT NULL,
  actor          TEXT NOT NULL,
  reason         TEXT NOT NULL,
  rule           TEXT NOT NULL,
  approved_by    TEXT,
  reverses       INTEGER,
  details        TEXT NOT NULL,
  journal_digest TEXT NOT NULL,
  previous_hash  TEXT NOT NULL,
  hash           TEXT NOT NULL
);

-- A merge is taken back once.
CREATE UNIQUE INDEX kettlefog_history_reverses ON kettlefog_history (reverses) WHERE reverses IS NOT NULL;

CREATE TRIGGER kettlefog_history_is_not_changed BEFORE UPDATE ON kettlefog_history
BEGIN SELECT RAISE (ABORT, 'the history of Kettlefog is append-only'); END;

CREATE TRIGGER kettlefog_history_is_not_removed BEFORE DELETE ON kettlefog_history
BEGIN SELECT RAISE (ABORT, 'the history of Kettlefog is append-only'); END;

CREATE TABLE kettlefog_history_record (
  record_type TEXT NOT NULL,
  record_key  TEXT NOT NULL,
  number      INTEGER NOT NULL,
  is_master   INTEGER NOT NULL,
  PRIMARY KEY (record_type, record_key, number)
) WITHOUT ROWID;

CREATE TABLE kettlefog_journal_step (
  number      INTEGER NOT NULL,
  step        INTEGER NOT NULL,
  operation   TEXT NOT NULL,
  table_name  TEXT NOT NULL,
  reference   TEXT,
  key_columns TEXT NOT NULL,
  row_count   INTEGER NOT NULL,
  PRIMARY KEY (number, step)
) WITHOUT ROWID;

-- Key and value columns have no type, so that SQLite keeps every value in the storage class it came in.
CREATE TABLE kettlefog_journal_row (
  number INTEGER NOT NULL,
  step   INTEGER NOT NULL,
  row    INTEGER NOT NULL,
  key_1, key_2, key_3, key_4, key_5, key_6, key_7, key_8,
  PRIMARY KEY (number, step, row)
) WITHOUT ROWID;

CREATE TABLE kettlefog_journal_cell (
  number INTEGER NOT NULL,
  step   INTEGER NOT NULL,
  column TEXT NOT NULL,
  before,
  after,
  PRIMARY KEY (number, step, column)
) WITHOUT ROWID;

CREATE TABLE kettlefog_forward (
  record_type TEXT NOT NULL,
  old_key     TEXT NOT NULL,
  into_key    TEXT NOT NULL,
  master_key  TEXT NOT NULL,
  number      INTEGER NOT NULL,
  PRIMARY KEY (record_type, old_key)
) WITHOUT ROWID;

CREATE INDEX kettlefog_forward_master ON kettlefog_forward (record_type, master_key);

CREATE TABLE kettlefog_idempotency (
  actor   TEXT NOT NULL,
  key     TEXT NOT NULL,
  request TEXT NOT NULL,
  number  INTEGER NOT NULL,
  PRIMARY KEY (actor, key)
) WITHOUT ROWID;

CREATE TABLE kettlefog_user (
  name          TEXT PRIMARY KEY,
  full_name     TEXT NOT NULL,
  role          TEXT NOT NULL,
  password_hash TEXT,
  created_at    TEXT NOT NULL
) WITHOUT ROWID;

CREATE TABLE kettlefog_token (
  id         INTEGER PRIMARY KEY,
  hash       TEXT NOT NULL UNIQUE,
  user_name  TEXT NOT NULL REFERENCES kettlefog_user (name),
  purpose    TEXT NOT NULL,
  label      TEXT NOT NULL,
  created_at TEXT NOT NULL,
  expires_at TEXT
);

CREATE TABLE kettlefog_key_ring (
  id  INTEGER PRIMARY KEY,
  xml TEXT NOT NULL
);
