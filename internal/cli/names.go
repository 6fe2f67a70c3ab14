package cli

import (
	"bufio"
	"cmp"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/bmatcuk/doublestar/v4"

	"thrush/internal/exit"
	"thrush/internal/merging"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/recording"
)

// recordingID is the short name of a kept recording.
func recordingID(path string) string {
	name := strings.TrimSuffix(filepath.Base(path), recording.Extension)
	return name[strings.LastIndexByte(name, '-')+1:]
}

// reader opens the recordings that were named, merged if there are several, or the
// latest.
func (a *app) reader(names ...string) (*reading.Reader, error) {
	p, err := a.project()
	if err != nil {
		return nil, err
	}
	paths, err := a.chosen(p, slices.DeleteFunc(names, func(n string) bool { return n == "" }))
	if err != nil {
		return nil, err
	}
	r, err := a.together(p, paths)
	if err != nil {
		return nil, err
	}
	return a.reads(p, r), nil
}

// chosen finds the recordings that are named, or the latest if none is.
func (a *app) chosen(p *project.Project, names []string) ([]string, error) {
	if len(names) > 0 {
		return a.recordings(p, names)
	}
	latest, err := p.Latest()
	if err != nil {
		return nil, err
	}
	if latest == "" {
		all, err := p.Recordings()
		if err == nil && len(all) > 0 {
			err = exit.NoDataf("nothing has been recorded here, in %s; of those that were taken in (thrush log lists them), name the one that is meant", p.Root)
		}
		return nil, cmp.Or(err, exit.NoDataf("nothing has been recorded in %s yet; run your tests as: thrush record -- go test ./...", p.Root))
	}
	return []string{latest}, nil
}

// reads is how a recording is read for a project today.
func (a *app) reads(p *project.Project, r *recording.Recording) *reading.Reader {
	return &reading.Reader{Project: p, Recording: r, Today: time.Now(), Counts: counts(p), LeftOut: leftOut(p)}
}

// together opens recordings, merged if there are several.
func (a *app) together(p *project.Project, paths []string) (*recording.Recording, error) {
	if len(paths) == 1 {
		r, err := recording.Open(paths[0])
		return r, unusable(err)
	}
	inputs, err := merging.Files(paths)
	if err != nil {
		return nil, unusable(err)
	}
	return a.mergeInputs(p, inputs)
}

// mergeInputs merges recordings to look at, without keeping the result.
func (a *app) mergeInputs(p *project.Project, inputs []merging.Input) (*recording.Recording, error) {
	merged, err := merging.Merge(inputs, merging.Options{})
	if err != nil {
		return nil, unusable(err)
	}
	merged.Info.Project = p.Config.Name
	data, err := merged.Data()
	if err != nil {
		return nil, err
	}
	return recording.Decode("the merged recording", data)
}

// unusable gives an error about a recording the exit status for it.
func unusable(err error) error {
	if err == nil || errors.As(err, new(exit.Coded)) {
		return err
	}
	return exit.With(exit.NoData, err)
}

// named gives the project at hand and the recordings that words name.
func (a *app) named(words []string) (*project.Project, []string, error) {
	p, err := a.project()
	if err != nil {
		return nil, nil, err
	}
	paths, err := a.recordings(p, words)
	return p, paths, err
}

// recordings finds recordings by words: the path of a file or of a folder, a glob,
// the beginning of a short name, or - for words on standard input, one a line. Each
// is given once.
func (a *app) recordings(p *project.Project, words []string) ([]string, error) {
	var out []string
	for _, w := range words {
		found, err := a.recordingsOf(p, w)
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	seen := map[string]bool{}
	return slices.DeleteFunc(out, func(path string) bool {
		again := seen[path]
		seen[path] = true
		return again
	}), nil
}

func (a *app) recordingsOf(p *project.Project, word string) ([]string, error) {
	if word == "-" {
		var list []string
		in := bufio.NewScanner(os.Stdin)
		for in.Scan() {
			if line := strings.TrimSpace(in.Text()); line != "" && line != "-" {
				list = append(list, line)
			}
		}
		if err := in.Err(); err != nil {
			return nil, exit.Usagef("the names on standard input cannot be read: %w", err)
		}
		if len(list) == 0 {
			return nil, exit.NoDataf("standard input names no recording")
		}
		return a.recordings(p, list)
	}
	path := a.path(word)
	switch info, err := os.Stat(path); {
	case err == nil && info.IsDir():
		found, err := within(path)
		if err == nil && len(found) == 0 {
			return nil, exit.NoDataf("there is no recording (*%s) in the folder %s", recording.Extension, word)
		}
		return found, err
	case err == nil:
		return []string{path}, nil
	}
	if strings.ContainsAny(word, "*?[{") {
		found, err := doublestar.FilepathGlob(path, doublestar.WithFilesOnly())
		if err != nil {
			return nil, exit.Usagef("%q is no glob: %w", word, err)
		}
		if len(found) == 0 {
			return nil, exit.NoDataf("no recording matches %s", word)
		}
		slices.Sort(found)
		return found, nil
	}
	found, err := kept(p, word)
	if err != nil {
		if path, commit := a.ofCommit(p, word); path != "" {
			return []string{path}, nil
		} else if commit != "" {
			return nil, exit.NoDataf("there is no recording of %s (commit %s) kept here; record it there, or take one from the history store: thrush pull", word, commit[:min(12, len(commit))])
		}
	}
	return []string{found}, err
}

// within gives the recordings in a folder and those below it that are not hidden.
func within(dir string) (out []string, err error) {
	err = filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err == nil && d.IsDir() && path != dir && strings.HasPrefix(d.Name(), ".") {
			return filepath.SkipDir
		}
		if err == nil && d.Type().IsRegular() && strings.HasSuffix(path, recording.Extension) && !strings.HasPrefix(d.Name(), ".") {
			out = append(out, path)
		}
		return err
	})
	return out, err
}

// kept finds a recording that is kept here by the beginning of its short name.
func kept(p *project.Project, name string) (string, error) {
	all, err := p.Recordings()
	if err != nil {
		return "", err
	}
	var found []string
	for _, k := range all {
		if len(name) >= 3 && strings.HasPrefix(recordingID(k), name) {
			found = append(found, k)
		}
	}
	switch len(found) {
	case 1:
		return found[0], nil
	case 0:
		return "", exit.NoDataf("there is no recording %s, neither a file nor a short name; thrush log lists them", name)
	}
	return "", exit.Usagef("%d recordings begin with %s; give more of the name (thrush log lists them)", len(found), name)
}
