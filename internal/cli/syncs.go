package cli

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/wire"
)

func (a *app) syncCmd() *cobra.Command {
	cmd := &cobra.Command{Use: "sync", Short: "Sync lists and tabs, and resolve conflicts", RunE: needsCommand}
	var beyond bool
	verb := func(name, short string, preview bool) *cobra.Command {
		return &cobra.Command{Use: name + " TRACKER SYNC", Short: short, Args: args("TRACKER", "SYNC"), RunE: func(cmd *cobra.Command, given []string) error {
			c, err := a.client()
			if err != nil {
				return err
			}
			set, err := c.RunSync(cmd.Context(), client.How{Preview: preview}, given[0], given[1], beyond || preview && cmd.Flags().Changed("ignore-limit"))
			if err != nil {
				return err
			}
			return a.synced(set)
		}}
	}
	preview, run := verb("preview", "Show the changes to both sides, and change nothing", true), verb("run", "Run it now", false)
	for _, c := range []*cobra.Command{preview, run} {
		c.Flags().BoolVar(&beyond, "ignore-limit", false, "let more than the change limit of either side change or go")
		formerly(c, "beyond-guard", "ignore-limit")
	}
	cmd.AddCommand(preview, run, a.conflictsCmd(), a.settleCmd())
	cmd.AddCommand(a.defining("syncs", "sync")...)
	return cmd
}

func (a *app) conflictsCmd() *cobra.Command {
	return &cobra.Command{Use: "conflicts TRACKER [SYNC]", Short: "List open conflicts", Args: cobra.RangeArgs(1, 2), RunE: func(cmd *cobra.Command, given []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		sync := ""
		if len(given) > 1 {
			sync = given[1]
		}
		held, err := c.Conflicts(cmd.Context(), given[0], sync)
		if err != nil {
			return err
		}
		if a.output == "table" && len(held) == 0 {
			lines(a.out, "No open conflicts.")
			return nil
		}
		g := &grid{heads: []string{"sync", "key", "column", "before", "list", "tab", "since"}}
		for _, h := range held {
			for i, f := range h.Fields {
				list, tab := sides(h.Lost, cellText(f.List), cellText(f.Tab), "(gone)")
				if i > 0 && a.output == "table" {
					g.add("", "", f.Column, cellText(f.Before), list, tab, "")
					continue
				}
				g.add(h.Sync, h.Key, f.Column, cellText(f.Before), list, tab, h.Since.Local().Format("2006-01-02 15:04"))
			}
		}
		if err := a.show(held, g); err != nil || a.output != "table" {
			return err
		}
		lines(a.out, "Resolve one with: kavlo sync resolve %q %q KEY --keep list (or tab); all with --all.", given[0], held[0].Sync)
		return nil
	}}
}

func (a *app) settleCmd() *cobra.Command {
	var take string
	var all, preview bool
	cmd := &cobra.Command{Use: "resolve TRACKER SYNC [KEY ...]", Aliases: []string{"settle"}, Short: "Resolve a conflict: say which value to keep", Args: cobra.MinimumNArgs(2), RunE: func(cmd *cobra.Command, given []string) error {
		keys := given[2:]
		switch {
		case take != "list" && take != "tab":
			return usage("say whose value to keep: --keep list or --keep tab")
		case all == (len(keys) > 0):
			return usage("name the conflicts by their keys, or say --all")
		}
		c, err := a.client()
		if err != nil {
			return err
		}
		set, err := c.Settle(cmd.Context(), client.How{Preview: preview}, given[0], given[1], wire.Settle{Keys: keys, Take: take})
		if err != nil {
			return err
		}
		return a.synced(set)
	}}
	cmd.Flags().StringVar(&take, "keep", "", "whose value to keep: list or tab")
	formerly(cmd, "take", "keep")
	cmd.Flags().BoolVar(&all, "all", false, "resolve all conflicts of the sync alike")
	cmd.Flags().BoolVar(&preview, "preview", false, "show what would change, and change nothing")
	return cmd
}

// synced tells what a sync did or would do on both sides.
func (a *app) synced(set *wire.ChangeSet) error {
	if a.output != "table" {
		return a.changeSet(set)
	}
	d := set.Sync
	if d == nil {
		return errors.New("the service answered with something that is no sync")
	}
	if set.Preview {
		lines(a.out, "Preview only. No changes made, here or in the list.")
	}
	if len(set.Changes) > 0 {
		lines(a.out, "Changes to the tab:")
		a.changes(set.Changes, set.More)
	}
	for _, f := range set.Followed {
		lines(a.out, "  %s", f)
	}
	a.listWrites(d)
	a.held(d)
	for _, t := range d.Troubles {
		lines(a.out, "Not synced: %s: %s", t.Key, t.Why)
	}
	a.passedOver(set.PassedOver)
	lines(a.out, "%s", syncSummary(d))
	if !set.Preview && set.Seq > 0 {
		lines(a.out, "Saved as change set %d. To undo the changes to the tab: kavlo undo %d", set.Seq, set.Seq)
	}
	if d.Stopped != "" {
		return fmt.Errorf("the list could not be written to the end: %s; %d writes wait, and the next run goes on with them", d.Stopped, d.NotSent)
	}
	return nil
}

func (a *app) listWrites(d *wire.SyncDetail) {
	if len(d.Writes) == 0 {
		return
	}
	lines(a.out, "Changes to the list:")
	for i, w := range d.Writes {
		if i == tabledChanges {
			d.More += len(d.Writes) - tabledChanges
			break
		}
		text := fmt.Sprintf("  %s %s", w.Kind, w.Key)
		for j, f := range w.Fields {
			text += map[bool]string{true: ": ", false: ", "}[j == 0]
			if w.Kind == "add" {
				text += fmt.Sprintf("%s %q", f.Column, cellText(f.After))
			} else {
				text += fmt.Sprintf("%s %s -> %s", f.Column, quotedOr(f.Before), quotedOr(f.After))
			}
		}
		if w.State != "" && w.State != "sent" {
			text += " (" + strings.TrimSuffix(w.State+": "+w.Why, ": ") + ")"
		}
		lines(a.out, "%s", text)
	}
	if d.More > 0 {
		lines(a.out, "... and %d more", d.More)
	}
}

func quotedOr(v any) string {
	if s := cellText(v); s != "" {
		return fmt.Sprintf("%q", s)
	}
	return "blank"
}

func (a *app) held(d *wire.SyncDetail) {
	for _, h := range d.Held {
		for _, f := range h.Fields {
			list, tab := sides(h.Lost, quotedOr(f.List), quotedOr(f.Tab), "gone")
			lines(a.out, "Open conflict: %s, %s was %s; the list has %s, the tab %s.", h.Key, f.Column, quotedOr(f.Before), list, tab)
		}
	}
}

// sides gives what stands on both, with a word in place of the side that lost the record.
func sides(lost, list, tab, word string) (string, string) {
	switch lost {
	case "list":
		list = word
	case "tab":
		tab = word
	}
	return list, tab
}

// syncSummary says in one line what became of the records.
func syncSummary(d *wire.SyncDetail) string {
	var parts []string
	for _, p := range []struct {
		n    int
		what string
	}{{d.AddedToTab, "new in the tab"}, {d.UpdatedInTab, "changed in the tab"}, {d.AddedToList, "new in the list"}, {d.UpdatedInList, "changed in the list"},
		{d.GoneFromList, "gone from the list"}, {d.GoneFromTab, "gone from the tab"}, {d.Conflicts, "in conflict"}, {d.Unchanged, "the same"}, {d.OneSided, "on one side only"}, {d.OddCells, "odd cells"}} {
		if p.n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", p.n, p.what))
		}
	}
	if len(parts) == 0 {
		return "Both sides are empty."
	}
	return "Records: " + strings.Join(parts, ", ") + "."
}

func syncDetail(v any) (*wire.SyncDetail, error) {
	text, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	d := &wire.SyncDetail{}
	if err := json.Unmarshal(text, d); err != nil {
		return nil, errors.New("the service answered with something that is no sync")
	}
	return d, nil
}
