ALTER TABLE kettlefog_user ADD COLUMN disabled_at TEXT;
ALTER TABLE kettlefog_user ADD COLUMN last_sign_in_at TEXT;

-- Who is signed in to the console: the cookie holds the secret, and a session that is deleted is over.
CREATE TABLE kettlefog_session (
  id         INTEGER PRIMARY KEY,
  hash       TEXT NOT NULL UNIQUE,
  user_name  TEXT NOT NULL REFERENCES kettlefog_user (name),
  address    TEXT,
  created_at TEXT NOT NULL,
  expires_at TEXT NOT NULL
);

CREATE INDEX kettlefog_session_user ON kettlefog_session (user_name);

-- Whether a decision is still in effect is asked for each of them that the history lists.
CREATE INDEX kettlefog_non_duplicate_entry ON kettlefog_non_duplicate (number);
