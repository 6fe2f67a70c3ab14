package trace

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestFault runs itself as a process that is traced: what is written is decided once for each.
func TestFault(t *testing.T) {
	if os.Getenv(Variable) != "" {
		defer func() { Fault("deck.go", recover()) }()
		sink()
	}
	file := filepath.Join(t.TempDir(), "trace")
	cmd := exec.Command(os.Args[0], "-test.run=TestFault")
	cmd.Env = append(os.Environ(), Variable+"="+file)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Regexp(t, `^time=\S+ level=INFO msg=fault process=\d+ in=deck.go panic="she sinks" stack=".*trace.sink`, string(text))
	assert.Empty(t, Env(), "the path is absolute already")
}

func sink() { panic("she sinks") }
