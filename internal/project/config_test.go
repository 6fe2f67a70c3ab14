package project

import "testing"

func FuzzConfig(f *testing.F) {
	f.Add("[measure]\nonly = [\"**\"]\n[[gate]]\nlines = 90\n")
	f.Fuzz(func(t *testing.T, text string) {
		c := &Config{}
		if err := c.parse(section{text, placer{file: ConfigName, text: text, exact: true}}); err == nil {
			for _, g := range c.Gates {
				for _, m := range g.Minimums {
					if !(m.Percent >= 0 && m.Percent <= 100) {
						t.Fatalf("accepted %v", m.Percent)
					}
				}
			}
		}
	})
}
