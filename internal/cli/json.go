package cli

import (
	"bytes"
	"encoding/json"
	"regexp"
)

// printJSON prints a document of facts.
func (a *app) printJSON(v any) error {
	text, err := asJSON(v, "  ")
	if err == nil {
		_, err = a.out.Document().Write(text)
	}
	return err
}

// asJSON gives a value as JSON, on one line or indented.
func asJSON(v any, indent string) ([]byte, error) {
	var text bytes.Buffer
	e := json.NewEncoder(&text)
	e.SetEscapeHTML(false)
	e.SetIndent("", indent)
	err := e.Encode(v)
	return harmless(text.Bytes()), err
}

// toService is what services that run pipelines take for a command of theirs, wherever it stands.
var toService = regexp.MustCompile(`##([A-Za-z]*\[)`)

// harmless says the same otherwise in JSON, where it can only be part of a string.
func harmless(document []byte) []byte { return toService.ReplaceAll(document, []byte(`#\u0023$1`)) }
