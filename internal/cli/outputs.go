package cli

import (
	"bytes"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"thrush/internal/atomic"
	"thrush/internal/exit"
	"thrush/internal/judge"
	"thrush/internal/report/output"
	"thrush/internal/report/outputs"
)

// besides are files that a verdict is written to besides, by the names of formats.
type besides map[string]*string

// flags gives each format of verdicts an option.
func (b besides) flags(c *cobra.Command) {
	for _, f := range outputs.All {
		if f.Judged {
			b[f.Name] = c.Flags().String(f.Name, "", "write "+f.About+", to this `file` too")
		}
	}
}

func (b besides) any() bool {
	for _, file := range b {
		if *file != "" {
			return true
		}
	}
	return false
}

// writeBesides writes the files.
func (a *app) writeBesides(b besides, r *judge.Report) error {
	for _, f := range outputs.All {
		if file := b[f.Name]; file != nil && *file != "" {
			if err := a.writeAs(f, output.Input{Report: r, Info: r.Info}, *file); err != nil {
				return err
			}
		}
	}
	return nil
}

// writeAs writes in a format, to a file or to the output.
func (a *app) writeAs(f output.Format, in output.Input, file string) error {
	var text bytes.Buffer
	if err := f.Write(&text, in); err != nil {
		return err
	}
	return a.put(file, text.Bytes())
}

// put prints a text, or writes it to a file.
func (a *app) put(file string, text []byte) error {
	if file == "" {
		_, err := a.out.Document().Write(text)
		return err
	}
	if err := a.write(file, text); err != nil {
		return exit.Usagef("%s cannot be written: %w", file, err)
	}
	return nil
}

// write writes a file that was asked for, in a folder that need not exist yet.
func (a *app) write(file string, data []byte) error {
	path := a.path(file)
	if err := os.MkdirAll(filepath.Dir(path), 0o777); err != nil {
		return err
	}
	return atomic.Write(path, data, true)
}
