package launch

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"thrush/internal/lang/golang"
)

// withC are the folders whose sources of C the go command builds: a Go file there imports
// them. Of a file that was not read, nobody knows.
func (p *Prepared) withC() map[string]bool {
	out := map[string]bool{}
	for _, c := range p.files {
		if c.isGo() && (c.Kind == woven && c.Named || c.Kind == generated || c.Kind == unmeasured) {
			out[path.Dir(c.Path)] = true
		}
	}
	return out
}

// besides is the path of a file that the build is to see next to another, in
// its place in the order of names and for the same systems.
func besides(path string) string { return strings.TrimSuffix(path, ".go") + ".0race.go" }

// spareEmbedded leaves files as they are whose text goes into a program: that
// must not be the woven one.
func (p *Prepared) spareEmbedded() {
	var by []*cached
	for _, c := range p.files {
		if len(c.Embeds) > 0 {
			by = append(by, c)
		}
	}
	for _, c := range p.files {
		for _, e := range by {
			if c.Kind == woven && c.isGo() && slices.ContainsFunc(e.Embeds, func(pattern string) bool { return golang.Matches(e.Path, pattern, c.Path) }) {
				p.leave(c, "its text goes into the program: "+e.Path+" embeds it")
			}
		}
	}
}

// spareHidden leaves the files of a folder as they are if one of them gives a
// word of the language another meaning that weaving relies on.
func (p *Prepared) spareHidden() {
	by := map[string]*cached{}
	for _, c := range p.files {
		if c.Hides != "" {
			by[path.Dir(c.Path)] = c
		}
	}
	for _, c := range p.files {
		if h := by[path.Dir(c.Path)]; h != nil && c.Kind == woven && c.isGo() {
			p.leave(c, "its package has a "+h.Hides+" of its own ("+h.Path+"), and probes rely on Go's")
		}
	}
}

// frontGo writes the overlay and sets the variables that put it in front of the
// build.
func (p *Prepared) frontGo(flags goFlags) error {
	replace := map[string]string{}
	own, err := flags.overlay()
	if err != nil {
		return err
	}
	for from, to := range own {
		replace[from] = to
	}
	for _, c := range p.files {
		if c.Kind != woven || !c.isGo() {
			continue
		}
		for _, root := range p.everywhere() {
			from := filepath.Join(root, filepath.FromSlash(c.Path))
			if _, taken := own[from]; taken {
				p.leave(c, "the overlay named in GOFLAGS replaces it")
				break
			}
			replace[from] = p.wovenPath(c)
			if c.Split {
				replace[besides(from)] = p.wovenPath(c) + golang.RaceSuffix
			}
		}
	}
	text, err := json.MarshalIndent(map[string]any{"Replace": replace}, "", " ")
	if err != nil {
		return err
	}
	sum := sha256.Sum256(text)
	name := "overlay-" + hex.EncodeToString(sum[:])[:16] + ".json"
	if !p.woven.Has(name) {
		if err := p.woven.Write(name, text); err != nil {
			return fmt.Errorf("cannot write the overlay: %w", err)
		}
	}
	p.Env = append(p.Env, "GOFLAGS="+flags.with(p.woven.Path(name)))
	if !slices.ContainsFunc(p.files, (*cached).isGo) {
		return nil
	}
	return p.standForGo(p.woven.Path(name), flags)
}
