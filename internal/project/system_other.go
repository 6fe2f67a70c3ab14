//go:build !unix

package project

import "io/fs"

func mayRule(_, _ fs.FileInfo) bool { return true }

func inode(fs.FileInfo) uint64 { return 0 }
