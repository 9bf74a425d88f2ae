-- Every version of a rule that was saved; a body of NULL says that the rule was removed.
CREATE TABLE kettlefog_rule (
  record_type TEXT NOT NULL,
  name        TEXT NOT NULL,
  version     INTEGER NOT NULL,
  body        TEXT,
  note        TEXT NOT NULL,
  actor       TEXT NOT NULL,
  at          TEXT NOT NULL,
  PRIMARY KEY (record_type, name, version)
) WITHOUT ROWID;

CREATE TABLE kettlefog_scan (
  id          INTEGER PRIMARY KEY,
  record_type TEXT NOT NULL,
  scope       TEXT NOT NULL,
  state       TEXT NOT NULL,
  phase       TEXT NOT NULL,
  done        INTEGER NOT NULL,
  total       INTEGER NOT NULL,
  compared    INTEGER NOT NULL DEFAULT 0,
  digest      TEXT,
  rules       TEXT,
  report      TEXT,
  message     TEXT,
  actor       TEXT NOT NULL,
  at          TEXT NOT NULL,
  ended_at    TEXT
);

-- A record type is scanned once at a time.
CREATE UNIQUE INDEX kettlefog_scan_open ON kettlefog_scan (record_type) WHERE state IN ('waiting', 'running', 'stopped');

-- What the records were when they were last looked at.
CREATE TABLE kettlefog_scan_record (
  record_type TEXT NOT NULL,
  record_key  TEXT NOT NULL,
  print       INTEGER NOT NULL,
  PRIMARY KEY (record_type, record_key)
) WITHOUT ROWID;

CREATE TABLE kettlefog_pair (
  record_type TEXT NOT NULL,
  key_a       TEXT NOT NULL,
  key_b       TEXT NOT NULL,
  scan        INTEGER NOT NULL,
  score       REAL NOT NULL,
  rule        TEXT NOT NULL,
  proposed    INTEGER NOT NULL,
  PRIMARY KEY (record_type, key_a, key_b, scan)
) WITHOUT ROWID;

CREATE TABLE kettlefog_cluster (
  id            INTEGER PRIMARY KEY,
  record_type   TEXT NOT NULL,
  state         TEXT NOT NULL,
  rule          TEXT NOT NULL,
  confidence    REAL NOT NULL,
  weakest       REAL NOT NULL,
  records       INTEGER NOT NULL,
  related_rows  INTEGER NOT NULL,
  amount        TEXT,
  assigned_to   TEXT,
  put_off_until TEXT,
  found_at      TEXT NOT NULL,
  changed_at    TEXT NOT NULL
);

CREATE INDEX kettlefog_cluster_queue ON kettlefog_cluster (record_type, state, confidence DESC, id);

-- A record that was merged or kept apart stays, with the number of the history's entry that took it out.
CREATE TABLE kettlefog_cluster_record (
  cluster     INTEGER NOT NULL,
  record_key  TEXT NOT NULL,
  record_type TEXT NOT NULL,
  left_by     INTEGER,
  PRIMARY KEY (cluster, record_key)
) WITHOUT ROWID;

CREATE INDEX kettlefog_cluster_record_key ON kettlefog_cluster_record (record_type, record_key);

CREATE TABLE kettlefog_apart (
  record_type TEXT NOT NULL,
  key_a       TEXT NOT NULL,
  key_b       TEXT NOT NULL,
  number      INTEGER NOT NULL,
  PRIMARY KEY (record_type, key_a, key_b)
) WITHOUT ROWID;

-- What the records looked like when it was decided that they are one party, or that they are not: scores learn from it.
CREATE TABLE kettlefog_decision (
  number      INTEGER NOT NULL,
  place       INTEGER NOT NULL,
  record_type TEXT NOT NULL,
  is_match    INTEGER NOT NULL,
  fields      TEXT NOT NULL,
  values_a    TEXT NOT NULL,
  values_b    TEXT NOT NULL,
  PRIMARY KEY (number, place)
) WITHOUT ROWID;

CREATE INDEX kettlefog_decision_type ON kettlefog_decision (record_type);
