// Package exit maps errors to exit statuses, in one place. An error that knows its status has a
// method for it, as has every error made here; all others mean that the command could not do
// what it was asked to. docs/exit-status.md lists the statuses for users.
package exit

import (
	"errors"
	"fmt"
)

// The statuses that all commands share. `record` and `build` end with the status of the user's
// own command, so they keep to what shells use for troubles of their own: 125 if Thrush failed,
// 126 and 127 if the command could not be started.
const (
	Good   = 0
	NotMet = 1 // a gate is not met
	Usage  = 2 // wrong usage or configuration
	NoData = 3 // a recording is missing, damaged or out of date
	Failed = 125
)

// Coded is an error that knows its exit status.
type Coded interface {
	error
	ExitStatus() int
}

// Error is an error with the exit status it stands for. Without a cause nothing is printed.
type Error struct {
	status int
	cause  error
}

// Error gives the message of the cause, or nothing.
func (e *Error) Error() string {
	if e.cause == nil {
		return ""
	}
	return e.cause.Error()
}

// Unwrap gives the cause.
func (e *Error) Unwrap() error { return e.cause }

// ExitStatus is the status that was given.
func (e *Error) ExitStatus() int { return e.status }

// With gives an error a status, whatever the error itself says of it. A nil error makes a quiet
// end: only the status is passed on.
func With(status int, err error) error { return &Error{status, err} }

// Usagef says what is wrong with how a command was called, or with the configuration.
func Usagef(format string, args ...any) error { return With(Usage, fmt.Errorf(format, args...)) }

// NoDataf says why there is no usable recording.
func NoDataf(format string, args ...any) error { return With(NoData, fmt.Errorf(format, args...)) }

// Status is the exit status of a command that ended with an error, or with nil.
func Status(err error) int {
	var coded Coded
	switch {
	case err == nil:
		return Good
	case errors.As(err, &coded):
		return coded.ExitStatus()
	}
	return Usage
}
