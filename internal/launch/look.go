package launch

import (
	"errors"
	"fmt"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/languages"
	"thrush/internal/project"
	"thrush/internal/weave"
)

// Look weaves a single file for people to look at: its plan, and the woven text. Of C and C++ there
// is no text, since what is woven is what the compiler makes of the file before it compiles it.
func Look(p *project.Project, name string, source []byte, opt weave.Options) (plan *weave.Plan, text []byte, err error) {
	l := languages.Of(name)
	if l == nil {
		return nil, nil, fmt.Errorf("%s is no source of %s", name, languages.Names())
	}
	none := strings.Repeat("0", 32)
	if l.Weave == nil {
		plan, err = l.Plan(name, source, &site.Table{Path: name, Unit: none}, opt)
		return plan, nil, err
	}
	c := &cached{Path: name, Unit: none, Digest: none[:16]}
	prepared := &Prepared{Project: p, Options: Options{Level: opt.Level, Keep: opt.Keep}}
	texts, _, err := prepared.weaveText(c, name, source)
	if err == nil && c.plan == nil {
		err = errors.New(c.Why)
	}
	return c.plan, texts[""], err
}
