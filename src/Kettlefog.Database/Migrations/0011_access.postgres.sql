-- A cookie holds the secret of its session and nothing else, so that nothing needs to protect it. Sessions of earlier
-- programs cannot be found by their cookies any more.
DROP TABLE kettlefog.key_ring;
DELETE FROM kettlefog.session;
ALTER TABLE kettlefog.session ADD COLUMN last_seen_at TEXT COLLATE "C" NOT NULL DEFAULT '';

-- The most that a token may do, whatever its owner may.
ALTER TABLE kettlefog.token ADD COLUMN role TEXT COLLATE "C";
ALTER TABLE kettlefog.token ADD COLUMN last_used_at TEXT COLLATE "C";
