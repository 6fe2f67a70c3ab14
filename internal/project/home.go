package project

import (
	"errors"
	"io/fs"
	"path/filepath"

	"thrush/internal/home"
)

// StoreName is the name of the history store in .thrush.
const StoreName = "history.db"

// Dir is where .thrush is, or what lies in it: for messages, and for others who can only be
// told a path. Thrush itself works in what Home gives.
func (p *Project) Dir(names ...string) string {
	return filepath.Join(append([]string{p.Root, home.Name}, names...)...)
}

// Home opens .thrush, in which Thrush keeps what it needs, and makes it if there is none. It
// fails if what is there cannot be trusted.
func (p *Project) Home() (*home.Folder, error) {
	var err error
	if p.home == nil || p.home.Gone() {
		p.home, err = home.Make(p.Root)
	}
	return p.home, err
}

// Folder opens a folder in .thrush, or one in that, and makes it if there is none.
func (p *Project) Folder(names ...string) (*home.Folder, error) {
	f, err := p.Home()
	for _, name := range names {
		if err != nil {
			return nil, err
		}
		f, err = f.Folder(name)
	}
	return f, err
}

// Existing opens a folder in .thrush, or one in that; without names, .thrush itself. It gives
// nil if there is none, and makes nothing.
func (p *Project) Existing(names ...string) (f *home.Folder, err error) {
	if f = p.home; f == nil || f.Gone() {
		f, err = home.Open(p.Root)
		p.home = f
	}
	for _, name := range names {
		if err == nil {
			f, err = f.Existing(name)
		}
	}
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	return f, err
}
