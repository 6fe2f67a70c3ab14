package launch

import (
	"fmt"
	"math/rand/v2"
	"os"
)

// Left is what a run left behind that was cut off before it kept a recording.
type Left struct {
	Path   string // its folder
	Number int    // that its recording would have had among those kept
}

// RunName is the name of the folder for the counter files of a run of this process, whose
// recording will have a number.
func RunName(number int) string {
	return fmt.Sprintf("run-%d-%d-%016x", os.Getpid(), number, rand.Uint64())
}

// runner is the process whose run a folder of that name is, or 0, and the number of its recording.
func runner(name string) (pid, number int) {
	_, _ = fmt.Sscanf(name, "run-%d-%d-", &pid, &number)
	return pid, number
}
