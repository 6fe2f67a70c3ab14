package main

import (
	"bytes"
	"compress/gzip"
	"debug/buildinfo"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime/debug"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/cobra/doc"

	"thrush/internal/cli"
)

// shared are the files that are the same for all kinds of machines.
func (r release) shared(program string) ([]file, error) {
	notice, err := licences(program)
	if err != nil {
		return nil, err
	}
	own, err := os.ReadFile("LICENSE")
	if err != nil {
		return nil, err
	}
	out := []file{
		{"LICENSE", "usr/share/doc/thrush/copyright", 0o644, own},
		{"NOTICE", "usr/share/doc/thrush/NOTICE", 0o644, notice},
	}
	for shell, to := range map[string][2]string{
		"bash": {"completions/thrush.bash", "usr/share/bash-completion/completions/thrush"},
		"zsh":  {"completions/_thrush", "usr/share/zsh/vendor-completions/_thrush"},
		"fish": {"completions/thrush.fish", "usr/share/fish/vendor_completions.d/thrush.fish"},
	} {
		text, err := exec.Command(program, "completion", shell).Output()
		if err != nil {
			return nil, fmt.Errorf("no completion for %s: %w", shell, err)
		}
		out = append(out, file{to[0], to[1], 0o644, text})
	}
	pages, err := r.manPages(cli.Root())
	return append(out, pages...), err
}

// manPages are one for each command.
func (r release) manPages(c *cobra.Command) (out []file, err error) {
	if c.Hidden {
		return nil, nil
	}
	c.DisableAutoGenTag = true
	var text bytes.Buffer
	if err := doc.GenMan(c, &doc.GenManHeader{Title: strings.ToUpper(strings.ReplaceAll(c.CommandPath(), " ", "-")), Section: "1", Date: &r.when, Source: "Thrush " + r.version, Manual: "Thrush"}, &text); err != nil {
		return nil, err
	}
	name := strings.ReplaceAll(c.CommandPath(), " ", "-") + ".1"
	var small bytes.Buffer
	w, err := gzip.NewWriterLevel(&small, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	if _, err := w.Write(text.Bytes()); err != nil {
		return nil, err
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	out = append(out, file{"man/" + name + ".gz", "usr/share/man/man1/" + name + ".gz", 0o644, small.Bytes()})
	for _, sub := range c.Commands() {
		more, err := r.manPages(sub)
		if err != nil {
			return nil, err
		}
		out = append(out, more...)
	}
	return out, nil
}

var isLicence = regexp.MustCompile(`(?i)^(licen[cs]e|copying|notice|patents)([.-].*)?$`)

// licences writes the licences of everything that is linked into the program.
func licences(program string) ([]byte, error) {
	info, err := buildinfo.ReadFile(program)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	out.WriteString("Thrush is one static program. These are the licences of what is linked into it.\n")
	put := func(what, dir string) error {
		entries, err := os.ReadDir(dir)
		if err != nil {
			return err
		}
		found := false
		for _, e := range entries {
			if e.IsDir() || !isLicence.MatchString(e.Name()) {
				continue
			}
			text, err := os.ReadFile(filepath.Join(dir, e.Name()))
			if err != nil {
				return err
			}
			found = true
			fmt.Fprintf(&out, "\n%[1]s\n%[2]s, %[3]s\n%[1]s\n\n%[4]s\n", strings.Repeat("=", 78), what, e.Name(), bytes.TrimSpace(text))
		}
		if !found {
			return fmt.Errorf("%s has no licence in %s", what, dir)
		}
		return nil
	}
	if err := put("Go, its standard library and its runtime", text("go", "env", "GOROOT")); err != nil {
		return nil, err
	}
	if err := put("Lexers of chroma, changed", filepath.Join("internal", "report", "highlight", "lexers")); err != nil {
		return nil, err
	}
	deps := info.Deps
	slices.SortFunc(deps, func(a, b *debug.Module) int { return strings.Compare(a.Path, b.Path) })
	for _, d := range deps {
		dir := text("go", "list", "-m", "-f", "{{.Dir}}", d.Path)
		if err := put(d.Path+" "+d.Version, dir); err != nil {
			return nil, err
		}
	}
	lgpl, err := os.ReadFile("/usr/share/common-licenses/LGPL-2.1")
	if err != nil {
		return nil, fmt.Errorf("the licence of the C library is not here: %w", err)
	}
	fmt.Fprintf(&out, "\n%[1]s\nThe GNU C library, which may be replaced: build Thrush from its source with another one\n%[1]s\n\n%[2]s\n", strings.Repeat("=", 78), bytes.TrimSpace(lgpl))
	return out.Bytes(), nil
}
