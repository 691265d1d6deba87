-- +goose Up
-- whether the file itself is kept still; it is not for ever
ALTER TABLE version ADD COLUMN kept INTEGER NOT NULL DEFAULT 1;

-- +goose Down
ALTER TABLE version DROP COLUMN kept;
