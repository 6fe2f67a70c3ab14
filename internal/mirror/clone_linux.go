package mirror

import (
	"os"

	"golang.org/x/sys/unix"
)

// clone has a file share the blocks of another until one of them is written to.
func clone(from, to *os.File) bool {
	return unix.IoctlFileClone(int(to.Fd()), int(from.Fd())) == nil
}
