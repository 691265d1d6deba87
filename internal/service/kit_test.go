package service_test

import (
	"time"

	"example.org/kavlo/internal/wire"
)

const (
	waitFor = 10 * time.Second
	tick    = 20 * time.Millisecond
)

func wireEdit(column string, v any) wire.RowEdit {
	return wire.RowEdit{Cells: map[string]any{column: v}}
}
