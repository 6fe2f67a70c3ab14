package cli

import (
	"errors"
	"strings"

	"thrush/internal/exit"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
)

// saidEmpty refuses an option whose value is empty: that is a variable of a pipeline which is
// not set, and taking it for an option that was not given would judge or drop something else
// than was meant. The words on a badge may be none.
func saidEmpty(c *cobra.Command) error {
	var wrong error
	c.Flags().Visit(func(f *pflag.Flag) {
		blank := f.Value.Type() == "string" && strings.TrimSpace(f.Value.String()) == ""
		if list, ok := f.Value.(pflag.SliceValue); ok {
			blank = len(list.GetSlice()) == 0
			for _, v := range list.GetSlice() {
				blank = blank || strings.TrimSpace(v) == ""
			}
		}
		if blank && !(c.Name() == "badge" && f.Name == "label") {
			wrong = errors.Join(wrong, exit.Usagef("--%s is empty; give it a value, or leave it out", f.Name))
		}
	})
	return wrong
}

// noWords takes no words.
func noWords(c *cobra.Command, args []string) error {
	if len(args) > 0 {
		return exit.Usagef("%s takes no %q; see %s --help", c.CommandPath(), args[0], c.CommandPath())
	}
	return nil
}

// between takes at least and at most so many words, which are called by what they name; a
// negative most is no bound.
func between(least, most int, what string) cobra.PositionalArgs {
	return func(c *cobra.Command, args []string) error {
		switch {
		case len(args) < least && least == 1:
			return exit.Usagef("%s: say which %s; see %s --help", c.CommandPath(), what, c.CommandPath())
		case len(args) < least:
			return exit.Usagef("%s: name at least %d, as in: %s", c.CommandPath(), least, c.UseLine())
		case most >= 0 && len(args) > most:
			return exit.Usagef("%s: %q is one word too many; see %s --help", c.CommandPath(), args[most], c.CommandPath())
		}
		return nil
	}
}

// atLeast checks the number that a flag has.
func atLeast(flag string, n, least int) error {
	if n < least {
		return exit.Usagef("--%s is %d; it must be at least %d", flag, n, least)
	}
	return nil
}
