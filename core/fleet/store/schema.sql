-- One SQL for both engines: SQLite and PostgreSQL. Times are text, RFC 3339 in UTC, so that
-- they sort and read the same on both.
CREATE TABLE IF NOT EXISTS meta (
  name  TEXT PRIMARY KEY,   -- schema, rules
  value TEXT NOT NULL
);
-- One row for each file that was looked at, whatever it was.
CREATE TABLE IF NOT EXISTS file (
  path    TEXT PRIMARY KEY, -- as it was found; of an entry in a zip with "!" before its name
  bytes   BIGINT NOT NULL,
  changed TEXT NOT NULL,    -- time of its last change
  hash    TEXT NOT NULL,    -- of its contents; empty where it could not be read
  state   TEXT NOT NULL,    -- log, other, case, unread
  reason  TEXT NOT NULL     -- why it could not be read; else empty
);
-- One row for each cause, folded.
CREATE TABLE IF NOT EXISTS cause (
  id TEXT PRIMARY KEY, class TEXT NOT NULL, sign TEXT NOT NULL, kind TEXT NOT NULL, subject TEXT NOT NULL,
  message BIGINT NOT NULL, action TEXT NOT NULL, product TEXT NOT NULL, title TEXT NOT NULL,
  loose BIGINT NOT NULL,    -- 1: a piece of the subject holds a figure, and may be a run's own
  head TEXT NOT NULL,       -- the cause that it was joined under; empty: none
  how  TEXT NOT NULL        -- rule or person; apart: a person parted it, and no rule joins it again
);
-- One row for each attempt that a log tells of. Its id is made of the contents, so that a
-- log that was copied counts once.
CREATE TABLE IF NOT EXISTS attempt (
  id       TEXT PRIMARY KEY,
  path     TEXT NOT NULL,    -- of the log
  place    TEXT NOT NULL,    -- the path in small letters and with strokes one way
  machine  TEXT NOT NULL,    -- its name in small letters; empty where nothing tells it
  who      TEXT NOT NULL,    -- machine, or id where that is empty: what counts as one machine
  build    TEXT NOT NULL,    -- of the OS
  product  TEXT NOT NULL,
  version  TEXT NOT NULL,
  outcome  TEXT NOT NULL,
  exit_code BIGINT,          -- null where the log does not tell
  happened TEXT NOT NULL,    -- the machine's own clock
  cause    TEXT NOT NULL,    -- that it counts for: a head, or the inner log's; empty where nothing failed
  own      TEXT NOT NULL,    -- the cause that its own log tells
  part_of  TEXT NOT NULL,    -- the attempt whose log names this one's; empty: none. Parts are not counted
  confidence DOUBLE PRECISION NOT NULL,
  summary  TEXT NOT NULL,
  line     BIGINT NOT NULL,  -- that proves it; 0 where none does
  proof    TEXT NOT NULL,
  facts    TEXT NOT NULL,    -- JSON, what is folded; empty where nothing failed
  folding  BIGINT NOT NULL   -- the version of the rules
);
-- Indexes hold all that their questions ask for, so that a million attempts are answered from
-- them alone.
CREATE INDEX IF NOT EXISTS attempt_by_time ON attempt (happened, part_of, cause, who, product, build);
CREATE INDEX IF NOT EXISTS attempt_by_cause ON attempt (cause, part_of, happened, who, product, version, build, machine);
CREATE INDEX IF NOT EXISTS attempt_by_proof ON attempt (cause, part_of, confidence DESC, happened DESC);
CREATE INDEX IF NOT EXISTS attempt_by_machine ON attempt (machine, part_of, happened, cause);
CREATE INDEX IF NOT EXISTS attempt_by_place ON attempt (place);
CREATE INDEX IF NOT EXISTS attempt_by_own ON attempt (own);
CREATE INDEX IF NOT EXISTS attempt_by_whole ON attempt (part_of) WHERE part_of <> '';
-- The logs that the log of an attempt names as its packages'.
CREATE TABLE IF NOT EXISTS refers (
  place   TEXT NOT NULL,     -- of the log that is named, as in attempt
  attempt TEXT NOT NULL,     -- whose log names it
  PRIMARY KEY (place, attempt)
);
-- One row for each remedy that was tried in a case.
CREATE TABLE IF NOT EXISTS tried (
  id       TEXT PRIMARY KEY, -- a hash of what follows
  cause    TEXT NOT NULL,    -- for which
  class    TEXT NOT NULL,    -- of the remedy
  remedy   TEXT NOT NULL,    -- its title, folded
  result   TEXT NOT NULL,    -- helped, same, moved
  moved_to TEXT NOT NULL,    -- the cause that came in its place; empty where none did
  machine  TEXT NOT NULL,
  happened TEXT NOT NULL,
  path     TEXT NOT NULL,    -- of the case
  facts    TEXT NOT NULL,    -- JSON, as in attempt
  moved_facts TEXT NOT NULL  -- of the cause that came in its place; else empty
);
CREATE INDEX IF NOT EXISTS tried_by_cause ON tried (cause, remedy);
