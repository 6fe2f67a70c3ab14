// Package cli is the command line: each file parses one command's words, calls
// the packages that do the work, and has the outcome drawn. It computes nothing.
package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/lang/cfamily/wrapper"
	"thrush/internal/languages"
	"thrush/internal/project"
	"thrush/internal/report/prose"
	"thrush/internal/report/term"
	"thrush/internal/version"
)

// safely makes what is put into a message harmless: names, labels and reasons may hold
// anything. It is the one gate on the way of all messages; drawings make safe what they draw.
func safely(args []any) []any {
	out := make([]any, len(args))
	for i, arg := range args {
		switch x := arg.(type) {
		case string:
			out[i] = prose.Safe(x)
		case error:
			out[i] = prose.Safe(x.Error())
		default:
			out[i] = x
		}
	}
	return out
}

// app is what the commands share.
type app struct {
	out, err *term.Out
	dir      string // where Thrush was started
	quiet    bool
	at       *project.Project // at hand, once it was looked for
}

// Main runs Thrush with the words after its name and gives its exit status.
func Main(args []string) int {
	if wrapper.Called(os.Args[0]) {
		return wrapper.Main(os.Args)
	}
	a := &app{out: term.Stdout(), err: term.Stderr()}
	root := a.root()
	root.SetArgs(args)
	var err error
	if a.dir, err = os.Getwd(); err == nil {
		err = root.ExecuteContext(context.Background())
	}
	if full := a.out.Err(); err == nil && full != nil {
		err = exit.Usagef("the results cannot be written: %s", full)
	}
	if err == nil {
		return exit.Good
	}
	a.complain(err)
	return exit.Status(err)
}

// complain prints what went wrong: each of several errors, and each of several causes, on a
// line of its own. Nothing else begins a line: what an error names may hold whatever it likes.
func (a *app) complain(err error) {
	if several, ok := err.(interface{ Unwrap() []error }); ok {
		for _, one := range several.Unwrap() {
			a.complain(one)
		}
		return
	}
	var list *causes
	if errors.As(err, &list) {
		a.warnOf(list)
	} else if text := err.Error(); text != "" {
		a.warn("%s", text)
	}
}

// causes are a finding, and what is likely to have caused it.
type causes struct {
	found string
	list  []string
}

func (c *causes) Error() string { return c.found + " " + strings.Join(c.list, "; or ") }

// warnOf prints a finding with its causes, a line each.
func (a *app) warnOf(c *causes) {
	a.warn("%s", c.found)
	for _, one := range c.list {
		fmt.Fprintf(a.err, "  - %s\n", prose.Safe(one))
	}
}

// wrongFlag ends a command whose flags are wrong: with 125 where 2 may be what the user's own
// command ends with.
func wrongFlag(c *cobra.Command, err error) error {
	if c.Name() == "record" || c.Name() == "build" {
		return failed(err)
	}
	return err
}

// Root are all commands, for those who document them.
func Root() *cobra.Command {
	a := &app{out: term.Stdout(), err: term.Stderr()}
	root := a.root()
	root.InitDefaultCompletionCmd()
	return root
}

func (a *app) root() *cobra.Command {
	root := &cobra.Command{
		Use:   "thrush",
		Short: "Tells what your tests ran, and stops a change that is not tested well enough",
		Long: `Thrush tells what your tests ran, and stops a change that is not tested well enough.

  thrush record -- go test ./...    run the tests, keep what they ran
  thrush gaps                       what to test next
  thrush source FILE                a file with what ran beside each line
  thrush gate --since main          are the changed lines tested?
  thrush render --to DIR            all of it as pages
  thrush compare RECORDING          what moved since an earlier recording (thrush log)

thrush demo shows the whole of it on a small sample, in a temporary folder.`,
		Version:       version.String(),
		SilenceErrors: true,
		SilenceUsage:  true,
	}
	root.Args = cobra.ArbitraryArgs
	root.RunE = func(c *cobra.Command, args []string) error {
		if len(args) > 0 {
			return exit.Usagef("there is no command %q%s; thrush --help lists them", args[0], meant(commandNames(c), args[0], "thrush "))
		}
		return c.Help()
	}
	root.SetOut(a.out)
	root.SetErr(a.err)
	root.SetVersionTemplate("thrush {{.Version}}\n")
	root.PersistentFlags().BoolVarP(&a.quiet, "quiet", "q", false, "print results and errors only")
	root.PersistentFlags().BoolFunc("ascii", "draw marks in ASCII: # + - ~ for full, part, none, waived", func(string) error {
		a.out.ASCII()
		a.err.ASCII()
		return nil
	})
	root.SetFlagErrorFunc(func(c *cobra.Command, err error) error {
		return wrongFlag(c, flagError(c, err))
	})
	root.PersistentPreRunE = func(c *cobra.Command, _ []string) error { return wrongFlag(c, saidEmpty(c)) }
	for _, g := range []struct {
		id, title string
		commands  []*cobra.Command
	}{
		{"measure", "Measure", []*cobra.Command{a.recordCommand(), a.buildCommand(), a.gatherCommand(), a.envCommand()}},
		{"look", "Look", []*cobra.Command{a.tallyCommand(), a.sourceCommand(), a.gapsCommand(), a.explainCommand(), a.compareCommand(), a.renderCommand(), a.badgeCommand(), a.exportCommand()}},
		{"judge", "Judge", []*cobra.Command{a.gateCommand()}},
		{"many", "Many recordings", []*cobra.Command{a.mergeCommand(), a.logCommand(), a.keepCommand(), a.dropCommand(), a.pushCommand(), a.pullCommand()}},
		{"begin", "Begin", []*cobra.Command{a.initCommand(), a.configCommand(), a.demoCommand()}},
	} {
		root.AddGroup(&cobra.Group{ID: g.id, Title: g.title + ":"})
		for _, c := range g.commands {
			c.GroupID = g.id
			root.AddCommand(c)
		}
	}
	root.AddCommand(weaveOutputCommand(), a.planOfCommand())
	cobra.EnableCommandSorting = false // the order above is the one they are used in
	root.SetHelpCommandGroupID("begin")
	root.SetCompletionCommandGroupID("begin")
	return root
}

func commandNames(root *cobra.Command) (out []string) {
	for _, c := range root.Commands() {
		if !c.Hidden {
			out = append(out, c.Name())
		}
	}
	return out
}

// project opens the project at hand.
func (a *app) project() (*project.Project, error) {
	if a.at == nil {
		p, err := project.Find(a.dir)
		if err != nil {
			return nil, exit.With(exit.Usage, err)
		}
		a.at = p
	}
	return a.at, nil
}

// path is where a path given on the command line leads.
func (a *app) path(name string) string {
	if filepath.IsAbs(name) {
		return name
	}
	return filepath.Join(a.dir, name)
}

// say prints a line about how things go.
func (a *app) say(format string, args ...any) {
	if !a.quiet {
		fmt.Fprintf(a.err, format+"\n", safely(args)...)
	}
}

// warn prints a line about something that needs looking at.
func (a *app) warn(format string, args ...any) {
	fmt.Fprintf(a.err, "thrush: "+format+"\n", safely(args)...)
}

// isSource tells whether a path is one of source code, be it a test's.
func isSource(path string) bool { return languages.Classify(path) != project.Ignored }

// counts tells which paths would be measured, by the rules that need no look
// into the file.
func counts(p *project.Project) func(path string) bool {
	return func(path string) bool { return languages.Classify(path) == project.Source && !skipped(p, path) }
}

// leftOut tells which paths are of source code, but of no test, that would not be.
func leftOut(p *project.Project) func(path string) bool {
	return func(path string) bool {
		class := languages.Classify(path)
		return class == project.Vendored || class == project.Source && skipped(p, path)
	}
}

// skipped tells whether a path is left out by the configuration, or lies where nobody looks.
func skipped(p *project.Project, path string) bool {
	return !project.MatchAny(p.Config.Only, path) || project.MatchAny(p.Config.Skip, path) || project.Hidden(path)
}
