package weave

import (
	"thrush/internal/core/site"
	"thrush/internal/syntax/flow"
)

// edit replaces bytes of the source by what a dialect says.
type edit struct {
	at, del int
	rank    int                  // at one offset, expressions end, then come statements, then expressions begin
	order   int                  // of expressions, the inner end first and begin last
	say     func(Dialect) string // nil says nothing
}

func (p *planner) insert(at int, say func(Dialect) string) {
	p.edits = append(p.edits, edit{at: at, say: p.inFunction(say)})
}

// inFunction has what is said fit the function at hand.
func (p *planner) inFunction(say func(Dialect) string) func(Dialect) string {
	if say == nil {
		return nil
	}
	constant, among := p.fn.constant, p.fn.among
	return func(d Dialect) string {
		if constant {
			d = d.Constant()
		}
		if among != flow.NotAmong {
			d = d.Among(among)
		}
		return say(d)
	}
}

// numbered inserts what a dialect says of a counter, a label or a flag.
func (p *planner) numbered(at, n int, say func(Dialect, int) string) {
	p.insert(at, func(d Dialect) string { return say(d, n) })
}

// place puts a new counter at an offset and gives the state from there on.
func (p *planner) place(at int, say func(Dialect, int) string) state {
	c := p.table.Counters
	p.table.Counters++
	p.numbered(at, c, say)
	return counted(site.Sum{uint32(c)})
}

func (p *planner) probe(at int) state { return p.place(at, Dialect.Probe) }
