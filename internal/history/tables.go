package history

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"slices"
	"strings"

	sqlite3 "modernc.org/sqlite"
)

// A bundle is the list of the tables of a recording, by their sums. All recordings
// of a commit that were made alike have the same one.

// bundleOf gives the list as it is stored, and its name.
func bundleOf(sums [][]byte) (list, name []byte) {
	list = bytes.Join(sums, nil)
	sum := sha256.Sum256(list)
	return list, sum[:]
}

// mostRows bounds how many rows one statement puts in or asks for.
const mostRows = 200

// putTables puts the tables of a recording into the store that are not there yet.
// Rows are put in the order of their sums, so that writers never wait for one another
// in a circle.
func (s *Store) putTables(ctx context.Context, tx *sql.Tx, bundle, list []byte, sums, tables [][]byte) error {
	var there int
	err := tx.QueryRowContext(ctx, "SELECT 1 FROM thrush_bundle WHERE bundle = $1", bundle).Scan(&there)
	if !errors.Is(err, sql.ErrNoRows) {
		return err
	}
	order := make([]int, len(sums))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { return bytes.Compare(sums[a], sums[b]) })
	order = slices.CompactFunc(order, func(a, b int) bool { return bytes.Equal(sums[a], sums[b]) })
	missing := map[string]bool{}
	for chunk := range slices.Chunk(order, mostRows) {
		if err := s.missing(ctx, tx, chunk, sums, missing); err != nil {
			return err
		}
	}
	lacking := slices.DeleteFunc(slices.Clone(order), func(i int) bool { return !missing[string(sums[i])] })
	if err := insert(ctx, tx, "thrush_table (sum, data)", "(sum) DO UPDATE SET data = excluded.data", lacking, func(i int) []any { return []any{sums[i], tables[i]} }); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, "INSERT INTO thrush_bundle (bundle, sums) VALUES ($1, $2) ON CONFLICT DO NOTHING", bundle, list); err != nil {
		return err
	}
	return insert(ctx, tx, "thrush_use (bundle, sum)", "DO NOTHING", order, func(i int) []any { return []any{bundle, sums[i]} })
}

// missing finds which tables the store does not have, or has with other bytes than their sum says:
// whoever else may write to it must not spoil what is put in later.
func (s *Store) missing(ctx context.Context, tx *sql.Tx, chunk []int, sums [][]byte, out map[string]bool) error {
	var args []any
	var places []string
	for n, i := range chunk {
		args = append(args, sums[i])
		places = append(places, fmt.Sprintf("$%d", n+1))
		out[string(sums[i])] = true
	}
	rows, err := tx.QueryContext(ctx, "SELECT sum FROM thrush_table WHERE sum IN ("+strings.Join(places, ",")+") AND sha256(data) = sum", args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var sum []byte
		if err := rows.Scan(&sum); err != nil {
			return err
		}
		delete(out, string(sum))
	}
	return rows.Err()
}

// insert puts in rows of two columns, many at once, and says what becomes of those that are
// there.
func insert(ctx context.Context, tx *sql.Tx, into, there string, list []int, row func(i int) []any) error {
	for chunk := range slices.Chunk(list, mostRows) {
		var args []any
		var places []string
		for _, i := range chunk {
			args = append(args, row(i)...)
			places = append(places, fmt.Sprintf("($%d,$%d)", len(args)-1, len(args)))
		}
		if _, err := tx.ExecContext(ctx, "INSERT INTO "+into+" VALUES "+strings.Join(places, ",")+" ON CONFLICT "+there, args...); err != nil {
			return err
		}
	}
	return nil
}

// tables gives the tables of a bundle, in their order, and checks each.
func (s *Store) tables(ctx context.Context, bundle []byte) ([][]byte, error) {
	var list []byte
	if err := s.db.QueryRowContext(ctx, "SELECT sums FROM thrush_bundle WHERE bundle = $1", bundle).Scan(&list); err != nil {
		return nil, err
	}
	if _, name := bundleOf(slices.Collect(slices.Chunk(list, sha256.Size))); !bytes.Equal(name, bundle) {
		return nil, errors.New("its list of site tables is damaged")
	}
	bySum := map[string][]byte{}
	rows, err := s.db.QueryContext(ctx, "SELECT t.sum, t.data FROM thrush_table t JOIN thrush_use u ON u.sum = t.sum WHERE u.bundle = $1", bundle)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var sum, data []byte
		if err := rows.Scan(&sum, &data); err != nil {
			return nil, err
		}
		if got := sha256.Sum256(data); !bytes.Equal(got[:], sum) {
			return nil, errors.New("a site table in it is damaged; drop the recording there and push it again")
		}
		bySum[string(sum)] = data
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	var out [][]byte
	for sum := range slices.Chunk(list, sha256.Size) {
		data, ok := bySum[string(sum)]
		if !ok {
			return nil, errors.New("a site table is missing from it")
		}
		out = append(out, data)
	}
	return out, nil
}

// SQLite has no SHA-256 of its own; PostgreSQL does, under this name.
func init() {
	sqlite3.MustRegisterDeterministicScalarFunction("sha256", 1, func(_ *sqlite3.FunctionContext, args []driver.Value) (driver.Value, error) {
		data, ok := args[0].([]byte)
		if !ok {
			return nil, errors.New("sha256 is of bytes")
		}
		sum := sha256.Sum256(data)
		return sum[:], nil
	})
}
