-- +goose Up
-- trackers that a change set touches besides the one it is of
CREATE TABLE also (
  tracker INTEGER NOT NULL,
  seq     INTEGER NOT NULL,
  PRIMARY KEY (tracker, seq)
) WITHOUT ROWID;
INSERT OR IGNORE INTO also
  SELECT t.value, j.seq
  FROM (SELECT seq, tracker, body FROM journal UNION ALL SELECT change.seq, tracker, change.body FROM change JOIN journal ON journal.seq = change.seq) j,
       json_each(j.body) c, json_each(json_array(c.value ->> 'tracker', c.value ->> 'to_tracker')) t
  WHERE j.body <> '' AND t.value > 0 AND t.value <> j.tracker;

-- +goose Down
DROP TABLE also;
