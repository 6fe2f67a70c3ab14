//go:build !unix

package atomic

import "io/fs"

func umask() fs.FileMode { return 0 }
