-- One duplicate at a time can be taken out of a merge of several.
CREATE TABLE kettlefog_taken_out (
  merge      INTEGER NOT NULL,
  record_key TEXT NOT NULL,
  number     INTEGER NOT NULL,
  PRIMARY KEY (merge, record_key)
) WITHOUT ROWID;

-- For other programs: where a retired key leads today.
CREATE VIEW kettlefog_forwards AS
SELECT record_type, old_key, master_key, number AS merge FROM kettlefog_forward;
