package project

import (
	"fmt"
	"path/filepath"
	"strings"
	"time"

	"thrush/internal/core/gate"
)

// Setting is a key of the configuration, what is in force, and from where.
type Setting struct {
	Key   string `json:"key"`
	Value string `json:"value"`
	From  string `json:"from"`
}

// InForce lists the settings of a project, with where each comes from. What a store
// is called is given as redact writes it.
func (c *Config) InForce(redact func(string) string) []Setting {
	from := func(table string, n int, key string) string {
		if !c.given[table+"."+key] {
			return "default"
		}
		return c.at(table, n, key)
	}
	list := func(l []string) string { return strings.Join(l, ", ") }
	number := func(n int) string {
		if n == 0 {
			return "no limit"
		}
		return fmt.Sprint(n)
	}
	store := c.History.Store
	if store == "" {
		store = ".thrush/" + StoreName
	}
	out := []Setting{
		{"project.name", c.Name, from("project", 0, "name")},
		{"measure.level", c.Level.String(), from("measure", 0, "level")},
		{"measure.keep", c.Keep.String(), from("measure", 0, "keep")},
		{"measure.only", list(c.Only), from("measure", 0, "only")},
		{"measure.skip", list(c.Skip), from("measure", 0, "skip")},
		{"copy.back", list(c.Back), from("copy", 0, "back")},
		{"history.store", redact(store), from("history", 0, "store")},
		{"history.most", number(c.History.Most), from("history", 0, "most")},
		{"history.days", number(c.History.Days), from("history", 0, "days")},
	}
	for i, g := range c.Gates {
		out = append(out, Setting{fmt.Sprintf("gate %q", g.Name), Says(g), c.at("gate", i, "")})
	}
	for i, w := range c.Waivers {
		value := list(w.Where) + ": " + w.Reason
		if !w.Until.IsZero() {
			value += ", until " + w.Until.Format(time.DateOnly)
		}
		out = append(out, Setting{fmt.Sprintf("waiver %d", i+1), value, c.at("waiver", i, "")})
	}
	for _, name := range []string{"ran", "part", "none", "waived", "changed"} {
		if l := c.Looks[name]; l != nil {
			out = append(out, Setting{"looks." + name, list(l), c.at("looks", 0, name)})
		}
	}
	return out
}

// at is where a key stands.
func (c *Config) at(table string, n int, key string) string {
	name := filepath.Base(c.File)
	if c.where == nil {
		return name
	}
	if line := c.where.line(table, n, key); line > 0 {
		return fmt.Sprintf("%s, line %d", name, line)
	}
	return name
}

// GateAt is where the nth gate stands.
func (c *Config) GateAt(n int) string { return c.at("gate", n, "") }

// Says writes a rule in a few words.
func Says(r gate.Rule) string {
	var parts []string
	for _, m := range r.Minimums {
		parts = append(parts, fmt.Sprintf("%s at least %v%%", m.Metric, m.Percent))
	}
	if len(r.Hold) > 0 {
		held := make([]string, len(r.Hold))
		for i, m := range r.Hold {
			held[i] = string(m)
		}
		text := strings.Join(held, ", ") + " no lower than the baseline"
		if r.Slack > 0 {
			text += fmt.Sprintf(", with a slack of %v", r.Slack)
		}
		parts = append(parts, text)
	}
	if r.Unmeasured == gate.Fails {
		parts = append(parts, "nothing unmeasured")
	}
	text := strings.Join(parts, ", ")
	if r.On == gate.Changed {
		text += ", of changed lines"
	}
	if r.Each != gate.Whole {
		text += ", in each " + string(r.Each)
	}
	if len(r.Where) > 0 {
		text += ", in " + strings.Join(r.Where, ", ")
	}
	return text
}
