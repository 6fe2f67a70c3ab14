package main

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The picture is that of the code, and says of each room what it is for.
func TestPictureIsCurrent(t *testing.T) {
	t.Chdir("../..")
	imports, err := rooms()
	require.NoError(t, err)
	for name := range imports {
		assert.NotEmpty(t, says[name], "nothing is said of %s", name)
	}
	have, err := os.ReadFile("docs/architecture.svg")
	require.NoError(t, err)
	assert.Equal(t, string(draw(reduced(imports), ranks(imports))), string(have), "make architecture draws it anew")
}
