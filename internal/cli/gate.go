package cli

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/baseline"
	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/exit"
	"thrush/internal/project"
	"thrush/internal/report/documents"
	"thrush/internal/report/prose"
)

type gateFlags struct {
	judgeFlags
	besides           besides
	format            string
	require, on, each string
	where             []string
	raise, explain    bool
}

func (a *app) gateCommand() *cobra.Command {
	var f gateFlags
	c := &cobra.Command{
		Use:   "gate [RECORDING...]",
		Short: "Judge the rules: is enough tested?",
		Long: `Judges the rules in thrush.toml, or the one given by --require, and prints each
with what it requires, what was measured and the lines that fall short.

Rules on changed lines need to know what changed: --since a git ref (committed,
staged, unstaged and untracked), or --diff a unified diff.

Changed sources that could not be measured are named beside the verdict; with
--strict, or where a rule says unmeasured = "fails", the rule is not met then.

Rules that hold compare with a baseline: --against a recording, --against-branch
the latest of a branch, the floor file thrush-floor.json if there is one, or else
the recording of the nearest commit the work began from, kept here or in the
history store (see thrush push).

Exit status: 0 all rules are met, 1 one is not, 2 wrong usage or configuration,
3 no usable recording, or one that is older than the changed files.`,
		Example: `  thrush gate --since main
  thrush gate --require lines=90,branches=80 --on changed --since HEAD~1
  git diff main... | thrush gate --diff -
  thrush gate --since main --markdown comment.md --sarif notes.sarif --junit gates.xml`,
		RunE: func(c *cobra.Command, args []string) error { return a.gate(c.Context(), f, args) },
	}
	f.judgeFlags.flags(c)
	c.Flags().BoolVar(&f.raise, "raise", false, "if all rules are met, write what they hold to thrush-floor.json, which never falls")
	c.Flags().BoolVar(&f.explain, "explain", false, "say of each rule where it stands, what it looks at and how it is reckoned")
	f.besides = besides{}
	f.besides.flags(c)
	c.Flags().BoolVar(&a.out.All, "all", false, "list all that falls short, not only the first of it")
	c.Flags().StringVar(&f.require, "require", "", "one `rule` instead of those in thrush.toml, as in lines=90,branches=80")
	choose(c, &f.on, "on", "all", "with --require: all or changed lines", "all", "changed")
	choose(c, &f.each, "each", "whole", "with --require: whole, folder, file or function", "whole", "folder", "file", "function")
	c.Flags().StringSliceVar(&f.where, "where", nil, "with --require: only files that match this `glob` (repeatable)")
	formatFlag(c, &f.format)
	return c
}

func (a *app) gate(ctx context.Context, f gateFlags, names []string) error {
	p, err := a.judged(f.judgeFlags)
	if err != nil {
		return err
	}
	if f.raise && f.rulesOf != "" {
		return exit.Usagef("--raise writes the floors of the sources at hand, and --rules-of judges by others; give one of them")
	}
	rules := p.Config.Gates
	if f.require != "" {
		rule, err := f.rule()
		if err != nil {
			return err
		}
		rules = []gate.Rule{rule}
	}
	if len(rules) == 0 {
		return exit.Usagef("there is no rule to judge; write a [[gate]] into %s (thrush init makes one), or give --require lines=90", project.ConfigName)
	}
	for _, r := range rules {
		if r.On == gate.Changed && !f.known() {
			return exit.Usagef("the rule %q is about changed lines: say since when, as in --since main, or give --diff FILE", r.Name)
		}
	}
	report, err := a.verdicts(ctx, f.judgeFlags, rules, names, f.besides.any())
	if err != nil {
		return err
	}
	if err := a.writeBesides(f.besides, report); err != nil {
		return err
	}
	if len(report.Rules) > 0 && f.rulesOf == "" {
		a.warn("what is judged changes what it is judged by: %s; --rules-of judges by what another ref says", strings.Join(report.Rules, ", "))
	}
	met := !report.Count().Fails()
	switch {
	case f.format == "json":
		if err := a.printJSON(documents.Gate(report)); err != nil {
			return err
		}
	case f.explain:
		a.out.ExplainGate(report, explainRules(p, f, rules))
	default:
		a.out.Gate(report)
	}
	if f.raise && met {
		return a.raise(p, report.Floors)
	}
	if f.raise {
		a.warn("%s stays as it is: a rule is not met", baseline.FloorName)
	}
	if !met {
		return exit.With(exit.NotMet, nil)
	}
	return nil
}

// explainRules says of each rule where it stands and what it asks for.
func explainRules(p *project.Project, f gateFlags, rules []gate.Rule) [][2]string {
	var out [][2]string
	for i, r := range rules {
		at := "given by --require"
		if f.require == "" {
			at = p.Config.GateAt(i)
		}
		out = append(out, [2]string{at, project.Says(r)})
	}
	return slices.Clip(out)
}

func (f gateFlags) rule() (gate.Rule, error) {
	rule := gate.Rule{Name: f.require, On: gate.On(f.on), Each: gate.Each(f.each), Where: f.where}
	for _, g := range f.where {
		if err := project.CheckGlob(g); err != nil {
			return rule, exit.With(exit.Usage, err)
		}
	}
	for _, part := range strings.Split(f.require, ",") {
		metric, value, _ := strings.Cut(strings.TrimSpace(part), "=")
		percent, err := strconv.ParseFloat(strings.TrimSuffix(value, "%"), 64)
		if err != nil || !(percent >= 0 && percent <= 100) || !slices.Contains(coverage.Names(), metric) {
			return rule, exit.Usagef("--require is %q; give it as in lines=90,branches=80, with percentages from 0 to 100 of %s", f.require, prose.Or(coverage.Names()))
		}
		rule.Minimums = append(rule.Minimums, gate.Minimum{Metric: coverage.Metric(metric), Percent: percent})
	}
	return rule, nil
}
