package cli

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"thrush/internal/atomic"
	"thrush/internal/exit"
	"thrush/internal/judge"
	"thrush/internal/report/junit"
	"thrush/internal/report/markdown"
	"thrush/internal/report/sarif"
	"thrush/internal/version"
)

// outputs are files that a gate is written to besides, for pipelines.
type outputs struct{ markdown, sarif, junit string }

func (o *outputs) flags(c *cobra.Command) {
	c.Flags().StringVar(&o.markdown, "markdown", "", "write it as Markdown to this `file` too, for a comment")
	c.Flags().StringVar(&o.sarif, "sarif", "", "write it as SARIF 2.1.0 to this `file` too, for notes beside the lines")
	c.Flags().StringVar(&o.junit, "junit", "", "write it as JUnit XML to this `file` too, each gate a test")
}

func (o outputs) any() bool { return o != outputs{} }

// write writes the files.
func (a *app) writeOutputs(o outputs, r *judge.Report) error {
	for _, one := range []struct{ format, file string }{{"markdown", o.markdown}, {"sarif", o.sarif}, {"junit", o.junit}} {
		if one.file == "" {
			continue
		}
		text, err := reportAs(one.format, r)
		if err != nil {
			return err
		}
		if err := a.put(one.file, text); err != nil {
			return err
		}
	}
	return nil
}

// reportAs gives a report in a format of pipelines.
func reportAs(format string, r *judge.Report) ([]byte, error) {
	switch format {
	case "markdown":
		return []byte(markdown.Write(r)), nil
	case "sarif":
		text, err := sarif.Write(r, version.String())
		return harmless(text), err
	case "junit":
		return junit.Write(r)
	}
	return nil, fmt.Errorf("no such format %q", format)
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
