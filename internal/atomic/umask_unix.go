//go:build unix

package atomic

import (
	"io/fs"
	"sync"
	"syscall"
)

// Umask is the process's, read once: asking sets it for a moment.
var Umask = sync.OnceValue(func() fs.FileMode {
	m := syscall.Umask(0)
	syscall.Umask(m)
	return fs.FileMode(m)
})
