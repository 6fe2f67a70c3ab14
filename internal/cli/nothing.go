package cli

import (
	"fmt"
	"path"
	"strings"

	"thrush/internal/exit"
	"thrush/internal/languages"
	"thrush/internal/launch"
	"thrush/internal/reading"
	"thrush/internal/recording"
	"thrush/internal/report/prose"
)

// hasData says why there is nothing to show, if so.
func (a *app) hasData(r *reading.Reader, files int) error {
	if r.Recording.Info.Processes == 0 && r.Recording.Len() > 0 {
		return exit.With(exit.NoData, nothingReported(r.Recording, nil))
	}
	if files > 0 {
		return nil
	}
	if r.Recording.Len() > 0 {
		return exit.NoDataf("no measured file matches")
	}
	if u := r.Recording.Info.Unmeasured; len(u) > 0 {
		return exit.NoDataf("the recording measured no file: %s: %s (thrush tally --unmeasured lists all)", u[0].Path, u[0].Reason)
	}
	return exit.NoDataf("the recording holds no source file; it was made in a folder without sources of %s, or all were left out by only and skip", languages.Names())
}

// endings are those of files of languages, by what is said of them.
var endings = map[string]string{
	".c": "compiled", ".cc": "compiled", ".cpp": "compiled", ".cxx": "compiled", ".h": "compiled", ".hpp": "compiled", ".java": "compiled",
	".go": "go", ".py": "python",
	".js": "script", ".mjs": "script", ".cjs": "script", ".jsx": "script", ".ts": "script", ".tsx": "script", ".mts": "script", ".cts": "script",
}

// nothingReported explains a recording in which nothing ran: first by what is known to have
// happened, then by the causes that the caller found likely, then by those that such a
// project can have.
func nothingReported(rec *recording.Recording, likely []string) *causes {
	var known, can []string
	if rec.Info.Exit != 0 {
		known = append(known, fmt.Sprintf("the command failed with exit status %d", rec.Info.Exit))
	}
	known = append(known, unwoven(rec.Info.Unmeasured)...)
	for _, w := range rec.Info.Command {
		if strings.HasPrefix(strings.TrimLeft(w, "-"), "overlay") {
			known = append(known, "the command has an -overlay of its own, which replaces the one of Thrush: put it into GOFLAGS instead")
		}
	}
	of := map[string]bool{}
	for i := range rec.Rows() {
		ending := path.Ext(rec.Row(i).Path)
		of[endings[ending]], of[ending] = true, true
	}
	for _, v := range []struct{ language, variable, program string }{
		{"go", "GOFLAGS", "go"}, {"python", "PYTHONPATH", "Python"}, {"script", "NODE_OPTIONS", "Node"},
	} {
		switch {
		case !of[v.language]:
		case strings.Contains(strings.Join(rec.Info.Command, " "), v.variable+"="):
			known = append(known, fmt.Sprintf("the command sets %[1]s itself and calls %[2]s by its full path: add $%[1]s to what it sets, or call %[2]s by its name", v.variable, v.program))
		default:
			can = append(can, fmt.Sprintf("it calls %[2]s by its full path with a %[1]s of its own (add $%[1]s there, or call %[2]s by its name)", v.variable, v.program))
		}
	}
	if of["python"] {
		can = append(can, "it starts Python with -I, -E or -S")
	}
	if of["compiled"] || of["go"] {
		can = append(can, "it ran programs that were built before, without Thrush: have the same command build them anew, or use thrush build")
	}
	if of[".ts"] || of[".tsx"] {
		can = append(can, "it runs what a tool made of TypeScript without a source map: have it write one (tsc --sourceMap), beside what it makes or in it")
	}
	known = append(known, likely...)
	known = append(known, "the command ran no code of this project that Thrush knows (was it the right one?), or found nothing to test")
	known = append(known, can...)
	return &causes{"nothing was measured. Likely causes:", append(known, "it ran in a container or on another machine, or with an emptied environment")}
}

// unwoven names what could not be measured at all, what matters most first.
func unwoven(list []recording.Unmeasured) (out []string) {
	files := 0
	first := recording.Unmeasured{}
	for _, u := range list {
		switch {
		case u.Path == launch.OldPython:
			out = append(out, u.Reason)
		case u.Reason == launch.InNativeImage:
			return append(out, u.Path+": "+u.Reason)
		default:
			if files++; files == 1 {
				first = u
			}
		}
	}
	switch {
	case files == 1:
		out = append(out, fmt.Sprintf("%s is unmeasured: %s", first.Path, first.Reason))
	case files > 1:
		out = append(out, fmt.Sprintf("%s unmeasured (thrush tally --unmeasured lists all), the first %s: %s", prose.Plural(files, "file or function is", "files or functions are"), first.Path, first.Reason))
	}
	return out
}
