package cli

import (
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"

	"github.com/bmatcuk/doublestar/v4"

	"thrush/internal/exit"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/recording"
	"thrush/internal/vcs"
)

// Places are printed as FILE:LINE and FILE:FROM-TO, and are taken back as such.

// span is a stretch of lines; 0 for all.
type span struct{ from, to int }

var atLines = regexp.MustCompile(`^(.+?):(\d+)(?:-(\d+))?(?::\d+)?$`)

// placed takes the lines off a word, if it has some and no file is called so.
func (a *app) placed(word string) (path string, s span, err error) {
	m := atLines.FindStringSubmatch(word)
	if m == nil {
		return word, span{}, nil
	}
	if _, err := os.Lstat(a.path(word)); err == nil {
		return word, span{}, nil
	}
	if s.from, err = strconv.Atoi(m[2]); err == nil {
		if s.to = s.from; m[3] != "" {
			s.to, err = strconv.Atoi(m[3])
		}
	}
	if err != nil || s.from < 1 || s.to < s.from {
		return "", span{}, exit.Usagef("%s names no lines; they begin at 1, as in %s:10 or %s:10-20", word, m[1], m[1])
	}
	return m[1], s, nil
}

// divided tells words that name recordings from those that name sources: folders and files
// of the project that are no recordings.
func (a *app) divided(words []string) (recordings, sources []string) {
	for _, w := range words {
		if a.namesSources(w) {
			sources = append(sources, w)
		} else {
			recordings = append(recordings, w)
		}
	}
	return recordings, sources
}

func (a *app) namesSources(word string) bool {
	path := a.path(word)
	switch info, err := os.Stat(path); {
	case word == "-" || word == "":
		return false
	case err == nil && info.IsDir():
		found, err := within(path)
		return err == nil && len(found) == 0
	case err == nil:
		if strings.HasSuffix(word, recording.Extension) {
			return false
		}
		_, _, err := recording.Peek(path)
		return err != nil
	}
	if strings.ContainsAny(word, "*?[{") {
		found, err := doublestar.FilepathGlob(path, doublestar.WithFilesOnly())
		if err != nil {
			return false
		}
		for _, f := range found {
			if strings.HasSuffix(f, recording.Extension) {
				return false
			}
		}
		return len(found) > 0 || strings.Contains(word, "/") && !strings.HasSuffix(word, recording.Extension)
	}
	return strings.Contains(word, "/") && filepath.Ext(word) != "" && !strings.HasSuffix(word, recording.Extension)
}

// only gives what words and a glob leave of the files of a recording; nil for all.
func (a *app) only(r *reading.Reader, sources []string, glob string) (keep func(string) bool, err error) {
	if glob != "" {
		if err := project.CheckGlob(glob); err != nil {
			return nil, exit.With(exit.Usage, err)
		}
		keep = func(p string) bool { return project.MatchAny([]string{glob}, p) }
	}
	if len(sources) == 0 {
		return keep, nil
	}
	paths, err := a.match(r, sources)
	if err != nil {
		return nil, err
	}
	inGlob := keep
	return func(p string) bool { return paths[p] && (inGlob == nil || inGlob(p)) }, nil
}

// ofCommit finds the latest recording kept here of the commit that a word names for git; it
// is empty if there is none, and commit if it names none.
func (a *app) ofCommit(p *project.Project, word string) (path, commit string) {
	repo, err := vcs.Open(p.Root)
	if err != nil {
		return "", ""
	}
	if commit, err = repo.Resolve(word); err != nil {
		return "", ""
	}
	all, err := p.Recordings()
	if err != nil {
		return "", commit
	}
	for _, k := range all {
		if info, _, err := recording.Peek(k); err == nil && info.Commit == commit && !info.Dirty && info.Processes > 0 {
			return k, commit
		}
	}
	return "", commit
}
