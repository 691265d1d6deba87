package clause

import (
	"fmt"
	"go/ast"
	goparser "go/parser"
	gotoken "go/token"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/value"
)

// One clause for each kind of node.
var kindsOfNode = map[string]string{
	"nameNode": `Object`, "tabNode": `tab`, "clockNode": `today`, "literalNode": `12`, "durationNode": `15 days`, "templateNode": `"{Object}, {Country}"`,
	"arithmeticNode": `(Value + 1)`, "negateNode": `-Value`, "compareNode": `(Value > 1)`, "betweenNode": `(Value between 1 and 2)`, "oneOfNode": `(Value is one of (1, 2))`,
	"testNode": `(Value is blank)`, "changedNode": `(Stage changed)`, "wasNode": `(Stage was "Agreed")`, "notNode": `(not Packed)`, "joinNode": `(Packed and Packed)`,
	"ifNode": `(if Packed then 1 else 2)`, "callNode": `abs(Value)`, "spanNode": `(days between Arrived and today)`, "runningNode": `(running sum Value)`,
	"tableNode": `(count in Countries where Country is this.Country)`,
}

// The places in which a clause can hold another.
var places = []string{
	`%s`, `not %s`, `-%s`, `%s is blank`, `%s is not odd`, `%s is blank and Packed`, `Packed or %s`, `%s is 1`, `blank is %s`, `Object is %s`, `%s < 5`, `5 >= %s`,
	`%s before today`, `today on or after %s`, `%s within 3 days`, `Arrived within %s`, `%s between 1 and 5`, `Value between %s and 9`, `Value between 1 and %s`,
	`%s is one of (1, 2)`, `Value is one of (1, %s)`, `Object contains %s`, `%s matches "a"`, `Stage was %s`, `%s changed`, `%s + 1`, `Arrived + %s`, `Arrived - %s`, `today - %s`, `Value * %s`,
	`if %s then 1 else 2`, `if Packed then %s else 2`, `if Packed then 1 else %s`, `if Packed then %s else %s`, `abs(%s)`, `text(%s)`, `max(%s, 2)`, `upper(%s)`, `date(%s)`,
	`days between %s and today`, `workdays between today and %s`, `"x{%s}y"`, `count in Countries where %s`, `first Code in Countries where Country is %s`, `sum Fee in Countries where %s is 3`,
}

// Whatever the checker lets through, wherever it stands, compiles and comes to
// an end: a kind of node without code once recursed until the process was gone.
func TestEveryKindOfNodeEndsInEveryPlace(t *testing.T) {
	for _, kind := range kindsInSource(t) {
		require.Contains(t, kindsOfNode, kind, "a kind of node without a sample here")
	}
	passed := 0
	for kind, clause := range kindsOfNode {
		parsed, err := Parse(clause)
		require.NoError(t, err, clause)
		assert.Equal(t, "*clause."+kind, fmt.Sprintf("%T", parsed.root))
		for _, place := range places {
			text := strings.ReplaceAll(place, "%s", clause)
			if e, err := CheckCondition(text, scope); err == nil {
				e.Condition()(env())
				passed++
			}
			if e, err := CheckValue(text, scope); err == nil {
				e.Value()(env())
				passed++
			}
			if e, err := CheckTemplate("a{"+text+"}", scope); err == nil {
				e.Value()(env())
			}
		}
	}
	assert.Greater(t, passed, 300)
}

// kindsInSource gives the kinds of node that node.go declares.
func kindsInSource(t *testing.T) []string {
	file, err := goparser.ParseFile(gotoken.NewFileSet(), "node.go", nil, 0)
	require.NoError(t, err)
	var out []string
	ast.Inspect(file, func(n ast.Node) bool {
		if spec, ok := n.(*ast.TypeSpec); ok && spec.Name.Name != "Node" && strings.HasSuffix(spec.Name.Name, "Node") {
			out = append(out, spec.Name.Name)
		}
		return true
	})
	require.Greater(t, len(out), 15)
	return out
}

func TestADurationIsNoValueByItself(t *testing.T) {
	for _, text := range []string{`15 days is blank`, `blank is 15 days`, `15 days is 15 days`} {
		_, err := CheckCondition(text, scope)
		assert.ErrorContains(t, err, "a duration is no value by itself: write for example today + 15 days", text)
	}
	for _, text := range []string{`15 days`, `if Packed then 15 days else 3 days`, `text(15 days)`} {
		_, err := CheckValue(text, scope)
		assert.ErrorContains(t, err, "a duration is no value by itself", text)
	}
}

func TestDaysOutsideTheCalendarAreOddAndSayWhy(t *testing.T) {
	for _, text := range []string{`9999-12-31 + 30 days`, `0000-01-01 - 1 day`, `9999-12-31T23:59 + 2 minutes`, `9999-12-01 + 2 months`, `today + 9000 years`, `9999-12-31 + 3 workdays`, `today + 999999 weeks`} {
		e, err := CheckValue(text, scope)
		require.NoError(t, err, text)
		at := env()
		v := e.Value()(at)
		assert.True(t, v.IsOdd(), "%s gives %s", text, v)
		assert.Contains(t, at.Fault, "is outside the years 0 to 9999", text)
	}
}

// What any clause of dates and numbers comes to can be written and read back.
func TestRandomResultsReadBack(t *testing.T) {
	units := []string{"days", "weeks", "months", "years", "hours", "minutes", "workdays"}
	rapid.Check(t, func(t *rapid.T) {
		from := rapid.SampledFrom([]string{"today", "now", "9999-12-31", "0000-01-01", "Arrived", "9999-12-31T23:59", "Value", "999999999999999999", "0.000000000000000001"}).Draw(t, "from")
		text := from
		for range rapid.IntRange(1, 4).Draw(t, "steps") {
			op := rapid.SampledFrom([]string{"+", "-", "*", "/"}).Draw(t, "op")
			by := fmt.Sprintf("%d %s", rapid.IntRange(0, 1<<31-1).Draw(t, "n"), rapid.SampledFrom(units).Draw(t, "unit"))
			if op == "*" || op == "/" || rapid.Bool().Draw(t, "number") {
				by = rapid.SampledFrom([]string{"999999999999999999", "0.000000000000000007", "3", "Value"}).Draw(t, "by")
			}
			text = "(" + text + " " + op + " " + by + ")"
		}
		e, err := CheckValue(text, scope)
		if err != nil {
			return
		}
		v := e.Value()(env())
		if v.IsOdd() || v.IsBlank() {
			return
		}
		back, err := value.Restore(v.Kind(), v.String())
		if err != nil || back != v {
			t.Fatalf("%s gives %s, which reads back as %s: %v", text, v, back, err)
		}
	})
}
