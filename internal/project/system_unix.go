//go:build unix

package project

import (
	"io/fs"
	"os"
	"syscall"
)

// mayRule tells whether a file may say what holds in a folder: it belongs to this user, to the
// folder's owner or to the system's. Others may write to folders above, such as one for temporary
// files.
func mayRule(file, folder fs.FileInfo) bool {
	f, ok := file.Sys().(*syscall.Stat_t)
	d, ok2 := folder.Sys().(*syscall.Stat_t)
	return ok && ok2 && (f.Uid == 0 || f.Uid == d.Uid || int(f.Uid) == os.Geteuid())
}

// inode tells files apart that took each other's place.
func inode(info fs.FileInfo) uint64 {
	if s, ok := info.Sys().(*syscall.Stat_t); ok {
		return s.Ino
	}
	return 0
}
