-- +goose Up
CREATE INDEX run_by_time ON run(at);
-- +goose Down
DROP INDEX run_by_time;
