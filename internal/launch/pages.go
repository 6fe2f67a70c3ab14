package launch

import (
	"sync"

	"thrush/internal/collector"
	"thrush/internal/lang/script"
)

// Collect has scripts in browsers report to a folder while the command runs, if there are
// any, and gives the variables that tell servers of it. Without a loopback they are not
// woven.
func (p *Prepared) Collect(folder string) (env []string, done func()) {
	own := map[string]int{}
	for _, c := range p.files {
		if c.Kind == woven && script.IsSource(c.Path) {
			own[c.Unit] = c.Counters
		}
	}
	if len(own) == 0 {
		return nil, func() {}
	}
	var mu sync.Mutex
	known := func(unit string) (int, bool) {
		mu.Lock()
		defer mu.Unlock()
		if n, ok := own[unit]; ok {
			return n, true
		}
		l, ok := p.readLed(unit)
		if ok {
			own[unit] = l.Counters
		}
		return l.Counters, ok
	}
	c, err := collector.Start(folder, known)
	if err != nil {
		return nil, func() {}
	}
	return []string{"THRUSH_COLLECTOR=" + c.URL()}, c.Close
}
