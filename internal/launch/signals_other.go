//go:build !unix

package launch

import "os"

var passedOn = []os.Signal{os.Interrupt}

func alsoSentToChild(os.Signal) bool { return true }
