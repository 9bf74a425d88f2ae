-- What a merge changes is journaled before its entry has a number: only the numbering is one at a time.
ALTER TABLE kettlefog.journal_step RENAME COLUMN number TO journal;
ALTER TABLE kettlefog.journal_row RENAME COLUMN number TO journal;
ALTER TABLE kettlefog.journal_cell RENAME COLUMN number TO journal;
ALTER TABLE kettlefog.history DISABLE TRIGGER history_is_append_only;
ALTER TABLE kettlefog.history ADD COLUMN journal BIGINT NOT NULL DEFAULT 0;
UPDATE kettlefog.history SET journal = number;
ALTER TABLE kettlefog.history ALTER COLUMN journal DROP DEFAULT;
CREATE UNIQUE INDEX history_journal ON kettlefog.history (journal);
ALTER TABLE kettlefog.history ENABLE TRIGGER history_is_append_only;

-- Entries are long; pages and counts are found without reading them.
CREATE INDEX history_list ON kettlefog.history (number, record_type, kind, actor, rule, at);
