//go:build !unix

package atomic

import "io/fs"

func Umask() fs.FileMode { return 0 }
