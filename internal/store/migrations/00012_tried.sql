-- +goose Up
-- files of the intake that are being read: where the service ends meanwhile, they
-- are not tried for ever
CREATE TABLE trying (
  path  TEXT PRIMARY KEY,
  hash  TEXT NOT NULL,
  tries INTEGER NOT NULL
) WITHOUT ROWID;
-- +goose Down
DROP TABLE trying;
