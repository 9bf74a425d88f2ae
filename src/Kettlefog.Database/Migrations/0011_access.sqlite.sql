-- A cookie holds the secret of its session and nothing else, so that nothing needs to protect it. Sessions of earlier
-- programs cannot be found by their cookies any more.
DROP TABLE kettlefog_key_ring;
DELETE FROM kettlefog_session;
ALTER TABLE kettlefog_session ADD COLUMN last_seen_at TEXT NOT NULL DEFAULT '';

-- The most that a token may do, whatever its owner may.
ALTER TABLE kettlefog_token ADD COLUMN role TEXT;
ALTER TABLE kettlefog_token ADD COLUMN last_used_at TEXT;
