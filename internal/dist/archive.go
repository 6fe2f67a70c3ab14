package main

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// file is a file of a release.
type file struct {
	name      string // in the archive
	installed string // where the Debian package puts it
	mode      int64
	data      []byte
}

// archive writes a tar file, in which nothing but the commit decides on a byte.
func (r release) archive(t target, files []file) (string, error) {
	top := fmt.Sprintf("thrush-%s-linux-%s", r.version, t.arch)
	var out bytes.Buffer
	zip, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	if err != nil {
		return "", err
	}
	w := tar.NewWriter(zip)
	for _, f := range files {
		head := &tar.Header{Typeflag: tar.TypeReg, Name: top + "/" + f.name, Mode: f.mode, Size: int64(len(f.data)), ModTime: r.when, Format: tar.FormatPAX}
		if err := w.WriteHeader(head); err != nil {
			return "", err
		}
		if _, err := w.Write(f.data); err != nil {
			return "", err
		}
	}
	if err := w.Close(); err != nil {
		return "", err
	}
	if err := zip.Close(); err != nil {
		return "", err
	}
	path := filepath.Join(r.out, top+".tar.gz")
	return path, os.WriteFile(path, out.Bytes(), 0o666)
}

// debian has dpkg-deb make a package. It depends on nothing: the program is static.
func (r release) debian(t target, files []file) (string, error) {
	root, err := os.MkdirTemp("", "thrush-deb-")
	if err != nil {
		return "", err
	}
	defer os.RemoveAll(root)
	size := 0
	for _, f := range files {
		path := filepath.Join(root, filepath.FromSlash(f.installed))
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			return "", err
		}
		if err := os.WriteFile(path, f.data, os.FileMode(f.mode)); err != nil {
			return "", err
		}
		size += len(f.data)
	}
	control := fmt.Sprintf(`Package: thrush
Version: %s
Architecture: %s
Maintainer: Thrush <crew@skerry.example>
Installed-Size: %d
Section: devel
Priority: optional
Description: tells what your tests ran
 Thrush weaves probes into code during test runs, collects which lines,
 branches and conditions ran, merges many runs, shows what to test next,
 and stops a change that is not tested well enough.
 Go, C, C++, Python, Java, JavaScript and TypeScript.
`, r.version, t.arch, (size+1023)/1024)
	if err := os.MkdirAll(filepath.Join(root, "DEBIAN"), 0o755); err != nil {
		return "", err
	}
	if err := os.WriteFile(filepath.Join(root, "DEBIAN", "control"), []byte(control), 0o644); err != nil {
		return "", err
	}
	// What the umask took away is given back: packages are for everybody.
	if err := filepath.WalkDir(root, func(path string, d os.DirEntry, err error) error {
		if err == nil && d.IsDir() {
			return os.Chmod(path, 0o755)
		}
		return err
	}); err != nil {
		return "", err
	}
	path := filepath.Join(r.out, fmt.Sprintf("thrush_%s_%s.deb", r.version, t.arch))
	cmd := exec.Command("dpkg-deb", "--root-owner-group", "-Zxz", "--build", root, path)
	cmd.Env = append(os.Environ(), fmt.Sprintf("SOURCE_DATE_EPOCH=%d", r.when.Unix()))
	if out, err := cmd.CombinedOutput(); err != nil {
		return "", fmt.Errorf("dpkg-deb makes no package: %s", strings.TrimSpace(string(out)))
	}
	return path, nil
}
