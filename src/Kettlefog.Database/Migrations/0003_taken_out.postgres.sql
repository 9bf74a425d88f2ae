-- One duplicate at a time can be taken out of a merge of several.
CREATE TABLE kettlefog.taken_out (
  merge      BIGINT NOT NULL,
  record_key TEXT COLLATE "C" NOT NULL,
  number     BIGINT NOT NULL,
  PRIMARY KEY (merge, record_key)
);

-- For other programs: where a retired key leads today.
CREATE VIEW kettlefog.forwards AS
SELECT record_type, old_key, master_key, number AS merge FROM kettlefog.forward;
