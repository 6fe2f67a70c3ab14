package random

import (
	"fmt"
	"strings"
)

// braces writes a statement as the languages do that took their form from C.
func braces(w *printer, s *Node) {
	begin := ""
	switch s.Kind {
	case Block:
	case While, Count, Do, Each:
		begin = w.loop(s)
	default:
		begin = w.begins(s)
	}
	switch s.Kind {
	case Assign:
		w.line("%sv = %s;", begin, w.called(s))
	case Step:
		w.line("%sv++;", begin)
	case If:
		w.ifs(s, begin+"if")
	case While:
		w.line("%swhile (more() && (%s)) {", begin, w.decides(s))
		w.closed(s.Bodies[0], "}")
	case Count:
		i := w.name("i")
		kind := map[string]string{"javascript": "let"}[w.l.Name]
		if kind == "" {
			kind = "int"
		}
		w.line("%sfor (%s %s = 0; %[3]s < %d; %[3]s++) {", begin, kind, i, s.Number)
		w.closed(s.Bodies[0], "}")
	case Each:
		w.line("%s"+w.l.each, begin, w.name("e"))
		w.closed(s.Bodies[0], "}")
	case Do:
		w.line("%sdo {", begin)
		w.block(s.Bodies[0])
		w.line("} while (more() && (%s));", w.decides(s))
	case Switch:
		w.line("%sswitch (v & 3) {", begin)
		for i, body := range s.Bodies {
			if i == 3 || i == len(s.Bodies)-1 && s.Number > 1 {
				w.line("default:")
			} else {
				w.line("case %d:", i)
			}
			w.block(body)
			if !ends(body[len(body)-1]) && i%2 == 0 {
				leave := &Node{Kind: Break, ID: s.ID*8 + i + 20000}
				w.line("\t%sbreak;", w.begins(leave))
			}
		}
		w.line("}")
	default:
		w.others(s, begin)
	}
}

// others writes the statements that neither branch nor repeat.
func (w *printer) others(s *Node, begin string) {
	switch s.Kind {
	case Return:
		w.line("%s%s", begin, w.guard("return v;"))
	case Fail:
		w.line("%s%s", begin, w.guard(w.l.fail))
	case Try:
		delete(w.out.Statements, s.ID) // it counts through its parts
		w.line("try {")
		w.block(s.Bodies[0])
		handler := w.l.catch
		if strings.Contains(handler, "%") {
			handler = fmt.Sprintf(handler, w.name("e"))
		}
		w.line("%s", handler)
		w.block(s.Bodies[1])
		if s.Bodies[2] != nil {
			w.line("} finally {")
			w.block(s.Bodies[2])
		}
		w.line("}")
	case Value:
		w.line("%sb = %s;", begin, w.decides(s))
	case Choose:
		w.line("%sv += (%s) ? may(%d) : 3;", begin, w.decides(s), s.ID)
	case Block:
		w.line("{")
		w.closed(s.Bodies[0], "}")
	case Closure:
		w.line("%s%s", begin, w.l.closure)
		w.closed(s.Bodies[0], w.l.closed)
	case Break:
		w.line("%s%s", begin, w.guard("break;"))
	case Continue:
		w.line("%s%s", begin, w.guard("continue;"))
	case Outer:
		w.line("%s%s", begin, w.guard([]string{"break ", "continue "}[s.ID%2]+w.labels[s.Target]+";"))
	case Object:
		text := w.l.object
		if strings.Contains(text, "%") {
			text = fmt.Sprintf(text, w.name("o"))
		}
		w.line("%s%s", begin, text)
	case Jump:
		to := w.name("J")
		w.line("%sif (%s) goto %s;", begin, w.decides(s), to)
		w.list(s.Bodies[0])
		w.line("%s: ;", to)
	default:
		panic(fmt.Sprint("no text for kind ", s.Kind))
	}
}

func (w *printer) ifs(s *Node, begin string) {
	w.line("%s (%s) {", begin, w.decides(s))
	w.block(s.Bodies[0])
	switch {
	case s.Else != nil:
		w.ifs(s.Else, "} else if")
		return
	case s.Bodies[1] != nil:
		w.line("} else {")
		w.block(s.Bodies[1])
	}
	w.line("}")
}
