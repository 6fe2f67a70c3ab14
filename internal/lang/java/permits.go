package java

import (
	"strings"

	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// declaring notes that what is read stands in a declaration. Initialisers have no annotations.
func (r *reader) declaring(n *tree.Node) (done func()) {
	outer := r.holder
	if n.Kind != "block" && n.Kind != "static_initializer" {
		r.holder = n
	}
	return func() { r.holder = outer }
}

// permit is where the declaration around says what the compiler is not to warn of.
func (r *reader) permit() *flow.Permit {
	if r.holder == nil {
		return nil
	}
	at := &flow.Permit{From: r.holder.From, End: r.holder.From}
	m := r.holder.First("modifiers")
	if m == nil {
		return at
	}
	for i := range m.Kids {
		k := &m.Kids[i]
		if k.Kind != "annotation" || !strings.HasSuffix(r.text.Word(k.Child("name")), "SuppressWarnings") {
			continue
		}
		v := k.Child("arguments").Only()
		if v != nil && v.Kind == "element_value_pair" {
			v = v.Child("value")
		}
		switch {
		case v == nil || strings.Contains(r.text.Word(v), `"fallthrough"`):
			return nil
		case v.Kind == "element_value_array_initializer":
			return &flow.Permit{From: v.From + 1, End: v.From + 1, Listed: true}
		}
		return &flow.Permit{From: v.From, End: v.To}
	}
	return at
}
