// Package wrapper stands in for compilers of C and C++: it has the real one
// preprocess, weaves what that gives, and has it compiled with the user's own flags.
//
// The driver of GNU's compilers looks for the program that does the compiling first
// where COMPILER_PATH says; so whoever calls the driver, by whatever name or path,
// comes here. Compilers that do all in one program are stood in for by their names,
// first in PATH.
package wrapper

import (
	"fmt"
	"os"

	"thrush/internal/core/site"
	"thrush/internal/recording"

	"github.com/fxamacker/cbor/v2"
)

// PlanVariable is the environment variable that names the plan of a run.
const PlanVariable = "THRUSH_PLAN"

// Plan is what a stand-in needs to know.
type Plan struct {
	Roots []string   `cbor:"roots"` // names of the project's root
	Level site.Level `cbor:"level"`
	Keep  site.Keep  `cbor:"keep"`
	Home  string     `cbor:"home"`  // folder of counter files where the environment names none
	Store string     `cbor:"store"` // folder of site tables
	Bin   string     `cbor:"bin"`   // folder of the stand-ins
	Files []string   `cbor:"files"` // that are measured, from the root
	// Path is the value that COMPILER_PATH had before.
	Path string `cbor:"path"`
}

// Encode gives the plan as it is written down.
func (p *Plan) Encode() ([]byte, error) { return cbor.Marshal(p) }

// readPlan reads the plan that the environment names.
func readPlan() (*Plan, error) {
	path := os.Getenv(PlanVariable)
	if path == "" {
		return nil, fmt.Errorf("no plan")
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	p := &Plan{}
	return p, recording.Unmarshal(data, p)
}
