-- +goose Up
-- what stood in a file's place before a rule, or a person, wrote over it; n counts up for
-- each path
CREATE TABLE version (
  path    TEXT NOT NULL,
  n       INTEGER NOT NULL,
  tracker INTEGER NOT NULL,
  run     TEXT NOT NULL, -- that wrote over it; '': a person put another there
  at      TEXT NOT NULL,
  PRIMARY KEY (path, n)
) WITHOUT ROWID;
CREATE INDEX version_run ON version(run) WHERE run <> '';

-- +goose Down
DROP TABLE version;
