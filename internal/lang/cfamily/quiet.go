package cfamily

import "bytes"

// quiet makes a text easier for a grammar that knows less than compilers do: what
// decorates declarations becomes blanks, and words that only compilers know become
// usual ones of no greater length. No byte changes its place, and nothing changes
// that weaving looks at.
func quiet(text []byte, l Language) {
	q := &quieter{text: text, scanner: scanner{text: text}}
	for {
		t, ok := q.scanner.next()
		if !ok {
			return
		}
		q.word(t, l)
		q.last = t
	}
}

type quieter struct {
	text    []byte
	scanner scanner
	last    token
}

func (q *quieter) erase(from, to int) {
	for i := from; i < to; i++ {
		if q.text[i] != '\n' {
			q.text[i] = ' '
		}
	}
}

func (q *quieter) put(t token, word string) {
	q.erase(t.from, t.to)
	copy(q.text[t.from:t.to], word)
}

// group passes over what stands in parentheses, if that comes next, and gives its
// place. inner is told of each token in it that is in no further parentheses.
func (q *quieter) group(inner func(token)) (from, to int, ok bool) {
	back := q.scanner.at
	t, more := q.scanner.next()
	if !more || q.text[t.from] != '(' {
		q.scanner.at = back
		return 0, 0, false
	}
	for depth := 1; depth > 0; {
		u, more := q.scanner.next()
		if !more {
			return 0, 0, false
		}
		switch q.text[u.from] {
		case '(', '[', '{':
			depth++
		case ')', ']', '}':
			depth--
		default:
			if depth == 1 && inner != nil {
				inner(u)
			}
		}
	}
	return t.from, q.scanner.at, true
}

func (q *quieter) word(t token, l Language) {
	c := q.text[t.from]
	switch {
	case c == '#':
		// What is left of directives may stand anywhere between tokens.
		end := q.scanner.lineEnd(t.from)
		q.erase(t.from, end)
		q.scanner.at = end
	case c == '&' && t.to-t.from == 2:
		q.labelAddress(t)
	case c == '*' && q.last.to > 0 && string(q.text[q.last.from:q.last.to]) == "goto":
		q.computed(t)
	case isDigit(c) || c == '.' && t.to-t.from > 1 && isDigit(q.text[t.from+1]):
		q.imaginary(t, l)
	case c == '[' && t.from > 0 && q.last.to == t.from && q.text[t.from-1] == '[':
		q.attributes(t)
	case c != '_' && c != 'a' && c != 't' && c != '.' && c != 'c':
	default:
		q.replace(t, string(q.text[t.from:t.to]), l)
	}
}

// imaginary takes the letter off a number that says it is an imaginary one. In C++ it is
// the name of a function that makes one.
func (q *quieter) imaginary(t token, l Language) {
	if l == CPP || bytes.HasPrefix(q.text[t.from:t.to], []byte("0x")) || bytes.HasPrefix(q.text[t.from:t.to], []byte("0X")) {
		return
	}
	for i := t.to - 1; i > t.from && bytes.IndexByte([]byte("iIjJfFlLuU"), q.text[i]) >= 0; i-- {
		if bytes.IndexByte([]byte("iIjJ"), q.text[i]) >= 0 {
			q.erase(i, t.to)
		}
	}
}

// attributes blanks attributes that name whose they are once for all.
func (q *quieter) attributes(second token) {
	back := q.scanner.at
	first, ok := q.scanner.next()
	if !ok || string(q.text[first.from:first.to]) != "using" {
		q.scanner.at = back
		return
	}
	for {
		t, ok := q.scanner.next()
		if !ok {
			return
		}
		if q.text[t.from] == ']' && t.from+1 < len(q.text) && q.text[t.from+1] == ']' {
			q.scanner.at = t.from + 2
			q.erase(second.from-1, q.scanner.at)
			return
		}
	}
}

// awaiting has a word that gives a value out of a coroutine read as the one that waits for
// one, which may stand in any expression.
func (q *quieter) awaiting(t token) {
	back := q.scanner.at
	next, ok := q.scanner.next()
	if q.scanner.at = back; ok && q.text[next.from] != '{' {
		q.put(t, "co_await")
	}
}

// whileCompiling has an if that asks whether the compiler is working the function out read
// as one over a number, without the mark that turns it round.
func (q *quieter) whileCompiling(t token) {
	head := bytes.TrimRight(q.text[:t.from], " \t\n")
	for _, not := range []string{"!", "not"} {
		if rest, ok := bytes.CutSuffix(head, []byte(not)); ok {
			head = bytes.TrimRight(rest, " \t\n")
			break
		}
	}
	if bytes.HasSuffix(head, []byte("if")) && (len(head) == 2 || !isWord(head[len(head)-3])) {
		q.erase(len(head), t.from)
		q.put(t, "(0)")
	}
}

// computed has a jump to an address read as one to a label, which there is not.
func (q *quieter) computed(star token) {
	q.put(star, "_")
	for {
		t, ok := q.scanner.next()
		if !ok || q.text[t.from] == ';' || q.text[t.from] == '}' {
			return
		}
		q.erase(t.from, t.to)
	}
}

// labelAddress turns the two marks that take a label's address into one.
func (q *quieter) labelAddress(t token) {
	if q.last.to == 0 {
		return
	}
	switch q.text[q.last.to-1] {
	case '(', ',', '=', '{', '[', '?', ':', ';', '-', '+':
		q.put(t, "&")
	}
}

func (q *quieter) replace(t token, word string, l Language) {
	switch word {
	case "__attribute__", "__attribute", "__declspec", "_Alignas":
		if _, to, ok := q.group(nil); ok {
			q.erase(t.from, to)
		}
	case "__extension__", "__restrict", "__restrict__", "_Noreturn", "__thread", "_Thread_local":
		q.erase(t.from, t.to)
	case "co_yield":
		q.awaiting(t)
	case "consteval":
		q.whileCompiling(t)
	case "__inline", "__inline__":
		q.put(t, "inline")
	case "__const", "__const__":
		q.put(t, "const")
	case "__volatile", "__volatile__":
		q.put(t, "volatile")
	case "__signed", "__signed__":
		q.put(t, "signed")
	case "_Float16", "_Float32", "_Float64", "_Float32x", "_Float64x", "_Float128", "__float128", "__int128":
		q.put(t, "double")
	case "_Complex", "__complex__", "__real__", "__imag__", "__real", "__imag":
		q.erase(t.from, t.to)
	case "_BitInt":
		if from, to, ok := q.group(nil); ok {
			q.put(t, "int")
			q.erase(from, to)
		}
	case "typeof", "__typeof__", "__typeof", "__auto_type":
		if from, to, ok := q.group(nil); ok {
			q.put(t, "int")
			q.erase(from, to)
		} else if word == "__auto_type" {
			q.put(t, "int")
		}
	case "asm", "__asm__", "__asm":
		q.assembler(t, l)
	case "__builtin_va_arg":
		comma := 0
		_, to, ok := q.group(func(u token) {
			if q.text[u.from] == ',' {
				comma = u.from
			}
		})
		if ok && comma > 0 {
			q.erase(comma, to-1)
		}
	case "__builtin_offsetof", "__builtin_types_compatible_p", "_Generic", "_Alignof", "__alignof__", "alignof", "__builtin_choose_expr", "__builtin_bit_cast":
		if from, to, ok := q.group(nil); ok {
			q.put(t, "0")
			q.erase(from, to)
		}
	case "...":
		// A range of cases reads as its first one.
		if q.last.to > 0 && l == C {
			q.caseRange(t)
		}
	}
}

// assembler blanks the name that a declaration gives to the assembler, and makes a
// statement of assembly text a call, which may leave as one may.
func (q *quieter) assembler(t token, l Language) {
	before := byte(';')
	if q.last.to > 0 {
		before = q.text[q.last.to-1]
	}
	goes, decorated := false, false
	for {
		back := q.scanner.at
		u, ok := q.scanner.next()
		if !ok {
			return
		}
		word := string(q.text[u.from:u.to])
		if word != "volatile" && word != "__volatile__" && word != "__volatile" && word != "goto" && word != "inline" && word != "__inline__" && word != "__inline" {
			q.scanner.at = back
			break
		}
		goes, decorated = goes || word == "goto", true
		q.erase(u.from, u.to)
	}
	operands := false
	from, to, ok := q.group(func(u token) { operands = operands || q.text[u.from] == ':' })
	if !ok {
		return
	}
	if !decorated && !operands && (before == ')' || isWord(before) && !q.opensStatement()) {
		q.erase(t.from, to)
		return
	}
	q.put(t, "a_m")
	if goes {
		// It may jump to any label: reads as a call of that name.
		q.put(t, "a_g")
	}
	q.erase(from+1, to-1)
}

// opensStatement tells whether a statement may begin after the last token.
func (q *quieter) opensStatement() bool {
	word := string(q.text[q.last.from:q.last.to])
	return word == "else" || word == "do"
}

func (q *quieter) caseRange(t token) {
	line := bytes.LastIndexByte(q.text[:t.from], '\n') + 1
	head := q.text[line:t.from]
	if i := bytes.LastIndex(head, []byte("case")); i < 0 || bytes.ContainsAny(head[i:], ":{;") {
		return
	}
	for {
		u, ok := q.scanner.next()
		if !ok {
			return
		}
		if q.text[u.from] == ':' && u.to == u.from+1 {
			q.erase(t.from, u.from)
			return
		}
	}
}
