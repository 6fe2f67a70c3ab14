package project

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A command may be given in a module, whose build needs what lies above.
func TestTheRootIsWhereModulesComeTogether(t *testing.T) {
	dir := t.TempDir()
	for _, file := range []string{
		"maven/pom.xml", "maven/desk/pom.xml", "maven/desk/till/pom.xml", "maven/desk/till/src/Till.java",
		"gradle/settings.gradle.kts", "gradle/desk/build.gradle.kts",
		"kept/thrush.toml", "kept/desk/pom.xml",
		"alone/Bell.java",
	} {
		require.NoError(t, os.MkdirAll(filepath.Join(dir, filepath.Dir(file)), 0o777))
		require.NoError(t, os.WriteFile(filepath.Join(dir, file), nil, 0o666))
	}
	for in, want := range map[string]string{
		"maven/desk/till/src": "maven", "maven/desk": "maven", "gradle/desk": "gradle", "kept/desk": "kept", "alone": "alone",
	} {
		p, err := Find(filepath.Join(dir, in))
		require.NoError(t, err)
		assert.Equal(t, filepath.Join(dir, want), p.Root, in)
	}
}
