package home

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"strconv"
	"strings"
	"time"

	"thrush/internal/vcs"
)

// trust tells whether Thrush made the folder here, for this user, as far as that can be
// known. git knows what came with a checkout. Where git cannot be asked, because it is not
// installed or does not trust the repository, and where there is no repository, the mark
// tells.
func (f *Folder) trust(project string) error {
	info, err := f.root.Stat(".")
	if err != nil {
		return err
	}
	if !ours(info) {
		return &Untrusted{f.path, "it belongs to another user"}
	}
	repo, err := vcs.Open(project)
	if err == nil {
		var first string
		var tracked bool
		if first, tracked, err = repo.Tracks(Name); err == nil && tracked {
			return &Untrusted{f.path, fmt.Sprintf("git tracks %s, so it may be anybody's (git rm -r --cached %s)", first, Name)}
		}
	}
	if err == nil || f.marked() {
		return nil
	}
	if errors.Is(err, vcs.ErrNone) {
		return &Untrusted{f.path, "it was not made here, but unpacked or copied"}
	}
	return &Untrusted{f.path, fmt.Sprintf("whether it came with a checkout cannot be known (%s)", err)}
}

// mark is a file that a checkout cannot make: what it says is when it was changed, which is
// long before there was git, and git gives all files the time at which it writes them. It
// is made with the folder and never changed.
const mark = "made-here"

// The times that a mark may have, in seconds since 1970: from 1975 to 1999.
const (
	markFrom = 5 * 365 * 24 * 3600
	markTo   = 29 * 365 * 24 * 3600
)

func (f *Folder) mark() error {
	when := markFrom + rand.Int64N(markTo-markFrom)
	if err := f.Write(mark, fmt.Appendf(nil, "%d\n", when)); err != nil {
		return err
	}
	t := time.Unix(when, 0)
	return f.root.Chtimes(mark, t, t)
}

func (f *Folder) marked() bool {
	info, err := f.root.Lstat(mark)
	if err != nil || !info.Mode().IsRegular() {
		return false
	}
	text, err := f.Read(mark)
	if err != nil {
		return false
	}
	when, err := strconv.ParseInt(strings.TrimSpace(string(text)), 10, 64)
	return err == nil && when >= markFrom && when < markTo && info.ModTime().Unix() == when
}
