package vcs

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/changed"
)

type repo struct {
	*testing.T
	dir string
}

func newRepo(t *testing.T) repo {
	if _, err := exec.LookPath("git"); err != nil {
		t.Skip("git is not installed")
	}
	t.Setenv("GIT_CONFIG_GLOBAL", os.DevNull)
	t.Setenv("GIT_CONFIG_NOSYSTEM", "1")
	r := repo{t, t.TempDir()}
	r.git("init", "-q", "-b", "main")
	return r
}

func (r repo) git(args ...string) string {
	cmd := exec.Command("git", append([]string{"-c", "user.name=crew", "-c", "user.email=crew@skerry.example"}, args...)...)
	cmd.Dir = r.dir
	out, err := cmd.CombinedOutput()
	require.NoError(r, err, "git %s: %s", args, out)
	return string(out)
}

func (r repo) write(name, text string) {
	path := filepath.Join(r.dir, filepath.FromSlash(name))
	require.NoError(r, os.MkdirAll(filepath.Dir(path), 0o777))
	require.NoError(r, os.WriteFile(path, []byte(text), 0o666))
}

func (r repo) commit() {
	r.git("add", "-A")
	r.git("commit", "-q", "--allow-empty", "-m", "as it is")
}

func (r repo) changed(root, base string) changed.Set {
	o, err := Open(filepath.Join(r.dir, root))
	require.NoError(r, err)
	id, err := o.Base(base)
	require.NoError(r, err)
	set, err := o.ChangedSince(id, r.TempDir())
	require.NoError(r, err)
	return set
}

// The lines are those that git itself shows, for whatever was done to files since.
func TestChangedLinesAreThoseThatGitShows(t *testing.T) {
	r := newRepo(t)
	rng := rand.New(rand.NewPCG(7, 11))
	line := func() string {
		return []string{"", "}", "\treturn fare", "\tif night {", fmt.Sprintf("\tfare += %d", rng.IntN(40))}[rng.IntN(5)] + "\n"
	}
	texts := map[string][]string{}
	put := func(name string) { r.write(name, strings.Join(texts[name], "")) }
	for n := range 40 {
		name := fmt.Sprintf("deck%d/fare%d.go", n%7, n)
		for range 5 + rng.IntN(120) {
			texts[name] = append(texts[name], line())
		}
		put(name)
	}
	r.commit()
	edit := func(chance float64) {
		for name, lines := range texts {
			if rng.Float64() > chance {
				continue
			}
			for range 1 + rng.IntN(12) {
				at := rng.IntN(len(lines) + 1)
				switch {
				case rng.IntN(3) > 0 || at+3 > len(lines):
					lines = append(lines[:at:at], append([]string{line(), line()}, lines[at:]...)...)
				default:
					lines = append(lines[:at:at], lines[at+3:]...)
				}
			}
			texts[name] = lines
			put(name)
		}
	}
	edit(0.5)
	r.commit()
	r.git("mv", "deck1", "deck one")
	edit(0.2) // some of these write the old name anew
	r.git("add", "deck2")
	edit(0.3)
	require.NoError(t, os.WriteFile(filepath.Join(r.dir, "deck3/fare3.go"), []byte(strings.ReplaceAll(strings.Join(texts["deck3/fare3.go"], "")+"added\n", "\n", "\r\n")), 0o666))
	r.write("new\n\"name\".go", "a\nb\n")

	set := r.changed("", "main~1")
	want, err := ParseDiff(strings.NewReader(r.git("diff", "--unified=0", "--find-renames", "--ignore-cr-at-eol", "main~1")))
	require.NoError(t, err)
	seen := 0
	for name, lines := range want {
		if len(lines.Within(1<<20)) == 0 && set[name] == nil {
			continue
		}
		seen += len(lines.Within(1 << 20))
		assert.Equal(t, lines.Within(1<<20), set[name].Within(1<<20), name)
	}
	require.Greater(t, seen, 300)
	for name, lines := range set {
		if want[name] == nil {
			assert.Equal(t, 1<<10, len(lines.Within(1<<10)), "%q is untracked", name)
		}
	}
	require.Contains(t, set, "new\n\"name\".go")
}

// What a change brings along, and what anybody set, hides no line.
func TestNothingHidesAChangedLine(t *testing.T) {
	const before, after = "package fare\n\nfunc A() {}\n", "package fare\n\nfunc A() {}\n\nfunc B() {}\n"
	for name, do := range map[string]func(r repo){
		"nothing":           func(r repo) {},
		"no diff":           func(r repo) { r.write(".gitattributes", "*.go -diff\n") },
		"binary":            func(r repo) { r.write("fare/.gitattributes", "* binary\n") },
		"attributes at top": func(r repo) { r.write(".gitattributes", "fare/** -text -diff linguist-generated\n") },
		"driver": func(r repo) {
			r.write(".gitattributes", "*.go diff=mine\n")
			r.git("config", "diff.mine.command", "true")
			r.git("config", "diff.mine.textconv", "true")
			r.git("config", "diff.mine.binary", "true")
		},
		"filter": func(r repo) {
			r.write(".gitattributes", "*.go filter=mine\n")
			r.git("config", "filter.mine.clean", "git show main:fare/fare.go")
		},
		"relative": func(r repo) { r.git("config", "diff.relative", "true") },
		"renames":  func(r repo) { r.git("config", "diff.renames", "copies"); r.git("config", "diff.renameLimit", "1") },
		"prefixes": func(r repo) {
			r.git("config", "diff.noprefix", "true")
			r.git("config", "diff.mnemonicPrefix", "true")
		},
		"order":      func(r repo) { r.git("config", "diff.orderFile", filepath.Join(r.dir, "readme")) },
		"external":   func(r repo) { r.git("config", "diff.external", "true"); r.Setenv("GIT_EXTERNAL_DIFF", "true") },
		"context":    func(r repo) { r.git("config", "diff.context", "9"); r.Setenv("GIT_DIFF_OPTS", "--unified=9") },
		"colour":     func(r repo) { r.git("config", "color.ui", "always"); r.git("config", "diff.colorMoved", "zebra") },
		"submodules": func(r repo) { r.git("config", "diff.ignoreSubmodules", "all") },
		"stat":       func(r repo) { r.git("config", "core.checkStat", "minimal"); r.git("config", "core.ignoreStat", "true") },
		"monitor":    func(r repo) { r.git("config", "core.fsmonitor", "true") },
		"ends": func(r repo) {
			r.git("config", "core.autocrlf", "true")
			r.write(".gitattributes", "*.go text eol=crlf\n")
		},
		"encoding":     func(r repo) { r.write(".gitattributes", "*.go working-tree-encoding=UTF-7\n") },
		"other folder": func(r repo) { r.Setenv("GIT_DIR", "/nowhere"); r.Setenv("GIT_WORK_TREE", "/nowhere") },
		"other index":  func(r repo) { r.Setenv("GIT_INDEX_FILE", "/nowhere") },
		"objects":      func(r repo) { r.Setenv("GIT_OBJECT_DIRECTORY", "/nowhere"); r.Setenv("GIT_NAMESPACE", "x") },
		"pathspecs":    func(r repo) { r.Setenv("GIT_ICASE_PATHSPECS", "1"); r.Setenv("GIT_NOGLOB_PATHSPECS", "1") },
		"replaced": func(r repo) {
			other := strings.TrimSpace(r.git("hash-object", "-w", "fare/fare.go"))
			r.git("replace", strings.TrimSpace(r.git("rev-parse", "main:fare/fare.go")), other)
		},
		"bare repository": func(r repo) {
			r.git("init", "-q", "--bare", "fare")
			r.git("--git-dir=fare", "config", "core.fsmonitor", "touch ../ran; false")
		},
	} {
		t.Run(name, func(t *testing.T) {
			r := newRepo(t)
			r.write("fare/fare.go", before)
			r.write("readme", "a")
			r.commit()
			r.git("checkout", "-q", "-b", "change")
			r.write("fare/fare.go", after)
			do(r)
			check := func() {
				t.Helper()
				assert.Equal(t, []int{4, 5}, r.changed("", "main")["fare/fare.go"].Within(99))
				assert.Equal(t, []int{4, 5}, r.changed("fare", "main")["fare.go"].Within(99))
				assert.NoFileExists(t, filepath.Join(r.dir, "ran"))
			}
			check()
			if !strings.HasPrefix(name, "other") && name != "objects" && name != "filter" && name != "bare repository" {
				r.commit()
				check()
			}
		})
	}
}

// A comment that a tool of old would fill in, and that the attribute ident has git pass over
// where it compares with the disk.
func TestWhatStandsInAnIdentIsALine(t *testing.T) {
	r := newRepo(t)
	r.write("fare.go", "package fare\n\nfunc A() { /* $Id$ */ }\n")
	r.write(".gitattributes", "*.go ident\n")
	r.commit()
	r.git("checkout", "-q", "-b", "change")
	r.write("fare.go", "package fare\n\nfunc A() { /* $Id: */ B() /* $ */ }\n")
	assert.Equal(t, []int{3}, r.changed("", "main")["fare.go"].Within(99))
}

// Whoever may push a tag does not choose what a branch of the same name means.
func TestReferencesThatMeanTwoCommitsAreRefused(t *testing.T) {
	r := newRepo(t)
	r.commit()
	r.write("fare.go", "package fare\n")
	r.commit()
	r.git("tag", "main", "main~1")
	o, err := Open(r.dir)
	require.NoError(t, err)
	_, err = o.Base("main")
	require.ErrorContains(t, err, `"main" means different commits: refs/heads/main and refs/tags/main`)
	_, err = o.Base("refs/heads/main")
	require.NoError(t, err)
	r.git("tag", "-f", "-a", "-m", "now", "main", "refs/heads/main")
	_, err = o.Base("main")
	require.NoError(t, err, "both are the same")
	for _, bad := range []string{"--output=x", "nowhere", "main:fare.go", ""} {
		_, err = o.Base(bad)
		require.Error(t, err, bad)
	}
}

func TestSubmodulesAndLinksAreNotPassedOver(t *testing.T) {
	r := newRepo(t)
	r.write("fare.go", "package fare\n")
	r.write("hidden/fare.txt", "package fare\n")
	r.commit()
	r.git("checkout", "-q", "-b", "change")
	require.NoError(t, os.Remove(filepath.Join(r.dir, "fare.go")))
	require.NoError(t, os.Symlink("hidden/fare.txt", filepath.Join(r.dir, "fare.go")))
	r.git("update-index", "--add", "--cacheinfo", "160000,"+strings.TrimSpace(r.git("rev-parse", "HEAD"))+",harbour")
	set := r.changed("", "main")
	assert.Equal(t, []int{1, 2}, set["fare.go"].Within(2))
	assert.Contains(t, set["harbour"].Why, "submodule")
}

// A filter that the user has, and that a change puts to its files, neither runs nor decides.
func TestFiltersAreOff(t *testing.T) {
	r := newRepo(t)
	r.write("fare.go", "package fare\n")
	r.write("deck.bin", "deck")
	r.commit()
	r.git("config", "filter.mine.clean", "touch ran; git show main:fare.go")
	r.git("config", "filter.mine.required", "true")
	r.git("config", "filter.yours.too.process", "touch ran")
	r.write(".git/info/attributes", "*.go filter=mine\n*.bin filter=yours.too\n")
	source := func(path string) bool { return strings.HasSuffix(path, ".go") }
	o, err := Open(r.dir)
	require.NoError(t, err)
	r.write("deck.bin", "as the filter would have it")
	_, dirty := o.Commit(source)
	assert.False(t, dirty, "what a filter makes of a file is no change")
	r.write("fare.go", "package fare\n\nfunc A() {}\n")
	_, dirty = o.Commit(source)
	assert.True(t, dirty)
	assert.Equal(t, []int{2, 3}, r.changed("", "main")["fare.go"].Within(9))
	assert.NoFileExists(t, filepath.Join(r.dir, "ran"))
}
