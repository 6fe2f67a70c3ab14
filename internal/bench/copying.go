package main

import (
	"fmt"
	"math"
	"path/filepath"
	"time"

	"thrush/internal/home"
	"thrush/internal/workcopy"
)

// copying brings the copy of a project up to date in which a command may run, and puts it
// away again: the first time, and when nothing changed.
func copying(_, dir string) []row {
	tree := filepath.Join(dir, "tree")
	files, _ := library(tree, 5000, math.MaxInt, nil)
	own, err := home.Make(dir)
	check(err)
	in, err := own.Folder("copy")
	check(err)
	once := func() {
		c := &workcopy.Copy{From: tree, In: in, Name: "tree"}
		check(c.Open())
		check(c.Sync())
		check(c.Close())
	}
	cold := timed(once)
	var warm []time.Duration
	for range 9 {
		warm = append(warm, timed(once))
	}
	what := fmt.Sprintf("copy of a project of %d files: ", files)
	return []row{
		{what: what + "the first", budget: "2 s", aim: "–", measured: ms(cold)},
		{what: what + "nothing changed", budget: "200 ms", aim: "–", measured: ms(median(warm))},
	}
}
