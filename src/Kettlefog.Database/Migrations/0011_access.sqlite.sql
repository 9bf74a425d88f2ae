-- A cookie holds the secret of its session and nothing else, so that nothing needs to protect it. Sessions of earlier
-- programs cannot be found by their cookies any more.
DROP TABLE kettlefog_key_ring;
DELETE FROM kettlefog_session;
ALTER TABLE kettlefog_session ADD COLUMN last_seen_at TEXT NOT NULL DEFAULT '';

-- The most that a token may do, whatever its owner may.
ALTER TABLE kettlefog_token ADD COLUMN role TEXT;
ALTER TABLE kettlefog_token ADD COLUMN last_used_at TEXT;

-- A row that replaces another removes it without asking the guard against removal.
CREATE TRIGGER kettlefog_history_is_not_replaced BEFORE INSERT ON kettlefog_history
WHEN EXISTS (SELECT 1 FROM kettlefog_history h WHERE h.number = NEW.number OR h.journal = NEW.journal
  OR h.reverses = NEW.reverses)
BEGIN SELECT RAISE (ABORT, 'the history of Kettlefog is append-only'); END;
