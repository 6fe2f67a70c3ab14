// Program dist makes what users download: for each kind of machine an archive and a Debian package
// with the program, completions for shells, man pages and the licences of everything that is linked
// in; and the checksums of all of it. The same commit gives the same bytes. Run it by: make dist
package main

import (
	"crypto/sha256"
	"flag"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"time"
)

// target is a kind of machine.
type target struct {
	arch   string // as Go and Debian call it
	triple string // as compilers do
}

var targets = []target{{"amd64", "x86_64-linux-gnu"}, {"arm64", "aarch64-linux-gnu"}}

// release is what all archives share.
type release struct {
	version string
	when    time.Time // of the commit; all files bear it
	out     string
}

func main() {
	version := flag.String("version", "", "the release's number; without one it is made of the commit")
	out := flag.String("out", "dist", "folder")
	flag.Parse()
	if err := run(*version, *out); err != nil {
		fmt.Fprintln(os.Stderr, "dist:", err)
		os.Exit(1)
	}
}

func run(version, out string) error {
	seconds, err := strconv.ParseInt(text("git", "log", "-1", "--format=%ct"), 10, 64)
	if err != nil {
		return fmt.Errorf("the commit's time is not known: %w", err)
	}
	r := release{version, time.Unix(seconds, 0).UTC(), out}
	if version == "" {
		r.version = "0.0~" + r.when.Format("20060102") + "." + text("git", "rev-parse", "--short=12", "HEAD")
	}
	if !regexp.MustCompile(`^[0-9][0-9A-Za-z.~+]*$`).MatchString(r.version) {
		return fmt.Errorf("%q is no version: it begins with a digit, and has letters, digits, . ~ and +", r.version)
	}
	if err := os.RemoveAll(out); err != nil {
		return err
	}
	if err := os.MkdirAll(out, 0o777); err != nil {
		return err
	}
	programs := map[string]string{}
	for _, t := range targets {
		if programs[t.arch], err = r.build(t); err != nil {
			return err
		}
		defer os.RemoveAll(filepath.Dir(programs[t.arch]))
	}
	shared, err := r.shared(programs[runtime.GOARCH])
	if err != nil {
		return err
	}
	var made []string
	for _, t := range targets {
		program, err := os.ReadFile(programs[t.arch])
		if err != nil {
			return err
		}
		files := append(slices.Clone(shared), file{"thrush", "usr/bin/thrush", 0o755, program})
		slices.SortFunc(files, func(a, b file) int { return strings.Compare(a.name, b.name) })
		archive, err := r.archive(t, files)
		if err != nil {
			return err
		}
		deb, err := r.debian(t, files)
		if err != nil {
			return err
		}
		made = append(made, archive, deb)
	}
	return r.sums(made)
}

// build builds the program for a kind of machine.
func (r release) build(t target) (string, error) {
	dir, err := os.MkdirTemp("", "thrush-dist-")
	if err != nil {
		return "", err
	}
	to := filepath.Join(dir, "thrush")
	cmd := exec.Command("go", "build", "-trimpath", "-buildvcs=false", "-tags", "netgo,osusergo", "-o", to,
		"-ldflags", "-s -w -buildid= -linkmode external -extldflags '-static -Wl,--build-id=none' -X thrush/internal/version.number="+r.version, "./cmd/thrush")
	cmd.Env = append(os.Environ(), "CGO_ENABLED=1", "GOOS=linux", "GOARCH="+t.arch, "CC="+t.triple+"-gcc", "CXX="+t.triple+"-g++", "GOFLAGS=")
	cmd.Stderr = os.Stderr
	if err := cmd.Run(); err != nil {
		return "", fmt.Errorf("the program for %s cannot be built with %s-gcc: %w", t.arch, t.triple, err)
	}
	return to, nil
}

// sums writes the checksums, in the form that sha256sum -c reads.
func (r release) sums(made []string) error {
	var out strings.Builder
	slices.Sort(made)
	for _, path := range made {
		data, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		fmt.Fprintf(&out, "%x  %s\n", sha256.Sum256(data), filepath.Base(path))
		fmt.Printf("%-44s %5.1f MB\n", path, float64(len(data))/1e6)
	}
	return os.WriteFile(filepath.Join(r.out, "SHA256SUMS"), []byte(out.String()), 0o666)
}

// text gives what a command prints, or nothing if it fails.
func text(name string, args ...string) string {
	out, _ := exec.Command(name, args...).Output()
	return strings.TrimSpace(string(out))
}
