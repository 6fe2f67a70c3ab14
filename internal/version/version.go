// Package version knows which Thrush this is.
package version

import (
	"fmt"
	"os"
	"runtime/debug"
)

// number is set by the linker (-X) when a release is built.
var number = ""

// String is the version: the release's number, or the commit it was built from.
func String() string {
	if number != "" {
		return number
	}
	if info, ok := debug.ReadBuildInfo(); ok {
		for _, s := range info.Settings {
			if s.Key == "vcs.revision" && len(s.Value) >= 12 {
				return "development-" + s.Value[:12]
			}
		}
	}
	return "development"
}

// Build tells builds apart: what one wove, another weaves anew. Builds under
// development have no number, so the program file itself is looked at.
func Build() string {
	if number != "" {
		return number
	}
	path, err := os.Executable()
	if err != nil {
		return String()
	}
	info, err := os.Stat(path)
	if err != nil {
		return String()
	}
	return fmt.Sprintf("%s %d %d", String(), info.Size(), info.ModTime().UnixNano())
}
