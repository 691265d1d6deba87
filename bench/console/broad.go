package main

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"example.org/kavlo/e2e/browser"
	"example.org/kavlo/internal/client"
)

const (
	broadRows    = 3_000
	broadColumns = 60
)

// broad measures the wheel over a tab of few rows and many columns.
func broad(ctx context.Context, c *client.Client, page *browser.Page, address string) (string, error) {
	var columns []string
	for i := range broadColumns {
		columns = append(columns, fmt.Sprintf("C%d: { type: %s }", i, []string{"text", "number"}[i%2]))
	}
	setup := "tracker: Broad\nzone: UTC\ntabs:\n  Loans: { columns: { " + strings.Join(columns, ", ") + " } }\n"
	id, err := fill(ctx, c, setup, "Broad", broadRows, func(n int) map[string]any {
		cells := map[string]any{}
		for i := range broadColumns {
			cells[fmt.Sprintf("C%d", i)] = any(n * i)
			if i%2 == 0 {
				cells[fmt.Sprintf("C%d", i)] = fmt.Sprintf("cell %d of %d", i, n)
			}
		}
		return cells
	})
	if err != nil {
		return "", err
	}
	t, err := c.Tracker(ctx, id)
	if err != nil {
		return "", err
	}
	if err := errors.Join(page.Go(address+"/t/"+id+"/"+t.Tabs[0].ID), page.Holds(`document.querySelectorAll(".grid-row").length > 10`),
		// as in the other tab, all rows are there before the wheel is turned
		page.Holds(`performance.getEntriesByType("resource").some((r) => r.name.includes("offset=200"))`)); err != nil {
		return "", err
	}
	return wheel(page, broadRows, broadColumns)
}
