package cli

import (
	"github.com/spf13/cobra"
)

// noWords takes no words.
func noWords(c *cobra.Command, args []string) error {
	if len(args) > 0 {
		return usage("%s takes no %q; see %s --help", c.CommandPath(), args[0], c.CommandPath())
	}
	return nil
}

// between takes at least and at most so many words, which are called by what they name; a
// negative most is no bound.
func between(least, most int, what string) cobra.PositionalArgs {
	return func(c *cobra.Command, args []string) error {
		switch {
		case len(args) < least && least == 1:
			return usage("%s: say which %s; see %s --help", c.CommandPath(), what, c.CommandPath())
		case len(args) < least:
			return usage("%s: name at least %d, as in: %s", c.CommandPath(), least, c.UseLine())
		case most >= 0 && len(args) > most:
			return usage("%s: %q is one word too many; see %s --help", c.CommandPath(), args[most], c.CommandPath())
		}
		return nil
	}
}

// atLeast checks the number that a flag has.
func atLeast(flag string, n, least int) error {
	if n < least {
		return usage("--%s is %d; it must be at least %d", flag, n, least)
	}
	return nil
}
