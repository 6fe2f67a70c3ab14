package launch

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// A variable of the environment has an interpreter or a tool load what weaves. A command may
// set the same variable itself, and what Thrush put there is lost. So programs that the
// command finds by their names have a small script in front of them, first in PATH, which
// looks at what is in the variable by then, and adds what is missing.

// front is such a script's work: what is to be in which variable.
type front struct {
	variable string
	has      string // a stretch of text that tells that it is there
	// set is shell text that puts it there; the variable's value until then is in it.
	set string
	// with are further variables that go with it, each with its value.
	with [][2]string
}

// unlistable is why nothing of the project's can be named in a variable that lists folders,
// or empty.
func (p *Prepared) unlistable() string {
	if strings.ContainsRune(p.Project.Dir(""), os.PathListSeparator) {
		return fmt.Sprintf("the project's path has a %q in it, which ends a folder in PATH and the like, so Thrush cannot put anything in front of its tools; move the project to a path without", os.PathListSeparator)
	}
	return ""
}

// standFor puts scripts in front of programs by their names. Those that are not in PATH have
// none.
func (p *Prepared) standFor(folder string, names []string, f front) error {
	if p.unlistable() != "" {
		return nil
	}
	stand, err := p.Project.Folder("standin", folder)
	if err != nil {
		return err
	}
	also := ""
	for _, w := range f.with {
		also += fmt.Sprintf(" %s=%s", w[0], quoted(w[1]))
	}
	export := f.variable
	for _, w := range f.with {
		export += " " + w[0]
	}
	for _, name := range names {
		real := lookPathBeyond(stand.Path(), name)
		if real == "" {
			_ = stand.Remove(name)
			continue
		}
		text := fmt.Sprintf(`#!/bin/sh
# Written by thrush record: %[1]s, with what weaves in %[2]s.
case "$%[2]s" in
*%[3]s*) ;;
*) %[2]s=%[4]s%[5]s && export %[6]s ;;
esac
exec %[7]s "$@"
`, name, f.variable, quoted(f.has), f.set, also, export, quoted(real))
		if err := same(stand, name, []byte(text)); err != nil {
			return fmt.Errorf("cannot put a stand-in for %s in place: %w", name, err)
		}
		if err := stand.Root().Chmod(name, 0o777); err != nil {
			return err
		}
	}
	p.ahead = append(p.ahead, stand.Path())
	return nil
}

// standForPythons puts scripts in front of Pythons and of what they run tests with.
func (p *Prepared) standForPythons(dir string, with ...[2]string) error {
	names := append([]string{"python", "python3"}, pythons...)
	for minor := 9; minor <= 14; minor++ {
		names = append(names, fmt.Sprintf("python3.%d", minor))
	}
	return p.standFor("pythons", names, front{
		variable: "PYTHONPATH", has: dir, set: quoted(dir) + "${PYTHONPATH:+:$PYTHONPATH}", with: with,
	})
}

// pythons are programs, besides interpreters, that are scripts for them and that run
// tests or start what does.
var pythons = []string{"pytest", "py.test", "tox", "nox", "nose2", "green", "stestr", "trial", "behave", "robot", "ward", "django-admin", "flask", "ipython",
	"hatch", "poetry", "pdm", "pipenv", "invoke", "inv", "doit", "sphinx-build", "hypothesis", "twistd", "uvicorn", "gunicorn"}

// standForNode puts a script in front of Node. What package managers put into PATH are
// scripts that ask for it by its name.
func (p *Prepared) standForNode(preload, option string, with ...[2]string) error {
	return p.standFor("node", []string{"node", "nodejs"}, front{
		variable: "NODE_OPTIONS", has: preload, set: quoted(option) + `"${NODE_OPTIONS:+ $NODE_OPTIONS}"`, with: with,
	})
}

// standForGo puts a script in front of the go command. A variable that is empty stands for
// what the file of go env -w says; one with an overlay of its own is left alone.
func (p *Prepared) standForGo(overlay string, before goFlags) error {
	return p.standFor("go", []string{"go"}, front{
		variable: "GOFLAGS", has: "-overlay=",
		set: `"${GOFLAGS:-"` + quoted(before.listed()) + `"} "` + quoted(goFlags{}.with(overlay)),
	})
}

// lookPathBeyond finds a program in PATH, but not in one of its folders: a command that
// records may itself be recorded.
func lookPathBeyond(folder, name string) string {
	for _, dir := range filepath.SplitList(os.Getenv("PATH")) {
		if dir == folder || !filepath.IsAbs(dir) {
			continue
		}
		if real, err := exec.LookPath(filepath.Join(dir, name)); err == nil {
			return real
		}
	}
	return ""
}

// quoted writes a word for a shell.
func quoted(s string) string { return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'" }
