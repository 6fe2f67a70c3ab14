package cli

import (
	"fmt"

	"thrush/internal/baseline"
	"thrush/internal/core/gate"
	"thrush/internal/exit"
	"thrush/internal/project"
)

// raise writes the floor file so that nothing in it falls.
func (a *app) raise(p *project.Project, now []gate.Floor) error {
	if len(now) == 0 {
		return exit.Usagef("no rule holds anything, so there is no floor to raise; give one a hold in %s, as in hold = [\"lines\"]", project.ConfigName)
	}
	rose, all, err := baseline.RaiseFloors(p, now)
	if err != nil {
		return err
	}
	a.say("%s: %s", baseline.FloorName, rises(rose, all))
	return nil
}

// rises says how many floors rose.
func rises(rose, all int) string {
	switch {
	case rose == 0:
		return "no floor rose"
	case all == 1:
		return "the floor rose"
	case rose == all:
		return fmt.Sprintf("all %d floors rose", all)
	}
	return fmt.Sprintf("%d of %d floors rose", rose, all)
}
