-- One row for each file that was looked at, whatever it was.
CREATE TABLE IF NOT EXISTS file (
  path    TEXT PRIMARY KEY, -- as it was found; of an entry in a zip with "!" before its name
  bytes   INTEGER NOT NULL,
  changed TEXT NOT NULL,    -- time of its last change, RFC 3339 in UTC
  hash    TEXT NOT NULL,    -- of its contents; empty where it could not be read
  state   TEXT NOT NULL,    -- log, other, unread
  reason  TEXT NOT NULL     -- why it could not be read; else empty
);
-- One row for each cause, folded.
CREATE TABLE IF NOT EXISTS cause (
  id TEXT PRIMARY KEY, class TEXT NOT NULL, sign TEXT NOT NULL, kind TEXT NOT NULL, subject TEXT NOT NULL,
  message INTEGER NOT NULL, action TEXT NOT NULL, product TEXT NOT NULL, title TEXT NOT NULL
);
-- One row for each attempt that a log tells of. Its id is made of the contents, so that a
-- log that was copied counts once.
CREATE TABLE IF NOT EXISTS attempt (
  id       TEXT PRIMARY KEY,
  path     TEXT NOT NULL,    -- of the log
  machine  TEXT NOT NULL,    -- its name in small letters; empty where nothing tells it
  build    TEXT NOT NULL,    -- of the OS
  product  TEXT NOT NULL,
  version  TEXT NOT NULL,
  outcome  TEXT NOT NULL,
  exit_code INTEGER,         -- null where the log does not tell
  happened TEXT NOT NULL,    -- RFC 3339, the machine's own clock
  cause    TEXT NOT NULL,    -- empty where nothing failed
  confidence REAL NOT NULL,
  summary  TEXT NOT NULL,
  line     INTEGER NOT NULL, -- that proves it; 0 where none does
  proof    TEXT NOT NULL,
  folding  INTEGER NOT NULL  -- the version of the rules
);
CREATE INDEX IF NOT EXISTS attempt_by_time ON attempt (happened, cause, machine);
CREATE INDEX IF NOT EXISTS attempt_by_cause ON attempt (cause, happened, machine);
CREATE INDEX IF NOT EXISTS attempt_by_machine ON attempt (machine, happened);
