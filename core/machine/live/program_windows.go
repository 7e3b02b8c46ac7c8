// This file runs a vendor's program and follows all that it starts.

package live

import (
	"context"
	"path/filepath"
	"time"
	"unsafe"

	"golang.org/x/sys/windows"
)

// accounting is JOBOBJECT_BASIC_ACCOUNTING_INFORMATION. Source: the OS's
// documentation of that structure.
type accounting struct {
	userTime, kernelTime, periodUserTime, periodKernelTime      int64 // 100 ns
	pageFaults, totalProcesses, activeProcesses, endedProcesses uint32
}

// basicAccounting is JobObjectBasicAccountingInformation.
const basicAccounting = 1

// lookAgain is how often it is asked whether a tree of processes still runs.
const lookAgain = 200 * time.Millisecond

// RunProgram runs a program of a vendor's in its own folder, with switches as
// they stand, and waits for it and for all that it started, also when it leaves
// before them: for them at most patience after it left. The exit code is the
// program's own; still is how many of those that it started run on.
func (m *Machine) RunProgram(ctx context.Context, path, switches string, patience time.Duration) (exit, still int, err error) {
	job, err := windows.CreateJobObject(nil, nil)
	if err != nil {
		return 0, 0, told(err, "run %s", path)
	}
	defer windows.CloseHandle(job)
	// The switches stand as the person wrote them: every vendor quotes in a way
	// of its own.
	line := `"` + path + `"`
	if switches != "" {
		line += " " + switches
	}
	text, err := windows.UTF16PtrFromString(line)
	if err != nil {
		return 0, 0, err
	}
	app, err := windows.UTF16PtrFromString(path)
	if err != nil {
		return 0, 0, err
	}
	folder, err := windows.UTF16PtrFromString(filepath.Dir(path))
	if err != nil {
		return 0, 0, err
	}
	if ext := filepath.Ext(path); ext == ".cmd" || ext == ".bat" { // the OS finds the shell by itself
		app = nil
	}
	start := windows.StartupInfo{}
	start.Cb = uint32(unsafe.Sizeof(start))
	var p windows.ProcessInformation
	// Suspended, so that all that it starts falls into the job, too.
	if err := windows.CreateProcess(app, text, nil, nil, false,
		windows.CREATE_SUSPENDED|windows.CREATE_UNICODE_ENVIRONMENT, nil, folder, &start, &p); err != nil {
		return 0, 0, told(err, "run %s", path)
	}
	defer windows.CloseHandle(p.Process)
	defer windows.CloseHandle(p.Thread)
	followed := windows.AssignProcessToJobObject(job, p.Process) == nil // else the first process alone is waited for
	if _, err := windows.ResumeThread(p.Thread); err != nil {
		return 0, 0, told(err, "run %s", path)
	}
	for {
		state, err := windows.WaitForSingleObject(p.Process, uint32(lookAgain/time.Millisecond))
		if err != nil {
			return 0, 0, told(err, "wait for %s", path)
		}
		if state == windows.WAIT_OBJECT_0 {
			break
		}
		if ctx.Err() != nil {
			return 0, 1, ctx.Err()
		}
	}
	var code uint32
	if err := windows.GetExitCodeProcess(p.Process, &code); err != nil {
		return 0, 0, told(err, "the exit code of %s", path)
	}
	exit = int(int32(code))
	// Many setups start another program and end at once: the work is that
	// one's.
	for until := time.Now().Add(patience); followed; time.Sleep(lookAgain) {
		var a accounting
		if err := windows.QueryInformationJobObject(job, basicAccounting, uintptr(unsafe.Pointer(&a)),
			uint32(unsafe.Sizeof(a)), nil); err != nil {
			return exit, 0, nil // the first process told its end; what it started is not known
		}
		if still = int(a.activeProcesses); still == 0 || time.Now().After(until) || ctx.Err() != nil {
			return exit, still, nil
		}
	}
	return exit, 0, nil
}
