-- +goose Up
-- history is written many entries at once; this is the first change set that it
-- may not hold yet
INSERT INTO counter SELECT 'history', coalesce(max(seq), 0) + 1 FROM journal;
-- the run that made a change set, as JSON, stands beside it; the table run keeps
-- those that changed nothing
ALTER TABLE journal ADD COLUMN record TEXT NOT NULL DEFAULT '';
-- runs of change sets before this one are forgotten
INSERT INTO counter VALUES ('kept runs', 1);
-- +goose Down
DELETE FROM counter WHERE name IN ('history', 'kept runs');
ALTER TABLE journal DROP COLUMN record;
