// Package kinds is the list of the kinds of definition that a tracker can have, a line
// each. Whatever lists, reads, writes or runs definitions goes by it.
package kinds

import (
	"example.org/kavlo/internal/dossier"
	"example.org/kavlo/internal/form"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/tabview"
	"example.org/kavlo/internal/tally"
)

// All are the kinds in the order of setup files: a definition may name those of the
// kinds before its own.
var All = program.Kinds{
	{Name: sheet.KindList, Plural: "lists", New: func() program.Definition { return &reconcile.List{} }},
	{Name: sheet.KindReminder, Plural: "reminders", New: func() program.Definition { return &reminder.Reminder{} }},
	{Name: sheet.KindRule, Plural: "rules", New: func() program.Definition { return &rule.Rule{} }},
	{Name: sheet.KindSync, Plural: "syncs", New: func() program.Definition { return &reconcile.Sync{} }},
	{Name: sheet.KindDossier, Plural: "dossiers", New: func() program.Definition { return &dossier.Pattern{} }},
	{Name: sheet.KindTally, Plural: "tallies", New: func() program.Definition { return &tally.Tally{} }},
	{Name: sheet.KindForm, Plural: "forms", New: func() program.Definition { return &form.Form{} }},
	{Name: sheet.KindView, Plural: "views", New: func() program.Definition { return &tabview.View{} }},
	{Name: sheet.KindRound, Plural: "rounds", New: func() program.Definition { return &reminder.Round{} }},
}

// Setup reads and writes setup files with them.
var Setup = setup.With(All)
