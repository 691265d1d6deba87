package browser

import (
	"context"
	"sync"
)

// idle are browsers that nobody's page is open in now.
var idle struct {
	sync.Mutex
	browsers []*Page
}

// Share opens a page of its own session, with nothing of any other's, in a browser that had
// others before: starting one takes longer than most of what tests do in it. No two pages are
// open in one browser at a time, for it draws that in front alone without delay.
func Share() (*Page, error) {
	idle.Lock()
	defer idle.Unlock()
	for len(idle.browsers) > 0 {
		last := len(idle.browsers) - 1
		b := idle.browsers[last]
		idle.browsers = idle.browsers[:last]
		if p, err := b.lend(); err == nil {
			return p, nil
		}
		b.Close() // it has broken off
	}
	b, err := Open(context.Background())
	if err != nil {
		return nil, err
	}
	return b.lend()
}

// lend opens a page in a browser that is idle again once the page is closed.
func (p *Page) lend() (*Page, error) {
	page, err := p.Another()
	if err != nil {
		return nil, err
	}
	end := page.close
	page.close = func() {
		end()
		idle.Lock()
		defer idle.Unlock()
		idle.browsers = append(idle.browsers, p)
	}
	return page, nil
}

// CloseShared ends the browsers that are idle.
func CloseShared() {
	idle.Lock()
	defer idle.Unlock()
	for _, b := range idle.browsers {
		b.Close()
	}
	idle.browsers = nil
}
