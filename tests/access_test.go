package tests

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The rules of access that pages are checked with, an npm package of its own.
const (
	axeVersion = "4.14.1"
	axeDigest  = "29348999450cdf2849a8e70b7912fc2da85a849da39c0d0d5394f51d4a9ed95c"
)

// rules fetches the script that checks pages, once, into a folder that git ignores.
func rules(t *testing.T) string {
	t.Helper()
	file, err := filepath.Abs(filepath.Join("..", ".subjects", "axe-"+axeVersion+".js"))
	require.NoError(t, err)
	text, err := os.ReadFile(file)
	if err != nil {
		if _, err := exec.LookPath("npm"); err != nil {
			if os.Getenv("CI") != "" {
				t.Fatal("npm is missing; .ci/run installs it")
			}
			t.Skip("npm is not installed, so the rules of access are not checked")
		}
		dir := t.TempDir()
		run(t, dir, "npm", "pack", "--silent", "axe-core@"+axeVersion)
		text = packed(t, filepath.Join(dir, "axe-core-"+axeVersion+".tgz"), "package/axe.min.js")
		require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o777))
		require.NoError(t, os.WriteFile(file, text, 0o666))
	}
	require.Equal(t, axeDigest, fmt.Sprintf("%x", sha256.Sum256(text)), "of %s", file)
	return string(text)
}

func packed(t *testing.T, archive, name string) []byte {
	t.Helper()
	data, err := os.ReadFile(archive)
	require.NoError(t, err)
	unzipped, err := gzip.NewReader(bytes.NewReader(data))
	require.NoError(t, err)
	for r := tar.NewReader(unzipped); ; {
		head, err := r.Next()
		require.NoError(t, err, name)
		if head.Name == name {
			text, err := io.ReadAll(r)
			require.NoError(t, err)
			return text
		}
	}
}

// access checks every kind of page, light and dark, wide and narrow: names of all
// controls, landmarks, contrast, order of headings and what else the rules know.
func access(t *testing.T, p *tab) {
	script := rules(t)
	for _, page := range []string{"index.html", "functions.html", "how.html", "compared.html", "files/fare/fare.go.html"} {
		for _, look := range []string{"light", "dark"} {
			for _, width := range []int64{1280, 390} {
				p.look(look)
				p.wide(width)
				p.to(page)
				if strings.HasPrefix(page, "files/") {
					p.press(".")
					p.press(kb.Enter)
				}
				see[bool](p, script+";true")
				found, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`axe.run({preload: false}).then(r => JSON.stringify(r.violations.map(v => [v.id, v.help, v.nodes.slice(0, 3).map(n => n.html + " " + n.failureSummary)])))`, chromedp.EvalAwaitPromise))
				require.NoError(t, err)
				var violations []any
				require.NoError(t, json.Unmarshal([]byte(found), &violations))
				assert.Empty(t, violations, "%s, %s, %d wide", page, look, width)
			}
		}
	}
}
