package documents

import (
	"thrush/internal/core/gate"
	"thrush/internal/judge"
)

// GateDocument is thrush.gate/1.
type GateDocument struct {
	Schema string `json:"schema"`
	Met    bool   `json:"met"` // no rule is short, and no waiver has ended
	// RulesChanged are files that say what is required and are part of what is judged.
	RulesChanged []string       `json:"rules_changed"`
	Gates        []gate.Verdict `json:"gates"`
	Expired      []gate.Expired `json:"expired_waivers"`
}

// Gate gives the document for the verdicts of a report.
func Gate(r *judge.Report) GateDocument {
	return GateDocument{"thrush.gate/1", !r.Count().Fails(), append([]string{}, r.Rules...), append([]gate.Verdict{}, r.Verdicts...), append([]gate.Expired{}, r.Expired...)}
}
