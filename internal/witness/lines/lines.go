//go:build linux && amd64

// Package lines watches a plain program as a debugger does, and tells which lines of
// its sources began to run: a breakpoint stands wherever the compiler says that code
// of a line begins, and is taken away when it is met. It knows nothing of Thrush.
package lines

import (
	"debug/dwarf"
	"debug/elf"
	"errors"
	"fmt"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"syscall"
)

// Place is a line of a source file.
type Place struct {
	File string // absolute
	Line int
}

// Run runs a program that was linked to a fixed address, with debug lines, and gives
// for each place under root that it has whether it began to run. The program must not
// start others.
func Run(cmd *exec.Cmd, root string) (map[Place]bool, error) {
	at, err := breakpoints(cmd.Path, root)
	if err != nil {
		return nil, err
	}
	runtime.LockOSThread()
	defer runtime.UnlockOSThread()
	cmd.SysProcAttr = &syscall.SysProcAttr{Ptrace: true}
	if err := cmd.Start(); err != nil {
		return nil, err
	}
	met, err := watch(cmd.Process.Pid, at)
	if err != nil {
		_ = cmd.Process.Kill()
		return nil, err
	}
	out := map[Place]bool{}
	for address, places := range at {
		for _, p := range places {
			out[p] = out[p] || met[address]
		}
	}
	return out, nil
}

// breakpoints are the addresses at which code of lines begins.
func breakpoints(program, root string) (map[uint64][]Place, error) {
	f, err := elf.Open(program)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	if f.Type != elf.ET_EXEC {
		return nil, errors.New(program + " is not linked to a fixed address")
	}
	data, err := f.DWARF()
	if err != nil {
		return nil, err
	}
	out := map[uint64][]Place{}
	for r := data.Reader(); ; {
		unit, err := r.Next()
		if err != nil || unit == nil {
			return out, err
		}
		r.SkipChildren()
		lines, err := data.LineReader(unit)
		if err != nil || lines == nil {
			continue
		}
		folder, _ := unit.Val(dwarf.AttrCompDir).(string)
		var e dwarf.LineEntry
		for lines.Next(&e) == nil {
			if e.EndSequence || e.Line == 0 {
				continue
			}
			name := e.File.Name
			if !filepath.IsAbs(name) {
				name = filepath.Join(folder, name)
			}
			if name = filepath.Clean(name); strings.HasPrefix(name, root+"/") {
				out[e.Address] = append(out[e.Address], Place{name, e.Line})
			}
		}
	}
}

const trap = 0xcc

// watch follows the process to its end.
func watch(pid int, at map[uint64][]Place) (met map[uint64]bool, err error) {
	var status syscall.WaitStatus
	if _, err := syscall.Wait4(pid, &status, 0, nil); err != nil {
		return nil, err
	}
	was := map[uint64]byte{}
	for address := range at {
		var b [1]byte
		if _, err := syscall.PtracePeekText(pid, uintptr(address), b[:]); err != nil {
			return nil, fmt.Errorf("at %#x: %w", address, err)
		}
		was[address] = b[0]
		if _, err := syscall.PtracePokeText(pid, uintptr(address), []byte{trap}); err != nil {
			return nil, err
		}
	}
	met = map[uint64]bool{}
	signal := 0
	for {
		if err := syscall.PtraceCont(pid, signal); err != nil {
			return nil, err
		}
		if _, err := syscall.Wait4(pid, &status, 0, nil); err != nil {
			return nil, err
		}
		if status.Exited() || status.Signaled() {
			return met, nil
		}
		signal = int(status.StopSignal())
		if status.StopSignal() != syscall.SIGTRAP {
			continue
		}
		var regs syscall.PtraceRegs
		if err := syscall.PtraceGetRegs(pid, &regs); err != nil {
			return nil, err
		}
		address := regs.Rip - 1
		if _, ours := at[address]; !ours || met[address] {
			continue
		}
		met[address], signal = true, 0
		if _, err := syscall.PtracePokeText(pid, uintptr(address), []byte{was[address]}); err != nil {
			return nil, err
		}
		regs.Rip = address
		if err := syscall.PtraceSetRegs(pid, &regs); err != nil {
			return nil, err
		}
	}
}
