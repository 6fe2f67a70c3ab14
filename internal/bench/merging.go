package main

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"

	"thrush/internal/recording"
)

// merging measures the merge of many recordings of a large project against reading
// the same bytes: opening each, which checks and decompresses it.
func merging(thrush, dir string) []row {
	files, lines := library(dir, 1<<30, 2_600_000, nil)
	base := filepath.Join(dir, "base"+recording.Extension)
	run(dir, nil, thrush, "record", "-q", "-o", base, "--", "true")
	shards := filepath.Join(dir, "shards")
	const many = 1000
	sites, bytes := spread(base, shards, many)
	var few []string
	for i := range 100 {
		few = append(few, filepath.Join(shards, fmt.Sprintf("%04d%s", i, recording.Extension)))
	}
	read := func() {
		for i := range many {
			_, err := recording.Open(filepath.Join(shards, fmt.Sprintf("%04d%s", i, recording.Extension)))
			check(err)
		}
	}
	out := filepath.Join(dir, "all"+recording.Extension)
	var memory, memoryFew int64
	with, without := pair(1, func() { memory = peak(dir, thrush, "merge", "-q", "-o", out, shards) }, read)
	memoryFew = peak(dir, append([]string{thrush, "merge", "-q", "-o", out}, few...)...)
	return []row{{
		what:   fmt.Sprintf("merging %d recordings of %d files, %d lines, %.1f M sites each (%.1f GB)", many, files, lines, float64(sites)/1e6, float64(bytes)/1e9),
		budget: "3× reading", aim: "1.2×", measured: fmt.Sprintf("%.2f×", float64(with)/float64(without)),
		note: fmt.Sprintf("(%.1f s, reading %.1f s)", with.Seconds(), without.Seconds()),
	}, {
		what: "memory of that merge, against merging 100 of them", budget: "flat", aim: "flat",
		measured: fmt.Sprintf("%d MB, %d MB", memory>>20, memoryFew>>20),
	}}
}

// spread writes so many recordings with the tables of one: each ran something else, a
// third of the files and most of what is in them.
func spread(base, to string, n int) (sites int, bytes int64) {
	rec, err := recording.Open(base)
	check(err)
	check(os.MkdirAll(to, 0o777))
	for i := range rec.Len() {
		l, err := rec.Load(i)
		check(err)
		sites += len(l.Table.Functions) + len(l.Table.Statements)
		for _, d := range l.Table.Decisions {
			sites += len(d.Outcomes)
		}
	}
	for i := range n {
		r := rand.New(rand.NewPCG(uint64(i), 7))
		var list []recording.File
		for j := range rec.Rows() {
			row := rec.Row(j)
			f := recording.File{Path: row.Path, Digest: row.Digest, Table: row.Table, NumCounters: row.Counters}
			if r.IntN(3) == 0 {
				f.Counters = make([]uint64, row.Counters)
				for k := range f.Counters {
					if r.IntN(3) > 0 {
						f.Counters[k] = uint64(1) << r.IntN(12)
					}
				}
			}
			list = append(list, f)
		}
		info := rec.Info
		info.Run, info.Processes, info.Labels = fmt.Sprint(i), 1, []string{[]string{"unit", "e2e", "load"}[i%3]}
		data, err := recording.Encode(info, list, nil)
		check(err)
		bytes += int64(len(data))
		check(os.WriteFile(filepath.Join(to, fmt.Sprintf("%04d%s", i, recording.Extension)), data, 0o666))
	}
	return sites, bytes
}

// peak runs a command and gives the most memory it had, in bytes.
func peak(dir string, args ...string) int64 {
	cmd := exec.Command(args[0], args[1:]...)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "PWD="+dir)
	if out, err := cmd.CombinedOutput(); err != nil {
		check(fmt.Errorf("%s: %w\n%s", strings.Join(args, " "), err, out))
	}
	return cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss << 10
}
