package clause

import "testing"

// Tokens stand in the order of the text, inside it, and never on one another.
func FuzzLex(f *testing.F) {
	for _, s := range []string{"", `Stage is "Agreed"`, `"{`, `[`, `1.5e 2,000`, "a\nb", "\xff", `>=<=`, `[Loan no] is not ""`} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		p := &parser{text: s}
		if p.lex() != nil {
			return
		}
		end := 0
		for i, k := range p.tokens {
			if k.start < end || k.end < k.start || k.end > len(s) {
				t.Fatalf("%q: token %d from %d to %d, after one to %d", s, i, k.start, k.end, end)
			}
			end = k.end
		}
		if p.tokens[len(p.tokens)-1].kind != tokEnd {
			t.Fatalf("%q does not end", s)
		}
	})
}
