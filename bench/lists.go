package bench

import (
	"fmt"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

const (
	inStep      = 100_000
	fieldsInAll = 10
)

var inStepNames = make([]string, fieldsInAll)

// reconcileLists compares a list and a tab of as many records, of which one in
// a hundred was changed on one side since both were agreed.
var reconcileLists = Case{
	Name: "100,000 records of 10 fields reconciled with as many rows, 1% changed", Floor: "a hand-written join by map over the same values", Limit: 3, Turns: 7, Items: 100_000, Item: "record",
	Setup: func(string) (kavlo, floor func() error, done func() error, err error) {
		list, tab, base := bothSides()
		policy := reconcile.Policy{Direction: reconcile.Both, Conflict: reconcile.Hold, Gone: reconcile.Mark}
		kavlo = func() error {
			n := reconcile.Compare(list, tab, base, inStepNames, policy).Counts()
			if n.UpdateTab != inStep/200 || n.UpdateList != inStep/200 || n.Unchanged != inStep-inStep/100 {
				return fmt.Errorf("the comparison found %+v", n)
			}
			return nil
		}
		floor = func() error {
			rows := make(map[string]*reconcile.Item, len(tab))
			for i := range tab {
				rows[tab[i].Key.Raw()] = &tab[i]
			}
			was := make(map[string]*reconcile.Base, len(base))
			for i := range base {
				was[base[i].Key] = &base[i]
			}
			toTab, toList := 0, 0
			for i := range list {
				row, old := rows[list[i].Key.Raw()], was[list[i].Key.Raw()]
				for f := range list[i].Fields {
					switch {
					case list[i].Fields[f] == row.Fields[f]:
					case row.Fields[f] == old.Fields[f]:
						toTab++
					default:
						toList++
					}
				}
			}
			if toTab != inStep/200 || toList != inStep/200 {
				return fmt.Errorf("the join found %d and %d", toTab, toList)
			}
			return nil
		}
		return kavlo, floor, func() error { return nil }, nil
	},
}

func bothSides() (list, tab []reconcile.Item, base []reconcile.Base) {
	list, tab, base = make([]reconcile.Item, inStep), make([]reconcile.Item, inStep), make([]reconcile.Base, inStep)
	for i := range inStep {
		key := fmt.Sprintf("L-%06d", i)
		fields := make([]value.Value, fieldsInAll)
		for f := range fields {
			switch f % 3 {
			case 0:
				fields[f] = value.OfText(fmt.Sprintf("field %d of %d", f, i))
			case 1:
				fields[f] = value.OfInt(int64(i * f))
			default:
				fields[f] = value.OfDays(int64(20_000 + i%365))
			}
		}
		here, there := append([]value.Value(nil), fields...), append([]value.Value(nil), fields...)
		switch i % 200 {
		case 7:
			there[3] = value.OfText("changed there")
		case 107:
			here[3] = value.OfText("changed here")
		}
		list[i] = reconcile.Item{Key: value.OfText(key), Fields: there, ID: key, At: i}
		tab[i] = reconcile.Item{Key: value.OfText(key), Fields: here, Row: sheet.RowID(i + 1)}
		base[i] = reconcile.Base{Key: key, Fields: fields, Row: sheet.RowID(i + 1), ID: key}
	}
	return list, tab, base
}
