package script

import "regexp"

var (
	// rewritten is what tools write for ?? and ?. in older languages.
	rewritten = regexp.MustCompile(`[!=]==? *null(?: *(?:&&|\|\|) *[\w$.]+ *[!=]==? *void 0)?`)
	// A ! after a value is TypeScript's, and says nothing when a program runs.
	signs = regexp.MustCompile(`[\w$)\]]!+[^=]|!==?|===?|&&|\|\||!`)
)

// Signs gives the operators of a text that say no, compare for being equal or join
// conditions, in their order. Between two texts of the same code, of which one was
// rewritten, they only stay the same if no decision was turned round.
func Signs(text []byte) string {
	out := ""
	for _, s := range signs.FindAllString(rewritten.ReplaceAllString(string(text), ""), -1) {
		switch s {
		case "!", "&&", "||":
			out += s
		case "!=", "!==":
			out += "~"
		case "==", "===":
			out += "="
		}
	}
	return out
}
