-- +goose Up
CREATE INDEX journal_undoes ON journal(undoes) WHERE undoes > 0;

-- +goose Down
DROP INDEX journal_undoes;
