package vcs

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
)

// pinned are settings that hold for each call, whatever configuration says. They keep git
// from running other programs, from taking a folder that a commit brought along for a
// repository, and from passing over what changed. A git that does not know one yet passes
// over it.
var pinned = []string{
	"safe.bareRepository=explicit",
	"core.fsmonitor=false",
	"core.hooksPath=" + os.DevNull,
	"core.untrackedCache=false",
	"core.ignoreStat=false",
	"core.checkStat=default",
	"core.quotePath=true",
	"core.pager=cat",
	"color.ui=false",
	"log.showSignature=false",
	"diff.external=",
	"submodule.recurse=false",
}

// passed are the variables about git that calls see: where its configuration lies, which
// says whom the user trusts, and how to reach what a partial clone has not fetched. All
// others point at other repositories, indexes and objects, or change what git says; a
// command that a hook of git started has many of them.
var passed = []string{"GIT_CONFIG", "GIT_SSH", "GIT_ASKPASS", "GIT_EXEC_PATH", "GIT_DISCOVERY_ACROSS_FILESYSTEM"}

// environment is that of each call.
func (r *Repo) environment() []string {
	kept := func(e string) bool {
		return !strings.HasPrefix(e, "GIT_") || slices.ContainsFunc(passed, func(p string) bool { return strings.HasPrefix(e, p) })
	}
	return append(slices.DeleteFunc(os.Environ(), func(e string) bool { return !kept(e) }),
		"GIT_WORK_TREE="+r.Top,
		"GIT_CEILING_DIRECTORIES="+filepath.Dir(r.Top),
		"GIT_LITERAL_PATHSPECS=1",
		"GIT_NO_REPLACE_OBJECTS=1",
		"GIT_OPTIONAL_LOCKS=0",
		"GIT_TERMINAL_PROMPT=0",
		"LC_ALL=C",
	)
}

var errMissing = errors.New("git is not installed")

// verb is what is asked of git, behind its settings.
func verb(args []string) string {
	for len(args) > 2 && args[0] == "-c" {
		args = args[2:]
	}
	return args[0]
}

// git calls git at the top of the work tree and gives what it says.
func (r *Repo) git(args ...string) (string, error) { return r.call(nil, nil, args...) }

// call is the one place where git is called, with something to read and with variables
// besides its own.
func (r *Repo) call(stdin io.Reader, env []string, args ...string) (string, error) {
	var all []string
	for _, p := range pinned {
		all = append(all, "-c", p)
	}
	cmd := exec.Command("git", append(all, args...)...)
	cmd.Dir, cmd.Env, cmd.Stdin = r.Top, append(r.environment(), env...), stdin
	var out, failed bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &failed
	err := cmd.Run()
	if errors.Is(err, exec.ErrNotFound) {
		return "", errMissing
	}
	if err != nil {
		if line, _, _ := strings.Cut(strings.TrimSpace(failed.String()), "\n"); line != "" {
			return "", fmt.Errorf("git %s: %s", verb(args), strings.TrimPrefix(line, "fatal: "))
		}
		return "", fmt.Errorf("git %s: %w", verb(args), err)
	}
	return out.String(), nil
}

// plainly calls git where it compares files with what it has of them, without the filters that
// configuration defines: attributes, which a change can bring along, say which one is put to a
// file, so that its program would run on what a stranger wrote and decide what of it is seen.
func (r *Repo) plainly(args ...string) (string, error) {
	if r.filters == nil {
		r.filters = []string{}
		// It fails where there is no filter.
		names, _ := r.git("config", "--null", "--name-only", "--get-regexp", `^filter\..*\.(clean|smudge|process|required)$`)
		for _, name := range list(names) {
			value := ""
			if strings.HasSuffix(name, ".required") {
				value = "false"
			}
			if !strings.Contains(name, "=") { // of one that has it, git would take the rest for the value
				r.filters = append(r.filters, "-c", name+"="+value)
			}
		}
	}
	return r.git(append(slices.Clone(r.filters), args...)...)
}

// list takes apart what git says with -z.
func list(out string) []string {
	out = strings.TrimSuffix(out, "\x00")
	if out == "" {
		return nil
	}
	return strings.Split(out, "\x00")
}
