package cli

import (
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/exit"
	"thrush/internal/judge"
	"thrush/internal/report/badge"
	"thrush/internal/report/palette"
	"thrush/internal/report/prose"
)

type badgeFlags struct {
	metric, label, filter, out, steps string
}

func (a *app) badgeCommand() *cobra.Command {
	var f badgeFlags
	c := &cobra.Command{
		Use:   "badge [RECORDING...]",
		Short: "Draw a number as a small picture for the project's front page",
		Long: `Prints a picture (SVG) with a metric as a gauge and a percentage, rounded down.
Its colour follows the value, from the palette in thrush.toml. docs/badge.md
has the HTML and Markdown to show it with.`,
		Example: `  thrush badge --out badge.svg
  thrush badge --metric branches --label "fares: branches" --filter 'fare/**' --out fares.svg`,
		RunE: func(c *cobra.Command, args []string) error {
			if !c.Flags().Changed("label") {
				d, _ := coverage.Metric(f.metric).Find()
				f.label = d.Badge
			}
			return a.badge(f, args)
		},
	}
	choose(c, &f.metric, "metric", "lines", "what to show: "+prose.Or(coverage.Names()), coverage.Names()...)
	c.Flags().StringVar(&f.label, "label", "", "the `words` on it (default the metric)")
	c.Flags().StringVar(&f.filter, "filter", "", "only files that match this `glob`")
	c.Flags().StringVar(&f.steps, "steps", "60,90", "the `percentages` from which the colour is that of part, and of ran")
	c.Flags().StringVarP(&f.out, "out", "o", "", "write to this `file` instead of the output")
	return c
}

func (a *app) badge(f badgeFlags, names []string) error {
	steps, err := readSteps(f.steps)
	if err != nil {
		return err
	}
	r, files, err := a.files(names, f.filter, "")
	if err != nil {
		return err
	}
	if err := a.hasData(r, len(files)); err != nil {
		return err
	}
	if err := judge.DeepEnough(r.Recording.Info.Level, gate.Rule{Name: "badge", Hold: []coverage.Metric{coverage.Metric(f.metric)}}); err != nil {
		return err
	}
	ratio := totalsOf(files).Of(coverage.Metric(f.metric))
	svg := badge.Draw(f.label, ratio, palette.Default().With(r.Project.Config.Looks), steps)
	return a.put(f.out, []byte(svg))
}

func readSteps(s string) (badge.Steps, error) {
	low, high, ok := strings.Cut(s, ",")
	part, err := strconv.ParseFloat(strings.TrimSpace(low), 64)
	ran, err2 := strconv.ParseFloat(strings.TrimSpace(high), 64)
	if !ok || err != nil || err2 != nil || !(0 <= part && part <= ran && ran <= 100) {
		return badge.Steps{}, exit.Usagef("--steps is %q; give two percentages, as in 60,90", s)
	}
	return badge.Steps{Part: part, Ran: ran}, nil
}
