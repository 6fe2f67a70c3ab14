package witness

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/weave"
)

// unpack copies a module whose go.mod is kept as go.mod.txt.
func unpack(t *testing.T, from string) string {
	dir := t.TempDir()
	require.NoError(t, os.CopyFS(dir, os.DirFS(from)))
	require.NoError(t, os.Rename(filepath.Join(dir, "go.mod.txt"), filepath.Join(dir, "go.mod")))
	return dir
}

func TestCorpusAgreesWithWitness(t *testing.T) {
	for _, opt := range []weave.Options{
		{Level: site.Branches, Keep: site.Counts}, {Level: site.Branches, Keep: site.Hits},
		{Level: site.Lines, Keep: site.Counts}, {Level: site.Lines, Keep: site.Hits},
	} {
		t.Run(opt.Level.String()+" "+opt.Keep.String(), func(t *testing.T) {
			out := compare(t, "corpus", unpack(t, "testdata/corpus"), opt, opt.Keep == site.Counts, "test", "-vet=off", "./...")
			require.Empty(t, out.Disagreements, strings.Join(out.Disagreements, "\n"))
			require.Greater(t, out.Statements, 250)
			require.Greater(t, out.Ran, 200)
			t.Logf("%d statements and %d outcomes agree, %d of them ran", out.Statements, out.Outcomes, out.Ran)
		})
	}
}
