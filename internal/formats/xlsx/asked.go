package xlsx

import (
	"errors"
	"io"
	"strings"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// What a sheet asks of its cells: validations, colours by what stands in them, and number
// formats of cells that are still blank (ECMA-376, 18.3.1.18, 18.3.1.33).

// within reads an element to its end and hands over each element in it.
func (s *sheetReader) within(name string, each func(inner string) error) error {
	for !s.empty {
		tok, err := s.next()
		if err != nil {
			if errors.Is(err, io.EOF) {
				err = errTag
			}
			return err
		}
		if tok == tagClose && string(s.name) == name {
			return nil
		}
		if tok != tagOpen {
			continue
		}
		if err := each(string(s.name)); err != nil {
			return err
		}
		s.empty = false
	}
	return nil
}

// validation reads what is asked of cells, in the old form or the new.
func (s *sheetReader) validation() error {
	kind, ranges, operator := s.attr("type"), s.attr("sqref"), s.attr("operator")
	refuse := (s.attr("errorStyle") == "" || s.attr("errorStyle") == "stop") && s.attr("showErrorMessage") != "0" && s.attr("showErrorMessage") != "false"
	var formulas [2]string
	err := s.within("dataValidation", func(inner string) (err error) {
		switch inner {
		case "formula1":
			formulas[0], err = s.content("")
		case "formula2":
			formulas[1], err = s.content("")
		case "sqref":
			ranges, err = s.content("")
		}
		return err
	})
	if err != nil {
		return err
	}
	a := reading.Asked{Refuse: refuse}
	switch kind {
	case "list":
		if formulas[0] != "" {
			s.dropdowns = append(s.dropdowns, dropdown{s.grid, strings.TrimSpace(formulas[0]), ranges, refuse})
		}
		return nil
	case "whole", "decimal":
		a.Kind, a.Whole = value.Number, kind == "whole"
		a.Min, a.Max = bounds(operator, formulas)
	case "date":
		a.Kind = value.Date
	default:
		return nil
	}
	s.ask(a, ranges)
	return nil
}

// bounds gives between which numbers a validation takes what is typed, as far as it says
// so in constants.
func bounds(operator string, f [2]string) (low, high string) {
	constant := func(s string) string {
		if _, err := value.ParseNumber(strings.TrimSpace(s)); err != nil {
			return ""
		}
		return strings.TrimSpace(s)
	}
	switch operator {
	case "", "between":
		return constant(f[0]), constant(f[1])
	case "greaterThanOrEqual":
		return constant(f[0]), ""
	case "lessThanOrEqual":
		return "", constant(f[0])
	}
	return "", ""
}

// mostAsked is how many ranges of a sheet are asked of.
const mostAsked = 10_000

func (s *sheetReader) ask(a reading.Asked, ranges string) { askIn(s.grid, a, ranges) }

func askIn(g *reading.Grid, a reading.Asked, ranges string) {
	for _, text := range strings.Fields(ranges) {
		r, err := reading.ParseRange(text)
		if err != nil || len(g.Asks) >= mostAsked {
			continue
		}
		a.Range = r
		g.Asks = append(g.Asks, a)
	}
}

// conditional reads the colours that cells take by the text in them.
func (s *sheetReader) conditional() error {
	ranges := s.attr("sqref")
	return s.within("conditionalFormatting", func(inner string) error {
		if inner != "cfRule" {
			return nil
		}
		kind, operator, text, style := s.attr("type"), s.attr("operator"), s.attr("text"), s.attr("dxfId")
		formula := ""
		err := s.within("cfRule", func(inner string) (err error) {
			if inner == "formula" && formula == "" {
				formula, err = s.content("")
			}
			return err
		})
		if err != nil {
			return err
		}
		formula = strings.TrimSpace(formula)
		if kind == "cellIs" && operator == "equal" && len(formula) > 2 && formula[0] == '"' && formula[len(formula)-1] == '"' {
			text = strings.ReplaceAll(formula[1:len(formula)-1], `""`, `"`)
		} else if kind != "containsText" && kind != "beginsWith" {
			return nil
		}
		colour := s.washes[style]
		if text == "" || colour == "" {
			return nil
		}
		for _, part := range strings.Fields(ranges) {
			if r, err := reading.ParseRange(part); err == nil && len(s.grid.Colours) < mostAsked {
				s.grid.Colours = append(s.grid.Colours, reading.Coloured{Range: r, Text: text, Colour: colour})
			}
		}
		return nil
	})
}

// mostFormats is how many blank cells of a sheet are asked how they would show a number.
const mostFormats = 20_000

// ahead minds the number format of a blank cell.
func (s *sheetReader) ahead() {
	if s.styled == nil || len(s.grid.Formats) >= mostFormats {
		return
	}
	f := reading.Formatted{Row: s.row, Col: s.col}
	switch {
	case s.styled.shows == showsDate:
		f.Kind = value.Date
	case s.styled.more != nil && s.styled.more.Display != "":
		f.Kind, f.Display = value.Number, s.styled.more.Display
	default:
		return
	}
	s.grid.Formats = append(s.grid.Formats, f)
}
