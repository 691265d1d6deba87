-- +goose Up
-- the files that rules wrote, so that they can be opened by day, compared, and
-- removed when their time is up
CREATE TABLE written (
  path    TEXT PRIMARY KEY,
  tracker INTEGER NOT NULL,
  rule    INTEGER NOT NULL,
  name    TEXT NOT NULL,
  at      TEXT NOT NULL,
  rows    INTEGER NOT NULL,
  keep    INTEGER NOT NULL
) WITHOUT ROWID;
-- files that go with a mail, one path a line
ALTER TABLE letter ADD COLUMN attach TEXT NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE letter DROP COLUMN attach;
DROP TABLE written;
