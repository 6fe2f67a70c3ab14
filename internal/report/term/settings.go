package term

import (
	"cmp"

	"thrush/internal/report/documents"
	"thrush/internal/report/prose"
)

// Settings lists what is in force, and from where.
func (o *Out) Settings(list []documents.Setting) {
	width, values := 15, 0
	for _, s := range list {
		width = max(width, min(40, Width(prose.Safe(s.Key))))
		values = max(values, min(64, Width(prose.Safe(s.Value))))
	}
	for _, s := range list {
		o.line("%s %s  %s", Pad(prose.Safe(s.Key), width), Pad(cmp.Or(prose.Safe(s.Value), "–"), values), Faint(cmp.Or(prose.Safe(s.From), "found from here")))
	}
}
