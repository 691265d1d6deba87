-- +goose Up
-- the last run of each thing that runs is asked for
CREATE INDEX run_of ON run(tracker, kind, name, id);

-- +goose Down
DROP INDEX run_of;
