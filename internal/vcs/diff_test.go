package vcs

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestParseDiff(t *testing.T) {
	set, err := ParseDiff(strings.NewReader(`diff --git a/fare/old.go b/fare/new name.go
similarity index 90%
rename from fare/old.go
rename to fare/new name.go
--- a/fare/old.go
+++ b/fare/new name.go
@@ -3,2 +3,3 @@ func x() {
 same
-gone
+came
+came too
diff --git a/gone.go b/gone.go
deleted file mode 100644
--- a/gone.go
+++ /dev/null
@@ -1 +0,0 @@
-x
`))
	require.NoError(t, err)
	require.Len(t, set, 1)
	require.Equal(t, []int{4, 5}, set["fare/new name.go"].Within(100))
	require.Equal(t, "came too", set["fare/new name.go"].Text[5])
}

func FuzzParseDiff(f *testing.F) {
	f.Add("--- a/x.go\n+++ b/x.go\n@@ -1 +1,2 @@\n-a\n+b\n+c\n")
	f.Fuzz(func(t *testing.T, text string) {
		set, err := ParseDiff(strings.NewReader(text))
		if err != nil {
			return
		}
		for _, lines := range set {
			lines.Within(1 << 20)
		}
	})
}

func FuzzEachRaw(f *testing.F) {
	id := strings.Repeat("0123456789", 4)
	f.Add(":100644 100644 " + id + " " + id + " M\x00fare.go\x00:000000 100644 " + id + " " + id + " R090\x00a\x00b\x00")
	f.Fuzz(func(t *testing.T, text string) {
		read := 0
		if eachRaw(text, func(entry, string) { read++ }) == nil {
			require.LessOrEqual(t, 2*read, len(list(text)), "each takes two fields or three")
		}
	})
}
