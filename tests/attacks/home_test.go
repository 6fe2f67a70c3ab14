//go:build attacks

package attacks

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// away is a list of what is put away of a copy, which has files take other names.
func away(y *yard, folder, name string) string {
	b := func(s string) string { return base64.StdEncoding.EncodeToString([]byte(s)) }
	text, err := json.Marshal([]map[string]any{{"path": b(folder), "names": []string{b(name)}}})
	require.NoError(y, err)
	return string(text)
}

// planted are the ways in which a change brings along a .thrush of its own.
var planted = map[string]func(y *yard){
	"names in a copy that is put away": func(y *yard) {
		y.write("ferry/.thrush/copy/ferry.away", away(y, "", "../../../.git/config"))
		y.write("ferry/.thrush/copy/ferry/.thrush-0", "[core]\n\tfsmonitor = touch $CANARY\n")
	},
	"folders in a copy that is put away": func(y *yard) {
		y.write("ferry/.thrush/copy/ferry.away", away(y, "../../../../outside", "keep.py"))
		y.write("outside/.thrush-0", "KEEP = 2\n")
	},
	"a link to another folder": func(y *yard) { y.link("../outside", "ferry/.thrush") },
	"a link to itself":         func(y *yard) { y.link(".", "ferry/.thrush") },
	"a file":                   func(y *yard) { y.write("ferry/.thrush", "x") },
	"a link at copy":           func(y *yard) { y.link("../../outside", "ferry/.thrush/copy") },
	"a link at the copy":       func(y *yard) { y.link("../../../outside", "ferry/.thrush/copy/ferry") },
	"a link at recordings":     func(y *yard) { y.link("../../outside", "ferry/.thrush/recordings") },
	"a link at woven":          func(y *yard) { y.link("..", "ferry/.thrush/woven") },
	"a link at units":          func(y *yard) { y.link("../../..", "ferry/.thrush/woven/units") },
	"a link at runs":           func(y *yard) { y.link("../../outside", "ferry/.thrush/runs") },
	"a link at standin":        func(y *yard) { y.link("../../outside", "ferry/.thrush/standin") },
	"a link at pending":        func(y *yard) { y.link("../../outside", "ferry/.thrush/pending") },
	"a link at scratch":        func(y *yard) { y.link("../../outside", "ferry/.thrush/scratch") },
	"a link at the store":      func(y *yard) { y.link("../../outside/keep.py", "ferry/.thrush/history.db") },
	"a link at what was built": func(y *yard) { y.link("../../outside/keep.py", "ferry/.thrush/build.json") },
	"a mark of its own": func(y *yard) {
		y.write("ferry/.thrush/made-here", "915148800\n")
		y.link("../../outside", "ferry/.thrush/runs")
	},
	"a module of another": func(y *yard) {
		y.git("update-index", "--add", "--cacheinfo", "160000,"+y.git("rev-parse", "main")+",.thrush")
	},
	"what a run of it left behind": func(y *yard) {
		y.write("ferry/.thrush/runs/run-99999999-x/build.json", `{"level":"branches","keep":"counts"}`)
	},
	"names that are none of a file": func(y *yard) {
		y.write("ferry/.thrush/copy/ferry.away", away(y, ".", "../x"))
		y.write("ferry/.thrush/copy/ferry/.thrush-0", "x")
	},
}

// What a checkout brings along below .thrush is neither followed nor used: the command runs as it
// is, nothing is recorded, and no gate is met.
func TestCommittedHomes(t *testing.T) {
	for name, plant := range planted {
		t.Run(name, func(t *testing.T) {
			y := newYard(t)
			y.write("ferry/fare.py", after)
			y.checkout()
			plant(y)
			if name == "a module of another" {
				y.git("commit", "-q", "-m", "a module")
				require.NoError(t, os.MkdirAll(filepath.Join(y.project, ".thrush/recordings"), 0o777))
			} else {
				y.checkout()
			}
			y.hold(func() {
				r := y.record()
				assert.Equal(t, 125, r.status, r.all())
				assert.Contains(t, r.err, ".thrush is not used: ")
				assert.Contains(t, r.err, "Ran 1 test", "the tests run all the same")
				assert.NotEqual(t, 0, y.judge().status)
				y.everything()
			})
		})
	}
}

// Without git nothing says what came with a folder that was unpacked or copied. What it has of
// Thrush is not used either.
func TestUnpackedHomes(t *testing.T) {
	for name, plant := range planted {
		if strings.Contains(name, "module") {
			continue
		}
		t.Run(name, func(t *testing.T) {
			y := newYard(t)
			require.NoError(t, os.RemoveAll(filepath.Join(y.project, ".git")))
			plant(y)
			y.hold(func() {
				assert.Equal(t, 125, y.record().status)
				y.thrush("tally")
				y.record("--in-copy")
			})
		})
	}
}

// A folder that Thrush made here is used also where git cannot be asked; one that came with a
// checkout is not.
func TestHomesWithoutGit(t *testing.T) {
	y := newYard(t)
	python := y.run(nil, "python3", "-c", "import sys; print(sys.executable)")
	for i, e := range y.env {
		if strings.HasPrefix(e, "PATH=") {
			y.env[i] = "PATH=" + filepath.Join(y.dir, "bin")
		}
	}
	require.NoError(t, os.Mkdir(filepath.Join(y.dir, "bin"), 0o777))
	require.NoError(t, os.Symlink(strings.TrimSpace(python.out), filepath.Join(y.dir, "bin/python3")))
	assert.Equal(t, 0, y.record().status)
	assert.Equal(t, 0, y.thrush("tally").status)
	mark := filepath.Join(y.project, ".thrush/made-here")
	require.NoError(t, os.Chtimes(mark, time.Now(), time.Now()), "as a checkout does")
	r := y.thrush("tally")
	assert.Equal(t, 3, r.status)
	assert.Contains(t, r.err, "whether it came with a checkout cannot be known")
}

// Links that the tested code leaves in a folder that Thrush made are not followed.
func TestLinksLeftInHomes(t *testing.T) {
	for _, name := range []string{"copy", "copy/ferry", "recordings", "woven", "woven/units", "runs", "standin", "standin/python", "scratch"} {
		t.Run(name, func(t *testing.T) {
			y := newYard(t)
			y.record()
			y.record("--in-copy")
			path := filepath.Join(y.project, ".thrush", name)
			require.NoError(t, os.RemoveAll(path))
			require.NoError(t, os.Symlink(filepath.Join(y.dir, "outside"), path))
			y.hold(func() { y.everything() })
		})
	}
}

// Recordings that a change brings along are not judged; of those that were taken in, or that say
// to be of the future, none is the latest.
func TestForgedRecordingsAreNotTheLatest(t *testing.T) {
	forge := func(y *yard) (path string) { // all of the change tested, as its author would like it
		y.write("ferry/fare.py", after)
		y.write("ferry/tests/test_fare.py", "import unittest, fare\n\nclass All(unittest.TestCase):\n    def test_all(self):\n        fare.price(True), fare.price(False), fare.refund(2)\n")
		path = filepath.Join(y.dir, "forged.thrush")
		require.Equal(y, 0, y.record("-o", path).status)
		require.Equal(y, 0, y.judge().status)
		require.NoError(y, os.RemoveAll(filepath.Join(y.project, ".thrush")))
		y.git("checkout", "-q", "--", "tests")
		return path
	}
	for _, name := range []string{"20990101T000000.000-%s.thrush", "99999999-%s.thrush", "00000001-%s.thrush"} {
		t.Run("committed as "+name, func(t *testing.T) {
			y := newYard(t)
			data, err := os.ReadFile(forge(y))
			require.NoError(t, err)
			y.write("ferry/.thrush/recordings/"+fmt.Sprintf(name, "0123abcd"), string(data))
			y.checkout()
			assert.Equal(t, 3, y.judge().status, "before anything was recorded")
			y.record()
			assert.Equal(t, 3, y.judge().status)
			y.everything()
		})
	}
	t.Run("taken in", func(t *testing.T) {
		y := newYard(t)
		forged := forge(y)
		y.commit()
		require.Equal(t, 0, y.thrush("keep", forged).status)
		r := y.judge()
		assert.Equal(t, 3, r.status)
		assert.Contains(t, r.err, "nothing has been recorded here")
		require.Equal(t, 0, y.record().status)
		require.Equal(t, 0, y.thrush("push", "--store", "../store.db", forged).status)
		require.Equal(t, 0, y.thrush("pull", "--store", "../store.db", "--branch", "change").status)
		assert.Equal(t, 1, y.judge().status, "what was recorded here is judged")
		assert.Equal(t, 0, y.judge(forged).status, "unless it is named")
	})
	t.Run("of a clock that ran ahead", func(t *testing.T) {
		y := newYard(t)
		data, err := os.ReadFile(forge(y))
		require.NoError(t, err)
		require.Equal(t, 0, y.record("--quiet").status)
		kept, err := filepath.Glob(filepath.Join(y.project, ".thrush/recordings/*"))
		require.NoError(t, err)
		later := time.Now().Add(24 * time.Hour)
		require.NoError(t, os.WriteFile(kept[0], data, 0o666), "one that was made here, a day ahead")
		require.NoError(t, os.Chtimes(kept[0], later, later))
		assert.Equal(t, 0, y.judge().status)
		require.Equal(t, 0, y.record().status)
		assert.Equal(t, 1, y.judge().status)
	})
}

// What comes back from the copy stays in the project, whatever links a change brings along.
func TestNothingComesBackThroughLinks(t *testing.T) {
	y := newYard(t)
	y.write("ferry/thrush.toml", "[copy]\nback = [\"**\"]\n")
	y.link("../outside", "ferry/reports")
	y.checkout()
	y.hold(func() {
		y.thrush("record", "--in-copy", "--", "sh", "-c", "rm reports; mkdir -p reports/deck; echo x >reports/keep.py; echo x >reports/deck/tides.csv")
	})
}

// What is judged is what was recorded last. Where that was cut off it is not what came before.
func TestRecordsThatAreCutOff(t *testing.T) {
	y := newYard(t)
	y.write("ferry/thrush.toml", "[[gate]]\nname = \"all\"\nlines = 50\n")
	require.Equal(t, 0, y.record().status)
	require.Equal(t, 0, y.thrush("gate").status)
	killed := exec.Command(program, "record", "--", "sh", "-c", "kill -KILL $PPID")
	killed.Dir, killed.Env = y.project, y.env
	require.Error(t, killed.Run())
	r := y.thrush("gate")
	assert.Equal(t, 3, r.status, r.all())
	assert.Contains(t, r.err, "was cut off before it kept one")
	assert.Equal(t, 0, y.thrush("tally").status, "one may look at what there is")
	require.Equal(t, 0, y.record().status)
	assert.Equal(t, 0, y.thrush("gate").status)
}
