package main

import (
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// goroot is where the go command in the path keeps the standard library.
func goroot() string {
	out, err := exec.Command("go", "env", "GOROOT").Output()
	check(err)
	return strings.TrimSpace(string(out))
}

// library copies Go files of the standard library, all or those that keep wants,
// into a module of so many files or lines, whichever comes first. They are there
// to be woven, not built.
func library(dir string, files, lines int, keep func(path, text string) bool) (n, total int) {
	check(os.MkdirAll(dir, 0o777))
	check(os.WriteFile(filepath.Join(dir, "go.mod"), []byte("module skerry\n\ngo 1.26\n"), 0o666))
	src := filepath.Join(goroot(), "src")
	for round := 0; n < files && total < lines; round++ {
		before := n
		check(filepath.WalkDir(src, func(path string, d fs.DirEntry, err error) error {
			if err != nil {
				return err
			}
			if d.IsDir() && (d.Name() == "testdata" || d.Name() == "vendor") {
				return filepath.SkipDir
			}
			if d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || n >= files || total >= lines {
				return nil
			}
			text, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			if keep != nil && !keep(path, string(text)) {
				return nil
			}
			rel, _ := filepath.Rel(src, path)
			to := filepath.Join(dir, fmt.Sprintf("r%d", round), rel)
			n, total = n+1, total+strings.Count(string(text), "\n")
			if err := os.MkdirAll(filepath.Dir(to), 0o777); err != nil {
				return err
			}
			return os.WriteFile(to, text, 0o666)
		}))
		if n == before {
			break
		}
	}
	return n, total
}
