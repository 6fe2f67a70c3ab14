package cli

import "thrush/internal/report/documents"

// printJSON prints a document of facts.
func (a *app) printJSON(v any) error { return documents.Write(a.out.Document(), v, "  ") }
