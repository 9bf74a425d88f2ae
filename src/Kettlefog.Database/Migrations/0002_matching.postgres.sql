-- Every version of a rule that was saved; a body of NULL says that the rule was removed.
CREATE TABLE kettlefog.rule (
  record_type TEXT COLLATE "C" NOT NULL,
  name        TEXT COLLATE "C" NOT NULL,
  version     BIGINT NOT NULL,
  body        TEXT COLLATE "C",
  note        TEXT COLLATE "C" NOT NULL,
  actor       TEXT COLLATE "C" NOT NULL,
  at          TEXT COLLATE "C" NOT NULL,
  PRIMARY KEY (record_type, name, version)
);

CREATE TABLE kettlefog.scan (
  id          BIGINT PRIMARY KEY,
  record_type TEXT COLLATE "C" NOT NULL,
  scope       TEXT COLLATE "C" NOT NULL,
  state       TEXT COLLATE "C" NOT NULL,
  phase       TEXT COLLATE "C" NOT NULL,
  done        BIGINT NOT NULL,
  total       BIGINT NOT NULL,
  compared    BIGINT NOT NULL DEFAULT 0,
  digest      TEXT COLLATE "C",
  rules       TEXT COLLATE "C",
  report      TEXT COLLATE "C",
  message     TEXT COLLATE "C",
  actor       TEXT COLLATE "C" NOT NULL,
  at          TEXT COLLATE "C" NOT NULL,
  ended_at    TEXT COLLATE "C"
);

-- A record type is scanned once at a time.
CREATE UNIQUE INDEX scan_open ON kettlefog.scan (record_type) WHERE state IN ('waiting', 'running', 'stopped');

-- What the records were when they were last looked at.
CREATE TABLE kettlefog.scan_record (
  record_type TEXT COLLATE "C" NOT NULL,
  record_key  TEXT COLLATE "C" NOT NULL,
  print       BIGINT NOT NULL,
  PRIMARY KEY (record_type, record_key)
);

CREATE TABLE kettlefog.pair (
  record_type TEXT COLLATE "C" NOT NULL,
  key_a       TEXT COLLATE "C" NOT NULL,
  key_b       TEXT COLLATE "C" NOT NULL,
  scan        BIGINT NOT NULL,
  score       DOUBLE PRECISION NOT NULL,
  rule        TEXT COLLATE "C" NOT NULL,
  proposed    BIGINT NOT NULL,
  PRIMARY KEY (record_type, key_a, key_b, scan)
);

CREATE TABLE kettlefog.cluster (
  id            BIGINT PRIMARY KEY,
  record_type   TEXT COLLATE "C" NOT NULL,
  state         TEXT COLLATE "C" NOT NULL,
  rule          TEXT COLLATE "C" NOT NULL,
  confidence    DOUBLE PRECISION NOT NULL,
  weakest       DOUBLE PRECISION NOT NULL,
  records       BIGINT NOT NULL,
  related_rows  BIGINT NOT NULL,
  amount        TEXT COLLATE "C",
  assigned_to   TEXT COLLATE "C",
  put_off_until TEXT COLLATE "C",
  found_at      TEXT COLLATE "C" NOT NULL,
  changed_at    TEXT COLLATE "C" NOT NULL
);

CREATE INDEX cluster_queue ON kettlefog.cluster (record_type, state, confidence DESC, id);

-- A record that was merged or kept apart stays, with the number of the history's entry that took it out.
CREATE TABLE kettlefog.cluster_record (
  cluster     BIGINT NOT NULL,
  record_key  TEXT COLLATE "C" NOT NULL,
  record_type TEXT COLLATE "C" NOT NULL,
  left_by     BIGINT,
  PRIMARY KEY (cluster, record_key)
);

CREATE INDEX cluster_record_key ON kettlefog.cluster_record (record_type, record_key);

CREATE TABLE kettlefog.apart (
  record_type TEXT COLLATE "C" NOT NULL,
  key_a       TEXT COLLATE "C" NOT NULL,
  key_b       TEXT COLLATE "C" NOT NULL,
  number      BIGINT NOT NULL,
  PRIMARY KEY (record_type, key_a, key_b)
);

-- What the records looked like when it was decided that they are one party, or that they are not: scores learn from it.
CREATE TABLE kettlefog.decision (
  number      BIGINT NOT NULL,
  place       BIGINT NOT NULL,
  record_type TEXT COLLATE "C" NOT NULL,
  is_match    BIGINT NOT NULL,
  fields      TEXT COLLATE "C" NOT NULL,
  values_a    TEXT COLLATE "C" NOT NULL,
  values_b    TEXT COLLATE "C" NOT NULL,
  PRIMARY KEY (number, place)
);

CREATE INDEX decision_type ON kettlefog.decision (record_type);
