-- +goose Up
-- the secret with which calls from outside that wake a rule are signed; it is
-- kept as it is, since a signature cannot be checked against a hash
CREATE TABLE caller (
  tracker INTEGER NOT NULL,
  part    INTEGER NOT NULL,
  secret  TEXT NOT NULL,
  made    TEXT NOT NULL,
  PRIMARY KEY (tracker, part)
) WITHOUT ROWID;
-- +goose Down
DROP TABLE caller;
