-- +goose Up
-- who was told of a row that a reminder holds, and when; until which day they put it off,
-- and how the row stood then. '' stands for everybody whom earlier versions told.
CREATE TABLE told (
  tracker  INTEGER NOT NULL,
  reminder INTEGER NOT NULL,
  row      INTEGER NOT NULL,
  person   TEXT NOT NULL,
  told     TEXT NOT NULL,
  until    INTEGER NOT NULL,
  mark     TEXT NOT NULL,
  PRIMARY KEY (tracker, reminder, row, person)
) WITHOUT ROWID;
INSERT INTO told SELECT tracker, reminder, row, '', told, until, '' FROM reminded WHERE told<>'' OR until<>0;
UPDATE reminded SET told='', until=0, done=0;

-- +goose Down
DROP TABLE told;
