package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"time"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/judge"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/recording"
	"thrush/internal/report/pages"
	"thrush/internal/report/palette"
	"thrush/internal/report/prose"
	"thrush/internal/report/term"
)

type renderFlags struct {
	judgeFlags
	to, single, trend string
	open              bool
}

// largeSingle is the size, in bytes, from which a single file is slow to open.
const largeSingle = 64 << 20

func (a *app) renderCommand() *cobra.Command {
	var f renderFlags
	c := &cobra.Command{
		Use:   "render --to FOLDER | --single FILE [RECORDING...]",
		Short: "Draw pages to open in a browser",
		Long: `Draws a recording as pages: an overview with the gates' verdict, what to test
next, a map and a table, and the source of each file with what ran. They open
straight from the disk and need nothing from elsewhere, so the folder can be
kept by a pipeline or put on a web server as it is.

The folder must be new, empty, or of an earlier render: then pages that are no
longer needed are removed. Other files are never touched.`,
		Example: `  thrush render --to report --open
  thrush render --to report --since main --against baseline.thrush
  thrush render --single report.html`,
		RunE: func(c *cobra.Command, args []string) error { return a.render(c.Context(), f, args) },
	}
	c.Flags().StringVar(&f.to, "to", "", "draw into this `folder`")
	c.Flags().StringVar(&f.single, "single", "", "draw into this one `file`, to send to somebody")
	f.judgeFlags.flags(c)
	c.Flags().StringVar(&f.trend, "trend", "", "draw how the recordings of this `branch` in the history store went, instead of those kept here")
	c.Flags().BoolVar(&f.open, "open", false, "open the report in the browser, where there is a desktop")
	return c
}

func (a *app) render(ctx context.Context, f renderFlags, names []string) error {
	if (f.to == "") == (f.single == "") {
		return exit.Usagef("say where to draw: --to FOLDER, or --single FILE")
	}
	p, err := a.judged(f.judgeFlags)
	if err != nil {
		return err
	}
	c, err := a.caseOf(f.judgeFlags, p.Config.Gates, names)
	if err != nil {
		return err
	}
	r := c.Reader
	if err := a.hasData(r, r.Recording.Len()); err != nil {
		return err
	}
	o, err := a.pageOptions(ctx, f, c)
	if err != nil {
		return err
	}
	draw, where := pages.ToFolder, a.path(f.to)
	if f.single != "" {
		draw, where = pages.ToFile, a.path(f.single)
	}
	done := a.bar("drawing", &o.Progress)
	result, err := draw(r, where, o)
	done()
	if err != nil {
		if errors.Is(err, pages.ErrForeign) {
			return exit.Usagef("%w", err)
		}
		if errors.As(err, new(*recording.DamagedError)) {
			return err
		}
		return exit.Usagef("the report cannot be written: %w", err)
	}
	if result.Stale > 0 {
		a.warn("%s no longer as recorded: the pages show numbers without the text; record again to see it", prose.Plural(result.Stale, "file is", "files are"))
	}
	a.say("drew %s", prose.Plural(result.Pages, "page", "pages"))
	if info, err := os.Stat(result.First); err == nil && f.single != "" && info.Size() > largeSingle {
		a.say("the file has %d MB, which a browser takes a while to open; --to FOLDER opens at once", info.Size()>>20)
	}
	fmt.Fprintln(a.out, prose.Safe(shortest(a.dir, result.First)))
	if f.open {
		a.openPage(result.First)
	}
	return nil
}

// pageOptions gathers what the pages show besides the recording.
func (a *app) pageOptions(ctx context.Context, f renderFlags, c judge.Case) (o pages.Options, err error) {
	r := c.Reader
	o = pages.Options{Palette: palette.Default().With(r.Project.Config.Looks), Changed: c.Changed, Since: f.since, Against: c.Baseline.Named}
	for _, weak := range o.Palette.Weak() {
		a.warn("%s: looks.%s", project.ConfigName, weak)
	}
	if o.Judge, err = judge.Begin(ctx, c); err != nil {
		return o, err
	}
	if c.Changed != nil {
		if err := judge.UpToDate(r, c.Changed, func(path string) bool { return c.Changed[path] != nil }); err != nil {
			return o, err
		}
	}
	return o, a.trend(ctx, f, r, &o)
}

// mostPoints is how many recordings a trend shows.
const mostPoints = 60

// trend finds the recordings that can be seen as a series with the one that is drawn.
func (a *app) trend(ctx context.Context, f renderFlags, r *reading.Reader, o *pages.Options) error {
	find := logFlags{most: 10 * mostPoints, branch: f.trend, stored: f.trend != "", store: f.store}
	list, _, err := a.listed(ctx, r.Project, find)
	if err != nil {
		return err
	}
	list = slices.DeleteFunc(list, func(k reading.Kept) bool { return !slices.Equal(k.Info.Labels, r.Recording.Info.Labels) })
	list = alike(list)
	for _, k := range list[max(0, len(list)-mostPoints):] {
		o.Trend = append(o.Trend, pages.Point{When: k.Info.When, ID: k.ID, Commit: k.Info.Commit, Totals: k.Totals})
	}
	o.TrendOf = "recordings kept here"
	if f.trend != "" {
		o.TrendOf = "recordings of " + f.trend
	}
	o.TrendOf = fmt.Sprintf("The last %d %s", len(o.Trend), o.TrendOf)
	if len(r.Recording.Info.Labels) > 0 {
		o.TrendOf += " labelled " + strings.Join(r.Recording.Info.Labels, ", ")
	}
	o.TrendOf += "."
	return nil
}

// bar shows how far something has come and what is under way, on a terminal and if it takes
// a while.
func (a *app) bar(what string, progress *func(done, total int, at string)) (finish func()) {
	if !a.err.Terminal || a.quiet {
		return func() {}
	}
	var bar *progressbar.ProgressBar
	start := time.Now()
	*progress = func(done, total int, at string) {
		if bar == nil && time.Since(start) > 300*time.Millisecond {
			bar = progressbar.NewOptions(total, progressbar.OptionSetWriter(os.Stderr),
				progressbar.OptionSetDescription(what), progressbar.OptionClearOnFinish(),
				progressbar.OptionSetWidth(30), progressbar.OptionShowCount(),
				progressbar.OptionSetTheme(progressbar.Theme{Saucer: "▮", SaucerPadding: "▯", BarStart: "", BarEnd: ""}))
		}
		if bar != nil {
			bar.Describe(what + " " + term.Middle(prose.Safe(at), 30))
			_ = bar.Set(done)
		}
	}
	return func() {
		if bar != nil {
			_ = bar.Finish()
		}
	}
}

// shortest is a path from a folder, if that is in it, or else the path itself.
func shortest(dir, path string) string {
	if rel, err := filepath.Rel(dir, path); err == nil && filepath.IsLocal(rel) {
		return rel
	}
	return path
}

// openPage opens a page as the desktop does. Where there is none, the path that
// was printed has to do.
func (a *app) openPage(path string) {
	opener := "xdg-open"
	switch {
	case runtime.GOOS == "darwin":
		opener = "open"
	case runtime.GOOS == "windows":
		opener = "explorer"
	case os.Getenv("DISPLAY") == "" && os.Getenv("WAYLAND_DISPLAY") == "":
		a.say("there is no desktop here to open it on")
		return
	}
	if err := exec.Command(opener, path).Start(); err != nil {
		a.warn("the report could not be opened: %s", err)
	}
}
