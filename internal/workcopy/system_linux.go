package workcopy

import (
	"os"

	"golang.org/x/sys/unix"
)

// clone has a file share the blocks of another until one of them is written to.
func clone(from, to *os.File) bool {
	return unix.IoctlFileClone(int(to.Fd()), int(from.Fd())) == nil
}

// lock takes a file for this process, until it ends; ok is false if another one has it.
func lock(f *os.File) (ok bool) {
	return unix.Flock(int(f.Fd()), unix.LOCK_EX|unix.LOCK_NB) != unix.EWOULDBLOCK
}
