package cli

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/report/term"
	"thrush/samples"
)

func (a *app) demoCommand() *cobra.Command {
	var dir string
	c := &cobra.Command{
		Use:   "demo",
		Short: "The whole job on a small sample, in a temporary folder",
		Long: `Takes you through the whole job on a small Go project about a ferry line: record,
tally, source, gaps, a gate that is not met, the missing test, the gate met, the
merging of suites, the conditions of a decision, and the report as pages; then, where there is a C
compiler, a Python, a JDK, a Node and a Chromium, projects in C, in Python, in Java and in
TypeScript. The folders
stay for you to try things in. It needs Go and git.`,
		Args: noWords,
		RunE: func(c *cobra.Command, args []string) error { return a.demo(dir) },
	}
	c.Flags().StringVar(&dir, "to", "", "make the sample in this new `folder`")
	return c
}

// demo runs this very program, as a user would, in a folder of its own.
type demo struct {
	*app
	dir, self string
	step      int
}

func (a *app) demo(dir string) error {
	for _, tool := range []string{"go", "git"} {
		if _, err := exec.LookPath(tool); err != nil {
			return exit.Usagef("the demo needs %s, which was not found", tool)
		}
	}
	self, err := os.Executable()
	if err != nil {
		return err
	}
	if dir == "" {
		if dir, err = os.MkdirTemp("", "skerry-ferries-*"); err != nil {
			return err
		}
	} else if err := os.Mkdir(dir, 0o777); err != nil {
		return exit.Usagef("%s cannot be made: %w", dir, err)
	}
	if dir, err = filepath.Abs(dir); err != nil {
		return err
	}
	d := &demo{app: a, dir: dir, self: self}
	return d.run()
}

func (d *demo) run() error {
	d.tell("Skerry Ferries, a small Go project with tests, is now in\n%s", d.dir)
	if err := samples.Write(samples.Base, d.dir); err != nil {
		return err
	}
	if err := d.git("init", "-q", "-b", "main"); err != nil {
		return err
	}
	if err := d.commit("Fares, loading plans and timetables"); err != nil {
		return err
	}
	type step struct {
		tell string
		args []string
		fail bool
	}
	walk := func(steps ...step) error {
		for _, s := range steps {
			d.tell("%s", s.tell)
			if err := d.thrush(s.fail, s.args...); err != nil {
				return err
			}
		}
		return nil
	}
	if err := walk(
		step{"Record what the tests run. The command is the one you type today; no file is touched.", []string{"record", "--out", "main.thrush", "--", "go", "test", "./..."}, false},
		step{"How much ran, by folder and file. The waived file is out of the totals, with a reason.", []string{"tally"}, false},
		step{"One stretch of source: counts, marks, and what never happened in words.", []string{"source", "fare/fare.go", "--lines", "34-71"}, false},
		step{"What to test next, the most valuable first.", []string{"gaps", "--most", "5"}, false},
	); err != nil {
		return err
	}
	d.tell("Somebody adds fees by tide, without a test. The tests still pass ...")
	if err := d.git("switch", "-q", "-c", "tides"); err != nil {
		return err
	}
	if err := samples.Write(samples.Change, d.dir); err != nil {
		return err
	}
	if err := walk(
		step{"... so record them again.", []string{"record", "--", "go", "test", "./..."}, false},
		step{"But the gate, which a pipeline would run, looks at the changed lines.", []string{"gate", "--since", "main"}, true},
	); err != nil {
		return err
	}
	d.tell("Here comes the missing test: fare/tide_test.go.")
	if err := samples.Write(samples.Test, d.dir); err != nil {
		return err
	}
	if err := walk(
		step{"Record once more, and see the numbers move.", []string{"record", "--", "go", "test", "./..."}, false},
		step{"The gate is met.", []string{"gate", "--since", "main"}, false},
		step{"What moved since main, line by line, though the source changed in between.", []string{"compare", "main.thrush"}, false},
		step{"Suites that run apart, or on several machines, are recorded apart ...", []string{"record", "--quiet", "--label", "fares", "--out", "shards/fares.thrush", "--", "go", "test", "./fare"}, false},
		step{"... each with a label ...", []string{"record", "--quiet", "--label", "decks", "--out", "shards/decks.thrush", "--", "go", "test", "./deck", "./timetable"}, false},
		step{"... and merged. Each line knows by which it was reached.", []string{"merge", "--out", "all.thrush", "shards"}, false},
		step{"So one can ask what a single suite runs.", []string{"tally", "--label", "decks", "--depth", "1", "all.thrush"}, false},
		step{"Look deeper: which operand of which decision never went both ways, or never decided on its own?", []string{"record", "--level", "conditions", "--", "go", "test", "./..."}, false},
		step{"One decision: the ways through it, what each shows, and which a test should take.", []string{"explain", "timetable/timetable.go:28"}, false},
		step{"All recordings so far.", []string{"log"}, false},
		step{"The same as pages, for those who would rather look: open the file in a browser.", []string{"render", "--to", "report", "--since", "main", "--against", "main.thrush"}, false},
	); err != nil {
		return err
	}
	if err := d.elsewhere(func(tell string, args ...string) error { return walk(step{tell, args, false}) }); err != nil {
		return err
	}
	d.tell("That was the whole job. The folder stays; try it there:\n  cd %s\n  %s source fare/fare.go\n  %s explain fare/fare.go:51\nThe pages are in %s", d.dir, d.self, d.self, filepath.Join(d.dir, "report", "index.html"))
	return nil
}

// another is the sample in another language.
type another struct {
	tools []string // that it needs
	new   []string // a command that tells whether they are new enough, or none
	stage string   // of the samples
	name  string
	steps []elsewhere
}

// elsewhere is a step in such a sample.
type elsewhere struct {
	tell string
	args []string
	tool string // that it needs besides; without it what follows is left out
}

var others = []another{
	{[]string{"gcc", "g++", "make"}, nil, samples.Loading, "loading", []elsewhere{
		{"The same for C and C++: loading plans, built by make.", []string{"record", "--level", "conditions", "--", "make", "-s", "check"}, ""},
		{"What dangerous goods still need: one test for each way that would show a condition.", []string{"explain", "plan.c:8"}, ""},
	}},
	{[]string{"python3"}, []string{"python3", "-c", "import sys; sys.exit(sys.version_info < (3, 10))"}, samples.Timetable, "timetable", []elsewhere{
		{"The same for Python: timetables. No plug-in, no option: the command is the one you have.", []string{"record", "--", "python3", "-m", "unittest", "-q"}, ""},
		{"What the tests leave of them.", []string{"source", "timetable/sailings.py", "--lines", "25-44"}, ""},
	}},
	{[]string{"javac", "java", "make"}, []string{"javac", "--release", "17", "-version"}, samples.Fares, "fares", []elsewhere{
		{"The same for Java: fares. It is built in a copy of the project, by whatever you build it with.", []string{"record", "--", "make", "-s", "check"}, ""},
		{"A pattern that names what it finds is a condition like any other.", []string{"source", "src/main/java/skerry/fare/Vehicle.java", "--lines", "12-27"}, ""},
		{"A rule for each package.", []string{"gate"}, ""},
	}},
	{[]string{"node"}, []string{"node", "-e", "process.exit(+(parseInt(process.versions.node) < 20))"}, samples.Booking, "booking", []elsewhere{
		{"The same for TypeScript: booking on the web. What runs is what a compiler made; what counts is what you wrote.",
			[]string{"record", "--label", "unit", "--out", "unit.thrush", "--", "node", "--test", "--test-reporter", "dot", "test/rules.test.js"}, ""},
		{"The rules, as the unit tests leave them.", []string{"source", "src/rules.ts", "--lines", "32-43"}, ""},
		{"Then the page itself, driven in a browser. Its scripts report by themselves.",
			[]string{"record", "--label", "e2e", "--", "node", "--test", "--test-reporter", "dot", "e2e/booking.test.js"}, "chromium"},
		{"What the browser reached that the unit tests did not, and the other way round.", []string{"compare", "unit.thrush"}, ""},
	}},
}

// elsewhere goes on in the other languages, as far as this machine has what they need.
func (d *demo) elsewhere(walk func(tell string, args ...string) error) error {
	home := d.dir
	defer func() { d.dir = home }()
next:
	for _, o := range others {
		for _, tool := range o.tools {
			if _, err := exec.LookPath(tool); err != nil {
				d.tell("There is no %s here, so the sample %s is left out.", tool, o.name)
				continue next
			}
		}
		if len(o.new) > 0 && exec.Command(o.new[0], o.new[1:]...).Run() != nil {
			d.tell("The %s here is too old for the sample %s.", o.new[0], o.name)
			continue
		}
		d.dir = home + "-" + o.name
		if err := os.Mkdir(d.dir, 0o777); err != nil {
			return exit.Usagef("%s cannot be made: %w", d.dir, err)
		}
		if err := samples.Write(o.stage, d.dir); err != nil {
			return err
		}
		for i, s := range o.steps {
			if _, err := exec.LookPath(s.tool); s.tool != "" && err != nil {
				d.tell("There is no %s here, so the rest of the sample %s is left out.", s.tool, o.name)
				break
			}
			if i == 0 {
				s.tell += "\n" + d.dir
			}
			if err := walk(s.tell, s.args...); err != nil {
				return err
			}
		}
	}
	return nil
}

func (d *demo) tell(format string, args ...any) {
	d.step++
	if d.step > 1 {
		fmt.Fprintln(d.out)
	}
	for _, line := range strings.Split(fmt.Sprintf(format, args...), "\n") {
		fmt.Fprintln(d.out, term.Edge("┃ ")+term.Strong(line))
	}
}

// thrush runs a command of Thrush and shows it as it would be typed.
func (d *demo) thrush(mayFail bool, args ...string) error {
	shown := make([]string, len(args))
	copy(shown, args)
	fmt.Fprintln(d.out, term.Faint("$ thrush "+strings.Join(shown, " ")))
	cmd := exec.Command(d.self, args...)
	cmd.Dir = d.dir
	cmd.Env = append(os.Environ(), "PWD="+d.dir, "GOWORK=off")
	cmd.Stdout, cmd.Stderr = os.Stdout, os.Stderr
	err := cmd.Run()
	var exit *exec.ExitError
	if errors.As(err, &exit) && mayFail {
		fmt.Fprintln(d.out, term.Faint(fmt.Sprintf("(exit status %d)", exit.ExitCode())))
		return nil
	}
	if err != nil {
		return fmt.Errorf("thrush %s: %w", strings.Join(args, " "), err)
	}
	return nil
}

func (d *demo) commit(message string) error {
	if err := d.git("add", "-A"); err != nil {
		return err
	}
	return d.git("commit", "-q", "-m", message)
}

func (d *demo) git(args ...string) error {
	cmd := exec.Command("git", append([]string{"-c", "user.name=Skerry Ferries", "-c", "user.email=crew@skerry.example",
		"-c", "commit.gpgsign=false", "-c", "core.hooksPath=/dev/null"}, args...)...)
	cmd.Dir = d.dir
	cmd.Env = append(os.Environ(), "GIT_AUTHOR_DATE=2026-03-02T08:00:00Z", "GIT_COMMITTER_DATE=2026-03-02T08:00:00Z")
	if text, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("git %s: %s", args[0], strings.TrimSpace(string(text)))
	}
	return nil
}
