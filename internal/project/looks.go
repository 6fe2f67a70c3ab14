package project

import (
	"fmt"
	"regexp"
)

type wireLooks struct {
	Ran     any `toml:"ran"`
	Part    any `toml:"part"`
	None    any `toml:"none"`
	Waived  any `toml:"waived"`
	Changed any `toml:"changed"`
}

var colour = regexp.MustCompile(`^#[0-9a-fA-F]{6}$`)

// read checks the colours and gives them by name.
func (w wireLooks) read() (looks map[string][]string, key string, err error) {
	looks = map[string][]string{}
	for _, l := range []struct {
		name  string
		value any
	}{{"ran", w.Ran}, {"part", w.Part}, {"none", w.None}, {"waived", w.Waived}, {"changed", w.Changed}} {
		if l.value == nil {
			continue
		}
		list, ok := l.value.([]any)
		if !ok {
			list = []any{l.value}
		}
		for _, v := range list {
			c, ok := v.(string)
			if !ok || !colour.MatchString(c) || len(list) > 2 {
				return nil, l.name, fmt.Errorf("is %v; give a colour such as \"#1b7f79\", or two, for light and dark pages", l.value)
			}
			looks[l.name] = append(looks[l.name], c)
		}
	}
	return looks, "", nil
}
