-- The tables and their words are named as the program names them.
DROP VIEW kettlefog.forwards;
ALTER TABLE kettlefog.forward RENAME TO redirect;
ALTER INDEX kettlefog.forward_master RENAME TO redirect_master;

-- For other programs: where a retired key leads today.
CREATE VIEW kettlefog.redirects AS
SELECT record_type, old_key, master_key, number AS merge FROM kettlefog.redirect;

ALTER TABLE kettlefog.apart RENAME TO non_duplicate;
ALTER TABLE kettlefog.taken_out RENAME TO partial_reversal;
ALTER TABLE kettlefog.scan_record RENAME COLUMN print TO content_hash;
ALTER TABLE kettlefog.cluster RENAME COLUMN assigned_to TO assignee;
ALTER TABLE kettlefog.cluster RENAME COLUMN put_off_until TO postponed_until;
ALTER TABLE kettlefog.cluster RENAME COLUMN why TO summary;
UPDATE kettlefog.cluster SET state = 'postponed' WHERE state = 'put-off';
UPDATE kettlefog.cluster SET state = 'non-duplicates' WHERE state = 'kept-apart';

-- The hash of an entry covers the number of its kind, and not its name.
ALTER TABLE kettlefog.history DISABLE TRIGGER history_is_append_only;
UPDATE kettlefog.history SET kind = 'non-duplicates' WHERE kind = 'kept-apart';
ALTER TABLE kettlefog.history ENABLE TRIGGER history_is_append_only;
