package cli

import (
	"context"

	"github.com/spf13/cobra"

	"thrush/internal/baseline"
	"thrush/internal/core/gate"
	"thrush/internal/exit"
	"thrush/internal/history"
	"thrush/internal/judge"
	"thrush/internal/launch"
	"thrush/internal/project"
	"thrush/internal/vcs"
)

// judgeFlags say by what a recording is judged. All commands that draw verdicts have them all,
// so that none of them says something else than thrush gate does.
type judgeFlags struct {
	changing
	against, branch string
	strict          bool
	store           storeFlag
	rulesOf         string
}

func (f *judgeFlags) flags(c *cobra.Command) {
	c.Flags().StringVar(&f.since, "since", "", "changed lines are those since this git `ref` was left")
	c.Flags().StringVar(&f.diff, "diff", "", "changed lines are those of this unified diff `file`, - for standard input")
	c.Flags().StringVar(&f.against, "against", "", "the baseline: this `recording`, for rules that hold, and to show what moved")
	c.Flags().StringVar(&f.branch, "against-branch", "", "the baseline: the latest recording of this `branch`")
	c.Flags().BoolVar(&f.strict, "strict", false, "rules that hold are not met without a baseline, nor rules on changed lines where changed sources are unmeasured")
	c.Flags().StringVar(&f.rulesOf, "rules-of", "", "judge by the configuration, with its rules and waivers, and the floors of this git `ref`, whatever the change says")
	f.store.flag(c)
}

func (f judgeFlags) check() error {
	if f.against != "" && f.branch != "" {
		return exit.Usagef("--against and --against-branch both name the baseline; give one of them")
	}
	return f.changing.check()
}

// judged opens the project, by what the flags say it is judged by.
func (a *app) judged(f judgeFlags) (*project.Project, error) {
	if err := f.check(); err != nil {
		return nil, err
	}
	p, err := a.project()
	if err != nil || f.rulesOf == "" {
		return p, err
	}
	repo, err := vcs.Open(p.Root)
	if err != nil {
		return nil, exit.With(exit.Usage, err)
	}
	commit, err := repo.Resolve(f.rulesOf)
	if err != nil {
		return nil, exit.With(exit.Usage, err)
	}
	if a.at, err = p.As(func(name string) ([]byte, error) { return repo.File(commit, name) }); err != nil {
		return nil, exit.Usagef("the configuration of %s: %w", f.rulesOf, err)
	}
	return a.at, nil
}

// caseOf gathers what is judged: the recordings that are named, or the latest.
func (a *app) caseOf(f judgeFlags, rules []gate.Rule, names []string) (c judge.Case, err error) {
	p, err := a.project()
	if err != nil {
		return c, err
	}
	c = judge.Case{Rules: rules, Strict: f.strict, Baseline: baseline.Choice{Branch: f.branch, Since: f.since, IsSource: isSource,
		Store: func(ctx context.Context) (*history.Store, error) { return a.openStore(ctx, p, f.store, false) }}}
	if c.Changed, err = a.changed(p, f.changing); err != nil {
		return c, err
	}
	if len(names) == 0 {
		c.Doubt = cutOff(p)
	}
	if c.Reader, err = a.reader(names...); err != nil {
		return c, err
	}
	if f.against != "" {
		c.Baseline.Named, err = a.reader(f.against)
	}
	return c, err
}

// verdicts judges rules, and the totals of everything if whole is wanted. What cannot be judged is
// an error.
func (a *app) verdicts(ctx context.Context, f judgeFlags, rules []gate.Rule, names []string, whole bool) (*judge.Report, error) {
	c, err := a.caseOf(f, rules, names)
	if err != nil {
		return nil, err
	}
	c.Whole = whole
	if c.Reader.Recording.Info.Processes == 0 && c.Doubt == nil {
		c.Doubt = exit.With(exit.NoData, nothingReported(c.Reader.Recording, nil))
	}
	report, err := judge.Run(ctx, c)
	if err != nil {
		return nil, err
	}
	if report.Refused != nil {
		return nil, report.Refused
	}
	a.noBaseline(report)
	return report, nil
}

func (a *app) noBaseline(r *judge.Report) {
	if r.NoBase != "" {
		a.say("no baseline: %s", r.NoBase)
	}
}

// cutOff refuses to take the latest recording for that of a record which came later and kept
// none, as its Thrush was killed or its disk was full.
func cutOff(p *project.Project) error {
	runs, err := p.Existing("runs")
	if runs == nil {
		return err
	}
	defer runs.Close()
	number, err := p.Number()
	for _, left := range launch.LeftBehind(runs.Path()) {
		if err == nil && left.Number > number {
			return exit.NoDataf("a later record than the latest recording was cut off before it kept one; to judge what it counted: thrush gather --from %s; to judge an earlier one, name it", left.Path)
		}
	}
	return err
}
