package launch

import (
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/project"
	"thrush/internal/weave"
)

var update = flag.Bool("update", false, "write the plans anew")

// Where probes stand is decided by the planner, for each construct of each language, and can be
// read in internal/weave/testdata/plans. A change there is a change of what users are told: look at
// each line of it, then run the test with -update.
func TestPlans(t *testing.T) {
	dir := filepath.Join("..", "weave", "testdata", "plans")
	sources, err := filepath.Glob(filepath.Join(dir, "*"))
	require.NoError(t, err)
	p, err := project.Find(t.TempDir())
	require.NoError(t, err)
	seen := 0
	for _, path := range sources {
		if strings.HasSuffix(path, ".plan") {
			continue
		}
		source, err := os.ReadFile(path)
		require.NoError(t, err)
		name := strings.TrimSuffix(filepath.Base(path), ".txt") // the go command leaves such files alone
		for _, level := range []site.Level{site.Branches, site.Conditions} {
			plan, _, err := Look(p, name, source, weave.Options{Level: level})
			require.NoError(t, err, name)
			at := filepath.Join(dir, name+"."+level.String()+".plan")
			if *update {
				require.NoError(t, os.WriteFile(at, []byte(plan.Describe()), 0o666))
			}
			want, err := os.ReadFile(at)
			require.NoError(t, err)
			assert.Equal(t, string(want), plan.Describe(), "%s at level %s", name, level)
			seen++
		}
	}
	require.Equal(t, 14, seen)
}
