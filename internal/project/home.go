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

// Folder opens a folder in .thrush, or one in that, and makes it if there is none. Whoever asks
// closes it.
func (p *Project) Folder(names ...string) (f *home.Folder, err error) {
	f, err = p.Home()
	for _, name := range names {
		if err != nil {
			return nil, err
		}
		above := f
		if f, err = above.Folder(name); above != p.home {
			above.Close()
		}
	}
	return f, err
}

// Existing opens .thrush, or a folder in it. It gives nil if there is none, and makes nothing.
func (p *Project) Existing(name string) (f *home.Folder, err error) {
	if p.home == nil || p.home.Gone() {
		p.home, err = home.Open(p.Root)
	}
	if f = p.home; err == nil && name != "." {
		f, err = f.Existing(name)
	}
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	return f, err
}
