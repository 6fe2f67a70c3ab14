// Package history keeps recordings by project, commit, branch and label, in an SQLite
// file or in a PostgreSQL database that a team shares. Site tables, which all
// recordings of a commit have alike, are kept once, under the SHA-256 of their bytes.
package history

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/fxamacker/cbor/v2"
	_ "github.com/jackc/pgx/v5/stdlib" // the driver for PostgreSQL

	"thrush/internal/exit"
	"thrush/internal/recording"
)

// Store is a history store that is open.
type Store struct {
	db   *sql.DB
	talk dialect
	// Name is where it is, without what is secret.
	Name string
}

// Entry is a recording in the store.
type Entry struct {
	Identity string
	Branch   string
	Pushed   time.Time
	Size     int64 // bytes, without tables
	Info     recording.Info
	Problem  string // why what it says of itself cannot be used, if so
}

// ID is the recording's short name.
func (e Entry) ID() string { return e.Identity[:min(8, len(e.Identity))] }

// Query says which recordings are wanted. Empty fields want any.
type Query struct {
	Project string
	IDs     []string // beginnings of identities
	Commits []string
	Branch  string
	Label   string
	Most    int // the newest so many, or 0 for all
}

// Open opens a store: a postgres:// URL, or the path of an SQLite file, which is made
// if it does not exist.
func Open(ctx context.Context, where string) (*Store, error) {
	s := &Store{Name: Redact(where)}
	var err error
	if isURL(where) {
		s.talk = postgres
		s.db, err = sql.Open("pgx", where)
	} else {
		where = strings.TrimPrefix(where, "sqlite:")
		if err := os.MkdirAll(filepath.Dir(where), 0o777); err != nil {
			return nil, fmt.Errorf("the history store %s cannot be made: %w", where, err)
		}
		s.talk = sqlite
		err = s.openFile(ctx, where)
		return s, s.failed(err)
	}
	if err == nil {
		err = s.begin(ctx)
	}
	if err != nil {
		return nil, s.failed(err)
	}
	return s, nil
}

// openFile opens an SQLite file: to read and write it, or, on a disk that cannot be written
// to, to read it. There SQLite must be told that nobody else writes either, as it cannot lock
// the file.
func (s *Store) openFile(ctx context.Context, path string) error {
	at := "file:" + (&url.URL{Path: path}).EscapedPath()
	var failed error
	for _, how := range []string{
		"?_pragma=busy_timeout(60000)&_pragma=journal_mode(wal)&_pragma=synchronous(full)&_pragma=foreign_keys(1)&_txlock=immediate",
		"?mode=ro",
		"?mode=ro&immutable=1",
	} {
		var err error
		if s.db, err = sql.Open("sqlite", at+how); err == nil {
			err = s.begin(ctx)
		}
		if err == nil {
			return nil
		}
		if failed == nil {
			failed = err
		}
		if info, here := os.Stat(path); here != nil || info.Size() == 0 || !s.talk.readOnly(err) {
			break
		}
	}
	return failed
}

// begin has the store answer, and makes its tables.
func (s *Store) begin(ctx context.Context) error {
	s.db.SetMaxOpenConns(4)
	soon, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	err := s.prepare(soon)
	if err != nil {
		_ = s.db.Close()
	}
	return err
}

// patience is how long a store may take to answer at first.
const patience = 30 * time.Second

func isURL(where string) bool {
	return strings.HasPrefix(where, "postgres://") || strings.HasPrefix(where, "postgresql://")
}

// Redact gives the name of a store without what is secret in it: no user, no
// password, no options.
func Redact(where string) string {
	if !isURL(where) {
		return strings.TrimPrefix(where, "sqlite:")
	}
	u, err := url.Parse(where)
	if err != nil {
		return "the PostgreSQL store"
	}
	return (&url.URL{Scheme: u.Scheme, Host: u.Host, Path: u.Path}).String()
}

// failed says what went wrong with the store, without repeating where it is with all
// its secrets, as drivers do.
func (s *Store) failed(err error) error {
	if err == nil {
		return nil
	}
	return &Error{s.Name, s.talk.why(err), err}
}

// Error is a failure of the store.
type Error struct {
	Store, Why string
	err        error
}

func (e *Error) Error() string { return fmt.Sprintf("the history store %s: %s", e.Store, e.Why) }

// ExitStatus is the one for no usable data.
func (e *Error) ExitStatus() int { return exit.NoData }

// Unwrap gives what the driver said, which may hold secrets.
func (e *Error) Unwrap() error { return e.err }

// Close closes the store.
func (s *Store) Close() error { return s.db.Close() }

// prepare makes the tables of the store, if they are not there.
func (s *Store) prepare(ctx context.Context) error {
	var version int
	err := s.db.QueryRowContext(ctx, "SELECT version FROM thrush_store").Scan(&version)
	if err == nil {
		if version != schemaVersion {
			return errVersion
		}
		return nil
	}
	if !s.talk.missing(err) {
		return err
	}
	return s.within(ctx, true, func(tx *sql.Tx) error {
		for _, q := range s.talk.schema() {
			if _, err := tx.ExecContext(ctx, q); err != nil {
				return err
			}
		}
		return nil
	})
}

var errVersion = errors.New("it was made by a newer Thrush; update this one to use it")

// within does something in a transaction. Those that change what others rely on are
// alone in the store; others run side by side.
func (s *Store) within(ctx context.Context, alone bool, do func(*sql.Tx) error) error {
	tx, err := s.db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	if q := s.talk.lock(alone); q != "" {
		if _, err := tx.ExecContext(ctx, q); err != nil {
			return errors.Join(err, tx.Rollback())
		}
	}
	if err := do(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}

// Push puts a recording into the store, under a project and a branch, and tells
// whether it was not there before.
func (s *Store) Push(ctx context.Context, project, branch, path string, data []byte) (added bool, err error) {
	rec, pieces, err := recording.Cut(path, data)
	if err != nil {
		return false, err
	}
	info, err := cbor.Marshal(rec.Info)
	if err != nil {
		return false, err
	}
	sums := make([][]byte, len(pieces.Tables))
	for i, t := range pieces.Tables {
		sum := sha256.Sum256(t)
		sums[i] = sum[:]
	}
	list, bundle := bundleOf(sums)
	err = s.within(ctx, false, func(tx *sql.Tx) error {
		var there int
		err := tx.QueryRowContext(ctx, "SELECT 1 FROM thrush_recording WHERE project = $1 AND identity = $2", project, rec.Identity).Scan(&there)
		if !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if err := s.putTables(ctx, tx, bundle, list, sums, pieces.Tables); err != nil {
			return err
		}
		when, _ := time.Parse(time.RFC3339, rec.Info.When)
		done, err := tx.ExecContext(ctx, `INSERT INTO thrush_recording
			(project, identity, commit_id, branch, dirty, made_at, pushed_at, size, info, bundle, before_tables, after_tables)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12) ON CONFLICT DO NOTHING`,
			project, rec.Identity, rec.Info.Commit, branch, boolean(rec.Info.Dirty), when.UnixMilli(), time.Now().UnixMilli(),
			len(pieces.Before)+len(pieces.After), info, bundle, pieces.Before, pieces.After)
		if err != nil {
			return err
		}
		n, err := done.RowsAffected()
		if added = n > 0; err != nil || !added {
			return err
		}
		for _, l := range rec.Info.Reachers() {
			if _, err := tx.ExecContext(ctx, "INSERT INTO thrush_label (project, identity, label) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING", project, rec.Identity, l); err != nil {
				return err
			}
		}
		return nil
	})
	return added, s.failed(err)
}

func boolean(b bool) int {
	if b {
		return 1
	}
	return 0
}

// Pull gives the bytes of a recording.
func (s *Store) Pull(ctx context.Context, project, identity string) (*recording.Recording, []byte, error) {
	var p recording.Pieces
	var bundle []byte
	err := s.db.QueryRowContext(ctx, "SELECT before_tables, after_tables, bundle FROM thrush_recording WHERE project = $1 AND identity = $2", project, identity).
		Scan(&p.Before, &p.After, &bundle)
	if err != nil {
		if errors.Is(err, sql.ErrNoRows) {
			err = fmt.Errorf("there is no recording %s of the project %s", identity, project)
		}
		return nil, nil, s.failed(err)
	}
	if p.Tables, err = s.tables(ctx, bundle); err != nil {
		return nil, nil, s.failed(err)
	}
	rec, data, err := p.Join(identity)
	if err != nil {
		return nil, nil, s.failed(err)
	}
	return rec, data, nil
}

// List gives the recordings that a query wants, the newest first.
func (s *Store) List(ctx context.Context, q Query) ([]Entry, error) {
	where, args := []string{"project = $1"}, []any{q.Project}
	add := func(condition string, values ...any) {
		for _, v := range values {
			args = append(args, v)
			condition = strings.Replace(condition, "?", fmt.Sprintf("$%d", len(args)), 1)
		}
		where = append(where, condition)
	}
	if len(q.Commits) > 0 {
		add("commit_id IN ("+marks(len(q.Commits))+")", anys(q.Commits)...)
	}
	if q.Branch != "" {
		add("branch = ?", q.Branch)
	}
	if q.Label != "" {
		add("identity IN (SELECT l.identity FROM thrush_label l WHERE l.project = thrush_recording.project AND l.label = ?)", q.Label)
	}
	for i, id := range q.IDs {
		q.IDs[i] = strings.NewReplacer("%", "", "_", "").Replace(id) + "%"
	}
	if len(q.IDs) > 0 {
		add("("+strings.TrimSuffix(strings.Repeat("identity LIKE ? OR ", len(q.IDs)), " OR ")+")", anys(q.IDs)...)
	}
	text := "SELECT identity, branch, pushed_at, size, info FROM thrush_recording WHERE " + strings.Join(where, " AND ") + " ORDER BY made_at DESC, identity"
	if q.Most > 0 {
		text += fmt.Sprintf(" LIMIT %d", q.Most)
	}
	rows, err := s.db.QueryContext(ctx, text, args...)
	if err != nil {
		return nil, s.failed(err)
	}
	defer rows.Close()
	var out []Entry
	for rows.Next() {
		var e Entry
		var pushed int64
		var info []byte
		if err := rows.Scan(&e.Identity, &e.Branch, &pushed, &e.Size, &info); err != nil {
			return nil, s.failed(err)
		}
		if strings.Trim(e.Identity, "0123456789abcdef") != "" {
			continue // no Thrush put it there, and nothing could name it
		}
		if e.Info, err = recording.ReadInfo(info); err != nil {
			// One bad row is not to keep a team from all the others.
			e.Info, e.Problem = recording.Info{}, fmt.Sprintf("what the store says of it cannot be read: %s", err)
		}
		e.Pushed = time.UnixMilli(pushed)
		out = append(out, e)
	}
	return out, s.failed(rows.Err())
}

func marks(n int) string { return strings.TrimSuffix(strings.Repeat("?,", n), ",") }

func anys(list []string) []any {
	out := make([]any, len(list))
	for i, s := range list {
		out[i] = s
	}
	return out
}

// Drop removes recordings from the store, and tables that none needs any more.
func (s *Store) Drop(ctx context.Context, project string, identities []string) error {
	return s.failed(s.within(ctx, true, func(tx *sql.Tx) error {
		for _, id := range identities {
			for _, table := range []string{"thrush_label", "thrush_recording"} {
				if _, err := tx.ExecContext(ctx, "DELETE FROM "+table+" WHERE project = $1 AND identity = $2", project, id); err != nil {
					return err
				}
			}
		}
		for _, q := range []string{
			"DELETE FROM thrush_bundle WHERE bundle NOT IN (SELECT bundle FROM thrush_recording)",
			"DELETE FROM thrush_use WHERE bundle NOT IN (SELECT bundle FROM thrush_bundle)",
			"DELETE FROM thrush_table WHERE sum NOT IN (SELECT sum FROM thrush_use)",
		} {
			if _, err := tx.ExecContext(ctx, q); err != nil {
				return err
			}
		}
		return nil
	}))
}
