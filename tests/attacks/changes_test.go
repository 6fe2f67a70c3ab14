//go:build attacks

package attacks

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What hides changed lines from git's own diff hides none from a gate: the change is not tested,
// and the gate is not met.
func TestChangesAreNotHidden(t *testing.T) {
	for name, hide := range map[string]func(y *yard){
		"nothing":          func(y *yard) {},
		"no diff":          func(y *yard) { y.write("ferry/.gitattributes", "*.py -diff\n") },
		"binary":           func(y *yard) { y.write("ferry/.gitattributes", "* binary\n") },
		"a NUL byte":       func(y *yard) { y.write("ferry/refund.js", "function refund(paid) {\n\treturn paid / 2 // \x00\n}\n") },
		"relative":         func(y *yard) { y.git("config", "diff.relative", "true") },
		"no prefixes":      func(y *yard) { y.git("config", "diff.noprefix", "true") },
		"an external diff": func(y *yard) { y.git("config", "diff.external", "touch $CANARY") },
		"a monitor":        func(y *yard) { y.git("config", "core.fsmonitor", "touch $CANARY; false") },
		"a filter": func(y *yard) {
			y.write("ferry/.gitattributes", "* filter=x\n")
			y.git("config", "filter.x.clean", "touch $CANARY; git show main:fare.py")
			y.git("config", "filter.x.process", "touch $CANARY")
		},
		"hooks": func(y *yard) { y.git("config", "core.hooksPath", "hooks") },
		"a text of conversion": func(y *yard) {
			y.write("ferry/.gitattributes", "*.py diff=x\n")
			y.git("config", "diff.x.textconv", "touch $CANARY;true")
		},
		"an ident": func(y *yard) {
			y.write("ferry/.gitattributes", "*.py ident\n")
			y.write("ferry/fare.py", after+"# $Id: $\n")
		},
		"an encoding": func(y *yard) { y.write("ferry/.gitattributes", "*.py working-tree-encoding=UTF-7\n") },
		"its variables": func(y *yard) {
			y.env = append(y.env, "GIT_DIR=/nowhere", "GIT_WORK_TREE=/nowhere", "GIT_INDEX_FILE=/nowhere", "GIT_EXTERNAL_DIFF=touch $CANARY", "GIT_PAGER=touch $CANARY", "GIT_TRACE="+y.dir+"/"+canary)
		},
	} {
		for _, below := range []bool{false, true} {
			where := name
			if below {
				where += ", below the top"
			}
			t.Run(where, func(t *testing.T) {
				y := newYard(t)
				y.write("ferry/fare.py", after)
				hide(y)
				if below { // the project is a folder of its repository
					require.NoError(t, os.Mkdir(filepath.Join(y.dir, "harbour"), 0o777))
					require.NoError(t, os.Rename(y.project, filepath.Join(y.dir, "harbour/ferry")))
					require.NoError(t, os.Rename(filepath.Join(y.dir, "harbour/ferry/.git"), filepath.Join(y.dir, "harbour/.git")))
					y.project = filepath.Join(y.dir, "harbour")
					y.git("add", "-A")
					y.git("commit", "-q", "-m", "moved")
					y.git("branch", "-f", "main", "HEAD")
					y.project = filepath.Join(y.dir, "harbour/ferry")
					y.write("harbour/ferry/fare.py", strings.Replace(after, "paid / 2", "paid / 4", 1))
				}
				require.Equal(t, 0, y.record().status)
				r := y.judge()
				assert.Equal(t, 1, r.status, r.all())
				assert.Regexp(t, `fare.py:(7-)?8`, r.out)
				if strings.Contains(name, "NUL") && !below {
					assert.Contains(t, r.out, "unmeasured: refund.js")
				}
				assert.NoFileExists(t, filepath.Join(y.dir, canary))
				if !below {
					y.hold(func() { y.everything() })
				}
			})
		}
	}
}

// A diff that says nothing of lines of measured files, or names them otherwise, is refused.
func TestDiffsThatTellNothing(t *testing.T) {
	y := newYard(t)
	y.write("ferry/fare.py", after)
	y.commit()
	require.Equal(t, 0, y.record().status)
	good := y.git("diff", "main") + "\n"
	y.write("good.diff", good)
	assert.Equal(t, 1, y.thrush("gate", "--diff", "../good.diff").status)
	y.git("config", "diff.noprefix", "true")
	bare := y.git("diff", "main") + "\n"
	y.git("config", "--unset", "diff.noprefix")
	y.write("ferry/.gitattributes", "*.py -diff\n")
	hunk := good[strings.Index(good, "@@"):]
	for name, text := range map[string]string{
		"binary":                 y.git("diff", "main", "--", "fare.py") + "\n",
		"binary, with its bytes": y.git("diff", "--binary", "main", "--", "fare.py") + "\n",
		"binary, of diff -u":     "diff -ru a/fare.py b/fare.py\nBinary files a/fare.py and b/fare.py differ\n",
		"from another folder":    strings.ReplaceAll(good, "fare.py", "ferry/fare.py"),
		"without prefixes":       strings.ReplaceAll(bare, "fare.py", "src/fare.py"),
		"with an old time":       "--- a/fare.py\t2026-03-02 08:00:00\n+++ b/fare.py\t1970-01-01 00:00:00.000000000 +0000\n" + hunk,
		"other lines":            strings.ReplaceAll(good, "+    return paid / 2", "+    return paid / 3"),
		"lines that look like a header": "--- b/fare.py\n+++ b/fare.py\n@@ -1,2 +1,2 @@\n--- looks like a header\n+++ looks like a header\n def price(night):\n" +
			"--- b/fare.py\n+++ b/fare.py\n" + hunk,
	} {
		y.write("bad.diff", text)
		r := y.thrush("gate", "--diff", "../bad.diff")
		assert.NotEqual(t, 0, r.status, "%s: %s", name, r.all())
	}
	y.write("ferry/.gitattributes", "")
	for name, text := range map[string]string{
		"of diff -u":                             "--- a/fare.py\n+++ b/fare.py\n" + hunk,
		"with a line that looks like a header":   "--- a/notes.txt\n+++ b/notes.txt\n@@ -1 +1 @@\n--- x\n+++ x\n--- a/fare.py\n+++ b/fare.py\n" + hunk,
		"with dots in the names of diff -u":      "--- ./fare.py\n+++ ./fare.py\n" + hunk,
		"without prefixes, from the same folder": "--- fare.py\n+++ fare.py\n" + hunk,
	} {
		y.write("odd.diff", text)
		r := y.thrush("gate", "--diff", "../odd.diff")
		assert.Equal(t, 1, r.status, "%s: %s", name, r.all())
	}
}

// A folder of a commit that looks like a repository is none: its program does not run, and it
// does not choose what a change is compared with.
func TestRepositoriesInRepositories(t *testing.T) {
	for _, at := range []string{"", "deck"} {
		t.Run("at "+at, func(t *testing.T) {
			y := newYard(t)
			y.write("ferry/fare.py", after)
			folder := filepath.Join("ferry", at)
			config := "[core]\n\trepositoryformatversion = 0\n\tbare = false\n\tworktree = .\n\tfsmonitor = \"touch $CANARY; false\"\n\thooksPath = ../hooks\n\tpager = touch $CANARY\n" +
				"[diff]\n\texternal = touch $CANARY\n[alias]\n\trev-parse = !touch $CANARY\n"
			y.write(filepath.Join(folder, "config"), config)
			y.write(filepath.Join(folder, "HEAD"), "ref: refs/heads/main\n")
			y.write(filepath.Join(folder, "refs/heads/main"), "") // filled in below: the change itself
			y.write(filepath.Join(folder, "objects/info/alternates"), filepath.Join(y.project, ".git/objects")+"\n")
			y.commit()
			y.write(filepath.Join(folder, "refs/heads/main"), y.git("rev-parse", "HEAD")+"\n")
			y.checkout()
			if at != "" {
				y.write("ferry/deck/thrush.toml", "[[gate]]\nname = \"changed\"\non = \"changed\"\nlines = 100\n")
				y.write("ferry/deck/plan.py", "A = 1\n\n\ndef plan():\n    return 2\n")
				y.write("ferry/deck/test_plan.py", "import plan\n")
				y.project = filepath.Join(y.project, at)
			}
			run := func() result {
				return y.thrush("record", "--", "python3", "-c", "import sys; sys.path.insert(0, '.'); import "+map[bool]string{true: "fare", false: "plan"}[at == ""])
			}
			r := run()
			require.Equal(t, 0, r.status, r.all())
			assert.Equal(t, 1, y.judge().status)
			y.everything()
			assert.NoFileExists(t, filepath.Join(y.dir, canary))
		})
	}
}

// A changed source that cannot be measured does not pass in silence.
func TestUnmeasuredChangesAreNamed(t *testing.T) {
	y := newYard(t)
	y.write("ferry/tide.py", "def tide(:\n    pass\n")
	y.write("ferry/made.py", "# Generated by hand. DO NOT EDIT.\ndef refund(): return 2\n")
	y.write("ferry/dist/refund.js", "module.exports = () => 2\n")
	y.write("ferry/Quote.java", "class Quote { String s = \\u0022a\\u0022; }\n")
	y.commit()
	require.Equal(t, 0, y.record("-o", "../it.thrush").status)
	to := filepath.Join(y.dir, "results")
	for _, strict := range []bool{false, true} {
		args := []string{"--markdown", to + "/c.md", "--sarif", to + "/n.sarif", "--junit", to + "/j.xml"}
		status := 0
		if strict {
			args, status = append(args, "--strict"), 1
		}
		r := y.judge(args...)
		assert.Equal(t, status, r.status, r.all())
		j := y.judge(append(args, "--format", "json")...)
		page := ""
		if !strict {
			require.Equal(t, 0, y.thrush("render", "--since", "main", "--single", to+"/one.html").status)
			text, err := os.ReadFile(to + "/one.html")
			require.NoError(t, err)
			page = string(text)
		}
		texts := map[string]string{"terminal": r.out, "json": j.out}
		for _, file := range []string{"c.md", "n.sarif", "j.xml"} {
			text, err := os.ReadFile(filepath.Join(to, file))
			require.NoError(t, err)
			texts[file] = string(text)
		}
		if page != "" {
			texts["page"] = page
		}
		for where, text := range texts {
			for _, path := range []string{"tide.py", "Quote.java"} {
				assert.Contains(t, text, path, where)
			}
			assert.Contains(t, text, "grammar", where)
		}
		for _, passed := range []string{"made.py", "dist/refund.js"} {
			assert.Contains(t, r.out, passed)
		}
	}
	y.write("ferry/thrush.toml", "[[gate]]\nname = \"all is measured\"\nunmeasured = \"fails\"\n")
	assert.Equal(t, 1, y.thrush("gate").status)
	y.write("ferry/thrush.toml", "[[gate]]\nname = \"all is measured\"\nunmeasured = \"fails\"\nwhere = \"fare.py\"\n")
	assert.Equal(t, 0, y.thrush("gate").status)
	y.hold(func() { y.everything() })
}

// The change may say what is required of it, but it is said that it does; and a pipeline can
// judge by what another ref says.
func TestChangesThatLowerTheBar(t *testing.T) {
	y := newYard(t)
	y.write("ferry/fare.py", after)
	y.write("ferry/thrush.toml", "[[gate]]\nname = \"what changed is tested\"\non = \"changed\"\nlines = 1\n\n[[waiver]]\nwhere = \"**\"\nreason = \"no need\"\n")
	y.checkout()
	require.Equal(t, 0, y.record().status)
	r := y.judge()
	assert.Equal(t, 0, r.status)
	assert.Contains(t, r.err, "what is judged changes what it is judged by: thrush.toml")
	assert.Equal(t, 1, y.judge("--rules-of", "main").status)
	y.write("ferry/thrush.toml", "[measure]\nskip = [\"**\"]\n")
	require.Equal(t, 0, y.record().status)
	assert.Equal(t, 3, y.judge("--rules-of", "main").status, "what counts there was not recorded")
}

// Measured code that is a link changes with what it leads to.
func TestLinkedSourcesChangeWithWhatTheyLeadTo(t *testing.T) {
	y := newYard(t)
	y.write("ferry/notes/fare.txt", before)
	require.NoError(t, os.Remove(filepath.Join(y.project, "fare.py")))
	y.link("notes/fare.txt", "ferry/fare.py")
	y.commit()
	y.git("branch", "-f", "main", "HEAD")
	y.write("ferry/notes/fare.txt", after)
	y.commit()
	require.Equal(t, 0, y.record().status)
	r := y.judge()
	assert.Equal(t, 1, r.status, r.all())
	assert.Regexp(t, `fare.py:(7-)?8`, r.out)
}

// Two commits of one name, a change below a submodule, and names that are no text.
func TestOddRepositories(t *testing.T) {
	y := newYard(t)
	y.write("ferry/fare.py", after)
	y.commit()
	require.Equal(t, 0, y.record().status)
	y.git("tag", "main", "HEAD")
	r := y.judge()
	assert.Equal(t, 2, r.status)
	assert.Contains(t, r.err, "means different commits")
	y.git("tag", "-d", "main")
	y.write("ferry/n\xff\xfe.py", "def refund():\n    return 1\n")
	y.commit()
	r = y.record()
	require.Equal(t, 0, r.status, r.all())
	r = y.judge()
	assert.Equal(t, 1, r.status, r.all())
	assert.Contains(t, r.out, `n\xff\xfe.py`)
	y.hold(func() { y.everything() })
}

// Files that never begin or end, that are very large, or that nest without end, are passed over
// with the reason, in little time and memory; the tests run.
func TestSourcesWithoutEnd(t *testing.T) {
	y := newYard(t)
	for _, name := range []string{"zero.py", "package.json", "pyproject.toml", "zero.js", "zero.go", "zero.c", "Zero.java"} {
		y.link("/dev/zero", "ferry/"+name)
	}
	y.link("/dev/stdin", "ferry/stdin.py")
	y.link("loop.py", "ferry/loop.py")
	y.write("ferry/mapped.js", "x = 1\n//# sourceMappingURL=../../../../../../../../../../dev/zero\n")
	y.write("ferry/large.py", strings.Repeat("# a line\n", 1<<20))
	const deep = 60_000
	for name, text := range map[string][3]string{
		"brackets.py": {"x = ", "(", "1"}, "nots.py": {"x = ", "not ", "1"}, "ands.py": {"x = ", "a and ", "b"}, "sums.py": {"x = ", "a + ", "b"},
		"lists.js": {"x = ", "[", "1"}, "ifs.js": {"", "if (a) ", "b()"}, "ands.js": {"x = ", "a && ", "b"}, "calls.js": {"a", ".b()", ""}, "texts.js": {"x = ", "`${", "1"},
		"choices.ts": {"x = ", "a ? b : ", "c"}, "Ands.java": {"class Ands { boolean f(boolean a) { return ", "a && ", "a; } }"}, "Blocks.java": {"class Blocks { void f() { ", "{", ""},
		"ands.go": {"package ferry\n\nvar x = ", "a && ", "a"}, "ands.c": {"int f(int a) { return ", "a && ", "a; }"},
	} {
		y.write("ferry/"+name, text[0]+strings.Repeat(text[1], deep)+text[2]+"\n")
	}
	for _, n := range []int{900, 2000} { // long, but not too deep
		y.write("ferry/long"+strings.Repeat("er", n/1000)+".js", "x = "+strings.Repeat("a && ", n)+"b\nx = "+strings.Repeat("(a || b) && ", n/2)+"b\n")
	}
	for _, level := range []string{"branches", "conditions"} {
		r := y.record("--level", level)
		assert.Equal(t, 0, r.status, r.all())
	}
	r := y.thrush("tally", "--unmeasured")
	for _, says := range []string{"large.py: cannot be read: it has more than 8 MB", "ands.js: line 1 nests more than 5000 levels deep", "ands.go: line 3 nests more than"} {
		assert.Contains(t, r.out, says)
	}
	for _, args := range [][]string{{"gate", "--since", "main"}, {"render", "--single", y.dir + "/results.html"}, {"tally"}, {"source", "fare.py"}} {
		y.thrush(args...)
	}
	require.NoError(t, os.Remove(filepath.Join(y.project, "fare.py")))
	y.link("/dev/zero", "ferry/fare.py")
	assert.Equal(t, 3, y.judge().status, "it was a file when it was recorded")
	y.thrush("render", "--single", y.dir+"/results.html")
	require.NoError(t, os.Remove(filepath.Join(y.project, "thrush.toml")))
	y.link("/dev/zero", "ferry/thrush.toml")
	assert.Equal(t, 125, y.record().status)
	assert.Equal(t, 2, y.judge().status)
}
