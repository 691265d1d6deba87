package e2e

import (
	"os"
	"testing"

	"example.org/kavlo/e2e/browser"
)

// Browsers serve one test after the other; each has a session of its own.
func TestMain(m *testing.M) {
	code := m.Run()
	browser.CloseShared()
	os.Exit(code)
}
