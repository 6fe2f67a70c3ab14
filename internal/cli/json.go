package cli

import "thrush/internal/report/facts"

// printJSON prints a document of facts.
func (a *app) printJSON(v any) error { return facts.Write(a.out.Document(), v, "  ") }
