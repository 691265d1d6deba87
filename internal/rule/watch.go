package rule

import (
	"fmt"
)

import "example.org/kavlo/internal/sheet"

// watchSteps works out what a watching rule would have done, on a fork of the
// draft that is thrown away, and reports it in words.
func (c *cascade) watchSteps(r *Compiled, tracker sheet.TrackerID, rows []candidate) {
	fork := c.draft.Fork()
	trial := newCascade(fork, []sheet.Cause{{Kind: sheet.ByRule, Name: r.Name, Definition: r.ID}}, c.Setting)
	for i := range rows {
		rows[i].cause = 0
	}
	failed := trial.runSteps(r, tracker, rows)
	rep := c.report(r)
	if failed != nil { // that too is what it would have done
		rep.Would = append(rep.Would, "failed: "+failed.Error())
		return
	}
	done := trial.report(r)
	for i := range done.Steps {
		rep.Steps[i].Rows += done.Steps[i].Rows
		rep.Steps[i].Changed += done.Steps[i].Changed
		rep.Steps[i].Took += done.Steps[i].Took
	}
	rep.Passed += done.Passed
	rep.PassedOver = append(rep.PassedOver, done.PassedOver...)
	for _, m := range trial.out.Mails {
		rep.Would = append(rep.Would, fmt.Sprintf("email about %s", counted(len(m.Rows))))
	}
	now := fork.Now()
	for _, ch := range sheet.Told(fork.Changes()) {
		if len(rep.Would) == maxNamed {
			break
		}
		rep.Would = append(rep.Would, now.Describe(ch))
	}
}

func counted(rows int) string {
	if rows == 1 {
		return "1 row"
	}
	return fmt.Sprintf("%d rows", rows)
}
