package workcopy

import (
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/home"
)

type tree struct {
	*testing.T
	root string
}

func (t tree) write(name, text string) {
	path := filepath.Join(t.root, name)
	require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o777))
	require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
}

func (t tree) read(name string) string {
	text, err := os.ReadFile(filepath.Join(t.root, name))
	if err != nil {
		return "none"
	}
	return string(text)
}

func setUp(t *testing.T) (from, to tree, c *Copy) {
	dir := t.TempDir()
	from = tree{t, filepath.Join(dir, "skerry")}
	own, err := home.Make(dir)
	require.NoError(t, err)
	in, err := own.Folder("copy")
	require.NoError(t, err)
	from.write("fare.ts", "fare")
	from.write("data/tides.csv", "tides")
	tree{t, dir}.write("woven", "woven fare")
	c = &Copy{From: from.root, In: in, Name: "skerry", Text: map[string]string{"fare.ts": filepath.Join(dir, "woven")}, Marks: [][]byte{[]byte("woven")}}
	require.NoError(t, c.Open())
	return from, tree{t, c.To()}, c
}

// What a build does in the copy stays there, and never reaches the project.
func TestCopiesFollowTheProjectAndKeepWhatBuildsMade(t *testing.T) {
	from, to, c := setUp(t)
	from.write(".git/HEAD", "main")
	from.write("run.sh", "#!/bin/sh\n")
	require.NoError(t, os.Chmod(filepath.Join(from.root, "run.sh"), 0o555))
	require.NoError(t, os.Symlink("data/tides.csv", filepath.Join(from.root, "near")))
	require.NoError(t, os.Symlink(filepath.Join(from.root, "data"), filepath.Join(from.root, "far")))
	require.NoError(t, c.Sync())
	assert.Equal(t, "woven fare", to.read("fare.ts"))
	assert.Equal(t, "tides", to.read("near"))
	assert.Equal(t, "none", to.read(".git/HEAD"))
	info, err := os.Stat(filepath.Join(to.root, "run.sh"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o555), info.Mode().Perm())

	to.write("far/tides.csv", "changed by a build")
	to.write("out/made", "made")
	to.write("near", "changed again")
	assert.Equal(t, "tides", from.read("data/tides.csv"))
	require.NoError(t, c.Sync())
	assert.Equal(t, "changed again", to.read("data/tides.csv"), "it did not change in the project")
	assert.Equal(t, "made", to.read("out/made"))

	from.write("data/tides.csv", "newer tides")
	from.write("old/logs/1999.csv", "old")
	require.NoError(t, c.Sync())
	to.write("old/made", "made")
	require.NoError(t, os.RemoveAll(filepath.Join(from.root, "old")))
	require.NoError(t, os.Remove(filepath.Join(from.root, "run.sh")))
	c.Text = nil
	require.NoError(t, c.Sync())
	assert.Equal(t, "newer tides", to.read("data/tides.csv"))
	assert.Equal(t, "none", to.read("run.sh"))
	assert.NoDirExists(t, filepath.Join(to.root, "old"))
	assert.Equal(t, "fare", to.read("fare.ts"))
	require.NoError(t, os.WriteFile(c.To()+listed, []byte("{damaged"), 0o666))
	require.NoError(t, c.Sync(), "all is copied anew")
}

// Builds that go by times build anew what was built of the project's own texts.
func TestWhatTheProjectBuiltIsOlderThanOtherTexts(t *testing.T) {
	from, to, c := setUp(t)
	newer := func(name, than string) bool {
		a, err := os.Stat(filepath.Join(to.root, name))
		require.NoError(t, err)
		b, err := os.Stat(filepath.Join(to.root, than))
		require.NoError(t, err)
		return a.ModTime().After(b.ModTime())
	}
	from.write("out/Fare.class", "fare")
	require.NoError(t, c.Sync())
	assert.True(t, newer("fare.ts", "out/Fare.class"))
	to.write("out/Fare.class", "woven fare")
	later := time.Now().Add(time.Second)
	require.NoError(t, os.Chtimes(filepath.Join(to.root, "out/Fare.class"), later, later))
	require.NoError(t, c.Sync())
	assert.True(t, newer("out/Fare.class", "fare.ts"), "nothing changed, so nothing is built anew")
	from.write("out/Fare.class", "fare, built again")
	require.NoError(t, c.Sync())
	assert.True(t, newer("fare.ts", "out/Fare.class"))
}

// What was a file, a folder or a link may become another one of them. Nothing is written
// where a link led.
func TestKindsChange(t *testing.T) {
	from, to, c := setUp(t)
	elsewhere := tree{t, t.TempDir()}
	elsewhere.write("tides.csv", "elsewhere")
	require.NoError(t, os.Symlink(elsewhere.root, filepath.Join(from.root, "far")))
	from.write("notes/a.txt", "a")
	from.write("log", "log")
	require.NoError(t, c.Sync())
	assert.Equal(t, "elsewhere", to.read("far/tides.csv"))
	for _, p := range []string{"far", "notes", "log"} {
		require.NoError(t, os.RemoveAll(filepath.Join(from.root, p)))
	}
	from.write("far/tides.csv", "tides")
	from.write("notes", "notes")
	from.write("log/b.txt", "b")
	require.NoError(t, c.Sync())
	assert.Equal(t, []string{"tides", "notes", "b", "elsewhere"}, []string{to.read("far/tides.csv"), to.read("notes"), to.read("log/b.txt"), elsewhere.read("tides.csv")})
	require.NoError(t, os.RemoveAll(filepath.Join(from.root, "far")))
	require.NoError(t, os.Symlink(elsewhere.root, filepath.Join(from.root, "far")))
	require.NoError(t, os.Rename(filepath.Join(from.root, "log"), filepath.Join(from.root, "log2")))
	require.NoError(t, os.Symlink("log2", filepath.Join(from.root, "log")))
	require.NoError(t, c.Sync())
	assert.Equal(t, []string{"elsewhere", "b", "b"}, []string{to.read("far/tides.csv"), to.read("log/b.txt"), to.read("log2/b.txt")})
	assert.Equal(t, "elsewhere", elsewhere.read("tides.csv"))
}

// Packages are led to; what tools keep beside them, and packages of the project itself, are
// the copy's own.
func TestPackagesAreShared(t *testing.T) {
	from, to, c := setUp(t)
	from.write("node_modules/knots/index.js", "knots")
	from.write("node_modules/@harbour/bell/index.js", "bell")
	from.write("node_modules/.cache/old", "old")
	from.write("packages/crew/index.js", "crew")
	require.NoError(t, os.Symlink("../packages/crew", filepath.Join(from.root, "node_modules/crew")))
	require.NoError(t, c.Sync())
	for _, p := range []string{"knots", "@harbour/bell", "crew"} {
		assert.Equal(t, filepath.Base(p), to.read("node_modules/"+p+"/index.js"))
	}
	to.write("node_modules/.cache/new", "new")
	to.write("node_modules/crew/made.js", "made")
	assert.Equal(t, "none", from.read("node_modules/.cache/new"))
	assert.Equal(t, "none", from.read("packages/crew/made.js"))
	assert.Equal(t, "none", to.read("node_modules/.cache/old"))
	assert.Equal(t, "made", to.read("packages/crew/made.js"))
}

func TestOnlyWhatIsAskedForComesBack(t *testing.T) {
	from, to, c := setUp(t)
	require.NoError(t, c.Sync())
	to.write("reports/unit.xml", "passed")
	to.write("dist/fare.js", "made of woven fare")
	to.write("other", "other")
	later := time.Now().Add(time.Hour)
	to.write("data/tides.csv", "snapshot")
	require.NoError(t, os.Chtimes(filepath.Join(to.root, "data/tides.csv"), later, later))
	brought, kept, err := c.Back([]string{"reports", "data/*", "dist/**", "*.ts"})
	require.NoError(t, err)
	assert.Equal(t, []string{"data/tides.csv", "reports/unit.xml"}, brought)
	assert.Equal(t, []string{"dist/fare.js"}, kept)
	assert.Equal(t, []string{"passed", "snapshot", "fare", "none", "none"},
		[]string{from.read("reports/unit.xml"), from.read("data/tides.csv"), from.read("fare.ts"), from.read("other"), from.read("dist/fare.js")})
	brought, _, err = c.Back([]string{"reports/**"})
	require.NoError(t, err)
	assert.Empty(t, brought, "it is there")
}

// A copy that is put away has no names that tools would look for, and comes back as it was,
// though putting it away was cut off.
func TestCopiesArePutAway(t *testing.T) {
	_, to, c := setUp(t)
	require.NoError(t, c.Sync())
	to.write("out/fare.test.js", "made")
	require.NoError(t, os.Symlink("out", filepath.Join(to.root, "latest")))
	require.NoError(t, os.Mkdir(filepath.Join(to.root, "empty"), 0o777))
	before, err := os.Stat(filepath.Join(to.root, "out/fare.test.js"))
	require.NoError(t, err)
	require.NoError(t, c.Close())
	require.NoError(t, filepath.WalkDir(filepath.Dir(to.root), func(path string, d os.DirEntry, err error) error {
		assert.NotRegexp(t, `\.(ts|js|csv)$|latest`, path)
		return err
	}))
	require.NoError(t, os.Rename(filepath.Join(to.root, "data/.thrush-0"), filepath.Join(to.root, "data/tides.csv")), "as if it had been cut off")
	require.NoError(t, c.Open())
	after, err := os.Stat(filepath.Join(to.root, "latest/fare.test.js"))
	require.NoError(t, err)
	assert.Equal(t, before.ModTime(), after.ModTime())
	assert.Equal(t, []string{"woven fare", "tides"}, []string{to.read("fare.ts"), to.read("data/tides.csv")})
	assert.DirExists(t, filepath.Join(to.root, "empty"))
	assert.NoFileExists(t, c.To()+stowed)
	var busy *BusyError
	require.ErrorAs(t, (&Copy{From: c.From, In: c.In, Name: c.Name}).Open(), &busy)
	require.NoError(t, c.Close())
	require.NoError(t, c.Open())
}
