package cli

import (
	"context"
	"strings"

	"thrush/internal/report/output"
	"thrush/internal/report/outputs"
	"thrush/internal/report/prose"

	"github.com/spf13/cobra"
)

type exportFlags struct {
	judgeFlags
	format, by, filter, label, out string
}

func (a *app) exportCommand() *cobra.Command {
	var f exportFlags
	c := &cobra.Command{
		Use:   "export --format " + strings.Join(outputs.Names(), "|") + " [RECORDING...]",
		Short: "Write a recording in a format other programs read",
		Long: `Writes what was recorded for other programs: all of it as JSON (thrush.coverage/1)
or CSV; or, for pipelines, the verdict with the changed lines that are not tested,
as Markdown, SARIF 2.1.0 or JUnit XML. docs/pipelines.md shows what for.

The exit status does not tell whether gates are met; thrush gate does, and writes
the same files.`,
		Example: `  thrush export --format json --out coverage.json
  thrush export --format csv --by function
  thrush export --format markdown --since main`,
		RunE: func(c *cobra.Command, args []string) error { return a.export(c.Context(), f, args) },
	}
	choose(c, &f.format, "format", "json", prose.Or(outputs.Names()), outputs.Names()...)
	choose(c, &f.by, "by", "file", "of csv, what a row is: file, function or line", "file", "function", "line")
	c.Flags().StringVar(&f.filter, "filter", "", "of json and csv: only files that match this `glob`")
	c.Flags().StringVarP(&f.label, "label", "l", "", "of json and csv: only what recordings with this `name` reached counts as run")
	f.judgeFlags.flags(c)
	c.Flags().StringVarP(&f.out, "out", "o", "", "write to this `file` instead of the output")
	return c
}

func (a *app) export(ctx context.Context, f exportFlags, names []string) error {
	if err := f.check(); err != nil {
		return err
	}
	format, _ := outputs.Find(f.format)
	if format.Judged {
		return a.exportVerdict(ctx, f, format, names)
	}
	r, files, err := a.files(names, f.filter, f.label)
	if err != nil {
		return err
	}
	if err := a.hasData(r, len(files)); err != nil {
		return err
	}
	return a.writeAs(format, output.Input{Files: files, Info: r.Recording.Info, By: f.by}, f.out)
}

// exportVerdict writes the verdict. Rules on changed lines are left open if it is not said what
// changed.
func (a *app) exportVerdict(ctx context.Context, f exportFlags, format output.Format, names []string) error {
	p, err := a.judged(f.judgeFlags)
	if err != nil {
		return err
	}
	report, err := a.verdicts(ctx, f.judgeFlags, p.Config.Gates, names, true)
	if err != nil {
		return err
	}
	return a.writeAs(format, output.Input{Report: report, Info: report.Info}, f.out)
}
