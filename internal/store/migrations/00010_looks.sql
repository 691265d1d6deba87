-- +goose Up
-- how cells are set off, by column id, as JSON; null where all are plain
ALTER TABLE row ADD COLUMN looks TEXT;
-- +goose Down
ALTER TABLE row DROP COLUMN looks;
