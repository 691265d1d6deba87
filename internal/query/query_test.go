package query_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

const loans = `
tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { Object: { type: text }, Lender: { type: text }, Fee: { type: number }, Due: { type: date }, Twice: { type: computed, clause: Fee * 2 } } }
`

// filled gives a tracker of rows of which some fees are odd, some blank.
func filled(t *testing.T, rows int) (*testkit.Kit, *program.Program) {
	t.Helper()
	k := testkit.New(t, loans)
	random := testkit.Rand(testkit.Seed(t), 1)
	lenders := []string{"Tarn House", "tarn house", "Averin", ""}
	for i := range rows {
		fee := fmt.Sprint(random.IntN(50))
		switch random.IntN(12) {
		case 0:
			fee = ""
		case 1:
			fee = "about ten"
		}
		k.Add("Requested", fmt.Sprintf("Object=Object %d", i), "Lender="+lenders[random.IntN(4)], "Fee="+fee)
	}
	ready, err := testkit.Program(k.Tracker().Shape)
	require.NoError(t, err)
	return k, ready
}

func selected(t *testing.T, k *testkit.Kit, p *program.Program, q query.Query) *query.Rows {
	t.Helper()
	q.Tab = k.Tab("Requested")
	out, err := query.Select(p, k.Tracker(), q, testkit.Now, nil)
	require.NoError(t, err)
	return out
}

func labels(k *testkit.Kit, rows []*sheet.Row) []string {
	out := []string{}
	for _, r := range rows {
		out = append(out, k.Tracker().Label(r))
	}
	return out
}

// A condition that columns can tell is judged a chunk at a time; one that they cannot, row
// by row. Both must find the same rows, and pass over the same.
func TestFilteredByColumnOrNotTheSameRowsAreFound(t *testing.T) {
	k, p := filled(t, 700)
	for byColumn, plain := range map[string]string{
		"Fee > 25":                      "Fee + 0 > 25",
		"Fee is blank":                  "not (Fee is not blank)",
		"Lender is \"Tarn House\"":      "not (Lender is not \"Tarn House\")",
		"Fee > 25 and Lender is Averin": "Fee + 0 > 25 and not (Lender is not \"Averin\")",
	} {
		byColumn = strings.ReplaceAll(byColumn, "is Averin", "is \"Averin\"")
		one, other := selected(t, k, p, query.Query{Where: byColumn}), selected(t, k, p, query.Query{Where: plain})
		assert.Equal(t, labels(k, other.Rows), labels(k, one.Rows), byColumn)
		assert.Equal(t, other.Total, one.Total, byColumn)
		assert.Equal(t, other.Odd, one.Odd, byColumn)
		assert.NotEmpty(t, one.Rows, byColumn)
		assert.Less(t, len(one.Rows), 700, byColumn)
	}
}

func TestPagesAreOneWhole(t *testing.T) {
	k, p := filled(t, 300)
	for _, where := range []string{"", "Fee > 10", "Fee * 1 > 10"} {
		all := selected(t, k, p, query.Query{Where: where})
		var pages []string
		for offset := 0; ; offset += 37 {
			page := selected(t, k, p, query.Query{Where: where, Offset: offset, Limit: 37})
			assert.Equal(t, all.Total, page.Total)
			assert.LessOrEqual(t, len(page.Rows), 37)
			if len(page.Rows) == 0 {
				break
			}
			pages = append(pages, labels(k, page.Rows)...)
		}
		assert.Equal(t, labels(k, all.Rows), pages, where)
		assert.Len(t, all.Rows, all.Total)
	}
}

func TestColumnsComeInTheOrderAskedForComputedOnesWorkedOut(t *testing.T) {
	k, p := filled(t, 0)
	k.Add("Requested", "Object=Bell", "Fee=21")
	k.Add("Requested", "Object=Lamp", "Fee=some")
	found := selected(t, k, p, query.Query{Columns: []string{"Twice", "Object"}})
	require.Len(t, found.Rows, 2)
	cells := found.Cells(found.Rows[0])
	assert.Equal(t, []string{"42", "Bell"}, []string{cells[0].String(), cells[1].String()})
	assert.True(t, found.Cells(found.Rows[1])[0].IsOdd(), "what hangs on an odd cell is odd")
	assert.Len(t, selected(t, k, p, query.Query{}).Slots, 5)
}

func TestWhatCannotBeJudgedIsNamed(t *testing.T) {
	k, p := filled(t, 0)
	for range 250 {
		k.Add("Requested", "Object=Lamp", "Fee=some")
	}
	found := selected(t, k, p, query.Query{Where: "Fee > 1"})
	assert.Empty(t, found.Rows)
	assert.Equal(t, 250, found.Odd)
	assert.Len(t, found.Passed, 200, "all are counted, the first are named")
	passed := found.Passed[0]
	assert.Equal(t, query.Passed{Row: passed.Row, Label: "Lamp", Tab: "Requested", Column: "Fee", Why: "Fee is not a number"}, passed)
}

func TestQueriesThatAreWrong(t *testing.T) {
	k, p := filled(t, 1)
	for _, q := range []query.Query{{Where: "Fee >"}, {Where: "Price > 1"}, {Columns: []string{"Price"}}} {
		q.Tab = k.Tab("Requested")
		_, err := query.Select(p, k.Tracker(), q, testkit.Now, nil)
		assert.Error(t, err, "%+v", q)
	}
}

func TestAQueryStopsWhereItsBudgetEnds(t *testing.T) {
	k, p := filled(t, 1500)
	m := clause.NewMeter(400, nil)
	_, err := query.Select(p, k.Tracker(), query.Query{Tab: k.Tab("Requested"), Where: "Fee * 1 >= 0"}, testkit.Now, m)
	var tooMuch *clause.TooMuch
	assert.ErrorAs(t, err, &tooMuch)
}

// Figures of groups against a plain count over the same rows.
func TestGroups(t *testing.T) {
	k, p := filled(t, 400)
	scope := p.Scope(k.Tab("Requested").ID, false)
	by, err := clause.CheckValue("Lender", scope)
	require.NoError(t, err)
	fee, err := clause.CheckValue("Fee", scope)
	require.NoError(t, err)
	where, err := query.Compile("Object is not blank", scope)
	require.NoError(t, err)
	how := query.Grouping{Where: where, By: by.Value(), Figures: []query.Figure{{What: "count"}, {What: "sum", Of: fee.Value()}, {What: "count distinct", Of: fee.Value()}, {What: "largest", Of: fee.Value()}}}
	groups, passed := how.Start(), 0
	env := p.Env(k.Tracker(), k.Tab("Requested"), testkit.Now, nil)

	type figures struct {
		count, sum, largest int64
		distinct            map[string]bool
	}
	want, passes := map[string]*figures{}, 0
	for r := range k.Tracker().Rows(k.Tab("Requested").ID) {
		program.Look(env, r)
		groups.Take(env, func(string) { passed++ })
		lender := value.Fold(r.At(1).String())
		if lender == "" {
			passes++
			continue
		}
		w := want[lender]
		if w == nil {
			w = &figures{largest: -1, distinct: map[string]bool{}}
			want[lender] = w
		}
		w.count++
		switch v := r.At(2); {
		case v.IsOdd():
			passes += 3 // of each figure that reads it
		case !v.IsBlank():
			n, _ := v.Int()
			w.sum, w.largest = w.sum+n, max(w.largest, n)
			w.distinct[v.String()] = true
		}
	}
	assert.Equal(t, passes, passed)
	require.Len(t, groups.All, len(want))
	for _, g := range groups.All {
		w := want[value.Fold(g.Key.String())]
		require.NotNil(t, w, g.Key)
		for i, n := range []int64{w.count, w.sum, int64(len(w.distinct)), w.largest} {
			got, err := g.Figure(i)
			require.NoError(t, err)
			assert.Equal(t, fmt.Sprint(n), got.String(), "%s of %s", how.Figures[i].What, g.Key)
		}
		assert.True(t, groups.Has(g.Key))
	}
	empty, err := how.New(value.OfText("nobody")).Figure(1)
	require.NoError(t, err)
	assert.Equal(t, "0", empty.String(), "a group that has vanished goes to zero")
}
