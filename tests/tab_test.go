package tests

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// browser starts headless Chromium.
func browser(t *testing.T) context.Context {
	t.Helper()
	path, err := exec.LookPath("chromium")
	if err != nil {
		if os.Getenv("CI") != "" {
			t.Fatal("chromium is missing; .ci/run installs it")
		}
		t.Skip("chromium is not installed, so the pages are not tested")
	}
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(path))
	if os.Geteuid() == 0 {
		options = append(options, chromedp.NoSandbox)
	}
	allocated, stop := chromedp.NewExecAllocator(t.Context(), options...)
	t.Cleanup(stop)
	c, quit := chromedp.NewContext(allocated)
	t.Cleanup(quit)
	return c
}

// tab is a page in the browser. What it complains of, and what it asks for from
// elsewhere, fails the test.
type tab struct {
	*testing.T
	ctx    context.Context
	report string
	mu     sync.Mutex
	asked  []string
}

func open(t *testing.T, browser context.Context, report string) *tab {
	t.Helper()
	ctx, cancel := chromedp.NewContext(browser)
	ctx, stop := context.WithTimeout(ctx, 90*time.Second)
	p := &tab{T: t, ctx: ctx, report: report}
	_, err := chromedp.Call(ctx, network.Enable, network.EnableParams{})
	require.NoError(t, err)
	require.NoError(t, chromedp.Listen(ctx, func(ev any) {
		if r, ok := ev.(*network.EventRequestWillBeSent); ok {
			p.mu.Lock()
			defer p.mu.Unlock()
			p.asked = append(p.asked, r.Request.URL)
		}
	}))
	messages := chromedp.Console(ctx)
	done := make(chan struct{})
	go func() {
		defer close(done)
		for m, err := range messages {
			if err != nil {
				return
			}
			t.Errorf("the console says: %v", m)
		}
	}()
	t.Cleanup(func() {
		p.mu.Lock()
		for _, url := range p.asked {
			assert.True(t, strings.HasPrefix(url, "file://"+report) || strings.HasPrefix(url, "data:"), "asked for %s", url)
		}
		assert.NotEmpty(t, p.asked)
		p.mu.Unlock()
		stop()
		cancel()
		<-done
	})
	return p
}

// to goes to a page of the report, given with what comes after # if need be.
func (p *tab) to(page string) {
	p.Helper()
	require.NoError(p, chromedp.Do(p.ctx, chromedp.Navigate("about:blank"), chromedp.Navigate("file://"+filepath.Join(p.report, page))))
}

// see gives the value of an expression on the page.
func see[V any](p *tab, expression string) V {
	p.Helper()
	v, err := chromedp.Run(p.ctx, chromedp.Evaluate[V](expression))
	require.NoError(p, err, expression)
	return v
}

func (p *tab) text(selector string) string {
	p.Helper()
	return see[string](p, fmt.Sprintf("document.querySelector(%q).textContent.trim()", selector))
}

func (p *tab) texts(selector string) []string {
	p.Helper()
	return see[[]string](p, fmt.Sprintf("[...document.querySelectorAll(%q)].map(e => e.textContent.trim())", selector))
}

func (p *tab) click(selector string) {
	p.Helper()
	require.NoError(p, chromedp.Do(p.ctx, chromedp.Click(chromedp.CSS(selector))))
}

func (p *tab) press(keys string) {
	p.Helper()
	require.NoError(p, chromedp.Do(p.ctx, chromedp.WaitVisible(chromedp.CSS(".tools")), chromedp.KeyEvent(keys)))
}

func (p *tab) look(name string) {
	p.Helper()
	media := emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{
		{Name: "prefers-color-scheme", Value: name}, {Name: "prefers-reduced-motion", Value: "reduce"}}}
	_, err := chromedp.Call(p.ctx, emulation.SetEmulatedMedia, media)
	require.NoError(p, err)
}

func (p *tab) wide(width int64) {
	p.Helper()
	require.NoError(p, chromedp.Do(p.ctx, chromedp.EmulateViewport(width, 800)))
}

// arrives waits until the page at hand is the one with a name.
func (p *tab) arrives(name string) {
	p.Helper()
	require.Eventually(p, func() bool {
		// While one page gives way to another, neither answers.
		at, err := chromedp.Run(p.ctx, chromedp.Evaluate[string]("location.href + ' ' + document.readyState"))
		return err == nil && strings.Contains(at, name) && strings.HasSuffix(at, "complete")
	}, 20*time.Second, 50*time.Millisecond)
}
