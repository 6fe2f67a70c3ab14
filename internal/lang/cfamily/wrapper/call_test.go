package wrapper

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestCallsAreReadAsCompilersReadThem(t *testing.T) {
	dir := t.TempDir()
	words := filepath.Join(dir, "words")
	require.NoError(t, os.WriteFile(words, []byte(`-D 'LANE="a b"' -O2 -MD x.d -Werror=unused -include all.h`), 0o666))
	t.Setenv("COLLECT_GCC_OPTIONS", `'-c' '-o' 'deck.o' '-D' 'X=1'`)
	c := newCall("/usr/lib/cc1", []string{"-quiet", "@" + words, "deck.c", "-quiet", "-o", "-"})
	assert.Equal(t, "deck.c", c.source())
	assert.True(t, c.optimised)
	assert.False(t, c.passes)
	assert.Contains(t, c.args, `LANE="a b"`)
	said := strings.Join(c.preprocess("x.i"), " ")
	assert.Contains(t, said, "-MD x.d")
	assert.Contains(t, said, "deck.c -quiet -o x.i -E")
	said = strings.Join(c.translate("woven.i", "y.s"), " ")
	assert.NotContains(t, said, "-MD")
	assert.NotContains(t, said, "all.h")
	assert.Contains(t, said, "-Wunused")
	assert.Contains(t, said, "woven.i -quiet -o y.s")

	for _, args := range []string{"-E x.c -o y", "-quiet x.h -o x.h.gch", "-quiet x.c -fsyntax-only -o /dev/null", "--version"} {
		assert.True(t, newCall("cc1", strings.Fields(args)).passes, args)
	}
	assert.NotEmpty(t, newCall("cc1", []string{"x.c", "-ffreestanding", "-o", "y"}).alone())
	assert.NotEmpty(t, newCall("cc1", []string{"x.c", "-ffile-prefix-map=/w=/tmp/go-build", "-o", "y"}).alone())
}

func FuzzWords(f *testing.F) {
	f.Add(`a 'b c' "d\"e" \f`)
	f.Fuzz(func(t *testing.T, text string) {
		for _, w := range divided(text) {
			require.LessOrEqual(t, len(w), len(text))
		}
	})
}
