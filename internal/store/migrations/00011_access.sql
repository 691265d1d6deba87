-- +goose Up
-- people who were removed keep their row, so that their id is nobody else's ever
ALTER TABLE person ADD COLUMN removed TEXT NOT NULL DEFAULT '';
-- when a secret was last used, to the minute or so
ALTER TABLE token ADD COLUMN used TEXT NOT NULL DEFAULT '';
CREATE INDEX token_by_person ON token(person);
-- what the request was that a key came with; keys of before are nobody's
DELETE FROM answered;
ALTER TABLE answered ADD COLUMN hash TEXT NOT NULL DEFAULT '';
CREATE INDEX answered_by_age ON answered(at);
-- +goose Down
DROP INDEX answered_by_age;
ALTER TABLE answered DROP COLUMN hash;
DROP INDEX token_by_person;
ALTER TABLE token DROP COLUMN used;
ALTER TABLE person DROP COLUMN removed;
