package project

import (
	"errors"
	"fmt"
	"path/filepath"
	"strings"
	"time"

	"github.com/bmatcuk/doublestar/v4"
	"github.com/pelletier/go-toml/v2"

	"thrush/internal/core/gate"
	"thrush/internal/core/site"
)

// ConfigName is the name of the configuration file, at the project's root.
const ConfigName = "thrush.toml"

// Config is what thrush.toml says.
type Config struct {
	Name    string
	Level   site.Level
	Keep    site.Keep
	Only    []string
	Skip    []string
	Waivers []Waiver
	Gates   []gate.Rule
	Looks   map[string][]string // colours, by what they stand for: one, or one for light and one for dark
	History History
	Back    []string // what comes back from a copy in which a command ran, as globs
	File    string   // the file it was read from, or empty

	where *placer
	given map[string]bool // keys such as measure.level that the file has
}

// Named tells whether the project has a name of its own, not that of its folder.
func (c *Config) Named() bool { return c.given["project.name"] }

// History says where recordings are kept for later, and how many here.
type History struct {
	Store string // URL or path of the history store; empty means the file in .thrush
	Most  int    // recordings kept here, the oldest dropped first; 0 means all
	Days  int    // days for which they are kept here; 0 means for ever
}

// Waiver takes files out of the totals, for a reason and maybe for a time.
type Waiver struct {
	Where  []string
	Reason string
	Until  time.Time // zero without an end; it holds on that day, not after
	Line   int       // in thrush.toml
}

// Expired tells whether the waiver no longer holds on a day.
func (w Waiver) Expired(day time.Time) bool {
	return !w.Until.IsZero() && day.Format(time.DateOnly) > w.Until.Format(time.DateOnly)
}

// ConfigError is a mistake in thrush.toml.
type ConfigError struct {
	File string
	Line int
	What string
}

func (e *ConfigError) Error() string {
	if e.Line > 0 {
		return fmt.Sprintf("%s, line %d: %s", e.File, e.Line, e.What)
	}
	return fmt.Sprintf("%s: %s", e.File, e.What)
}

type wireConfig struct {
	Project struct {
		Name string `toml:"name"`
	} `toml:"project"`
	Measure struct {
		Level string   `toml:"level"`
		Keep  string   `toml:"keep"`
		Only  []string `toml:"only"`
		Skip  []string `toml:"skip"`
	} `toml:"measure"`
	Waiver []struct {
		Where  any    `toml:"where"`
		Reason string `toml:"reason"`
		Until  any    `toml:"until"`
	} `toml:"waiver"`
	Gate    []map[string]any `toml:"gate"`
	Looks   wireLooks        `toml:"looks"`
	History struct {
		Store string `toml:"store"`
		Most  *int   `toml:"most"`
		Days  *int   `toml:"days"`
	} `toml:"history"`
	Copy struct {
		Back []string `toml:"back"`
	} `toml:"copy"`
}

// LoadConfig reads the configuration at the root: thrush.toml, or a section of a
// manifest. Without either the defaults hold.
func LoadConfig(root string) (*Config, error) { return loadConfig(root, onDisk(root)) }

func loadConfig(root string, read reader) (*Config, error) {
	c := &Config{Name: filepath.Base(root), Level: site.Branches, Keep: site.Counts, Only: []string{"**"}}
	found, err := sections(read)
	if err != nil {
		return nil, err
	}
	if len(found) == 0 {
		return c, nil
	}
	if len(found) > 1 {
		return nil, &ConfigError{File: found[1].file, What: fmt.Sprintf("it has a section for Thrush, and so has %s; keep one of them", found[0].file)}
	}
	c.File = filepath.Join(root, found[0].file)
	return c, c.parse(found[0])
}

func (c *Config) parse(from section) error {
	var w wireConfig
	d := toml.NewDecoder(strings.NewReader(from.text)).DisallowUnknownFields()
	p := &from.placer
	c.where = p
	if err := d.Decode(&w); err != nil {
		return p.decodeError(err)
	}
	c.given = given(from.text)
	if w.Project.Name != "" {
		c.Name = w.Project.Name
	}
	var err error
	if w.Measure.Level != "" {
		if c.Level, err = ParseLevel(w.Measure.Level); err != nil {
			return p.fail("measure", 0, "level", err.Error())
		}
	}
	if w.Measure.Keep != "" {
		if c.Keep, err = ParseKeep(w.Measure.Keep); err != nil {
			return p.fail("measure", 0, "keep", err.Error())
		}
	}
	if w.Measure.Only != nil {
		c.Only = w.Measure.Only
	}
	c.Skip = w.Measure.Skip
	for key, list := range map[string][]string{"only": c.Only, "skip": c.Skip} {
		if err := checkGlobs(list); err != nil {
			return p.fail("measure", 0, key, err.Error())
		}
	}
	if err := c.readWaivers(&w, p); err != nil {
		return err
	}
	if err := c.readGates(&w, p); err != nil {
		return err
	}
	if c.Back = w.Copy.Back; checkGlobs(c.Back) != nil {
		return p.fail("copy", 0, "back", checkGlobs(c.Back).Error())
	}
	c.History.Store = w.History.Store
	for _, n := range []struct {
		key  string
		from *int
		to   *int
	}{{"most", w.History.Most, &c.History.Most}, {"days", w.History.Days, &c.History.Days}} {
		if n.from != nil && *n.from < 1 {
			return p.fail("history", 0, n.key, fmt.Sprintf("is %d; it must be at least 1", *n.from))
		}
		if n.from != nil {
			*n.to = *n.from
		}
	}
	looks, key, err := w.Looks.read()
	if err != nil {
		return p.fail("looks", 0, key, err.Error())
	}
	c.Looks = looks
	return nil
}

func (c *Config) readWaivers(w *wireConfig, p *placer) error {
	for i, v := range w.Waiver {
		where, err := readGlobs(v.Where)
		if err == nil && len(where) == 0 {
			err = errors.New("says for no file; give a glob")
		}
		if err != nil {
			return p.fail("waiver", i, "where", err.Error())
		}
		if strings.TrimSpace(v.Reason) == "" {
			return p.fail("waiver", i, "reason", "is missing; a waiver must say why")
		}
		out := Waiver{Where: where, Reason: v.Reason, Line: p.line("waiver", i, "")}
		if out.Until, err = readDay(v.Until); err != nil {
			return p.fail("waiver", i, "until", err.Error())
		}
		c.Waivers = append(c.Waivers, out)
	}
	return nil
}

func (c *Config) readGates(w *wireConfig, p *placer) error {
	for i, g := range w.Gate {
		rule, key, err := readGate(g)
		if errors.Is(err, errUnknownKey) {
			return &ConfigError{p.file, p.line("gate", i, key), fmt.Sprintf("unknown key %q; docs/configuration.md lists them all", "gate."+key)}
		}
		if err != nil {
			return p.fail("gate", i, key, err.Error())
		}
		if rule.Name == "" {
			rule.Name = fmt.Sprintf("gate %d", i+1)
		}
		c.Gates = append(c.Gates, rule)
	}
	return nil
}

// ParseLevel reads the name of a level.
func ParseLevel(s string) (site.Level, error) {
	if l, ok := site.LevelOf(s); ok {
		return l, nil
	}
	return 0, fmt.Errorf("is %q; it can be \"lines\", \"branches\" or \"conditions\"", s)
}

// ParseKeep reads the name of what is kept.
func ParseKeep(s string) (site.Keep, error) {
	switch s {
	case "counts":
		return site.Counts, nil
	case "hits":
		return site.Hits, nil
	}
	return 0, fmt.Errorf("is %q; it can be \"counts\" or \"hits\"", s)
}

// readDay reads a day; a manifest in JSON has it as text.
func readDay(v any) (time.Time, error) {
	switch v := v.(type) {
	case nil:
		return time.Time{}, nil
	case toml.LocalDate:
		return v.AsTime(time.UTC), nil
	case string:
		if day, err := time.Parse(time.DateOnly, v); err == nil {
			return day, nil
		}
	}
	return time.Time{}, fmt.Errorf("is %v; give a day, as in 2027-01-31", v)
}

func readGlobs(v any) (list []string, err error) {
	switch v := v.(type) {
	case nil:
	case string:
		list = []string{v}
	case []any:
		for _, x := range v {
			s, ok := x.(string)
			if !ok {
				return nil, errors.New("must be a glob or a list of globs, in quotes")
			}
			list = append(list, s)
		}
	default:
		return nil, errors.New("must be a glob or a list of globs, in quotes")
	}
	return list, checkGlobs(list)
}

func checkGlobs(list []string) error {
	for _, g := range list {
		if !doublestar.ValidatePattern(g) || strings.HasPrefix(g, "/") {
			return fmt.Errorf("%q is not a glob from the project's root, such as \"fare/**\" or \"**/*_gen.go\"", g)
		}
	}
	return nil
}

// MatchAny tells whether a path matches one of the globs. A glob that names a
// folder matches all that is in it.
func MatchAny(globs []string, path string) bool {
	for _, g := range globs {
		if doublestar.MatchUnvalidated(g, path) || doublestar.MatchUnvalidated(strings.TrimSuffix(g, "/")+"/**", path) {
			return true
		}
	}
	return false
}

// CheckGlob says what is wrong with a glob, if anything is.
func CheckGlob(glob string) error { return checkGlobs([]string{glob}) }
