package e2e

import (
	"os"
	"testing"

	"example.org/kavlo/e2e/browser"
)

// One browser serves all tests; each has a session of its own in it.
func TestMain(m *testing.M) {
	code := m.Run()
	browser.CloseShared()
	os.Exit(code)
}
