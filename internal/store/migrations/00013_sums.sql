-- +goose Up
-- each change set is chained to the one before it by a hash over both; sets of
-- before this have none
ALTER TABLE journal ADD COLUMN chain TEXT NOT NULL DEFAULT '';
-- a checksum of what a row holds, its place apart; 0: none was made
ALTER TABLE row ADD COLUMN sum INTEGER NOT NULL DEFAULT 0;
-- +goose Down
ALTER TABLE row DROP COLUMN sum;
ALTER TABLE journal DROP COLUMN chain;
