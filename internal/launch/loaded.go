package launch

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"

	"thrush/internal/bounded"
	"thrush/internal/home"
	"thrush/internal/lang/python"
	"thrush/internal/lang/script"
)

// OldPython is in the place of a path where what is unmeasured is all that an older
// interpreter ran.
const OldPython = "(Python)"

// contentDigest is a digest of a source that interpreters can work out too.
func contentDigest(source []byte) string {
	sum := sha256.Sum256(source)
	return hex.EncodeToString(sum[:16])
}

// loaded gives the files of a language that interpreters load, with what is put in front
// of these by a name ending as it does. Where there is nothing, the files are left.
func (p *Prepared) loaded(is func(string) bool, language, ending string, from func() (map[string][]byte, bool)) (files []*cached, dir *home.Folder, err error) {
	for _, c := range p.files {
		if c.Kind == woven && is(c.Path) {
			files = append(files, c)
		}
	}
	if len(files) == 0 {
		return nil, nil, nil
	}
	modules, built := from()
	if _, ok := modules["counters-"+machine()+ending]; !ok {
		why := "Thrush has no counters for " + language + " on this kind of machine"
		if !built {
			why = "this Thrush was built without its counters for " + language + "; build it with make"
		}
		for _, c := range files {
			p.leave(c, why)
		}
		return nil, nil, nil
	}
	dir, err = p.Project.Folder("standin", strings.ToLower(language))
	if err != nil {
		return nil, nil, err
	}
	for name, text := range modules {
		if err := same(dir, name, text); err != nil {
			return nil, nil, fmt.Errorf("cannot put anything in front of %s: %w", language, err)
		}
	}
	return files, dir, nil
}

// index writes the list of files for those that load them, and gives its path.
func (p *Prepared) index(name string, files []*cached, roots []string, first ...string) (string, error) {
	fields := append([]string{"thrush " + name + " 1", p.woven.Path(), p.Project.Dir("pending")}, first...)
	fields = append(append(fields, strconv.Itoa(len(roots))), roots...)
	for _, c := range files {
		fields = append(fields, c.Path, strconv.FormatInt(c.Size, 10), strconv.FormatInt(c.Mod, 10), c.Unit, c.Content)
	}
	key := p.key()
	if p.copy != nil {
		key += "-copy"
	}
	to := name + "-" + key + ".index"
	if err := same(p.woven, to, []byte(strings.Join(fields, "\x00"))); err != nil {
		return "", fmt.Errorf("cannot write the list of files: %w", err)
	}
	return p.woven.Path(to), nil
}

// frontScript has Node load what puts woven text in front of those that load sources.
func (p *Prepared) frontScript() error {
	files, dir, err := p.loaded(script.IsSource, "JavaScript", ".node", script.Files)
	if len(files) == 0 {
		return err
	}
	modules, kinds := "", map[string]bool{}
	for _, c := range files {
		if c.Module || path.Ext(c.Path) == ".js" && p.ofModules(path.Dir(c.Path), kinds) {
			modules = "modules"
		}
	}
	self, err := os.Executable()
	if err != nil {
		return err
	}
	index, err := p.index("script", files, p.roots(), modules, self, p.key(), p.Options.Level.String(), p.Options.Keep.String())
	if err != nil {
		return err
	}
	preload := dir.Path("preload.cjs")
	require := "--require=" + inQuotes(preload)
	options := require
	if own := os.Getenv("NODE_OPTIONS"); own != "" {
		options += " " + own
	}
	// What a compiler keeps of files by their times alone must not be woven.
	p.Env = append(p.Env, "NODE_OPTIONS="+options, script.Variable+"="+index, "BABEL_DISABLE_CACHE=1")
	return p.standForNode(inQuotes(preload), require, [2]string{script.Variable, index})
}

// inQuotes writes a word as NODE_OPTIONS has words with blanks.
func inQuotes(s string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(s) + `"`
}

// frontPython puts the modules that weave in front of those that interpreters import,
// and tells them of the files.
func (p *Prepared) frontPython() error {
	files, dir, err := p.loaded(python.IsSource, "Python", ".so", python.Files)
	if len(files) == 0 {
		return err
	}
	if why := p.unlistable(); why != "" {
		p.Obstacle = why
		for _, c := range files {
			p.leave(c, why)
		}
		return nil
	}
	index, err := p.index("python", files, p.everywhere())
	if err != nil {
		return err
	}
	folders := []string{dir.Path()}
	if own := os.Getenv("PYTHONPATH"); own != "" {
		folders = append(folders, own)
	}
	p.Env = append(p.Env, "PYTHONPATH="+listed(folders), python.Variable+"="+index)
	return p.standForPythons(dir.Path(), [2]string{python.Variable, index})
}

// ofModules tells whether the manifest that is nearest to a folder says that its files are
// ES modules. What is found is kept in known.
func (p *Prepared) ofModules(dir string, known map[string]bool) bool {
	if is, ok := known[dir]; ok {
		return is
	}
	var manifest struct{ Type string }
	text, err := bounded.Read(filepath.Join(p.Project.Root, filepath.FromSlash(dir), "package.json"), bounded.Setting)
	switch {
	case err == nil:
		known[dir] = json.Unmarshal(text, &manifest) == nil && manifest.Type == "module"
	case dir == ".":
		known[dir] = false
	default:
		known[dir] = p.ofModules(path.Dir(dir), known)
	}
	return known[dir]
}

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
func same(dir *home.Folder, name string, text []byte) error {
	if old, err := dir.Read(name); err == nil && string(old) == string(text) {
		return nil
	}
	return dir.Replace(name, text)
}
