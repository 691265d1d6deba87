-- +goose Up
-- what a file said last time of a row that is found by a key, a mark for each cell
CREATE TABLE imported (
  tracker INTEGER NOT NULL,
  tab     INTEGER NOT NULL,
  key     TEXT NOT NULL,
  seq     INTEGER NOT NULL, -- the change set that it came with; 0: it changed nothing
  marks   BLOB NOT NULL,
  PRIMARY KEY (tracker, tab, key)
) WITHOUT ROWID;

-- +goose Down
DROP TABLE imported;
