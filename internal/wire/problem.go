package wire

import "strings"

// Problem says what went wrong (RFC 9457), where, and what to do.
type Problem struct {
	Type      string        `json:"type" doc:"Names the kind of problem" example:"urn:kavlo:no-such-name"`
	Title     string        `json:"title"`
	Status    int           `json:"status"`
	Detail    string        `json:"detail"`
	Field     string        `json:"field,omitempty" doc:"The column, key or part at fault"`
	Hint      string        `json:"hint,omitempty" doc:"What to do, such as the nearest name"`
	Line      int           `json:"line,omitempty" doc:"In a setup file or clause, from 1"`
	Col       int           `json:"column,omitempty" doc:"In a clause, from 1"`
	Caret     string        `json:"caret,omitempty" doc:"The line at fault with a mark under the mistake"`
	Run       string        `json:"run,omitempty" doc:"The failed run on record"`
	Conflicts []string      `json:"conflicts,omitempty"`
	Current   *Row          `json:"current,omitempty" doc:"The row as it stands now, on a lost race"`
	Odd       []OddCell     `json:"odd,omitempty" doc:"What does not fit and would take the place of what does"`
	Errors    []FieldDetail `json:"errors,omitempty" doc:"Everything wrong with the request's form"`
}

// FieldDetail is one thing wrong with a request's form.
type FieldDetail struct {
	Message  string `json:"message"`
	Location string `json:"location,omitempty"`
	Value    any    `json:"value,omitempty"`
}

func (p *Problem) Error() string {
	s := p.Detail
	if p.Hint != "" && !strings.Contains(s, p.Hint) {
		s += " (" + p.Hint + ")"
	}
	if p.Caret != "" {
		s += "\n" + p.Caret
	}
	return s
}

// GetStatus gives the HTTP status.
func (p *Problem) GetStatus() int { return p.Status }

// ContentType gives the media type of RFC 9457.
func (p *Problem) ContentType(string) string { return "application/problem+json" }
