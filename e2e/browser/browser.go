// Package browser drives headless Chromium for the tests of the console and
// for its screenshots.
package browser

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// Width and Height are the size of the window.
const (
	Width  = 1280
	Height = 800
)

// ErrNoChromium says that there is no Chromium on this machine.
var ErrNoChromium = errors.New("there is no Chromium here: run make deps")

// Wait is how long a step in the browser may take.
const Wait = 20 * time.Second

// Page is a page of a browser.
type Page struct {
	ctx   context.Context
	close func()
}

// Open starts a browser with a fresh profile and an empty page.
func Open(ctx context.Context) (*Page, error) {
	path := ""
	for _, name := range []string{"chromium", "chromium-browser", "google-chrome"} {
		if p, err := exec.LookPath(name); err == nil {
			path = p
			break
		}
	}
	if path == "" {
		return nil, ErrNoChromium
	}
	profile, err := os.MkdirTemp("", "kavlo-browser")
	if err != nil {
		return nil, fmt.Errorf("making a profile: %w", err)
	}
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(path), chromedp.UserDataDir(profile), chromedp.WindowSize(Width, Height),
		chromedp.NoSandbox, chromedp.DisableGPU, chromedp.Flag("disable-quic", true), chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true), chromedp.Flag("lang", "en-GB"))
	alloc, stopAlloc := chromedp.NewExecAllocator(ctx, options...)
	page, stopPage := chromedp.NewContext(alloc)
	p := &Page{ctx: page, close: func() {
		stopPage()
		stopAlloc()
		_ = os.RemoveAll(profile)
	}}
	return p, p.begin()
}

// Close ends the browser.
func (p *Page) Close() { p.close() }

// Another opens a page of its own session in the same browser.
func (p *Page) Another() (*Page, error) {
	ctx, stop := chromedp.NewContext(p.ctx, chromedp.WithNewBrowserContext())
	q := &Page{ctx: ctx, close: stop}
	return q, q.begin()
}

// begin starts the page. The browser lives as long as the context of its first
// action, so that one has no time limit.
func (p *Page) begin() error {
	if err := chromedp.Do(p.ctx, chromedp.EmulateViewport(Width, Height)); err != nil {
		p.Close()
		return fmt.Errorf("starting Chromium: %w", err)
	}
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	// as if its window were the one in front, whatever other pages do
	if _, err := chromedp.Call(ctx, emulation.SetFocusEmulationEnabled, emulation.SetFocusEmulationEnabledParams{Enabled: true}); err != nil {
		p.Close()
		return fmt.Errorf("putting the page in front: %w", err)
	}
	return p.Scheme("light")
}

// Do runs actions within the time a step may take.
func (p *Page) Do(steps ...chromedp.Action[chromedp.Void]) error {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	return chromedp.Do(ctx, steps...)
}

// Go opens an address.
func (p *Page) Go(address string) error { return p.Do(chromedp.Navigate(address)) }

// Beforehand has every page that is opened from now on run a script before its own.
func (p *Page) Beforehand(script string) error {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	_, err := chromedp.Call(ctx, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: script})
	return err
}

// Keys types keys where the focus is; see package kb for those without a letter.
func (p *Page) Keys(keys string, modifiers ...chromedp.Modifier) error {
	return p.Do(chromedp.KeyEvent(keys, chromedp.KeyModifiers(modifiers...)))
}

// Type types a text where the focus is: its first letter by its key, the rest in one go.
func (p *Page) Type(text string) error {
	first, size := utf8.DecodeRuneInString(text)
	if size == len(text) {
		return p.Keys(text)
	}
	if err := p.Keys(string(first)); err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	_, err := chromedp.Call(ctx, input.InsertText, input.InsertTextParams{Text: text[size:]})
	return err
}

// Enter strikes the Enter key as a keyboard does: where the page prevents what it would
// do, no character follows.
func (p *Page) Enter() error { return p.strike("Enter", "\r", 13) }

// Letter strikes the key of a letter, likewise.
func (p *Page) Letter(letter string) error {
	return p.strike(letter, letter, int64(strings.ToUpper(letter)[0]))
}

func (p *Page) strike(name, text string, code int64) error {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	key := input.DispatchKeyEventParams{Type: input.DispatchKeyEventTypeKeyDown, Key: name, Code: name, Text: text, UnmodifiedText: text, WindowsVirtualKeyCode: code}
	if _, err := chromedp.Call(ctx, input.DispatchKeyEvent, key); err != nil {
		return err
	}
	key.Type, key.Text, key.UnmodifiedText = input.DispatchKeyEventTypeKeyUp, "", ""
	_, err := chromedp.Call(ctx, input.DispatchKeyEvent, key)
	return err
}

// Mouse does one thing with the mouse at a point of the window, with its left button.
func (p *Page) Mouse(kind input.DispatchMouseEventType, x, y float64) error {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	held := int64(1)
	_, err := chromedp.Call(ctx, input.DispatchMouseEvent, input.DispatchMouseEventParams{Type: kind, X: x, Y: y, Button: input.MouseButtonLeft, Buttons: held, ClickCount: 1})
	return err
}

// Wheel turns the wheel at a point of the window, down by so many pixels (up where they are negative).
func (p *Page) Wheel(x, y, down float64) error {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	sideways := 0.001 // the protocol wants it, and a zero is not sent
	_, err := chromedp.Call(ctx, input.DispatchMouseEvent, input.DispatchMouseEventParams{Type: input.DispatchMouseEventTypeMouseWheel, X: x, Y: y, DeltaX: sideways, DeltaY: down})
	return err
}

// Drag takes what can be dragged from a point of the window to another and drops it there.
func (p *Page) Drag(fromX, fromY, toX, toY float64) error {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	if _, err := chromedp.Call(ctx, input.SetInterceptDrags, input.SetInterceptDragsParams{Enabled: true}); err != nil {
		return err
	}
	if err := p.Mouse(input.DispatchMouseEventTypeMousePressed, fromX, fromY); err != nil {
		return err
	}
	begin := func(context.Context, *chromedp.Target) (chromedp.Void, error) {
		for _, by := range []float64{2, 6, 12} {
			if err := p.Mouse(input.DispatchMouseEventTypeMouseMoved, fromX, fromY-by); err != nil {
				return chromedp.Void{}, err
			}
		}
		return chromedp.Void{}, nil
	}
	begun, err := chromedp.Run(ctx, chromedp.WaitEvent(input.DragIntercepted, nil, begin))
	if err != nil {
		return fmt.Errorf("beginning to drag: %w", err)
	}
	for _, kind := range []input.DispatchDragEventType{input.DispatchDragEventTypeDragEnter, input.DispatchDragEventTypeDragOver, input.DispatchDragEventTypeDrop} {
		if _, err := chromedp.Call(ctx, input.DispatchDragEvent, input.DispatchDragEventParams{Type: kind, X: toX, Y: toY, Data: begun.Data}); err != nil {
			return err
		}
	}
	return p.Mouse(input.DispatchMouseEventTypeMouseReleased, toX, toY)
}

// RightClick clicks with the mouse's right button.
func (p *Page) RightClick(x, y float64) error {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	for _, kind := range []input.DispatchMouseEventType{input.DispatchMouseEventTypeMousePressed, input.DispatchMouseEventTypeMouseReleased} {
		if _, err := chromedp.Call(ctx, input.DispatchMouseEvent, input.DispatchMouseEventParams{Type: kind, X: x, Y: y, Button: input.MouseButtonRight, Buttons: 2, ClickCount: 1}); err != nil {
			return err
		}
	}
	return nil
}

// Choose gives files to the field for files that a selector finds.
func (p *Page) Choose(selector string, files ...string) error {
	return p.Do(chromedp.SetUploadFiles(chromedp.CSS(selector), files, chromedp.NodeReady))
}

// Press clicks on the button or link that says a text, once it can be pressed.
func (p *Page) Press(text string) error {
	at := fmt.Sprintf("[...document.querySelectorAll('button, a, label')].find(e => e.innerText.replace(/\\s+/g, ' ').trim() === %q && e.offsetParent && !e.disabled)", text)
	// found and clicked in one go: between two, the page may be drawn anew
	if err := p.Holds("(e => e ? (e.click(), true) : false)(" + at + ")"); err != nil {
		return fmt.Errorf("there is no button %q: %w", text, err)
	}
	return nil
}

// Eval gives the value of a JavaScript expression.
func Eval[T any](p *Page, expression string) (T, error) {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	return chromedp.Run(ctx, chromedp.Evaluate[T](expression))
}

// Holds waits until a JavaScript expression is true.
func (p *Page) Holds(expression string) error {
	deadline := time.Now().Add(Wait)
	for {
		// the page itself looks again and again; where it is left meanwhile, the next one does
		ok, err := Await[bool](p, fmt.Sprintf(`new Promise((done) => {
			const over = performance.now() + %d;
			let rest = 15;
			const look = () => {
				let is = false;
				try { is = Boolean(%s); } catch {}
				if (is || performance.now() > over) done(is); else setTimeout(look, (rest = Math.min(rest * 1.3, 120)));
			};
			look();
		})`, max(time.Until(deadline), time.Second).Milliseconds(), expression))
		if err == nil && ok {
			return nil
		}
		if time.Now().After(deadline) {
			text, _ := Eval[string](p, "document.body.innerText")
			return fmt.Errorf("%s did not come true; the page says:\n%s\n(%w)", expression, text, errors.Join(err, context.DeadlineExceeded))
		}
		time.Sleep(20 * time.Millisecond)
	}
}

// Await gives what a JavaScript promise comes to.
func Await[T any](p *Page, promise string) (T, error) {
	ctx, cancel := context.WithTimeout(p.ctx, Wait+time.Second)
	defer cancel()
	return chromedp.Run(ctx, chromedp.Evaluate[T](promise, chromedp.EvalAwaitPromise))
}

// Says waits until the page shows a text.
func (p *Page) Says(text string) error {
	return p.Holds(fmt.Sprintf("document.body.innerText.includes(%q)", text))
}

// Shot takes a picture of the window, as PNG.
func (p *Page) Shot() ([]byte, error) {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	return chromedp.Run(ctx, chromedp.CaptureScreenshot())
}

// Size gives the window another size, in pixels.
func (p *Page) Size(width, height int64) error {
	return p.Do(chromedp.EmulateViewport(width, height))
}

// Scheme makes the browser prefer light or dark pages. Nothing moves by itself in either, as
// for people whose systems ask for that: a test need not wait for it.
func (p *Page) Scheme(name string) error {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	wishes := []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: name}, {Name: "prefers-reduced-motion", Value: "reduce"}}
	_, err := chromedp.Call(ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: wishes})
	return err
}

// Print gives the page as it is printed, as PDF.
func (p *Page) Print() ([]byte, error) {
	ctx, cancel := context.WithTimeout(p.ctx, Wait)
	defer cancel()
	out, err := chromedp.Call(ctx, page.PrintToPDF, page.PrintToPDFParams{})
	return out.Data, err
}
