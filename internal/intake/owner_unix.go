//go:build unix

package intake

import (
	"io/fs"
	"os/user"
	"strconv"
	"syscall"
)

// ownerOf gives the name of the user who owns a file, or "".
func ownerOf(info fs.FileInfo) string {
	stat, ok := info.Sys().(*syscall.Stat_t)
	if !ok {
		return ""
	}
	u, err := user.LookupId(strconv.FormatUint(uint64(stat.Uid), 10))
	if err != nil {
		return ""
	}
	if u.Name != "" {
		return u.Name
	}
	return u.Username
}
