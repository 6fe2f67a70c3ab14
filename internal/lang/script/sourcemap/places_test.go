package sourcemap

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestNamesOfSourcesMeanFilesOfTheProject(t *testing.T) {
	for name, want := range map[string][]string{
		"../src/fare.ts":               {"/skerry/src/fare.ts"},
		"src/a%20b.ts":                 {"/skerry/lib/src/a%20b.ts", "/skerry/lib/src/a b.ts"},
		"webpack://b/./src/fare.ts":    {"/skerry/lib/src/fare.ts", "/skerry/src/fare.ts"},
		"webpack:///src/fare.ts?e1a2":  {"/skerry/lib/src/fare.ts", "/skerry/src/fare.ts"},
		"file:///skerry/src/f%20.ts":   {"/skerry/src/f .ts"},
		"/skerry/src/fare.ts":          {"/skerry/src/fare.ts"},
		"ng://app/../../../etc/passwd": {"/etc/passwd", "/etc/passwd"},
		"":                             nil,
	} {
		assert.Equal(t, want, Places(name, "/skerry/lib", "/skerry"), name)
	}
	assert.Equal(t, []string{"/skerry/src/fare.ts"}, Places("webpack://b/./src/fare.ts", "/elsewhere", "/skerry"))
}
