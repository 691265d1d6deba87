package api

import (
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/policy"
)

// subjects are what operations are about, by the part of their path that says it, with
// what the OpenAPI document calls them. Of two that fit, the later one in a path counts.
var subjects = map[string]string{
	"session": "Sign-in", "people": "People", "access": "Access", "setup": "Setup", "try": "Setup", "trackers": "Trackers", "tabs": "Tabs and columns", "rows": "Rows", "columns": "Tabs and columns",
	"rules": "Rules", "calls": "Rules", "clauses": "Rules", "lists": "Lists and syncs", "syncs": "Lists and syncs", "conflicts": "Lists and syncs", "reminders": "Reminders and rounds", "rounds": "Reminders and rounds",
	"outbox": "Reminders and rounds", "arrived": "Reminders and rounds", "imports": "Files", "readings": "Files", "export": "Files", "outbound": "Files", "attachments": "Files", "entry-forms": "Forms",
	"tidy": "Rows", "find": "Rows", "forms": "Forms", "dossiers": "Pages", "pages": "Pages", "tallies": "Tallies", "tallies-now": "Tallies",
	"runs": "History", "journal": "History", "undo": "History", "events": "History", "presence": "Trackers", "today": "Today", "backup": "Upkeep", "check": "Upkeep",
}

var subjectTexts = []*huma.Tag{
	{Name: "Sign-in", Description: "Who is signed in, and what lets them in."},
	{Name: "Today", Description: "What is overdue, runs next, failed, and would be sent."},
	{Name: "Trackers", Description: "Trackers: made, renamed, deleted."},
	{Name: "Tabs and columns", Description: "What rows are made of."},
	{Name: "Rows", Description: "Rows: found, added, changed, moved, deleted, and why they are as they are."},
	{Name: "Setup", Description: "A tracker's setup as a file."},
	{Name: "Rules", Description: "Rules, their clauses, and calls from outside that start them."},
	{Name: "Lists and syncs", Description: "Records kept elsewhere, in step with tabs."},
	{Name: "Reminders and rounds", Description: "Who is told of which rows, when, and what was sent."},
	{Name: "Files", Description: "Workbooks and CSV files, in and out."},
	{Name: "Pages", Description: "The pages of rows: facts, figures, logs."},
	{Name: "Forms", Description: "Entry forms, filled in by people who are signed in and by private links."},
	{Name: "Tallies", Description: "Figures by group, as tables, pictures and files."},
	{Name: "History", Description: "Runs and change sets, as they come and as they were, and undo."},
	{Name: "People", Description: "People, their tokens, links and calendars."},
	{Name: "Access", Description: "Secrets, what lists may reach, and the journal of access."},
	{Name: "Upkeep", Description: "Copies and checks of the workspace."},
}

// objects says of documents, which go as they are, that they are objects.
func objects(api huma.API) {
	object := func(says string) *huma.Schema {
		return &huma.Schema{Type: huma.TypeObject, AdditionalProperties: true, Description: says}
	}
	for _, name := range []string{"Definition", "Trial"} {
		s := api.OpenAPI().Components.Schemas.Map()[name]
		s.Properties["body"] = object("As the setup file writes it")
		s.PrecomputeMessages()
	}
	for _, path := range api.OpenAPI().Paths {
		for _, op := range []*huma.Operation{path.Post, path.Put} {
			if op == nil || op.RequestBody == nil || op.RequestBody.Content["application/json"] == nil {
				continue
			}
			if m := op.RequestBody.Content["application/json"]; m.Schema != nil && m.Schema.Type == "" && m.Schema.Ref == "" {
				m.Schema = object("A definition, as the setup file writes it")
			}
		}
	}
}

// subjectOf gives what an operation is about.
func subjectOf(path string) (subject string) {
	for part := range strings.SplitSeq(path, "/") {
		if s, known := subjects[part]; known {
			subject = s
		}
	}
	return subject
}

// whoMay says who may call an operation.
func whoMay(needs role) string {
	switch needs {
	case anybody:
		return "Takes no sign-in: the request itself holds what it needs."
	case policy.Keeper:
		return "Needs an admin."
	case policy.Editor:
		return "Needs an editor, of the tracker where it names one."
	}
	return "Needs a reader, of the tracker where it names one; who sees less is told less."
}

// sends says in what form an operation answers that is not JSON.
func sends(what string, types ...string) func(*huma.Operation) {
	return func(op *huma.Operation) {
		content := map[string]*huma.MediaType{}
		for _, t := range types {
			content[t] = &huma.MediaType{Schema: &huma.Schema{Type: huma.TypeString}}
		}
		op.Responses = map[string]*huma.Response{"200": {Description: what, Content: content}}
	}
}
