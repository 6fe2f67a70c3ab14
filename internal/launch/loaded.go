package launch

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/project"
	runtimepython "thrush/internal/runtime/python"
	"thrush/internal/syntax/golang"
	"thrush/internal/syntax/python"
	"thrush/internal/weave"
	weavepython "thrush/internal/weave/python"
)

// isGo tells whether a file is one of Go, which is woven before the build sees it.
// Others are woven where interpreters load them.
func (c *cached) isGo() bool { return golang.IsSource(c.Path) }

// contentDigest is a digest of a source that interpreters can work out too.
func contentDigest(source []byte) string {
	sum := sha256.Sum256(source)
	return hex.EncodeToString(sum[:16])
}

// weaveLoaded gives what an interpreter needs to weave a file that it loads.
func (p *Prepared) weaveLoaded(c *cached, source []byte) (texts map[string][]byte, table *site.Table, err error) {
	if python.IsGenerated(source) {
		c.Kind = generated
		return nil, nil, nil
	}
	file, err := python.Read(source)
	if err != nil {
		return nil, nil, err
	}
	table = &site.Table{Path: c.Path, Language: "python", Unit: c.Unit, Digest: c.Digest}
	plan := weave.Place(file.Text, file.Flow, table, weave.Options{Level: p.Options.Level, Keep: p.Options.Keep})
	site.SetMarks(table, file.Text)
	c.Kind, c.Problems = woven, plan.Problems
	return map[string][]byte{"": weavepython.Spell(plan, file)}, table, nil
}

// frontPython puts the modules that weave in front of those that interpreters import,
// and tells them of the files.
func (p *Prepared) frontPython() error {
	var files []*cached
	for _, c := range p.files {
		if c.Kind == woven && python.IsSource(c.Path) {
			files = append(files, c)
		}
	}
	if len(files) == 0 {
		return nil
	}
	modules, built := runtimepython.Files()
	if _, ok := modules["counters-"+machine()+".so"]; !ok {
		why := "Thrush has no counters for Python on this kind of machine"
		if !built {
			why = "this Thrush was built without its counters for Python; build it with make"
		}
		for _, c := range files {
			p.leave(c, why)
		}
		return nil
	}
	dir, err := p.Project.MakeDir("standin", "python")
	if err != nil {
		return err
	}
	for name, text := range modules {
		if err := same(filepath.Join(dir, name), text); err != nil {
			return fmt.Errorf("cannot put modules in front of Python's: %w", err)
		}
	}
	roots := p.roots()
	fields := []string{"thrush python 1", p.Project.Dir("woven"), p.Project.Dir("pending"), strconv.Itoa(len(roots))}
	fields = append(fields, roots...)
	for _, c := range files {
		fields = append(fields, c.Path, strconv.FormatInt(c.Size, 10), strconv.FormatInt(c.Mod, 10), c.Unit, c.Content)
	}
	index := p.Project.Dir("woven", "python-"+p.key()+".index")
	if err := same(index, []byte(strings.Join(fields, "\x00"))); err != nil {
		return fmt.Errorf("cannot tell Python of the files: %w", err)
	}
	path := []string{dir}
	if own := os.Getenv("PYTHONPATH"); own != "" {
		path = append(path, own)
	}
	p.Env = append(p.Env, "PYTHONPATH="+listed(path), runtimepython.Variable+"="+index)
	return p.standForPythons(dir, index)
}

// pythons are programs, besides interpreters, that are scripts for them and that run
// tests or start what does.
var pythons = []string{"pytest", "py.test", "tox", "nox", "nose2", "green", "stestr", "trial", "behave", "robot", "ward", "django-admin", "flask", "ipython",
	"hatch", "poetry", "pdm", "pipenv", "invoke", "inv", "doit", "sphinx-build", "hypothesis", "twistd", "uvicorn", "gunicorn"}

// standForPythons puts scripts in front of Pythons that the command finds by their names:
// a command that sets PYTHONPATH anew would lose what Thrush put there.
func (p *Prepared) standForPythons(dir, index string) error {
	path, err := p.Project.MakeDir("standin", "pythons")
	if err != nil {
		return err
	}
	names := append([]string{"python", "python3"}, pythons...)
	for minor := 9; minor <= 14; minor++ {
		names = append(names, fmt.Sprintf("python3.%d", minor))
	}
	for _, name := range names {
		to := filepath.Join(path, name)
		real, err := exec.LookPath(name)
		if err != nil || real == to || !filepath.IsAbs(real) {
			_ = os.Remove(to)
			continue
		}
		text := fmt.Sprintf(`#!/bin/sh
# Written by thrush record: %[1]s, with what weaves in front of PYTHONPATH.
case ":$PYTHONPATH:" in
*:%[2]s:*) ;;
*) PYTHONPATH=%[2]s${PYTHONPATH:+:$PYTHONPATH} %[3]s=%[4]s && export PYTHONPATH %[3]s ;;
esac
exec %[5]s "$@"
`, name, quoted(dir), runtimepython.Variable, quoted(index), quoted(real))
		if err := same(to, []byte(text)); err != nil {
			return fmt.Errorf("cannot put a stand-in for %s in place: %w", name, err)
		}
		if err := os.Chmod(to, 0o777); err != nil {
			return err
		}
	}
	p.ahead = append(p.ahead, path)
	return nil
}

// quoted writes a word for a shell.
func quoted(s string) string { return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'" }

// listed writes folders as variables such as PATH have them.
func listed(folders []string) string { return strings.Join(folders, string(os.PathListSeparator)) }

// machine is what the kernel calls this kind of machine.
func machine() string {
	switch runtime.GOARCH {
	case "amd64":
		return "x86_64"
	case "arm64":
		return "aarch64"
	}
	return runtime.GOARCH
}

// same has a file hold a text, without touching it if it does already.
func same(path string, text []byte) error {
	if old, err := os.ReadFile(path); err == nil && string(old) == string(text) {
		return nil
	}
	return project.ReplaceCache(path, text)
}
