package browser

import (
	"errors"
	"fmt"

	"github.com/chromedp/chromedp"
)

// Point is a place of the window, in pixels from its upper left.
type Point struct{ X, Y float64 }

// over says in JavaScript whether what is uppermost at a place belongs to an element.
const over = `const over = (e, h) => h && (e.contains(h) || h.contains(e) || h.closest("label, .ant-select, .ant-input-affix-wrapper")?.contains(e));`

// Still gives the middle of an element, a JavaScript expression, once it has not moved for
// two frames, no animation runs on it, and nothing lies over it. What is out of sight is scrolled to.
func (p *Page) Still(at string) (Point, error) {
	err := p.Holds(`(e => {
		` + over + `
		if (!e) return false;
		for (let a = e; a; a = a.parentElement) if (/\bant-([a-z]+-)*(zoom|slide|fade|move)-/.test(a.className)) return false;
		e.scrollIntoView({ block: e.closest(".ant-select-dropdown") ? "nearest" : "center", inline: "nearest", behavior: "instant" });
		const r = e.getBoundingClientRect(), was = window.stood;
		if (!was || was.e !== e || was.x !== r.x || was.y !== r.y) {
			const now = (window.stood = { e, x: r.x, y: r.y, frames: 0 });
			const count = () => { now.frames++; if (now.frames < 2) requestAnimationFrame(count); };
			requestAnimationFrame(count);
			return false;
		}
		return was.frames >= 2 && over(e, document.elementFromPoint(r.x + r.width / 2, r.y + r.height / 2));
	})(` + at + `)`)
	if err != nil {
		return Point{}, err
	}
	middle, err := Eval[[]float64](p, `(r => [r.x + r.width / 2, r.y + r.height / 2])(window.stood.e.getBoundingClientRect())`)
	if err != nil {
		return Point{}, err
	}
	return Point{X: middle[0], Y: middle[1]}, nil
}

// Click clicks with the mouse on the element that a CSS selector finds; see ClickOn.
func (p *Page) Click(selector string) error {
	return p.ClickOn(fmt.Sprintf("document.querySelector(%q)", selector))
}

// ClickOn clicks with the mouse on an element, a JavaScript expression. Where the page moves
// just then, so that the click goes to something else, it is clicked again, as anybody would.
func (p *Page) ClickOn(at string) error { return p.clickOn(at, 1) }

// DoubleClickOn clicks twice, likewise.
func (p *Page) DoubleClickOn(at string) error { return p.clickOn(at, 2) }

func (p *Page) clickOn(at string, times int) error {
	for range 3 {
		where, err := p.Still(at)
		if err != nil {
			return err
		}
		_, err = Eval[bool](p, `(e => {
			`+over+`
			window.missed = undefined;
			document.addEventListener("mousedown", ({ target: h }) => (window.missed = e.isConnected && !over(e, h)), { capture: true, once: true });
			return true;
		})(window.stood.e)`)
		if err := errors.Join(err, p.Do(chromedp.MouseClickXY(where.X, where.Y, chromedp.ClickCount(times)))); err != nil {
			return fmt.Errorf("clicking on %s: %w", at, err)
		}
		if !p.missed() {
			return nil
		}
	}
	return fmt.Errorf("clicking on %s: something else was met three times", at)
}

// missed reports whether the last click went to something else. Where it led to another page,
// nothing is known of it there, and it met what it should.
func (p *Page) missed() bool {
	missed, err := Eval[bool](p, "window.missed === true")
	return err == nil && missed
}
