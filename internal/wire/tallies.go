package wire

import "time"

// Tally is what a tally came to.
type Tally struct {
	ID       string        `json:"id"`
	Name     string        `json:"name"`
	Says     string        `json:"says"`
	Draw     string        `json:"draw" enum:"bar,line,stacked bar,number"`
	Show     string        `json:"show" doc:"The figure that is drawn"`
	By       []string      `json:"by" doc:"What rows are grouped by"`
	Figures  []TallyFigure `json:"figures"`
	Groups   []TallyGroup  `json:"groups"`
	Others   *TallyGroup   `json:"others,omitempty" doc:"What the groups that are not shown come to together"`
	Hidden   int           `json:"hidden,omitempty" doc:"How many groups are not shown"`
	Total    TallyGroup    `json:"total"`
	Than     *time.Time    `json:"compared_with,omitempty" doc:"The end of the earlier day that it is compared with"`
	NotThan  string        `json:"not_compared,omitempty" doc:"Why it could not be compared"`
	Skipped  int           `json:"skipped,omitempty" doc:"Rows that could not be judged"`
	Passed   []PassedOver  `json:"passed_over,omitempty" doc:"The first of them"`
	OnToday  bool          `json:"today,omitempty" doc:"It stands on the Today page"`
	DrawnNow bool          `json:"drawn" doc:"There is a picture of it"`
}

// TallyFigure is a figure that each group has.
type TallyFigure struct {
	Name   string `json:"name"`
	Type   string `json:"type"`
	Format string `json:"format,omitempty" doc:"Of a number: percent or a currency code"`
}

// TallyGroup is a group with its figures.
type TallyGroup struct {
	Group  []string          `json:"group" doc:"Its name, or names"`
	Values map[string]any    `json:"values" doc:"By figure"`
	Before map[string]any    `json:"before,omitempty" doc:"As of the earlier day"`
	Odd    map[string]string `json:"odd,omitempty" doc:"Figures that could not be worked out, with the reason"`
}
