-- +goose Up
-- files that cells hold: what they are of, and what is in them
CREATE TABLE attachment (
  id      TEXT PRIMARY KEY,
  tracker INTEGER NOT NULL,
  col     INTEGER NOT NULL,
  name    TEXT NOT NULL,
  type    TEXT NOT NULL,
  size    INTEGER NOT NULL,
  made    TEXT NOT NULL,
  by      TEXT NOT NULL,
  waits   INTEGER NOT NULL, -- 1: for a cell that holds it
  body    BLOB NOT NULL
);
CREATE INDEX attachment_waits ON attachment(waits, made) WHERE waits=1;

-- +goose Down
DROP TABLE attachment;
