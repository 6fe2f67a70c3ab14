package weave

import (
	"thrush/internal/core/site"
)

// widest is more than any expression is long.
const widest = 1 << 40

// put adds an edit whose action fits the function at hand.
func (p *planner) put(e Edit) {
	if p.fn != nil {
		e.Constant, e.Among = p.fn.constant, p.fn.among
	}
	p.edits = append(p.edits, e)
}

// insert puts a statement, or a part of one, at an offset.
func (p *planner) insert(at int, op Op) { p.put(Edit{At: at, Action: &Action{Op: op}}) }

// numbered inserts what is about a label, a flag, a sum or bits.
func (p *planner) numbered(at, name int, op Op) {
	p.put(Edit{At: at, Action: &Action{Op: op, Name: name}})
}

// place puts a new counter at an offset and gives the state from there on.
func (p *planner) place(at int, op Op) state { return p.placed(at, Action{Op: op}) }

// placed is place for an action with operands.
func (p *planner) placed(at int, a Action) state {
	a.Counter = p.count()
	p.put(Edit{At: at, Action: &a})
	return counted(site.Sum{uint32(a.Counter)})
}

func (p *planner) probe(at int) state { return p.place(at, Probe) }

// count hands out a counter.
func (p *planner) count() int {
	p.table.Counters++
	return p.table.Counters - 1
}

// around puts an action around an expression.
func (p *planner) around(from, end int, a *Action) {
	length := end - from
	p.put(Edit{At: from, Action: a, rank: 1, order: widest - length})
	p.put(Edit{At: end, Action: a, Behind: true, rank: -1, order: length - widest})
}
