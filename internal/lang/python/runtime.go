// This file holds what is put in front of a Python program: a module that every
// interpreter imports at its start, what it loads when a file is to be woven, and the
// counters, which are compiled.

package python

import (
	"embed"

	"thrush/internal/runtime"
)

// Variable is the environment variable that names the list of measured files.
const Variable = "THRUSH_PYTHON"

//go:embed runtime/*.py
//go:embed all:runtime/built
var files embed.FS

// Files gives the files, by their names; ok is false if the counters were not built.
func Files() (out map[string][]byte, ok bool) { return runtime.Files(files) }
