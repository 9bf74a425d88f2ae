-- The tables and their words are named as the program names them.
DROP VIEW kettlefog_forwards;
DROP INDEX kettlefog_forward_master;
ALTER TABLE kettlefog_forward RENAME TO kettlefog_redirect;
CREATE INDEX kettlefog_redirect_master ON kettlefog_redirect (record_type, master_key);

-- For other programs: where a retired key leads today.
CREATE VIEW kettlefog_redirects AS
SELECT record_type, old_key, master_key, number AS merge FROM kettlefog_redirect;

ALTER TABLE kettlefog_apart RENAME TO kettlefog_non_duplicate;
ALTER TABLE kettlefog_taken_out RENAME TO kettlefog_partial_reversal;
ALTER TABLE kettlefog_scan_record RENAME COLUMN print TO content_hash;
ALTER TABLE kettlefog_cluster RENAME COLUMN assigned_to TO assignee;
ALTER TABLE kettlefog_cluster RENAME COLUMN put_off_until TO postponed_until;
ALTER TABLE kettlefog_cluster RENAME COLUMN why TO summary;
UPDATE kettlefog_cluster SET state = 'postponed' WHERE state = 'put-off';
UPDATE kettlefog_cluster SET state = 'non-duplicates' WHERE state = 'kept-apart';

-- The hash of an entry covers the number of its kind, and not its name.
DROP TRIGGER kettlefog_history_is_not_changed;
UPDATE kettlefog_history SET kind = 'non-duplicates' WHERE kind = 'kept-apart';
CREATE TRIGGER kettlefog_history_is_not_changed BEFORE UPDATE ON kettlefog_history
BEGIN SELECT RAISE (ABORT, 'the history of Kettlefog is append-only'); END;
