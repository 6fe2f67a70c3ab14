package collector

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/runtime"
)

const (
	unit = "0123456789abcdef0123456789abcdef"
	tab  = "ffffffffffffffffffffffffffffffff"
)

func start(t *testing.T) (c *Collector, dir string) {
	dir = t.TempDir()
	c, err := Start(dir, func(u string) (int, bool) { return 3, u == unit })
	require.NoError(t, err)
	t.Cleanup(c.Close)
	return c, dir
}

func post(t *testing.T, url, body string) int {
	r, err := http.Post(url, "text/plain", strings.NewReader(body))
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	return r.StatusCode
}

func told(page, counts string) string { return fmt.Sprintf(`{"page":%q,"counts":{%s}}`, page, counts) }

// Reports tell totals: one that comes late or twice changes nothing.
func TestTotalsAreKept(t *testing.T) {
	c, dir := start(t)
	for _, r := range []string{`"at":[0,2],"to":[5,1]`, `"at":[0],"to":[4]`, `"at":[2],"to":[300]`} {
		assert.Equal(t, http.StatusNoContent, post(t, c.URL(), told(tab, `"`+unit+`":{"n":3,`+r+`}`)))
	}
	assert.Equal(t, http.StatusNoContent, post(t, c.URL(), told(unit, `"`+unit+`":{"n":3,"at":[1],"to":[1]}`)), "another page")
	var all [3]uint64
	files, err := filepath.Glob(filepath.Join(dir, "p*"))
	require.NoError(t, err)
	require.Len(t, files, 2)
	for _, f := range files {
		data, err := os.ReadFile(f)
		require.NoError(t, err)
		require.True(t, bytes.HasPrefix(data, []byte(runtime.Magic+unit+"000000038")))
		for i := range all {
			all[i] += binary.LittleEndian.Uint64(data[runtime.HeaderSize+8*i:])
		}
	}
	assert.Equal(t, [3]uint64{5, 1, 300}, all)
}

// Whoever does not know the token, or tells of what is none of this run's, writes nothing.
func TestStrangersAreRefused(t *testing.T) {
	c, dir := start(t)
	good := `"` + unit + `":{"n":3,"at":[0],"to":[1]}`
	for why, r := range map[string]struct {
		url, body string
		status    int
	}{
		"another token":      {strings.Replace(c.URL(), c.token, tab, 1), told(tab, good), http.StatusNotFound},
		"by another name":    {strings.Replace(c.URL(), "127.0.0.1", "localhost", 1), told(tab, good), http.StatusNotFound},
		"no page":            {c.URL(), told("../p1", good), http.StatusBadRequest},
		"an unknown script":  {c.URL(), told(tab, `"`+tab+`":{"n":3,"at":[0],"to":[1]}`), http.StatusBadRequest},
		"another size":       {c.URL(), told(tab, `"`+unit+`":{"n":4,"at":[3],"to":[1]}`), http.StatusBadRequest},
		"beyond the end":     {c.URL(), told(tab, `"`+unit+`":{"n":3,"at":[3],"to":[1]}`), http.StatusBadRequest},
		"before the start":   {c.URL(), told(tab, `"`+unit+`":{"n":3,"at":[-1],"to":[1]}`), http.StatusBadRequest},
		"less than nothing":  {c.URL(), told(tab, `"`+unit+`":{"n":3,"at":[0],"to":[-1]}`), http.StatusBadRequest},
		"more than one says": {c.URL(), told(tab, `"`+unit+`":{"n":3,"at":[0,1],"to":[1]}`), http.StatusBadRequest},
		"too long":           {c.URL(), told(tab, strings.Repeat(" ", mostReport)+good), http.StatusBadRequest},
		"no JSON":            {c.URL(), "counts", http.StatusBadRequest},
	} {
		assert.Equal(t, r.status, post(t, r.url, r.body), why)
	}
	files, err := filepath.Glob(filepath.Join(dir, "*"))
	require.NoError(t, err)
	assert.Empty(t, files)
}

// A thousand connections that say nothing, or say it slowly, keep no page from reporting, nor
// this process from opening files.
func TestSilentConnectionsMakeRoom(t *testing.T) {
	c, _ := start(t)
	for i := range 1000 {
		conn, err := net.Dial("tcp", c.listener.Addr().String())
		require.NoError(t, err)
		defer conn.Close()
		if i%2 == 1 {
			_, _ = fmt.Fprintf(conn, "POST /%s HTTP/1.1\r\nHost: %s\r\nContent-Length: 2000000000\r\n\r\n{", c.token, c.listener.Addr())
		}
	}
	begun := time.Now()
	assert.Equal(t, http.StatusNoContent, post(t, c.URL(), told(tab, `"`+unit+`":{"n":3,"at":[0],"to":[1]}`)))
	assert.Less(t, time.Since(begun), 5*time.Second)
	assert.Eventually(t, func() bool {
		c.mu.Lock()
		defer c.mu.Unlock()
		return len(c.open) <= mostConnections
	}, 5*time.Second, 10*time.Millisecond)
}

// What is sent without an end is read no further than a report may go.
func TestEndlessReportsAreCutOff(t *testing.T) {
	c, dir := start(t)
	r, w := io.Pipe()
	defer r.Close()
	var sent atomic.Int64
	go func() {
		for {
			n, err := w.Write(bytes.Repeat([]byte("[1,"), 1<<14))
			if sent.Add(int64(n)) > 2<<30 || err != nil {
				w.CloseWithError(io.EOF)
				return
			}
		}
	}()
	answer, err := http.Post(c.URL(), "text/plain", r)
	if err == nil {
		assert.Equal(t, http.StatusBadRequest, answer.StatusCode)
		require.NoError(t, answer.Body.Close())
	}
	assert.Less(t, sent.Load(), int64(64<<20))
	files, err := filepath.Glob(filepath.Join(dir, "*"))
	require.NoError(t, err)
	assert.Empty(t, files)
}
