package cli

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/core/coverage"
	"thrush/internal/core/tally"
	"thrush/internal/exit"
	"thrush/internal/reading"
	"thrush/internal/report/documents"
	"thrush/internal/report/prose"
	"thrush/internal/report/term"
)

type tallyFlags struct {
	by, sort, filter, label, format string
	depth                           int
	unmeasured                      bool
}

func (a *app) tallyCommand() *cobra.Command {
	var f tallyFlags
	c := &cobra.Command{
		Use:   "tally [RECORDING...]",
		Short: "How much ran, by folder, file or function",
		RunE: func(c *cobra.Command, args []string) error {
			return a.tally(f, args)
		},
	}
	choose(c, &f.by, "by", "folder", "what a row is: folder (as a tree), file or function", "folder", "file", "function")
	choose(c, &f.sort, "sort", "name", "order of files or functions: name, missing (most lines left first), or a metric, the least first: "+prose.Or(coverage.Names()),
		append([]string{"name", "missing"}, coverage.Names()...)...)
	c.Flags().StringVar(&f.filter, "filter", "", "only files that match this `glob`")
	labelFlag(c, &f.label)
	c.Flags().IntVar(&f.depth, "depth", 0, "levels of folders to show, 0 for all")
	c.Flags().BoolVar(&f.unmeasured, "unmeasured", false, "list the files that could not be measured, and why")
	formatFlag(c, &f.format)
	return c
}

func formatFlag(c *cobra.Command, to *string) {
	choose(c, to, "format", "text", "text or json", "text", "json")
}

// files reads the files of recordings, the latest if none is named, that match a
// glob, all if there is none; if a label is given, only what it reached ran.
func (a *app) files(names []string, glob, label string) (*reading.Reader, []*coverage.File, error) {
	names, sources := a.divided(names)
	r, err := a.reader(names...)
	if err != nil {
		return nil, nil, err
	}
	if err := onlyBy(r, label); err != nil {
		return nil, nil, err
	}
	keep, err := a.only(r, sources, glob)
	if err != nil {
		return nil, nil, err
	}
	files, err := r.Files(keep)
	return r, files, err
}

func labelFlag(c *cobra.Command, to *string) {
	c.Flags().StringVarP(to, "label", "l", "", "only what recordings with this `name` reached counts as run")
}

// onlyBy has only what a label reached count as run.
func onlyBy(r *reading.Reader, label string) error {
	if label == "" {
		return nil
	}
	labels := r.Recording.Info.Labels
	if !slices.Contains(labels, label) {
		return exit.NoDataf("no recording in it has the label %q; those there are: %s", label, cmp.Or(strings.Join(labels, ", "), "none"))
	}
	r.Label = label
	return nil
}

func (a *app) tally(f tallyFlags, names []string) error {
	if err := atLeast("depth", f.depth, 0); err != nil {
		return err
	}
	r, files, err := a.files(names, f.filter, f.label)
	if err != nil {
		return err
	}
	if f.format == "json" && (f.unmeasured || r.Recording.Info.Processes > 0 || r.Recording.Len() == 0) {
		return a.printJSON(documents.Tally(files, r.Recording.Info))
	}
	if f.unmeasured && len(r.Recording.Info.Unmeasured)+len(r.Recording.Info.Generated) > 0 {
		return a.unmeasured(r)
	}
	if err := a.hasData(r, len(files)); err != nil {
		return err
	}
	if f.unmeasured {
		return a.unmeasured(r)
	}
	total := term.Row{Name: "total", Totals: totalsOf(files)}
	if f.by == "folder" && f.sort == "name" {
		total.Name = "total"
		a.out.Tally("", treeRows(tally.Tree(reading.Items(files)), f.depth), total)
		return nil
	}
	a.out.Tally("", flatRows(f, files), total)
	return nil
}

func treeRows(n *tally.Node, depth int) []term.Row {
	var rows []term.Row
	var walk func(n *tally.Node, level int)
	walk = func(n *tally.Node, level int) {
		for _, c := range n.Children {
			if depth > 0 && (level >= depth || !c.Folder) {
				continue
			}
			name := c.Name
			if c.Folder {
				name += "/"
			}
			rows = append(rows, term.Row{Name: name, Indent: level, Strong: c.Folder, Totals: c.Totals})
			walk(c, level+1)
		}
	}
	walk(n, 0)
	return rows
}

func flatRows(f tallyFlags, files []*coverage.File) []term.Row {
	var rows []term.Row
	switch f.by {
	case "folder":
		for _, i := range tally.Folders(reading.Items(files)) {
			rows = append(rows, term.Row{Name: i.Path + "/", Totals: i.Totals})
		}
	case "file":
		for _, x := range files {
			rows = append(rows, term.Row{Name: x.Path, Totals: x.Totals})
		}
	case "function":
		for _, x := range files {
			for _, fn := range x.Named() {
				rows = append(rows, term.Row{Name: fmt.Sprintf("%s:%d %s", x.Path, fn.Span.Start.Line, fn.Name), Totals: fn.Totals})
			}
		}
	}
	share := func(t coverage.Totals) int { return t.Of(coverage.Metric(f.sort)).HundredthsPercent() }
	switch f.sort {
	case "name":
	case "missing":
		slices.SortStableFunc(rows, func(a, b term.Row) int {
			return cmp.Compare(b.Totals.Of(coverage.Lines).Missing(), a.Totals.Of(coverage.Lines).Missing())
		})
	default:
		slices.SortStableFunc(rows, func(a, b term.Row) int { return cmp.Compare(share(a.Totals), share(b.Totals)) })
	}
	return rows
}

func (a *app) unmeasured(r *reading.Reader) error {
	info := r.Recording.Info
	if len(info.Unmeasured) == 0 {
		fmt.Fprintln(a.out, "every source file was measured")
	}
	for _, u := range info.Unmeasured {
		fmt.Fprintf(a.out, "%s: %s\n", prose.Safe(u.Path), prose.Safe(u.Reason))
	}
	if len(info.Generated) > 0 {
		fmt.Fprintln(a.out, "\nnot counted, since nobody here wrote them:")
	}
	for _, g := range info.Generated {
		fmt.Fprintf(a.out, "%s: %s\n", prose.Safe(g.Path), prose.Safe(g.Reason))
	}
	return nil
}
