package facts

import "thrush/internal/core/gate"

// GateDocument is thrush.gate/1.
type GateDocument struct {
	Schema string         `json:"schema"`
	Met    bool           `json:"met"`
	Gates  []gate.Verdict `json:"gates"`
}

// Gate gives the document for verdicts.
func Gate(list []gate.Verdict, met bool) GateDocument {
	return GateDocument{"thrush.gate/1", met, append([]gate.Verdict{}, list...)}
}
