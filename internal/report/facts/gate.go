package facts

import "thrush/internal/core/gate"

// GateDocument is thrush.gate/1.
type GateDocument struct {
	Schema string `json:"schema"`
	Met    bool   `json:"met"`
	// RulesChanged are files that say what is required and are part of what is judged.
	RulesChanged []string       `json:"rules_changed"`
	Gates        []gate.Verdict `json:"gates"`
}

// Gate gives the document for the verdicts of a report.
func Gate(r *Report) GateDocument {
	return GateDocument{"thrush.gate/1", r.Unmet() == 0, append([]string{}, r.Rules...), append([]gate.Verdict{}, r.Verdicts...)}
}
