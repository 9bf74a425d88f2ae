-- What a merge changes is journaled before its entry has a number: only the numbering is one at a time.
ALTER TABLE kettlefog_journal_step RENAME COLUMN number TO journal;
ALTER TABLE kettlefog_journal_row RENAME COLUMN number TO journal;
ALTER TABLE kettlefog_journal_cell RENAME COLUMN number TO journal;
DROP TRIGGER kettlefog_history_is_not_changed;
ALTER TABLE kettlefog_history ADD COLUMN journal INTEGER NOT NULL DEFAULT 0;
UPDATE kettlefog_history SET journal = number;
CREATE UNIQUE INDEX kettlefog_history_journal ON kettlefog_history (journal);
CREATE TRIGGER kettlefog_history_is_not_changed BEFORE UPDATE ON kettlefog_history
BEGIN SELECT RAISE (ABORT, 'the history of Kettlefog is append-only'); END;

-- Entries are long; pages and counts are found without reading them.
CREATE INDEX kettlefog_history_list ON kettlefog_history (number, record_type, kind, actor, rule, at);
