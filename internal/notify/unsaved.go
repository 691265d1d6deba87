package notify

import (
	"context"
	"fmt"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
)

// UnsavedLetters gives the mails of a reminder or a round that is not saved: what each person
// would get if it were sent now. A reminder's are as if it were a round's only one and nobody
// had been told of anything. Their links do nothing, and nothing is sent.
func (post *Post) UnsavedLetters(ctx context.Context, t *sheet.Tracker, p *program.Program, def *sheet.Definition) ([]reminder.Letter, error) {
	if def.Kind == sheet.KindRound {
		round, err := program.Ready[*reminder.CompiledRound](p, def.ID)
		if err != nil {
			return nil, err
		}
		plan, err := post.plan(ctx, t, round, def.ID.String(), false)
		if err != nil {
			return nil, err
		}
		return plan.Letters, nil
	}
	c, err := program.Ready[*reminder.Compiled](p, def.ID)
	if err != nil {
		return nil, err
	}
	people, names, err := post.Directory(ctx)
	if err != nil {
		return nil, err
	}
	now, meter := post.Now(), post.Meter(ctx)
	h := c.Metered(meter).Collect(t, people, now)
	if err := meter.Err(); err != nil {
		return nil, fmt.Errorf("reminder %s: %w", def.Name, err)
	}
	if err := post.bySight(ctx, t, &h); err != nil {
		return nil, err
	}
	alone, err := reminder.CompileRound(&reminder.Round{Name: def.Name, Clock: "daily at 8:00"})
	if err != nil {
		return nil, err
	}
	return reminder.Letters([]reminder.Holding{h}, reminder.Context{Round: alone, Tracker: t.Name, Now: now.In(t.Location()), Names: names, Link: post.linker(t)})
}
