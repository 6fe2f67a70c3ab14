// This file holds what Node loads before a program: what puts woven text in front of
// those that load sources, and the counters, which are compiled.

package script

import (
	"embed"

	"thrush/internal/runtime"
)

// Variable is the environment variable that names the list of measured files.
const Variable = "THRUSH_SCRIPT"

//go:embed runtime/*.cjs runtime/*.mjs runtime/page.js
//go:embed all:runtime/built
var files embed.FS

// Files gives the files, by their names; ok is false if the counters were not built.
func Files() (out map[string][]byte, ok bool) { return runtime.Files(files) }
