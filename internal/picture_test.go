package internal

import (
	"flag"
	"fmt"
	"html"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "draw docs/packages.svg anew")

const picture = "../docs/packages.svg"

// The picture of the packages is drawn from their imports.
func TestPictureOfThePackages(t *testing.T) {
	needs := map[string][]string{}
	for _, layer := range layers {
		for _, pkg := range layer {
			for imported := range imports(t, filepath.FromSlash(pkg)) {
				if inner, own := strings.CutPrefix(imported, module+"internal/"); own {
					needs[pkg] = append(needs[pkg], inner)
				}
			}
		}
	}
	drawn := draw(reduced(needs))
	if *update {
		require.NoError(t, os.WriteFile(picture, []byte(drawn), 0o644))
	}
	kept, err := os.ReadFile(picture)
	require.NoError(t, err)
	assert.True(t, string(kept) == drawn, "docs/packages.svg is out of date: run make reference")
}

// reduced leaves out imports that follow from others, so that the picture can be read.
func reduced(needs map[string][]string) map[string][]string {
	var reach func(from string, seen map[string]bool)
	reach = func(from string, seen map[string]bool) {
		for _, to := range needs[from] {
			if !seen[to] {
				seen[to] = true
				reach(to, seen)
			}
		}
	}
	out := map[string][]string{}
	for from, direct := range needs {
		for _, to := range direct {
			behind := map[string]bool{}
			for _, other := range direct {
				if other != to {
					reach(other, behind)
				}
			}
			if !behind[to] {
				out[from] = append(out[from], to)
			}
		}
		slices.Sort(out[from])
	}
	return out
}

// Measures of the picture, in pixels.
const (
	boxWidth, boxHeight = 110, 26
	rowGap, boxGap      = 18, 10
	pageWidth           = 9*(boxWidth+boxGap) + 2*boxGap
)

func draw(needs map[string][]string) string {
	type place struct{ x, y int }
	at := map[string]place{}
	y := boxGap
	var rows strings.Builder
	for i, layer := range layers {
		if layer[0] == "kinds" {
			fmt.Fprintf(&rows, `<line x1="0" x2="%d" y1="%d" y2="%d" stroke="#C7831A" stroke-dasharray="4 4"/><text x="%d" y="%d" class="c">the core: no I/O, no clock, no goroutines</text>`+"\n", pageWidth, y-rowGap/2, y-rowGap/2, boxGap, y+6)
		}
		x := (pageWidth - len(layer)*(boxWidth+boxGap) + boxGap) / 2
		if len(layer) < 4 { // beside each other, so that lines go between them
			x += []int{-190, 150, -20, 240, -280}[i%5]
		}
		for _, pkg := range layer {
			at[pkg] = place{x, y}
			fmt.Fprintf(&rows, `<rect x="%d" y="%d" width="%d" height="%d" rx="4"/><text x="%d" y="%d" text-anchor="middle">%s</text>`+"\n", x, y, boxWidth, boxHeight, x+boxWidth/2, y+17, html.EscapeString(pkg))
			x += boxWidth + boxGap
		}
		y += boxHeight + rowGap
	}
	var lines strings.Builder
	for _, from := range slices.Sorted(maps.Keys(needs)) {
		for _, to := range needs[from] {
			a, b := at[from], at[to]
			x1, y1, x2, y2 := a.x+boxWidth/2, a.y+boxHeight, b.x+boxWidth/2, b.y
			bend := (y2 - y1) / 2
			fmt.Fprintf(&lines, `<path d="M%d %d C%d %d %d %d %d %d"/>`+"\n", x1, y1, x1, y1+bend, x2, y2-bend, x2, y2)
		}
	}
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" font-family="Source Sans 3, Helvetica, sans-serif" font-size="12">
<style>rect { fill: #FBFAF6; stroke: #1F2A37 } path { fill: none; stroke: #1D6B5C; stroke-opacity: .55 } text { fill: #1F2A37 } .c { fill: #8a5a10; font-style: italic; font-size: 11px }</style>
<rect x="0" y="0" width="%d" height="%d" style="fill:#FFFFFF;stroke:none"/>
%s%s</svg>
`, pageWidth, y, pageWidth, y, lines.String(), rows.String())
}
