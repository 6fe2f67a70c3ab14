package random

import "fmt"

// goSay writes a statement in Go, where it is not written as in the others.
func goSay(w *printer, s *Node) {
	begin := ""
	switch s.Kind {
	case While, Count, Each:
		begin = w.loop(s)
	case Switch, Return, Fail, Try, Closure, Defer, Jump:
		begin = w.begins(s)
	default:
		braces(w, s)
		return
	}
	switch s.Kind {
	case While:
		w.line("%sfor more() && (%s) {", begin, w.decides(s))
		w.closed(s.Bodies[0], "}")
	case Count:
		w.line("%sfor %s := 0; %[2]s < %d; %[2]s++ {", begin, w.name("i"), s.Number)
		w.closed(s.Bodies[0], "}")
	case Each:
		w.line("%sfor range items() {", begin)
		w.closed(s.Bodies[0], "}")
	case Switch:
		w.line("%sswitch v & 3 {", begin)
		for i, body := range s.Bodies {
			if i == 3 || i == len(s.Bodies)-1 && s.Number > 1 {
				w.line("default:")
			} else {
				w.line("case %d:", i)
			}
			w.block(body)
			if i%2 == 1 && i+1 < len(s.Bodies) && !ends(body[len(body)-1]) {
				w.line("\tfallthrough")
			}
		}
		w.line("}")
	case Return:
		if n := len(w.bare); n > 0 && w.bare[n-1] {
			w.line("%sreturn", begin)
		} else {
			w.line("%sreturn v", begin)
		}
	case Fail:
		w.line(`%spanic("no")`, begin)
	case Try:
		w.line("%sfunc() {", begin)
		w.bare = append(w.bare, true)
		w.line("\tdefer func() {")
		w.line("\t\tif recover() != nil {")
		w.indent += 2
		w.block(s.Bodies[1])
		w.indent -= 2
		w.line("\t\t}")
		w.line("\t}()")
		w.closed(s.Bodies[0], "}()")
		w.bare = w.bare[:len(w.bare)-1]
	case Closure:
		w.line("%sv = func() int {", begin)
		w.bare = append(w.bare, false)
		w.closed(s.Bodies[0], "\treturn v", "}()")
		w.bare = w.bare[:len(w.bare)-1]
	case Defer:
		w.line("%sdefer func() {", begin)
		w.closed(s.Bodies[0], "}()")
	case Jump:
		to := w.name("J")
		w.line("%sif %s { goto %s }", begin, w.decides(s), to)
		w.list(s.Bodies[0])
		w.line("%s:", to)
		w.line("\tv += 0")
	}
}

// pythonSay writes a statement in Python. A witness stands on the line above, which the
// measured program has a comment on.
func pythonSay(w *printer, s *Node) {
	w.out.Statements[s.ID] = w.here() + 1
	if w.witness {
		w.line("H(%d)", s.ID)
	} else {
		w.line("#")
	}
	switch s.Kind {
	case Assign:
		w.line("v = %s", w.called(s))
	case Step:
		w.line("v += 1")
	case If:
		w.pythonIf(s, "if")
	case While:
		w.line("while more() and (%s):", w.decides(s))
		w.block(s.Bodies[0])
	case Count:
		w.line("for %s in range(%d):", w.name("i"), s.Number)
		w.block(s.Bodies[0])
	case Each:
		w.line("for %s in items():", w.name("e"))
		w.block(s.Bodies[0])
	case Switch:
		w.line("match v & 3:")
		for i, body := range s.Bodies {
			if i == 3 || i == len(s.Bodies)-1 && s.Number > 1 {
				w.line("\tcase _:")
			} else {
				w.line("\tcase %d:", i)
			}
			w.indent++
			w.block(body)
			w.indent--
			if i == 3 {
				break
			}
		}
	case Return:
		w.line("return v")
	case Fail:
		w.line("raise Failed")
	case Try:
		delete(w.out.Statements, s.ID)
		w.line("try:")
		w.block(s.Bodies[0])
		w.line("except Failed:")
		w.block(s.Bodies[1])
		if s.Bodies[2] != nil {
			w.line("finally:")
			w.block(s.Bodies[2])
		}
	case Value:
		w.line("b = %s", w.decides(s))
	case Choose:
		w.line("v += may(%d) if %s else 3", s.ID, w.decides(s))
	case Closure:
		g := w.name("g")
		w.line("def %s(v=v, b=b):", g)
		delete(w.out.Statements, s.ID) // its line has the function, too
		w.block(s.Bodies[0])
		w.line("\treturn v")
		w.line("v = %s()", g)
	case Break:
		w.line("break")
	case Continue:
		w.line("continue")
	case Object:
		w.line("Thing(v)")
	default:
		panic(fmt.Sprint("no text for kind ", s.Kind))
	}
}

func (w *printer) pythonIf(s *Node, begin string) {
	w.line("%s %s:", begin, w.decides(s))
	w.block(s.Bodies[0])
	switch {
	case s.Else != nil:
		w.pythonIf(s.Else, "elif")
	case s.Bodies[1] != nil:
		w.line("else:")
		w.block(s.Bodies[1])
	}
}
