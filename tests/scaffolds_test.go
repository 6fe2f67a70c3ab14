//go:build subjects

package tests

import (
	"os"
	"os/exec"
	"testing"
)

// What projects begin with, in every language, is measured from the first try. These fetch
// what they need from the registries of their languages.
func TestScaffolds(t *testing.T) {
	for _, tool := range []string{"cmake", "autoreconf", "python3", "npm", "mvn"} {
		if _, err := exec.LookPath(tool); err != nil && os.Getenv("CI") != "" {
			t.Errorf("there is no %s, so some scaffolds are not tried", tool)
		}
	}
	scripts(t, "testdata/scaffolds")
}
