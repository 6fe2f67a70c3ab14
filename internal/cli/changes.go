package cli

import (
	"fmt"
	"io"
	"os"

	"thrush/internal/core/changed"
	"thrush/internal/exit"
	"thrush/internal/project"
	"thrush/internal/vcs"
)

// changing are the flags that say what changed.
type changing struct{ since, diff string }

func (f changing) known() bool { return f.since != "" || f.diff != "" }

func (f changing) check() error {
	if f.since != "" && f.diff != "" {
		return exit.Usagef("--since and --diff both say what changed; give one of them")
	}
	return nil
}

// changed finds the changed lines, if it is said what changed.
func (a *app) changed(p *project.Project, f changing) (changed.Set, error) {
	if !f.known() {
		return nil, nil
	}
	if f.diff != "" {
		return a.readDiff(p, f.diff)
	}
	set, base, err := changedSince(p, f.since)
	if err == nil {
		a.say("changed since %s, at %s", f.since, base[:min(12, len(base))])
	}
	return set, err
}

func changedSince(p *project.Project, ref string) (set changed.Set, base string, err error) {
	repo, err := vcs.Open(p.Root)
	if err != nil {
		return nil, "", exit.With(exit.Usage, err)
	}
	if base, err = repo.Base(ref); err != nil {
		return nil, "", exit.With(exit.Usage, err)
	}
	scratch, err := p.Folder("scratch")
	if err != nil {
		return nil, "", err
	}
	if set, err = repo.ChangedSince(base, scratch.Path()); err != nil {
		return nil, "", exit.With(exit.Usage, err)
	}
	return set, base, nil
}

// readDiff reads a diff whose paths are from the top of the work tree, or from
// the project's root where there is none.
func (a *app) readDiff(p *project.Project, name string) (changed.Set, error) {
	var from io.Reader = os.Stdin
	if name != "-" {
		f, err := os.Open(a.path(name))
		if err != nil {
			return nil, exit.Usagef("the diff %s cannot be read: %w", name, err)
		}
		defer f.Close()
		from = f
	}
	set, err := vcs.ReadDiff(p.Root, from, isSource)
	if err != nil {
		return nil, exit.With(exit.Usage, fmt.Errorf("%s: %w", name, err))
	}
	return set, nil
}
