//go:build !unix

package project

import "io/fs"

func umask() fs.FileMode { return 0 }

func inode(fs.FileInfo) uint64 { return 0 }
