package value

import "strings"

// Nearest gives the name closest to a misspelt one, or "" when none is near
// enough to suggest: at most a third of the letters may differ.
func Nearest(name string, names []string) string {
	folded := Fold(name)
	best, bestAt := "", len([]rune(folded))/3+1
	for _, n := range names {
		f := Fold(n)
		if len(folded) >= 3 && strings.HasPrefix(f, folded) && bestAt > 1 {
			best, bestAt = n, 1
			continue
		}
		if d := editDistance([]rune(folded), []rune(f), bestAt); d < bestAt || d == bestAt && best == "" {
			best, bestAt = n, d
		}
	}
	return best
}

// editDistance is the optimal string alignment distance (Damerau-Levenshtein
// without overlapping swaps), given up as limit+1 once it is past limit.
func editDistance(a, b []rune, limit int) int {
	if len(a)-len(b) > limit || len(b)-len(a) > limit {
		return limit + 1
	}
	older, prev, cur := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range prev {
		prev[j] = j
	}
	for i := 1; i <= len(a); i++ {
		cur[0] = i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			cur[j] = min(prev[j]+1, cur[j-1]+1, prev[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				cur[j] = min(cur[j], older[j-2]+1)
			}
		}
		older, prev, cur = prev, cur, older
	}
	return prev[len(b)]
}
