package cfamily

import (
	"bytes"
)

// group is the preprocessed text of one line of a file, which markers may take
// apart, with the place in the source of each of its tokens.
type group struct {
	tokens []token // of the preprocessed text
	places []token // those of the source that they are, or stand for
	exact  []bool  // it is that very token, not one that a macro stands for
}

// match matches the tokens of a line with those of the source. What stands on the lines
// after it was an argument of a macro before, if a parenthesis is open there; else it was
// taken out by the preprocessor, and is no text of this program.
func (p *placer) match(first int) *group {
	r := p.rows[first]
	g := &group{}
	next := r.line + 1
	for i := first; i < len(p.rows) && i < first+4096; i++ {
		if o := p.rows[i]; o.group == first {
			g.tokens = append(g.tokens, tokensOf(p.text[:o.to], o.from)...)
		} else if o.file == r.file {
			if o.line > r.line {
				next = min(o.line, r.line+mostLines)
			}
			break
		}
	}
	src := p.sources[r.file]
	written := src.arguments(r.line, next)
	if len(written) == 0 {
		written = []token{{src.lineOffset(r.line), src.lineOffset(r.line)}}
	}
	g.places, g.exact = align(p.text, g.tokens, src.text, written)
	return g
}

func tokensOf(text []byte, from int) []token {
	var out []token
	scan := scanner{text: text, at: from}
	for {
		t, ok := scan.next()
		if !ok {
			return out
		}
		out = append(out, t)
	}
}

// align gives for each token of a the one of b that it is; where it is none, the
// first of those that no token of a is, after the one that the token before is.
func align(textA []byte, a []token, textB []byte, b []token) (places []token, exact []bool) {
	same := func(i, j int) bool {
		return bytes.Equal(textA[a[i].from:a[i].to], textB[b[j].from:b[j].to])
	}
	at := make([]int, len(a))
	for i := range at {
		at[i] = -1
	}
	head := 0
	for head < len(a) && head < len(b) && same(head, head) {
		at[head] = head
		head++
	}
	tail := 0
	for tail < len(a)-head && tail < len(b)-head && same(len(a)-1-tail, len(b)-1-tail) {
		tail++
		at[len(a)-tail] = len(b) - tail
	}
	longest(head, len(a)-tail, head, len(b)-tail, same, at)
	places, exact = make([]token, len(a)), make([]bool, len(a))
	last := -1
	for i := range a {
		if at[i] >= 0 {
			last = at[i]
			places[i], exact[i] = b[last], true
			continue
		}
		places[i] = b[min(last+1, len(b)-1)]
	}
	return places, exact
}

// longest finds a longest common subsequence, by the textbook's table.
func longest(fromA, toA, fromB, toB int, same func(i, j int) bool, at []int) {
	n, m := toA-fromA, toB-fromB
	if n <= 0 || m <= 0 || n*m > 1<<22 {
		return
	}
	table := make([]uint16, (n+1)*(m+1))
	for i := n - 1; i >= 0; i-- {
		for j := m - 1; j >= 0; j-- {
			if same(fromA+i, fromB+j) {
				table[i*(m+1)+j] = table[(i+1)*(m+1)+j+1] + 1
			} else {
				table[i*(m+1)+j] = max(table[(i+1)*(m+1)+j], table[i*(m+1)+j+1])
			}
		}
	}
	for i, j := 0, 0; i < n && j < m; {
		switch {
		case same(fromA+i, fromB+j) && table[i*(m+1)+j] == table[(i+1)*(m+1)+j+1]+1:
			at[fromA+i] = fromB + j
			i, j = i+1, j+1
		case table[(i+1)*(m+1)+j] >= table[i*(m+1)+j+1]:
			i++
		default:
			j++
		}
	}
}
