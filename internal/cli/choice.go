package cli

import (
	"errors"
	"slices"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"thrush/internal/exit"
	"thrush/internal/report/prose"
)

// choice is the value of a flag that takes one of a few words.
type choice struct {
	name    string
	to      *string
	allowed []string
}

func (c choice) String() string {
	if c.to == nil {
		return ""
	}
	return *c.to
}

func (c choice) Type() string { return "string" }

func (c choice) Set(word string) error {
	// An empty value is told by saidEmpty, as of all flags.
	if word != "" && !slices.Contains(c.allowed, word) {
		return exit.Usagef("--%s is %q; it can be %s", c.name, word, prose.Or(c.allowed))
	}
	*c.to = word
	return nil
}

// choose gives a command a flag that takes one of the words, which shells complete.
func choose(c *cobra.Command, to *string, name, usual, about string, allowed ...string) {
	*to = usual
	c.Flags().Var(choice{name, to, allowed}, name, about)
	completes(c, name, allowed...)
}

// completes has shells complete the values of a flag.
func completes(c *cobra.Command, name string, values ...string) {
	if err := c.RegisterFlagCompletionFunc(name, cobra.FixedCompletions(values, cobra.ShellCompDirectiveNoFileComp)); err != nil {
		panic(err) // the flag is not there
	}
}

// flagError puts what is wrong with a flag into our words, and says which one was meant.
func flagError(c *cobra.Command, err error) error {
	var value *pflag.InvalidValueError
	var missing *pflag.NotExistError
	switch {
	case errors.As(err, &value) && errors.As(value.Unwrap(), new(*exit.Error)):
		return value.Unwrap()
	case errors.As(err, &value) && value.GetFlag().Value.Type() == "int":
		return exit.Usagef("--%s is %q; it takes a number", value.GetFlag().Name, value.GetValue())
	case errors.As(err, &missing):
		return exit.Usagef("%s knows no flag --%s%s; see %s --help", c.CommandPath(), missing.GetSpecifiedName(), meant(flagNames(c), missing.GetSpecifiedName(), "--"), c.CommandPath())
	}
	return exit.Usagef("%w; see %s --help", err, c.CommandPath())
}

func flagNames(c *cobra.Command) (out []string) {
	c.Flags().VisitAll(func(f *pflag.Flag) {
		if !f.Hidden {
			out = append(out, f.Name)
		}
	})
	return out
}

// meant asks whether a word was meant for one that is like it, or gives nothing.
func meant(known []string, word, before string) string {
	all := &cobra.Command{SuggestionsMinimumDistance: 2}
	for _, name := range known {
		all.AddCommand(&cobra.Command{Use: name, Run: func(*cobra.Command, []string) {}})
	}
	list := all.SuggestionsFor(word)
	if len(list) == 0 {
		return ""
	}
	for i := range list {
		list[i] = before + list[i]
	}
	return " (did you mean " + prose.Or(list) + "?)"
}
