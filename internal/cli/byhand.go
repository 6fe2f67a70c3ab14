package cli

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/home"
	"thrush/internal/launch"
	"thrush/internal/report/prose"
	"thrush/internal/runtime"
)

// built is what gather needs to know of the last build, in .thrush/build.json.
type built struct {
	Level   string   `json:"level"`
	Keep    string   `json:"keep"`
	Only    []string `json:"only"`
	Skip    []string `json:"skip"`
	Named   bool     `json:"named"`
	InCopy  bool     `json:"in_copy"`
	Command []string `json:"command"`
}

func (a *app) buildCommand() *cobra.Command {
	var w weaving
	c := &cobra.Command{
		Use:   "build [flags] -- COMMAND [ARGUMENT...]",
		Short: "Build programs that report by themselves when they are run by hand",
		Long: `Runs a build with probes woven in. The programs it makes report what they ran
whenever they run, by hand or from anywhere on this machine; thrush gather turns
all of that into a recording. Java is built in a copy of the project under .thrush/,
where the programs are then. The exit status is the command's own.`,
		Example: `  thrush build -- go build ./cmd/skerry
  ./skerry quote --night
  thrush gather`,
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) == 0 {
				return exit.With(exit.Failed, errors.New("no command to run; give it after two dashes, as in `thrush build -- go build ./...`"))
			}
			prepared, err := a.prepareByHand(w, args)
			if err != nil {
				return failed(err)
			}
			exit, err := launch.Run(prepared.Dir(a.dir), args, prepared.Env)
			if err != nil || exit != 0 {
				a.putAway(prepared)
				return exitOf(exit, err)
			}
			a.bringBack(prepared, prepared.Project.Config.Back)
			where := ""
			if prepared.RunsInCopy() {
				where = " in " + prose.Safe(shortest(a.dir, prepared.Dir(a.dir)))
			}
			a.say("built%s; run the program as often as you like, then: thrush gather", where)
			return nil
		},
	}
	w.flags(c)
	w.placeFlag(c)
	return c
}

// prepareByHand weaves for programs that are run by hand.
func (a *app) prepareByHand(w weaving, command []string) (*launch.Prepared, error) {
	p, err := a.project()
	if err != nil {
		return nil, err
	}
	prepared, err := a.prepare(p, w, command)
	if err != nil {
		return nil, err
	}
	own, err := p.Home()
	if err != nil {
		return nil, err
	}
	if _, running := own.Link(launch.Pending); running {
		return nil, exit.Usagef("a thrush record is running here, or was cut off; try again when it has ended")
	}
	dir, err := own.Folder(launch.Pending)
	if err != nil {
		return nil, err
	}
	prepared.Env = append(prepared.Env, runtime.DirVariable+"="+dir.Path())
	return prepared, writeBuilt(own, prepared, command)
}

// buildFile says what was built, in .thrush for programs that are run by hand, or in the folder
// of a run.
const buildFile = "build.json"

func writeBuilt(dir *home.Folder, prepared *launch.Prepared, command []string) error {
	o := prepared.Options
	text, err := json.MarshalIndent(built{o.Level.String(), o.Keep.String(), o.Only, o.Skip, o.Named, prepared.RunsInCopy(), command}, "", "  ")
	if err != nil {
		return err
	}
	return dir.Write(buildFile, append(text, '\n'))
}

func (a *app) envCommand() *cobra.Command {
	var w weaving
	c := &cobra.Command{
		Use:   "env",
		Short: "Print what a shell needs so that its builds are woven",
		Long: `Weaves the project and prints the variables that put the woven sources in front
of every build of a shell, for: eval "$(thrush env)". thrush gather then turns
what the programs ran into a recording.`,
		Args: noWords,
		RunE: func(c *cobra.Command, args []string) error {
			w.place = launch.InProject
			prepared, err := a.prepareByHand(w, nil)
			if err != nil {
				return err
			}
			for _, e := range prepared.Env {
				name, value, _ := strings.Cut(e, "=")
				fmt.Fprintf(a.out.Document(), "export %s='%s'\n", name, strings.ReplaceAll(value, "'", `'\''`))
			}
			return nil
		},
	}
	w.flags(c)
	return c
}

func (a *app) gatherCommand() *cobra.Command {
	var labels []string
	var from, out string
	var forget bool
	c := &cobra.Command{
		Use:   "gather",
		Short: "Make a recording of what programs ran that were built with thrush build",
		Long: `Makes a recording of everything the programs of thrush build ran so far. The
counts go on piling up; --forget starts anew afterwards. With --from it makes a
recording of what an interrupted thrush record left behind.`,
		Args: noWords,
		RunE: func(c *cobra.Command, args []string) error {
			return a.gather(labels, from, out, forget)
		},
	}
	c.Flags().StringSliceVarP(&labels, "label", "l", nil, "a `name` for the recording (repeatable)")
	c.Flags().StringVar(&from, "from", "", "a `folder` of counter files that an interrupted record left")
	c.Flags().StringVarP(&out, "out", "o", "", "write the recording to this `file` as well")
	c.Flags().BoolVar(&forget, "forget", false, "remove the counts afterwards, so that the next ones start anew")
	return c
}

func (a *app) gather(labels []string, from, out string, forget bool) error {
	p, err := a.project()
	if err != nil {
		return err
	}
	var b built
	dir := p.Dir(launch.Pending)
	if from != "" {
		dir = from
		if !filepath.IsAbs(dir) {
			dir = filepath.Join(a.dir, dir)
		}
		if err := readJSON(filepath.Join(dir, buildFile), &b); err != nil {
			return exit.NoDataf("%s holds nothing that an interrupted record left: %w", from, err)
		}
	} else if err := readJSON(p.Dir(buildFile), &b); err != nil {
		return exit.NoDataf("nothing was built for running by hand; build it first, as in: thrush build -- go build ./...")
	}
	opt, err := (&weaving{level: b.Level, keep: b.Keep}).options(p.Config)
	if err != nil {
		return err
	}
	opt.Only, opt.Skip, opt.Named, opt.Gather = b.Only, b.Skip, b.Named, true
	if opt.Place = launch.InProject; b.InCopy {
		opt.Place = launch.InCopy
	}
	prepared, err := launch.Prepare(p, opt)
	if err != nil {
		return exit.NoDataf("%w", err)
	}
	rec, err := a.keep(prepared, a.info(prepared, labels, b.Command), dir, out)
	if err != nil {
		return exit.NoDataf("the counts could not be kept: %s; they are still in %s", err, dir)
	}
	if rec.Info.Processes == 0 {
		_ = os.Remove(rec.Path)
		return exit.NoDataf("no program that was built with thrush build has run yet, or they were built before and their sources have changed since")
	}
	if forget || from != "" {
		if err := launch.Forget(dir); err != nil {
			return err
		}
	}
	if from != "" && filepath.Dir(dir) == p.Dir("runs") {
		if err := os.RemoveAll(dir); err != nil {
			return err
		}
	}
	return a.summary(p, rec)
}

func readJSON(path string, to any) error {
	text, err := os.ReadFile(path)
	if err != nil {
		return errors.New("it has no build.json")
	}
	return json.Unmarshal(text, to)
}
