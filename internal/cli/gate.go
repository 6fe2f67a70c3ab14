package cli

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"thrush/internal/core/changed"
	"thrush/internal/core/gate"
	"thrush/internal/core/site"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/recording"
	"thrush/internal/report/facts"
	"thrush/internal/vcs"
)

type gateFlags struct {
	since, diff, against, format string
	require, on, each            string
	where                        []string
}

func (a *app) gateCommand() *cobra.Command {
	var f gateFlags
	c := &cobra.Command{
		Use:   "gate [RECORDING]",
		Short: "Judge the rules: is enough tested?",
		Long: `Judges the rules in thrush.toml, or the one given by --require, and prints each
with what it requires, what was measured and the lines that fall short.

Rules on changed lines need to know what changed: --since a git ref (committed,
staged, unstaged and untracked), or --diff a unified diff.

Exit status: 0 all rules are met, 1 one is not, 2 wrong usage or configuration,
3 no usable recording, or one that is older than the changed files.`,
		Example: `  thrush gate --since main
  thrush gate --require lines=90,branches=80 --on changed --since HEAD~1
  git diff main... | thrush gate --diff -`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error { return a.gate(f, first(args)) },
	}
	c.Flags().StringVar(&f.since, "since", "", "changed lines are those since this git `ref` was left")
	c.Flags().StringVar(&f.diff, "diff", "", "changed lines are those of this unified diff `file`, - for standard input")
	c.Flags().StringVar(&f.against, "against", "", "the baseline `recording` for rules that hold")
	c.Flags().StringVar(&f.require, "require", "", "one `rule` instead of those in thrush.toml, as in lines=90,branches=80")
	c.Flags().StringVar(&f.on, "on", "all", "with --require: all or changed lines")
	c.Flags().StringVar(&f.each, "each", "whole", "with --require: whole, folder, file or function")
	c.Flags().StringSliceVar(&f.where, "where", nil, "with --require: only files that match this `glob` (again for more)")
	formatFlag(c, &f.format)
	return c
}

func (a *app) gate(f gateFlags, name string) error {
	if err := checkFormat(f.format); err != nil {
		return err
	}
	if f.since != "" && f.diff != "" {
		return usage("--since and --diff both say what changed; give one of them")
	}
	p, err := a.project()
	if err != nil {
		return err
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
		return usage("there is no rule to judge; write a [[gate]] into %s (thrush init makes one), or give --require lines=90", project.ConfigName)
	}
	set, err := a.changed(p, f, rules)
	if err != nil {
		return err
	}
	r, err := a.reader(name)
	if err != nil {
		return err
	}
	judged, err := a.judge(r, f, rules, set)
	if err != nil {
		return err
	}
	met := true
	for _, v := range judged {
		met = met && v.Met
	}
	if f.format == "json" {
		if err := a.printJSON(facts.Gate(judged, met)); err != nil {
			return err
		}
	} else {
		a.out.Gate(judged, lineReader(r))
	}
	if !met {
		return &exitError{status: exitNotMet}
	}
	return nil
}

// judge checks that the recording is about the sources at hand and judges.
func (a *app) judge(r *reading.Reader, f gateFlags, rules []gate.Rule, set changed.Set) ([]gate.Verdict, error) {
	if len(r.Recording.Info.Problems) > 0 {
		return nil, usage("a waiver cannot be honoured: %s", strings.Join(r.Recording.Info.Problems, "; "))
	}
	if r.Recording.Info.Processes == 0 {
		return nil, noData("%s", nothingReported(r.Recording.Info.Command))
	}
	if err := deepEnough(r.Recording.Info.Level, rules...); err != nil {
		return nil, err
	}
	onlyChanged := true
	for _, rule := range rules {
		onlyChanged = onlyChanged && rule.On == gate.Changed
	}
	keep := func(path string) bool { return !onlyChanged || set[path] != nil }
	if err := a.upToDate(r, set, keep); err != nil {
		return nil, err
	}
	files, err := r.Files(keep)
	if err != nil {
		return nil, err
	}
	in := gate.Input{Changed: set, Match: project.MatchAny}
	if f.against != "" {
		path, err := resolveName(r.Project, f.against)
		if err != nil {
			return nil, err
		}
		base, err := recording.Open(path)
		if err != nil {
			return nil, &exitError{exitNoData, err}
		}
		was, err := (&reading.Reader{Project: r.Project, Recording: base, Today: r.Today}).Files(nil)
		if err != nil {
			return nil, err
		}
		t := totalsOf(was)
		in.Baseline = &t
	}
	var out []gate.Verdict
	for _, rule := range rules {
		out = append(out, gate.Judge(rule, in, files))
	}
	for _, w := range r.Expired() {
		out = append(out, gate.Expired(project.ConfigName, w.Line, strings.Join(w.Where, ", "), w.Reason, w.Until.Format(time.DateOnly)))
	}
	return out, nil
}

// deepEnough refuses a recording that says nothing of what a rule is about.
func deepEnough(level string, rules ...gate.Rule) error {
	have, ok := site.LevelOf(level)
	if !ok {
		return noData("the recording was made at a level that this Thrush does not know, %q", level)
	}
	for _, rule := range rules {
		if m := rule.Beyond(have); m != "" {
			return noData("%q is about %s, but the recording was made at level %s; record with --level %s", rule.Name, m, have, m.Level())
		}
	}
	return nil
}

// upToDate refuses a recording that is about other texts than those at hand.
func (a *app) upToDate(r *reading.Reader, set changed.Set, keep func(string) bool) error {
	old, err := r.Outdated(keep)
	if err != nil {
		return err
	}
	for path, lines := range set {
		if r.Recording.Find(path) >= 0 {
			if n := r.Mismatch(path, lines); n > 0 {
				return noData("the diff does not fit %s: its line %d is not as the diff says; the recording and the diff must be about the same sources", path, n)
			}
		} else if r.Unrecorded(path) {
			old = append(old, path)
		}
	}
	if len(old) == 0 {
		return nil
	}
	return noData("these files are not as they were when the recording was made, so its lines cannot be judged: %s. Record again", strings.Join(reading.Some(old, 5), ", "))
}

func (f gateFlags) rule() (gate.Rule, error) {
	rule := gate.Rule{Name: f.require, On: gate.On(f.on), Each: gate.Each(f.each), Where: f.where}
	if err := checkWord("on", f.on, "all", "changed"); err != nil {
		return rule, err
	}
	if err := checkWord("each", f.each, "whole", "folder", "file", "function"); err != nil {
		return rule, err
	}
	for _, g := range f.where {
		if err := project.CheckGlob(g); err != nil {
			return rule, &exitError{exitUsage, err}
		}
	}
	for _, part := range strings.Split(f.require, ",") {
		metric, value, _ := strings.Cut(strings.TrimSpace(part), "=")
		percent, err := strconv.ParseFloat(strings.TrimSuffix(value, "%"), 64)
		if err != nil || !(percent >= 0 && percent <= 100) || checkWord("require", metric, "lines", "branches", "functions", "conditions", "independence") != nil {
			return rule, usage("--require is %q; give it as in lines=90,branches=80, with percentages from 0 to 100 of lines, branches, functions, conditions or independence", f.require)
		}
		rule.Minimums = append(rule.Minimums, gate.Minimum{Metric: gate.Metric(metric), Percent: percent})
	}
	return rule, nil
}

// changed finds the changed lines, if a rule asks for them.
func (a *app) changed(p *project.Project, f gateFlags, rules []gate.Rule) (changed.Set, error) {
	asked := ""
	for _, r := range rules {
		if r.On == gate.Changed {
			asked = r.Name
		}
	}
	switch {
	case asked == "":
		return nil, nil
	case f.diff != "":
		return a.readDiff(p, f.diff)
	case f.since == "":
		return nil, usage("the rule %q is about changed lines: say since when, as in --since main, or give --diff FILE", asked)
	}
	set, base, err := changedSince(p, f.since)
	if err == nil {
		a.say("changed since %s, at %s", f.since, base[:min(12, len(base))])
	}
	return set, err
}

func changedSince(p *project.Project, ref string) (set changed.Set, base string, err error) {
	repo, err := vcs.Open(p.Root)
	if err != nil {
		return nil, "", &exitError{exitUsage, err}
	}
	if base, err = repo.Base(ref); err != nil {
		return nil, "", &exitError{exitUsage, err}
	}
	if set, err = repo.ChangedSince(base); err != nil {
		return nil, "", &exitError{exitUsage, err}
	}
	return set, base, nil
}

// readDiff reads a diff whose paths are from the top of the work tree, or from
// the project's root where there is none.
func (a *app) readDiff(p *project.Project, name string) (changed.Set, error) {
	var from io.Reader = os.Stdin
	if name != "-" {
		file := name
		if !filepath.IsAbs(file) {
			file = filepath.Join(a.dir, file)
		}
		f, err := os.Open(file)
		if err != nil {
			return nil, usage("the diff %s cannot be read: %s", name, err)
		}
		defer f.Close()
		from = f
	}
	set, err := vcs.ParseDiff(from)
	if err != nil {
		return nil, &exitError{exitUsage, fmt.Errorf("%s: %w", name, err)}
	}
	if repo, err := vcs.Open(p.Root); err == nil {
		set = repo.Place(set)
	}
	return set, nil
}
