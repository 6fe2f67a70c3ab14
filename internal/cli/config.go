package cli

import (
	"os"

	"github.com/spf13/cobra"

	"thrush/internal/history"
	"thrush/internal/report/documents"
)

func (a *app) configCommand() *cobra.Command {
	var format string
	c := &cobra.Command{
		Use:   "config",
		Short: "What is in force here, and from where",
		Long: `Prints the project's root and every setting with where it comes from: thrush.toml,
the section thrush of package.json, the table tool.thrush of pyproject.toml, the
environment, or the default.`,
		Args: noWords,
		RunE: func(c *cobra.Command, args []string) error {
			return a.config(format)
		},
	}
	formatFlag(c, &format)
	return c
}

func (a *app) config(format string) error {
	p, err := a.project()
	if err != nil {
		return err
	}
	var list []documents.Setting
	for _, s := range p.Config.InForce(history.Redact) {
		list = append(list, documents.Setting(s))
	}
	for i, s := range list {
		if v := os.Getenv(storeVariable); s.Key == "history.store" && v != "" {
			list[i].Value, list[i].From = history.Redact(v), "$"+storeVariable
		}
	}
	if format == "json" {
		return a.printJSON(documents.Config(p.Root, list))
	}
	a.out.Settings(append([]documents.Setting{{Key: "root", Value: p.Root}}, list...))
	return nil
}
