package term

import (
	"cmp"

	"thrush/internal/report/facts"
	"thrush/internal/report/words"
)

// Settings lists what is in force, and from where.
func (o *Out) Settings(list []facts.Setting) {
	width, values := 15, 0
	for _, s := range list {
		width = max(width, min(40, Width(words.Safe(s.Key))))
		values = max(values, min(64, Width(words.Safe(s.Value))))
	}
	for _, s := range list {
		o.line("%s %s  %s", Pad(words.Safe(s.Key), width), Pad(cmp.Or(words.Safe(s.Value), "–"), values), Faint(cmp.Or(words.Safe(s.From), "found from here")))
	}
}
