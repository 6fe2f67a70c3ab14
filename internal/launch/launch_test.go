package launch

import (
	"testing"

	"github.com/stretchr/testify/require"

	"thrush/internal/runtime"
)

func TestGoFlagsKeepWhatIsThere(t *testing.T) {
	flags, err := split(`-mod=mod '-ldflags=-X main.v=1 2' "-tags=a b"`)
	require.NoError(t, err)
	require.Equal(t, []string{"-mod=mod", "-ldflags=-X main.v=1 2", "-tags=a b"}, flags)
	text := goFlags(append(flags, "-overlay=/old.json", "-count=3")).with("/new dir/o.json")
	require.Equal(t, `-mod=mod '-ldflags=-X main.v=1 2' '-tags=a b' -count=3 '-overlay=/new dir/o.json'`, text)
	_, err = split(`'-x`)
	require.Error(t, err)
}

// FuzzCounters feeds counter files that processes may have left half-written.
func FuzzCounters(f *testing.F) {
	head := runtime.Magic + "0123456789abcdef0123456789abcdef" + "000000028"
	f.Add([]byte(head + string(make([]byte, 64-len(head)+16))))
	f.Fuzz(func(t *testing.T, data []byte) {
		c := &Counts{units: map[string][]uint64{}}
		c.add(data)
		for unit, n := range c.units {
			require.Len(t, unit, 32)
			require.NotNil(t, n)
		}
	})
}
