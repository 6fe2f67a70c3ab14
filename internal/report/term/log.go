package term

import (
	"fmt"
	"strings"
	"time"

	"thrush/internal/reading"
	"thrush/internal/report/words"
)

// Log lists recordings.
func (o *Out) Log(list []reading.Kept, more int) {
	labelWidth := 5
	for _, e := range list {
		labelWidth = max(labelWidth, Width(label(e)))
	}
	labelWidth = min(labelWidth, 24)
	fmt.Fprintln(o, Faint(fmt.Sprintf("%-8s  %-16s  %s  %8s  %8s  %-9s  %4s  %s", "id", "when", Pad("label", labelWidth), "lines", "branches", "commit", "exit", "command")))
	for _, e := range list {
		if e.Problem != "" {
			fmt.Fprintf(o, "%-8s  %s\n", e.ID, Bad(words.Safe(e.Problem)))
			continue
		}
		commit := e.Info.Commit[:min(8, len(e.Info.Commit))]
		if e.Info.Dirty {
			commit += "+"
		}
		command := words.Safe(strings.Join(e.Info.Command, " "))
		if e.Info.Merged() {
			of := fmt.Sprintf("merged of %d", len(e.Info.Parts))
			if command != "" {
				of += ": " + command
			}
			command = of
		}
		if e.Pinned {
			command += Faint(" (pinned)")
		}
		if o.Terminal {
			command = Cut(command, max(20, o.Width-68-labelWidth))
		}
		fmt.Fprintf(o, "%s  %-16s  %s  %8s  %8s  %-9s  %4d  %s\n", Strong(e.ID), when(e.Info.When), Pad(Cut(label(e), labelWidth), labelWidth),
			words.Percent(e.Totals.Lines), words.Percent(e.Totals.Branches), commit, e.Info.Exit, command)
	}
	if more > 0 {
		fmt.Fprintln(o, Faint(fmt.Sprintf("and %d older: --most %d lists all", more, more+len(list))))
	}
}

func label(e reading.Kept) string { return words.Safe(strings.Join(e.Info.Labels, ",")) }

func when(s string) string {
	t, err := time.Parse(time.RFC3339, s)
	if err != nil {
		return words.Safe(s)
	}
	return t.Local().Format("2006-01-02 15:04")
}
