-- +goose Up
-- the first part of a change set stands in the journal itself, so that a small
-- one is one record; parts from the second on stand in change, as before
ALTER TABLE journal ADD COLUMN body TEXT NOT NULL DEFAULT '';
-- +goose Down
ALTER TABLE journal DROP COLUMN body;
