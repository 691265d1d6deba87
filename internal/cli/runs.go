package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

func countsText(n map[string]int) string {
	var parts []string
	for _, k := range []struct{ kind, one, many string }{
		{"add", "row added", "rows added"}, {"set", "cell set", "cells set"}, {"move", "row moved", "rows moved"},
		{"note", "note", "notes"}, {"look", "style", "styles"}, {"remove", "row deleted", "rows deleted"},
		{"reshape", "setup change", "setup changes"}, {"grant", "change of access", "changes of access"},
	} {
		switch n[k.kind] {
		case 0:
		case 1:
			parts = append(parts, "1 "+k.one)
		default:
			parts = append(parts, fmt.Sprintf("%d %s", n[k.kind], k.many))
		}
	}
	return strings.Join(parts, ", ")
}

func (a *app) runsCmd() *cobra.Command {
	var most int
	cmd := &cobra.Command{Use: "runs TRACKER", Short: "List a tracker's runs, newest first", Args: args("TRACKER"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		runs, err := c.Runs(cmd.Context(), given[0], most)
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"run", "at", "kind", "name", "outcome", "set off by", "changes"}}
		for _, r := range runs {
			outcome := r.Outcome
			if r.Undone {
				outcome += ", undone"
			}
			g.add(r.ID, r.At.Local().Format("2006-01-02 15:04:05"), r.Kind, r.Name, outcome, r.Cause, countsText(r.Counts))
		}
		return a.show(runs, g)
	}}
	cmd.Flags().IntVar(&most, "most", 20, "how many")
	return cmd
}

func (a *app) runCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "run", Short: "Show a run", RunE: needsCommand}
	cmd.AddCommand(&cobra.Command{Use: "show RUN", Short: "Show a run with its steps and changes", Args: args("RUN"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		r, err := c.Run(cmd.Context(), strings.ToUpper(given[0]))
		if err != nil {
			return err
		}
		return a.run(r)
	}})
	return cmd
}

func (a *app) run(r *wire.Run) error {
	if a.output != "table" {
		g := &grid{heads: []string{"kind", "tab", "row", "label", "column", "before", "after", "because"}}
		for _, c := range r.Changes {
			g.add(c.Kind, c.Tab, c.Row, c.Label, c.Column, cellText(c.Before), cellText(c.After), c.Because)
		}
		return a.show(r, g)
	}
	lines(a.out, "Run %s: %s %s", r.ID, r.Kind, r.Name)
	lines(a.out, "  %s, %s, started by %s", r.At.Local().Format("2006-01-02 15:04:05"), r.Outcome, r.Cause)
	if r.Problem != "" {
		lines(a.out, "  Problem: %s", r.Problem)
	}
	for _, rule := range r.Rules {
		lines(a.out, "  %s: %d rows checked, %d matched, %d skipped", rule.Rule, rule.Considered, rule.Matched, rule.Passed)
		for i, s := range rule.Steps {
			lines(a.out, "    %s", stepLine(i, s))
		}
		for _, w := range rule.Would {
			lines(a.out, "    would have %s", w)
		}
	}
	a.passedOver(r.PassedOver)
	if r.Kind == "sync" && r.Detail != nil {
		d, err := syncDetail(r.Detail)
		if err != nil {
			return err
		}
		a.listWrites(d)
		a.held(d)
		lines(a.out, "  %s", syncSummary(d))
	} else if detail, ok := r.Detail.(map[string]any); ok {
		for _, k := range sortedKeys(detail) {
			if text := cellText(detail[k]); text != "" {
				lines(a.out, "  %s: %s", k, text)
			}
		}
	}
	a.changes(r.Changes, r.More)
	if r.Seq > 0 && !r.Undone {
		lines(a.out, "To undo: kavlo undo %s", r.ID)
	}
	return nil
}

func stepLine(i int, s wire.StepReport) string {
	name := fmt.Sprintf("step %d, %s", i+1, s.Kind)
	if s.Name != "" {
		name += " (" + s.Name + ")"
	}
	line := fmt.Sprintf("%s: %d rows, %d changes, %.1f ms", name, s.Rows, s.Changed, float64(s.Took)/1000)
	if s.Says != "" {
		line += ": " + s.Says
	}
	if s.Remark != "" {
		line += ", " + s.Remark
	}
	return line
}

func (a *app) journalCmd() *cobra.Command {
	var most int
	var row string
	var of client.JournalOf
	cmd := &cobra.Command{Use: "journal TRACKER", Short: "List a tracker's change sets, newest first", Args: args("TRACKER"), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		entries, err := a.journal(cmd, c, given[0], row, of, most)
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"change set", "at", "who", "what", "changes", "run"}, wide: "what"}
		for _, e := range entries {
			what := e.Says
			if e.Undoes > 0 && !strings.Contains(what, "undo") {
				what = fmt.Sprintf("undo of %d", e.Undoes)
			}
			g.add(fmt.Sprint(e.Seq), e.At.Local().Format("2006-01-02 15:04:05"), e.Who, what, countsText(e.Counts), e.Run)
		}
		return a.show(entries, g)
	}}
	cmd.Flags().IntVar(&most, "most", 20, "how many")
	cmd.Flags().StringVar(&row, "row", "", "only those that touched this row (an id, or TAB/ROW)")
	cmd.Flags().StringVar(&of.Tab, "tab", "", "only those that touched rows of this tab")
	cmd.Flags().StringVar(&of.By, "by", "", "only those of this person, by name")
	cmd.Flags().BoolVar(&of.Mine, "mine", false, "only my own, each with what it did")
	return cmd
}

func (a *app) journal(cmd *cobra.Command, c *client.Client, tracker, row string, of client.JournalOf, most int) ([]wire.JournalEntry, error) {
	if row == "" {
		return c.Journal(cmd.Context(), tracker, of, most)
	}
	tab, name, found := strings.Cut(row, "/")
	if found {
		return c.RowHistory(cmd.Context(), tracker, tab, name)
	}
	t, err := c.Tracker(cmd.Context(), tracker)
	if err != nil {
		return nil, err
	}
	for _, tab := range t.Tabs { // an id alone: wherever the row is now
		if entries, err := c.RowHistory(cmd.Context(), tracker, tab.ID, row); err == nil {
			return entries, nil
		}
	}
	return nil, fmt.Errorf("there is no row %s in %s: name it as TAB/ROW", row, tracker)
}

func (a *app) undoCmd() *cobra.Command {
	var force, preview bool
	cmd := &cobra.Command{Use: "undo RUN", Short: "Undo a run, or a change set by its number", Args: args("RUN"), RunE: a.changing(func(cmd *cobra.Command, c *client.Client, given []string) (*wire.ChangeSet, error) {
		return c.Undo(cmd.Context(), client.How{Preview: preview}, given[0], force)
	})}
	cmd.Flags().BoolVar(&force, "force", false, "keep later changes; undo the rest")
	previewFlag(cmd, &preview)
	return cmd
}

// whose says who is told of a row.
func whose(h wire.DueRow) string {
	if len(h.To) == 0 {
		return "nobody"
	}
	return strings.Join(h.To, ", ")
}

// untold says for each reminder who cannot be told, and of how many rows.
func untold(due []wire.DueRow) []string {
	var whys []string
	rows := map[string]int{}
	for _, h := range due {
		for _, why := range h.Untold {
			why = h.Reminder + ": " + why
			if rows[why]++; rows[why] == 1 {
				whys = append(whys, why)
			}
		}
	}
	for i, why := range whys {
		whys[i] = fmt.Sprintf("%s (%s)", why, plural(rows[why], "row"))
	}
	return whys
}

func (a *app) todayCmd() *cobra.Command {
	return &cobra.Command{Use: "today", Short: "Show overdue rows, scheduled runs and failures", Args: args(), RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		t, err := c.Today(cmd.Context())
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"reminder", "row", "tab", "whose"}}
		for _, h := range append(t.Overdue, t.Nobody...) {
			g.add(h.Reminder, h.Label, h.Tab, whose(h))
		}
		if err := a.show(t, g); err != nil || a.output != "table" {
			return err
		}
		for _, why := range untold(append(t.Overdue, t.Nobody...)) {
			lines(a.out, "Not delivered: %s", why)
		}
		if n := t.More.Overdue + t.More.Nobody; n > 0 {
			lines(a.out, "And %d more.", n)
		}
		for _, n := range t.Notices {
			lines(a.out, "Needs attention: %s", n.Says)
		}
		for _, n := range t.Next {
			lines(a.out, "Next: %s %s, %s (%s)", n.Kind, n.Name, n.Next.Local().Format("Mon 2006-01-02 15:04"), n.Phrase)
		}
		for _, r := range t.Failed {
			lines(a.out, "Failed: %s %s, %s: %s", r.Kind, r.Name, r.At.Local().Format("2006-01-02 15:04"), r.Problem)
		}
		for _, m := range t.Waiting {
			lines(a.out, "Email %s: %s to %s %s", m.State, m.Subject, m.To, m.Problem)
		}
		return nil
	}}
}
