-- +goose Up
-- what a list and a tab both were after the last sync, by folded key; cells are
-- by column id, as in row
CREATE TABLE agreed (
  tracker INTEGER NOT NULL,
  sync    INTEGER NOT NULL,
  key     TEXT NOT NULL,
  name    TEXT NOT NULL,
  row     INTEGER NOT NULL,
  id      TEXT NOT NULL,
  gone    TEXT NOT NULL,
  cells   TEXT NOT NULL,
  PRIMARY KEY (tracker, sync, key)
) WITHOUT ROWID;
-- conflicts that wait for a person
CREATE TABLE held (
  tracker INTEGER NOT NULL,
  sync    INTEGER NOT NULL,
  key     TEXT NOT NULL,
  since   TEXT NOT NULL,
  body    TEXT NOT NULL,
  PRIMARY KEY (tracker, sync, key)
) WITHOUT ROWID;
-- what ${NAME} stands for in lists; kept as it is, since it must be sent on
CREATE TABLE secret (
  name  TEXT PRIMARY KEY,
  value TEXT NOT NULL,
  made  TEXT NOT NULL
) WITHOUT ROWID;
-- addresses that lists may reach: names, ranges, or public for all public ones
CREATE TABLE reach (address TEXT PRIMARY KEY) WITHOUT ROWID;
INSERT INTO reach VALUES ('public');
-- +goose Down
DROP TABLE reach; DROP TABLE secret; DROP TABLE held; DROP TABLE agreed;
