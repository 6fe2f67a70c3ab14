// Package python holds what is put in front of a Python program: a module that every
// interpreter imports at its start, what it loads when a file is to be woven, and the
// counters, which are compiled.
package python

import "embed"

// Variable is the environment variable that names the list of measured files.
const Variable = "THRUSH_PYTHON"

//go:embed sitecustomize.py weaving.py compiling.py
//go:embed all:built
var files embed.FS

// Files gives the files for the folder that PYTHONPATH names, by their names. Where the
// counters were not built, as make does, ok is false.
func Files() (out map[string][]byte, ok bool) {
	out = map[string][]byte{}
	for _, dir := range []string{".", "built"} {
		entries, err := files.ReadDir(dir)
		if err != nil {
			return nil, false
		}
		for _, e := range entries {
			if e.IsDir() || e.Name() == ".gitignore" {
				continue
			}
			name := e.Name()
			if dir != "." {
				name, ok = dir+"/"+name, true
			}
			data, err := files.ReadFile(name)
			if err != nil {
				return nil, false
			}
			out[e.Name()] = data
		}
	}
	return out, ok
}
