//go:build !unix

package launch

import "os"

var passedOn = []os.Signal{os.Interrupt}

func alsoSentToChild(os.Signal) bool { return true }

// LeftBehind finds nothing where processes cannot be asked after.
func LeftBehind(string) []Left { return nil }

// owned takes every run to go on where processes cannot be asked after.
func owned(string) bool { return true }
