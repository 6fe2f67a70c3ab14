package wrapper

import (
	"os"
	"path/filepath"
	"slices"
	"strings"

	"thrush/internal/lang/cfamily"
)

// call is one call of the program that compiles.
type call struct {
	program  string   // the real one
	args     []string // without the program
	clang    bool
	language cfamily.Language
	driver   []string // options that the driver was given

	input, output     int // indexes into args, or -1
	preprocessed      bool
	passes            bool // nothing is compiled
	optimised, thread bool
}

// withValue are the options whose value is the next word.
var withValue = words(`-imultiarch -imultilib -D -U -I -A -isystem -iquote -idirafter -iprefix -isysroot -iwithprefix -iwithprefixbefore
	-include -imacros -include-pch -MD -MMD -MF -MQ -MT -dumpbase -dumpbase-ext -dumpdir -auxbase -auxbase-strip -o -aux-info --param -x -G -T -z -L -l
	-target-cpu -target-feature -target-abi -triple -mllvm -resource-dir -main-file-name -dependency-file -internal-isystem
	-internal-externc-isystem -ferror-limit -fdebug-compilation-dir -mrelocation-model -pic-level -mthread-model -debug-info-kind -tune-cpu
	-stack-protector -split-dwarf-file -split-dwarf-output -coverage-notes-file -plugin-arg -load -diagnostic-log-file -serialize-diagnostic-file
	-fmessage-length -dwarf-version -fvisibility -header-include-file -sys-header-deps-file -fcoverage-compilation-dir`)

// notForText are options with a value that are about preprocessing, which is done.
var notForText = words(`-include -imacros -MD -MMD -MF -MQ -MT -dependency-file -include-pch`)

func words(text string) map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(text) {
		out[w] = true
	}
	return out
}

// newCall reads the words of a call.
func newCall(program string, args []string) *call {
	c := &call{program: program, args: expand(args, 0), input: -1, output: -1}
	c.driver = divided(os.Getenv("COLLECT_GCC_OPTIONS"))
	c.clang = len(args) > 0 && args[0] == "-cc1"
	if strings.HasPrefix(filepath.Base(program), "cc1plus") {
		c.language = cfamily.CPP
	}
	for i := 0; i < len(c.args); i++ {
		a := c.args[i]
		switch {
		case a == "-E" || a == "-M" || a == "-MM" || a == "-fsyntax-only" || strings.HasPrefix(a, "--output-pch") || strings.HasPrefix(a, "-emit-pch") || strings.HasPrefix(a, "-emit-module") || a == "--help" || a == "--version":
			c.passes = true
		case a == "-fpreprocessed":
			c.preprocessed = true
		case a == "-o":
			c.output = i + 1
		case a == "-x" && i+1 < len(c.args):
			switch lang := c.args[i+1]; {
			case lang == "c++" || lang == "c++-cpp-output":
				c.language = cfamily.CPP
			case lang != "c" && lang != "cpp-output":
				c.passes = true
			}
			c.preprocessed = c.preprocessed || strings.HasSuffix(c.args[i+1], "cpp-output")
		case strings.HasPrefix(a, "-O"):
			c.optimised = a != "-O0"
		case strings.HasPrefix(a, "-fsanitize="):
			c.thread = c.thread || strings.Contains(a, "thread")
		case a == "-" || !strings.HasPrefix(a, "-"):
			c.input = i
		}
		if withValue[a] {
			i++
		}
	}
	if c.clang {
		c.input = len(c.args) - 1
	}
	if c.input < 0 || c.output < 0 || c.output >= len(c.args) {
		c.passes = true
		return c
	}
	c.passes = c.passes || strings.HasSuffix(c.args[c.output], ".gch") || strings.HasSuffix(c.args[c.output], ".pch") || slices.Contains(c.driver, "-S") && !slices.Contains(c.driver, "-c")
	return c
}

// expand puts the words of response files in their place: those are divided as
// GNU's programs do.
func expand(args []string, depth int) []string {
	var out []string
	for _, a := range args {
		name, ok := strings.CutPrefix(a, "@")
		if text, err := os.ReadFile(name); ok && err == nil && depth < 10 {
			out = append(out, expand(divided(string(text)), depth+1)...)
			continue
		}
		out = append(out, a)
	}
	return out
}

// divided takes text apart at blanks; quotes and backslashes keep blanks in words.
func divided(text string) []string {
	var out []string
	var word []byte
	open, in := byte(0), false
	for i := 0; i < len(text); i++ {
		c := text[i]
		blank := c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' || c == '\v'
		switch {
		case c == '\\' && i+1 < len(text) && open != '\'':
			i++
			word, in = append(word, text[i]), true
		case open != 0 && c == open:
			open = 0
		case open != 0:
			word = append(word, c)
		case c == '"' || c == '\'':
			open, in = c, true
		case blank && in:
			out, word, in = append(out, string(word)), nil, false
		case !blank:
			word, in = append(word, c), true
		}
	}
	if in {
		out = append(out, string(word))
	}
	return out
}

// source is the name of what is compiled.
func (c *call) source() string { return c.args[c.input] }

// alone tells why a unit is not to be woven at all.
func (c *call) alone() string {
	for _, o := range append(slices.Clone(c.driver), c.args...) {
		switch {
		case o == "-nostdlib" || o == "-nostartfiles" || o == "-ffreestanding" || o == "-mkernel" || o == "-nostdinc":
			return "it is compiled for use without the system's libraries (" + o + ")"
		case strings.Contains(o, "-prefix-map=") && strings.Contains(o, "=/tmp/go-build"):
			return "the go command builds it, and keeps what it built for builds without Thrush"
		}
	}
	return ""
}

// preprocess gives the words that have the input preprocessed into a file.
func (c *call) preprocess(to string) []string {
	out := slices.Clone(c.args)
	out[c.output] = to
	if !c.clang {
		return append(out, "-E")
	}
	for i, a := range out {
		if a == "-emit-obj" || a == "-emit-llvm-bc" || a == "-S" || a == "-emit-llvm" {
			out[i] = "-E"
		}
	}
	return out
}

// translate gives the words that have a preprocessed text compiled into a file.
func (c *call) translate(text, to string) []string {
	var out []string
	for i := 0; i < len(c.args); i++ {
		a := c.args[i]
		switch {
		case i == c.input:
			out = append(out, text)
		case i == c.output:
			out = append(out, to)
		case notForText[a] && !(c.clang && a == "-include-pch"):
			i++
		case a == "-MP" || a == "-MG" || a == "-Werror" || a == "-fpreprocessed" || a == "-sys-header-deps" || a == "-fdirectives-only" || a == "-fpch-preprocess":
		case a == "-pedantic-errors":
			out = append(out, "-pedantic")
		case strings.HasPrefix(a, "-Werror="):
			out = append(out, "-W"+strings.TrimPrefix(a, "-Werror="))
		case a == "-x" && i+1 < len(c.args):
			i++
			out = append(out, "-x", map[cfamily.Language]string{cfamily.C: "cpp-output", cfamily.CPP: "c++-cpp-output"}[c.language])
		case withValue[a] && i+1 < len(c.args) && i+1 != c.output && i+1 != c.input:
			i++
			out = append(out, a, c.args[i])
		default:
			out = append(out, a)
		}
	}
	out = append(out, "-Wno-int-in-bool-context", "-Wno-parentheses", "-Wno-implicit-fallthrough")
	if c.language == cfamily.C {
		out = append(out, "-Wno-declaration-after-statement")
	}
	if c.clang {
		// The input comes last.
		i := slices.Index(out, text)
		out = append(slices.Delete(out, i, i+1), "-Wno-unknown-warning-option", "-Wno-parentheses-equality", text)
	} else {
		out = append(out, "-fpreprocessed")
	}
	return out
}

// compile gives the words as they came, with another place for what is made.
func (c *call) compile(to string) []string {
	out := slices.Clone(c.args)
	out[c.output] = to
	return out
}
