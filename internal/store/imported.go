package store

import (
	"context"
	"fmt"

	"example.org/kavlo/internal/sheet"
)

// Imported gives what files said last time of the rows of a tab, by what they are found by.
// What came with a change set that is undone was not said.
func (s *Store) Imported(ctx context.Context, tracker sheet.TrackerID, tab sheet.TabID) (map[string][]byte, error) {
	rows, err := s.read.QueryContext(ctx, `SELECT key, marks FROM imported WHERE tracker=? AND tab=? AND NOT EXISTS
		(SELECT 1 FROM journal AS undo WHERE imported.seq<>0 AND undo.undoes=imported.seq AND NOT EXISTS (SELECT 1 FROM journal AS redo WHERE redo.undoes=undo.seq))`, int64(tracker), int64(tab))
	if err != nil {
		return nil, fmt.Errorf("reading what files said: %w", err)
	}
	defer rows.Close()
	out := map[string][]byte{}
	for rows.Next() {
		var key string
		var marks []byte
		if err := rows.Scan(&key, &marks); err != nil {
			return nil, fmt.Errorf("reading what files said: %w", err)
		}
		out[key] = marks
	}
	return out, rows.Err()
}

// PutImported keeps what a file said of a row with a change set (0: it changed nothing);
// no marks forget it.
func (b *Batch) PutImported(ctx context.Context, tracker sheet.TrackerID, tab sheet.TabID, key string, seq int64, marks []byte) error {
	if len(marks) == 0 {
		return b.exec(ctx, "imported drop", int64(tracker), int64(tab), key)
	}
	return b.exec(ctx, "imported put", int64(tracker), int64(tab), key, seq, marks)
}
