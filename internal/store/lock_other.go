//go:build !unix

package store

import "os"

// lock marks the folder as in use; elsewhere than on Unix it holds nobody off.
func lock(path string) (*os.File, error) { return os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o600) }
