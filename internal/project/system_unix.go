//go:build unix

package project

import (
	"io/fs"
	"sync"
	"syscall"
)

// umask is the process's, read once: asking sets it for a moment.
var umask = sync.OnceValue(func() fs.FileMode {
	m := syscall.Umask(0)
	syscall.Umask(m)
	return fs.FileMode(m)
})

// inode tells files apart that took each other's place.
func inode(info fs.FileInfo) uint64 {
	if s, ok := info.Sys().(*syscall.Stat_t); ok {
		return s.Ino
	}
	return 0
}
