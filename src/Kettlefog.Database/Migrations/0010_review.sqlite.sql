-- What people say to each other about records; it belongs to the records, so that it outlives the group that a scan made.
CREATE TABLE kettlefog_comment (
  id          INTEGER PRIMARY KEY,
  record_type TEXT NOT NULL,
  author      TEXT NOT NULL,
  body        TEXT NOT NULL,
  at          TEXT NOT NULL
);

CREATE TABLE kettlefog_comment_record (
  comment     INTEGER NOT NULL REFERENCES kettlefog_comment (id),
  record_type TEXT NOT NULL,
  record_key  TEXT NOT NULL,
  PRIMARY KEY (comment, record_key)
) WITHOUT ROWID;

CREATE INDEX kettlefog_comment_record_key ON kettlefog_comment_record (record_type, record_key);

-- Filters of the queue under a name, each one's own, or for all.
CREATE TABLE kettlefog_saved_view (
  id        INTEGER PRIMARY KEY,
  owner     TEXT NOT NULL REFERENCES kettlefog_user (name),
  name      TEXT NOT NULL,
  query     TEXT NOT NULL,
  is_shared INTEGER NOT NULL,
  UNIQUE (owner, name)
);
