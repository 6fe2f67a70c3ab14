package project

import (
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"thrush/internal/home"
)

// Kept recordings have names that say in which order they came: a number, then "in" if they
// were made elsewhere and taken in, then their short name. The order is this folder's own:
// neither a clock nor what a recording says of itself has a part in it, so that the latest is
// what was made last, here.
const (
	recordings = "recordings"
	takenIn    = "in-"
)

var keptName = regexp.MustCompile(`^([0-9]{8})-(in-)?[0-9a-f]+\.thrush$`)

// order is the number of a kept recording, and whether it was made here. A file that somebody
// else put there comes before all.
func order(path string) (number int, here bool) {
	m := keptName.FindStringSubmatch(filepath.Base(path))
	if m == nil {
		return 0, false
	}
	number, _ = strconv.Atoi(m[1])
	return number, m[2] == ""
}

// Recordings are the paths of the kept recordings, the last that came first.
func (p *Project) Recordings() ([]string, error) {
	dir, err := p.Existing(recordings)
	if dir == nil {
		return nil, err
	}
	defer dir.Close()
	entries, err := dir.List()
	var out []string
	for _, e := range entries {
		if strings.HasSuffix(e.Name(), ".thrush") && !strings.HasPrefix(e.Name(), ".") && e.Type().IsRegular() {
			out = append(out, dir.Path(e.Name()))
		}
	}
	numbers := make(map[string]int, len(out))
	for _, path := range out {
		numbers[path], _ = order(path)
	}
	slices.SortStableFunc(out, func(a, b string) int { return numbers[b] - numbers[a] })
	return out, err
}

// MadeHere tells whether a kept recording was made here, not taken in.
func MadeHere(path string) bool {
	_, here := order(path)
	return here
}

// Latest is the path of the recording that was made here last, or nothing.
func (p *Project) Latest() (string, error) {
	all, err := p.Recordings()
	if i := slices.IndexFunc(all, MadeHere); i >= 0 {
		return all[i], err
	}
	return "", err
}

// Number is that of the recording that came last, or 0.
func (p *Project) Number() (int, error) {
	all, err := p.Recordings()
	if err != nil || len(all) == 0 {
		return 0, err
	}
	number, _ := order(all[0])
	return number, nil
}

// Keep writes a recording that was made here among the kept ones and gives its path.
func (p *Project) Keep(id string, data []byte) (string, error) { return p.put("", id, data) }

// TakeIn does the same with one that was made elsewhere: it is never the latest.
func (p *Project) TakeIn(id string, data []byte) (string, error) { return p.put(takenIn, id, data) }

func (p *Project) put(how, id string, data []byte) (string, error) {
	dir, err := p.Folder(recordings)
	if err != nil {
		return "", err
	}
	defer dir.Close()
	number, err := p.Number()
	if err != nil {
		return "", err
	}
	name := fmt.Sprintf("%08d-%s%s.thrush", number+1, how, id)
	return dir.Path(name), dir.Write(name, data)
}

// pinned ends the name of a file beside a kept recording that is not to be dropped for
// its age.
const pinned = ".pinned"

// beside does something in the folder of the kept recordings, given the name of one in it.
func (p *Project) beside(path string, do func(dir *home.Folder, name string) error) error {
	dir, err := p.Folder(recordings)
	if err != nil {
		return err
	}
	defer dir.Close()
	if filepath.Dir(path) != dir.Path() {
		return fmt.Errorf("%s is not one of those kept here", path)
	}
	return do(dir, filepath.Base(path))
}

// Pin spares a kept recording when old ones are dropped.
func (p *Project) Pin(path string) error {
	return p.beside(path, func(dir *home.Folder, name string) error { return dir.Write(name+pinned, nil) })
}

// Pinned tells whether a kept recording is spared.
func (p *Project) Pinned(path string) (yes bool) {
	err := p.beside(path, func(dir *home.Folder, name string) error {
		yes = dir.Has(name + pinned)
		return nil
	})
	return yes && err == nil
}

// Drop removes a kept recording.
func (p *Project) Drop(path string) error {
	return p.beside(path, func(dir *home.Folder, name string) error {
		if err := dir.Remove(name + pinned); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		return dir.Remove(name)
	})
}

// Aged are the kept recordings, the last that came first in all, that are beyond so many or
// older than so many days; 0 sets no bound. Those that are pinned are spared and not
// counted. made tells when one was made; it is only asked if that matters.
func (p *Project) Aged(all []string, most, days int, made func(path string) (time.Time, bool), now time.Time) []string {
	var out []string
	kept := 0
	for _, path := range all {
		if p.Pinned(path) {
			continue
		}
		kept++
		old := false
		if days > 0 {
			when, ok := made(path)
			old = ok && now.Sub(when) > time.Duration(days)*24*time.Hour
		}
		if old || most > 0 && kept > most {
			out = append(out, path)
		}
	}
	return out
}
