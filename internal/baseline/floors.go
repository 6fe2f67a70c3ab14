package baseline

import (
	"encoding/json"
	"errors"
	"io/fs"
	"path/filepath"

	"thrush/internal/atomic"
	"thrush/internal/core/gate"
	"thrush/internal/exit"
	"thrush/internal/project"
)

// FloorName is the file that keeps floors, at the project's root.
const FloorName = "thrush-floor.json"

const floorSchema = "thrush.floor/1"

// floorFile is thrush.floor/1.
type floorFile struct {
	Schema string       `json:"schema"`
	Floors []gate.Floor `json:"floors"`
}

// ReadFloors reads the floor file, or gives nil if there is none.
func ReadFloors(p *project.Project) ([]gate.Floor, error) {
	text, err := p.Said(FloorName)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	var f floorFile
	if err == nil {
		err = json.Unmarshal(text, &f)
	}
	if err == nil && f.Schema != floorSchema {
		err = errors.New("its schema is not " + floorSchema)
	}
	for _, x := range f.Floors {
		if err == nil && !(x.Percent >= 0 && x.Percent <= 100) {
			err = errors.New("a percentage in it is not between 0 and 100")
		}
	}
	if err != nil {
		return nil, exit.Usagef("%s cannot be read: %w", FloorName, err)
	}
	return append([]gate.Floor{}, f.Floors...), nil
}

// RaiseFloors writes the floor file so that nothing in it falls. It tells how many of how many
// floors rose.
func RaiseFloors(p *project.Project, now []gate.Floor) (rose, all int, err error) {
	old, err := ReadFloors(p)
	if err != nil {
		return 0, 0, err
	}
	raised := gate.Raise(old, now)
	text, err := json.MarshalIndent(floorFile{floorSchema, raised}, "", "  ")
	if err != nil {
		return 0, 0, err
	}
	before := map[gate.Floor]float64{}
	for _, f := range old {
		before[gate.Floor{Gate: f.Gate, Scope: f.Scope, Metric: f.Metric}] = f.Percent
	}
	for _, f := range raised {
		if was, ok := before[gate.Floor{Gate: f.Gate, Scope: f.Scope, Metric: f.Metric}]; !ok || f.Percent > was {
			rose++
		}
	}
	if err := atomic.Write(filepath.Join(p.Root, FloorName), append(text, '\n'), true); err != nil {
		return 0, 0, exit.Usagef("%s cannot be written: %w", FloorName, err)
	}
	return rose, len(raised), nil
}
