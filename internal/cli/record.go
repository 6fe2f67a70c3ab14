package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/home"
	"thrush/internal/languages"
	"thrush/internal/launch"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/recording"
	"thrush/internal/report/prose"
	"thrush/internal/runtime"
	"thrush/internal/trace"
	"thrush/internal/vcs"
	"thrush/internal/version"
)

func (a *app) recordCommand() *cobra.Command {
	var w weaving
	var labels []string
	var plain bool
	var out string
	c := &cobra.Command{
		Use:   "record [flags] -- COMMAND [ARGUMENT...]",
		Short: "Run a command, such as your tests, and keep what it ran",
		Long: `Runs the command with probes woven into the project's sources, on copies that
the build reads, compilers compile or interpreters load instead of the originals: no
file of yours is touched. Scripts that Node's servers send to browsers report while the
command runs. What ran is kept as a recording under .thrush/, and a short summary is
printed. Go, C, C++, Python, Java, JavaScript and TypeScript are measured. Java is built
in a copy of the project under .thrush/, and what is built there stays there.

The exit status is the command's own; 125 if Thrush itself failed, 127 if there
is no such command, 126 if it cannot be run.`,
		Example: `  thrush record -- go test ./...
  thrush record --label e2e -- make integration
  thrush record -- sh -c 'make clean && make check'
  thrush record -- pytest
  thrush record -- npm test`,
		RunE: func(c *cobra.Command, args []string) error {
			if len(args) == 0 {
				return exit.With(exit.Failed, errors.New("no command to run; give it after two dashes, as in `thrush record -- go test ./...`"))
			}
			if plain {
				exit, err := launch.Run(a.dir, args, nil)
				return exitOf(exit, err)
			}
			return a.record(w, labels, out, args)
		},
	}
	w.flags(c)
	c.Flags().StringSliceVarP(&labels, "label", "l", nil, "a `name` for the recording, such as unit or e2e (repeatable)")
	w.placeFlag(c)
	c.Flags().BoolVar(&plain, "plain", false, "just run the command: weave nothing, keep nothing")
	c.Flags().StringVarP(&out, "out", "o", "", "write the recording to this `file` as well")
	return c
}

// exitOf ends Thrush with a command's exit status.
func exitOf(status int, err error) error {
	switch {
	case err != nil:
		return err
	case status == 0:
		return nil
	}
	return exit.With(status, nil)
}

// failed says that Thrush itself failed, in the exit status of record and build.
func failed(err error) error {
	if err == nil {
		return nil
	}
	return exit.With(exit.Failed, err)
}

func (a *app) record(w weaving, labels []string, out string, args []string) error {
	p, err := a.project()
	if err != nil {
		return failed(err)
	}
	prepared, err := a.prepare(p, w, args)
	if err != nil {
		return a.unrecorded(args, err)
	}
	defer a.putAway(prepared)
	run, err := a.runDir(p)
	if err != nil {
		return a.unrecorded(args, err)
	}
	info := a.info(prepared, labels, args)
	if err := writeBuilt(run, prepared, args); err != nil {
		return failed(err)
	}
	own, err := p.Home()
	if err != nil {
		return failed(err)
	}
	dir := run.Path()
	release, err := launch.Adopt(own, dir)
	if err != nil {
		a.warn("programs that the command starts with an emptied environment will not report: %s", err)
	}
	if err := trace.Problem(); err != nil {
		a.warn("nothing is traced: %s", err)
	}
	pages, done := prepared.Collect(dir)
	trace.Note("run", "command", args, "folder", prepared.Dir(a.dir), "counts", dir)
	start := time.Now()
	status, err := launch.Run(prepared.Dir(a.dir), args, append(append(prepared.Env, pages...), runtime.DirVariable+"="+dir))
	done()
	release()
	trace.Note("ended", "status", status, "error", err)
	if err != nil {
		_ = os.RemoveAll(dir)
		return err
	}
	info.Exit, info.Took = status, time.Since(start).Milliseconds()
	a.bringBack(prepared, p.Config.Back)
	rec, err := a.keep(prepared, info, dir, out)
	if err != nil {
		a.warn("the counts could not be kept: %s", err)
		a.warn("they are still in %s; make room, then: thrush gather --from %s", dir, dir)
		if status == 0 {
			status = exit.Failed
		}
		return exitOf(status, nil)
	}
	_ = os.RemoveAll(dir)
	if err := a.summary(p, rec, prepared.WhyNoJava(nil)...); err != nil {
		a.warn("%s", err)
	}
	if w.place == launch.Anywhere && prepared.RunsInCopy() && len(p.Config.Back) == 0 {
		a.say("built in %s; your own build folders are untouched. List the files you want back under [copy] back in %s", prepared.CopyName(), project.ConfigName)
	}
	return exitOf(status, nil)
}

// bringBack brings results from the copy that the command ran in.
func (a *app) bringBack(prepared *launch.Prepared, globs []string) {
	brought, kept, err := prepared.Back(globs)
	if err != nil {
		a.warn("%s", err)
	}
	if len(brought) > 0 {
		a.say("brought back from the copy: %s", strings.Join(brought, ", "))
	}
	if len(kept) > 0 {
		a.warn("not brought back from the copy, since there are probes in it: %s", strings.Join(kept, ", "))
	}
}

// putAway puts the copy away that the command ran in.
func (a *app) putAway(prepared *launch.Prepared) {
	if err := prepared.Close(); err != nil {
		a.warn("the copy cannot be put away: %s", err)
	}
}

// unrecorded runs a command that cannot be recorded, if that is since files cannot be
// read or written, or must not be: what it tests is to be tested all the same.
func (a *app) unrecorded(args []string, why error) error {
	if !errors.As(why, new(*fs.PathError)) && !errors.As(why, new(*os.LinkError)) && !errors.As(why, new(*home.Untrusted)) {
		return failed(why)
	}
	a.warn("%s", why)
	a.warn("so the command runs as it is, and nothing is recorded")
	status, err := launch.Run(a.dir, args, nil)
	if err == nil && status == 0 {
		status = exit.Failed
	}
	return exitOf(status, err)
}

// runDir makes a folder for the counter files of one run. Those that a run
// which was cut off left behind are pointed out.
func (a *app) runDir(p *project.Project) (*home.Folder, error) {
	runs, err := p.Folder("runs")
	if err != nil {
		return nil, err
	}
	for _, left := range launch.LeftBehind(runs.Path()) {
		a.warn("an earlier record was cut off; to keep its counts: thrush gather --from %s; to drop them, remove that folder", left.Path)
	}
	latest, err := p.Number()
	if err != nil {
		return nil, err
	}
	return runs.Folder(launch.RunName(latest + 1))
}

// prepare weaves, with a bar on a terminal when it takes a while.
func (a *app) prepare(p *project.Project, w weaving, command []string) (*launch.Prepared, error) {
	opt, err := w.options(p.Config)
	if err != nil {
		return nil, err
	}
	opt.Named, opt.Command = launch.NamesSources(command), command
	done := a.bar("weaving", &opt.Progress)
	prepared, err := launch.Prepare(p, opt)
	done()
	if err != nil {
		return nil, err
	}
	for _, q := range prepared.Problems {
		a.warn("%s:%d: %s", q.Path, q.Line, q.What)
	}
	if prepared.Obstacle != "" {
		a.warn("Python, C and C++ are not measured here: %s", prepared.Obstacle)
	}
	switch u := prepared.Unmeasured; {
	case prepared.Sources > 0 || prepared.Native():
	case len(u) > 0:
		a.warn("no source file can be measured: %s: %s", u[0].Path, u[0].Reason)
	default:
		a.warn("no source file of %s to measure was found under %s", languages.Names(), p.Root)
	}
	return prepared, nil
}

// info describes a recording before its command has run.
func (a *app) info(prepared *launch.Prepared, labels, args []string) recording.Info {
	info := recording.Info{Project: prepared.Project.Config.Name, Run: recording.NewRun(), Part: recording.Part{
		Tool: version.String(), Command: args, Labels: labels,
		When:  time.Now().UTC().Format(time.RFC3339),
		Level: prepared.Options.Level.String(), Keep: prepared.Options.Keep.String(),
	}}
	if repo, err := vcs.Open(prepared.Project.Root); err == nil {
		info.Commit, info.Dirty = repo.Commit(isSource)
		info.Branch = repo.Branch()
	}
	return info
}

// keep turns the counts in a folder into a recording.
func (a *app) keep(prepared *launch.Prepared, info recording.Info, dir, out string) (*recording.Recording, error) {
	counts, err := launch.Gather(dir)
	if err != nil {
		return nil, err
	}
	files, err := prepared.Files(counts)
	if err != nil {
		return nil, err
	}
	info.Processes = counts.Processes
	info.Notes = notes(prepared, counts)
	info.Unmeasured, info.LeftOut, info.Passed, info.Generated = prepared.Unmeasured, prepared.LeftOut, prepared.Passed, prepared.Generated
	for _, q := range prepared.Problems {
		info.Problems = append(info.Problems, fmt.Sprintf("%s:%d: %s", q.Path, q.Line, q.What))
	}
	totals, err := (&reading.Reader{Project: prepared.Project, Today: time.Now()}).Totals(files)
	if err != nil {
		return nil, err
	}
	info.Totals = &totals
	data, err := recording.Encode(info, files, nil)
	if err != nil {
		return nil, err
	}
	rec, err := recording.Decode("the recording just made", data)
	if err != nil {
		return nil, err
	}
	if out != "" {
		if err := a.write(out, data); err != nil {
			return nil, err
		}
	}
	p := prepared.Project
	if rec.Path, err = p.Keep(rec.ID, data); err != nil {
		return nil, err
	}
	return rec, a.forget(p, rec.Path)
}

// forget drops recordings kept here that the configuration does not want to be kept any
// longer, but never the one just made.
func (a *app) forget(p *project.Project, latest string) error {
	h := p.Config.History
	if h.Most == 0 && h.Days == 0 {
		return nil
	}
	all, err := p.Recordings()
	for _, path := range p.Aged(all, h.Most, h.Days, when, time.Now()) {
		if path != latest {
			err = errors.Join(err, p.Drop(path))
		}
	}
	return err
}

// notes are what a reader of the recording should know.
func notes(prepared *launch.Prepared, counts *launch.Counts) []string {
	var out []string
	if changed := prepared.Changed(); len(changed) > 0 {
		out = append(out, fmt.Sprintf("the command itself changed %s while it ran; what counts is the text from before", strings.Join(changed, ", ")))
	}
	if counts.Unclear {
		out = append(out, "another record ran at the same time, so programs started with an emptied environment are left out: nobody can tell whose they were")
	}
	if prepared.NothingCompiled() {
		out = append(out, "no compiler of C or C++ was called, so nothing of that code counts as run. If it was up to date, build it anew in the same command ("+anew(prepared.Project.Root)+"); then units that were woven go on counting")
	}
	if causes := prepared.WhyNoJava(counts); counts.Processes > 0 && len(causes) > 0 {
		out = append(out, "no class of this project's Java was loaded, so nothing of it counts as run. Likely: "+strings.Join(causes, "; or "))
	}
	out = append(out, prepared.Partly...)
	if n := counts.Strangers(prepared); n > 0 {
		out = append(out, prose.Plural(n, "file", "files")+" reported from a program that was built before the sources changed; these counts are left out")
	}
	return out
}
