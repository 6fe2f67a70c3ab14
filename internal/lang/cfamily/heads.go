package cfamily

import "slices"

// heads finds what a grammar of today's C and C++ cannot read, and gives the words that
// make it readable:
//
//   - functions whose type is left out, which C before 1999 took for int;
//   - the declarations of parameters between the head of a function and its body, as the
//     first edition of Kernighan and Ritchie's book has them, which become blanks;
//   - a switch over a single statement, without braces.
//
// No other byte of the text changes.
func (e *excerpt) heads(l Language) (words []addition) {
	h := &heading{text: e.text}
	scan := scanner{text: e.text}
	for {
		t, ok := scan.next()
		if !ok {
			break
		}
		h.tokens = append(h.tokens, t)
	}
	h.match()
	if l == C {
		h.top()
	}
	h.switches()
	slices.SortStableFunc(h.words, func(a, b addition) int { return a.at - b.at })
	return h.words
}

// heading is the work of heads.
type heading struct {
	text   []byte
	tokens []token
	words  []addition
	after  []int // of each bracket that opens, the index after the one that closes it
}

func (h *heading) is(i int, mark byte) bool {
	return i < len(h.tokens) && h.text[h.tokens[i].from] == mark && h.tokens[i].to == h.tokens[i].from+1
}

func (h *heading) word(i int) string {
	if i >= len(h.tokens) || !isWord(h.text[h.tokens[i].from]) || isDigit(h.text[h.tokens[i].from]) {
		return ""
	}
	return string(h.text[h.tokens[i].from:h.tokens[i].to])
}

// match finds, for each bracket that opens, the index after the one that closes it.
func (h *heading) match() {
	h.after = make([]int, len(h.tokens))
	var open []int
	for i, t := range h.tokens {
		switch h.text[t.from] {
		case '(', '[', '{':
			h.after[i] = len(h.tokens)
			open = append(open, i)
		case ')', ']', '}':
			if n := len(open); n > 0 {
				h.after[open[n-1]] = i + 1
				open = open[:n-1]
			}
		}
	}
}

// past gives the index after the bracket that closes the one at an index.
func (h *heading) past(i int) int {
	if i >= len(h.tokens) {
		return len(h.tokens)
	}
	return max(h.after[i], i+1)
}

// storage are the words that may stand before the name of a function without being its type.
var storage = map[string]bool{"static": true, "extern": true, "inline": true, "register": true, "auto": true, "const": true, "volatile": true}

// top goes through what stands outside functions, declaration by declaration.
func (h *heading) top() {
	for i := 0; i < len(h.tokens); {
		start := i
		if h.word(i) == "extern" && i+2 < len(h.tokens) && h.text[h.tokens[i+1].from] == '"' && h.is(i+2, '{') {
			i += 3
			continue
		}
		open := -1 // the first parenthesis
		for i < len(h.tokens) && !h.is(i, ';') && !h.is(i, '{') && !h.is(i, '}') {
			if h.is(i, '(') {
				if open < 0 {
					open = i
				}
				after := h.past(i)
				if body, ok := h.parameters(after); ok && open == i {
					h.blank(after, body)
					i = body
					break
				}
				i = after
				continue
			}
			i++
		}
		if h.is(i, '{') {
			if open > start {
				h.untyped(start, open)
			}
			i = h.past(i)
			continue
		}
		i++
	}
}

// mostDeclared is how many tokens the declarations of a function's parameters may have.
const mostDeclared = 2000

// parameters tells whether declarations of parameters begin at an index, and gives that of
// the body after them.
func (h *heading) parameters(i int) (body int, ok bool) {
	if h.word(i) == "" {
		return 0, false
	}
	for to := min(i+mostDeclared, len(h.tokens)); i < to; i++ {
		switch {
		case h.is(i, '{'):
			return i, h.is(i-1, ';')
		case h.is(i, '}') || h.is(i, '=') || h.word(i) == "typedef" || h.word(i) == "extern" || h.word(i) == "static":
			return 0, false
		}
	}
	return 0, false
}

func (h *heading) blank(from, to int) {
	for at := h.tokens[from].from; at < h.tokens[to].from; at++ {
		if h.text[at] != '\n' {
			h.text[at] = ' '
		}
	}
}

// untyped adds the type to the head of a function that has none.
func (h *heading) untyped(start, open int) {
	names := 0
	first := -1
	for i := start; i < open; i++ {
		switch w := h.word(i); {
		case h.is(i, '*'):
			if first < 0 {
				first = i
			}
		case w == "":
			return
		case !storage[w]:
			if names++; first < 0 {
				first = i
			}
		}
	}
	if names == 1 && h.word(open-1) != "" && !storage[h.word(open-1)] {
		h.words = append(h.words, addition{h.tokens[first].from, "int "})
	}
}

// switches adds braces to a switch that has none.
func (h *heading) switches() {
	for i := range h.tokens {
		if h.word(i) != "switch" || !h.is(i+1, '(') {
			continue
		}
		if body := h.past(i + 1); body < len(h.tokens) && !h.is(body, '{') {
			if end := h.statement(body, 0); end > body {
				h.words = append(h.words, addition{h.tokens[body].from, "{"}, addition{h.tokens[end-1].to, "}"})
			}
		}
	}
}

// statement gives the index after the statement that begins at one; what nests too deep to
// be told has no end.
func (h *heading) statement(i, depth int) int {
	if depth > 200 || i >= len(h.tokens) {
		return -1
	}
	switch w := h.word(i); {
	case h.is(i, '{'):
		return h.past(i)
	case w == "if" || w == "while" || w == "for" || w == "switch":
		for i++; i < len(h.tokens) && !h.is(i, '('); i++ { // constexpr may stand there
		}
		end := h.statement(h.past(i), depth+1)
		if end > 0 && w == "if" && h.word(end) == "else" {
			return h.statement(end+1, depth+1)
		}
		return end
	case w == "do":
		end := h.statement(i+1, depth+1)
		for end > 0 && end < len(h.tokens) && !h.is(end, ';') {
			end++
		}
		if end < 0 || end >= len(h.tokens) {
			return -1 // it has no end
		}
		return end + 1
	case w == "case" || w == "default" || w != "" && h.is(i+1, ':'):
		for ; i < len(h.tokens) && !h.is(i, ':') && !h.is(i, ';') && !h.is(i, '{'); i++ {
		}
		return h.statement(i+1, depth+1)
	}
	for i < len(h.tokens) {
		switch h.text[h.tokens[i].from] {
		case ';':
			return i + 1
		case '(', '[', '{':
			i = h.past(i)
		case '}':
			return -1
		default:
			i++
		}
	}
	return -1
}
