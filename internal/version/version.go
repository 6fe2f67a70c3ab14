// Package version knows which Thrush this is.
package version

import "runtime/debug"

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
