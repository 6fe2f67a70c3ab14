package cli

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/history"
	"thrush/internal/project"
)

// storeVariable names the history store where thrush.toml should not, such as a URL with
// a password.
const storeVariable = "THRUSH_STORE"

// storeFlag says which history store is meant.
type storeFlag string

func (s *storeFlag) flag(c *cobra.Command) {
	c.Flags().StringVar((*string)(s), "store", "", "the history store: a postgres:// `URL` or the path of a file (default $"+storeVariable+", history.store in the configuration, or a file in .thrush)")
}

// where is the place of the store, and whether somebody chose it. A file that the
// configuration names lies in the project: the configuration may be part of somebody's change,
// who is not to have files written elsewhere.
func (s storeFlag) where(a *app, p *project.Project) (where string, chosen bool, err error) {
	from := a.dir
	if where = string(s); where == "" {
		where = os.Getenv(storeVariable)
	}
	configured := where == ""
	if configured {
		where, from = p.Config.History.Store, p.Root
	}
	switch {
	case where == "":
		return p.Dir(project.StoreName), false, nil
	case strings.Contains(where, "://"):
		return where, true, nil
	}
	if where = strings.TrimPrefix(where, "sqlite:"); !filepath.IsAbs(where) {
		where = filepath.Join(from, where)
	}
	if configured && !p.Holds(where) {
		err = exit.Usagef("history.store in the configuration is %s, which lies outside of the project; name such a file by --store or $%s", where, storeVariable)
	}
	return where, true, err
}

// openStore opens the history store. Where only reading is wanted and nobody chose one,
// there may be none.
func (a *app) openStore(ctx context.Context, p *project.Project, s storeFlag, make bool) (*history.Store, error) {
	where, chosen, err := s.where(a, p)
	if err != nil {
		return nil, err
	}
	if i := strings.Index(where, "://"); i > 0 && where[:i] != "postgres" && where[:i] != "postgresql" {
		return nil, exit.Usagef("the history store is a %s URL; it can be postgres://, or the path of a file", where[:i])
	}
	if within, err := filepath.Rel(p.Dir(), where); err == nil && filepath.IsLocal(within) {
		if _, err := p.Existing("."); err != nil {
			return nil, err
		}
	}
	if !strings.Contains(where, "://") && !make {
		if _, err := os.Stat(where); errors.Is(err, fs.ErrNotExist) {
			if chosen {
				return nil, exit.NoDataf("there is no history store %s yet; thrush push makes it", where)
			}
			return nil, nil
		}
	}
	if !chosen && make {
		if _, err := p.Home(); err != nil {
			return nil, err
		}
	}
	store, err := history.Open(ctx, where)
	return store, unusable(err)
}

// existingStore opens the history store where there must be one.
func (a *app) existingStore(ctx context.Context, p *project.Project, s storeFlag) (*history.Store, error) {
	store, err := a.openStore(ctx, p, s, false)
	if err == nil && store == nil {
		err = exit.NoDataf("there is no history store here yet; thrush push makes it")
	}
	return store, err
}
