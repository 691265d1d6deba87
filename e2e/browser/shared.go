package browser

import (
	"context"
	"sync"
)

// shared is the browser of those who share one.
var shared struct {
	sync.Mutex
	page *Page
}

// Share opens a page of its own session, with nothing of any other's, in a browser that is
// started once: starting one takes longer than most of what tests do in it.
func Share() (*Page, error) {
	shared.Lock()
	defer shared.Unlock()
	if shared.page != nil {
		if p, err := shared.page.Another(); err == nil {
			return p, nil
		}
		shared.page.Close() // it has broken off
		shared.page = nil
	}
	page, err := Open(context.Background())
	if err != nil {
		return nil, err
	}
	shared.page = page
	return page.Another()
}

// CloseShared ends the browser that is shared.
func CloseShared() {
	shared.Lock()
	defer shared.Unlock()
	if shared.page != nil {
		shared.page.Close()
		shared.page = nil
	}
}
