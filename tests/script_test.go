// Package tests drives the built program, as its users do, on files in
// temporary folders.
package tests

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/testscript"
)

func TestMain(m *testing.M) { os.Exit(withProgram(m)) }

// withProgram builds Thrush and runs the tests with it.
func withProgram(m *testing.M) int {
	dir, err := os.MkdirTemp("", "thrush-bin-*")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	build := exec.Command("go", "build", "-o", filepath.Join(dir, "thrush"), "thrush/cmd/thrush")
	build.Stderr = os.Stderr
	if err := build.Run(); err != nil {
		panic(err)
	}
	os.Setenv("PATH", dir+string(os.PathListSeparator)+os.Getenv("PATH"))
	return m.Run()
}

func TestScripts(t *testing.T) {
	for _, tool := range []string{"gcc", "g++", "clang", "python3", "node", "chromium", "javac"} {
		if _, err := exec.LookPath(tool); err != nil && os.Getenv("CI") != "" {
			t.Errorf("there is no %s, so some scripts do not run", tool)
		}
	}
	scripts(t, "testdata/script")
}

// scripts runs the scripts in a folder.
func scripts(t *testing.T, folder string) {
	keep := map[string]string{}
	out, err := exec.Command("go", "env", "-json", "GOCACHE", "GOMODCACHE", "GOPROXY", "GOTOOLCHAIN").Output()
	if err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal(out, &keep); err != nil {
		t.Fatal(err)
	}
	testscript.Run(t, testscript.Params{
		Dir:                 folder,
		RequireExplicitExec: true,
		Setup: func(e *testscript.Env) error {
			for name, value := range keep {
				e.Setenv(name, value)
			}
			e.Setenv("HOME", e.WorkDir)
			samples, err := filepath.Abs("../samples")
			e.Setenv("SAMPLES", samples)
			e.Setenv("GOFLAGS", "-buildvcs=false")
			for _, who := range []string{"AUTHOR", "COMMITTER"} {
				e.Setenv("GIT_"+who+"_NAME", "Skerry Ferries")
				e.Setenv("GIT_"+who+"_EMAIL", "crew@skerry.example")
			}
			return err
		},
		Cmds: map[string]func(*testscript.TestScript, bool, []string){
			"status": status,
			"facts":  facts,
			"bytes":  writeBytes,
			"flip":   flip,
			"said":   said,
		},
	})
}

// said FILE... fails where a line of source does not have the state and count that its last
// comment says it has, as in "//= none 0" or "#= full 2".
func said(ts *testscript.TestScript, _ bool, args []string) {
	ts.Check(ts.Exec("thrush", append([]string{"source"}, args...)...))
	checked := 0
	for line := range strings.Lines(ts.ReadFile("stdout")) {
		_, want, ok := strings.Cut(line, "= ")
		if i := strings.LastIndex(line, "//= "); i >= 0 {
			want = line[i+4:]
		} else if i := strings.LastIndex(line, "#= "); i >= 0 {
			want = line[i+3:]
		} else {
			ok = false
		}
		if !ok {
			continue
		}
		checked++
		state, rest, _ := strings.Cut(line, " ")
		_, count, _ := strings.Cut(strings.TrimLeft(rest, " "), "  ")
		count, _, _ = strings.Cut(count, "\t")
		if got := strings.TrimSpace(state + " " + count); got != strings.TrimSuffix(strings.TrimSpace(want), " */") {
			ts.Fatalf("%q instead: %s", got, line)
		}
	}
	if checked == 0 {
		ts.Fatalf("no line says what it has")
	}
}

// status N COMMAND... runs a command that must end with exit status N.
func status(ts *testscript.TestScript, neg bool, args []string) {
	want, err := strconv.Atoi(args[0])
	ts.Check(err)
	err = ts.Exec(args[1], args[2:]...)
	got := 0
	if err != nil {
		if _, scanErr := fmt.Sscanf(err.Error(), "exit status %d", &got); scanErr != nil {
			ts.Fatalf("%v", err)
		}
	}
	if got != want {
		ts.Fatalf("exit status %d, want %d", got, want)
	}
}

// facts PATH VALUE... looks into the JSON that the last command printed: each
// path, with dots, must have the value.
func facts(ts *testscript.TestScript, neg bool, args []string) {
	var doc any
	ts.Check(json.Unmarshal([]byte(ts.ReadFile("stdout")), &doc))
	for i := 0; i+1 < len(args); i += 2 {
		v := doc
		for _, key := range strings.Split(args[i], ".") {
			switch x := v.(type) {
			case map[string]any:
				v = x[key]
			case []any:
				n, err := strconv.Atoi(key)
				if err != nil || n >= len(x) {
					ts.Fatalf("no %s in %s", key, args[i])
				}
				v = x[n]
			}
		}
		text, err := json.Marshal(v)
		ts.Check(err)
		if got := strings.Trim(string(text), `"`); got != args[i+1] {
			ts.Fatalf("%s is %s, want %s", args[i], got, args[i+1])
		}
	}
}

// bytes FILE TEXT writes a file, its name and text in Go's notation for strings.
func writeBytes(ts *testscript.TestScript, neg bool, args []string) {
	name, err := strconv.Unquote(`"` + args[0] + `"`)
	ts.Check(err)
	text, err := strconv.Unquote(`"` + args[1] + `"`)
	ts.Check(err)
	ts.Check(os.MkdirAll(filepath.Dir(ts.MkAbs(name)), 0o777))
	ts.Check(os.WriteFile(ts.MkAbs(name), []byte(text), 0o666))
}

// flip FILE flips a bit in the middle of a file.
func flip(ts *testscript.TestScript, neg bool, args []string) {
	data, err := os.ReadFile(ts.MkAbs(args[0]))
	ts.Check(err)
	data = bytes.Clone(data)
	data[len(data)/2] ^= 1
	ts.Check(os.WriteFile(ts.MkAbs(args[0]), data, 0o666))
}
