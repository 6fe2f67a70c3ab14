//go:build unix

package home

import (
	"io/fs"
	"os"
	"syscall"
)

// ours tells whether something belongs to the user who runs Thrush.
func ours(info fs.FileInfo) bool {
	s, ok := info.Sys().(*syscall.Stat_t)
	return ok && int(s.Uid) == os.Geteuid()
}
