// This file asks for programs, sessions and who keeps files open.

package live

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"os/exec"
	"strconv"
	"strings"
	"syscall"
	"time"
	"unsafe"

	"golang.org/x/sys/windows"

	"hollowkey/core/machine"
)

var (
	// Who holds a file is asked of the restart manager: nobody else tells it
	// without going through all processes' handles.
	rstrtmgr            = windows.NewLazySystemDLL("rstrtmgr.dll")
	rmStartSession      = rstrtmgr.NewProc("RmStartSession")
	rmRegisterResources = rstrtmgr.NewProc("RmRegisterResources")
	rmGetList           = rstrtmgr.NewProc("RmGetList")
	rmEndSession        = rstrtmgr.NewProc("RmEndSession")

	// Sessions: who is signed in, and signing out.
	wtsapi32                   = windows.NewLazySystemDLL("wtsapi32.dll")
	wtsQuerySessionInfo        = wtsapi32.NewProc("WTSQuerySessionInformationW")
	wtsLogoffSession           = wtsapi32.NewProc("WTSLogoffSession")
	maxHolders                 = 10_000
	endWait             uint32 = 5000 // ms
)

// Processes are the running programs.
func (m *Machine) Processes() (list []machine.Process, err error) {
	snap, err := windows.CreateToolhelp32Snapshot(windows.TH32CS_SNAPPROCESS, 0)
	if err != nil {
		return nil, told(err, "the list of processes")
	}
	defer windows.CloseHandle(snap)
	e := windows.ProcessEntry32{Size: uint32(unsafe.Sizeof(windows.ProcessEntry32{}))}
	for err = windows.Process32First(snap, &e); err == nil; err = windows.Process32Next(snap, &e) {
		list = append(list, machine.Process{ID: int(e.ProcessID), Name: windows.UTF16ToString(e.ExeFile[:]), User: processUser(e.ProcessID)})
	}
	if errors.Is(err, windows.ERROR_NO_MORE_FILES) {
		err = nil
	}
	return list, told(err, "the list of processes")
}

// processUser is the account a process runs as, empty when it may not be asked.
func processUser(id uint32) string {
	h, err := windows.OpenProcess(windows.PROCESS_QUERY_LIMITED_INFORMATION, false, id)
	if err != nil {
		return ""
	}
	defer windows.CloseHandle(h)
	var token windows.Token
	if windows.OpenProcessToken(h, windows.TOKEN_QUERY, &token) != nil {
		return ""
	}
	defer token.Close()
	user, err := token.GetTokenUser()
	if err != nil {
		return ""
	}
	account, _, _, err := user.User.Sid.LookupAccount("")
	if err != nil {
		return ""
	}
	return account
}

// rmProcess is RM_PROCESS_INFO of the restart manager's interface.
type rmProcess struct {
	id        uint32           // process number
	started   windows.Filetime // tells a process from a later one of the same number
	app       [256]uint16      // its name, in UTF-16 with a zero
	service   [64]uint16       // short name, when it is a service
	kind      uint32           // kind of program
	status    uint32           // whether it runs, or was stopped
	session   uint32           // session number
	restarted int32            // whether it can be started again
}

// Holders asks the restart manager who keeps files open. Only files count, and
// those that are not there are held by nobody. An error where the restart
// manager cannot be asked: "nobody" would be a guess.
func (m *Machine) Holders(files ...string) ([]machine.Process, error) {
	if err := rmGetList.Find(); err != nil {
		return nil, fmt.Errorf("the restart manager: %w", machine.ErrUnsupported)
	}
	var session uint32
	key := make([]uint16, 64)
	if rc, _, _ := rmStartSession.Call(uintptr(unsafe.Pointer(&session)), 0, uintptr(unsafe.Pointer(&key[0]))); rc != 0 {
		return nil, told(windows.Errno(rc), "the restart manager")
	}
	defer rmEndSession.Call(uintptr(session))
	var names []*uint16
	for _, f := range files {
		p, err := windows.UTF16PtrFromString(f)
		if err != nil {
			return nil, err
		}
		names = append(names, p)
	}
	if len(names) == 0 {
		return nil, nil
	}
	if rc, _, _ := rmRegisterResources.Call(uintptr(session), uintptr(len(names)), uintptr(unsafe.Pointer(&names[0])), 0, 0, 0, 0); rc != 0 {
		return nil, told(windows.Errno(rc), "the restart manager")
	}
	// The list may grow while it is asked for.
	buf := make([]rmProcess, 16)
	for {
		var need, reasons uint32
		n := uint32(len(buf))
		rc, _, _ := rmGetList.Call(uintptr(session), uintptr(unsafe.Pointer(&need)), uintptr(unsafe.Pointer(&n)),
			uintptr(unsafe.Pointer(&buf[0])), uintptr(unsafe.Pointer(&reasons)))
		if windows.Errno(rc) == windows.ERROR_MORE_DATA && int(need) > len(buf) && int(need) < maxHolders {
			buf = make([]rmProcess, need)
			continue
		}
		if rc != 0 {
			return nil, told(windows.Errno(rc), "the restart manager")
		}
		var list []machine.Process
		for _, p := range buf[:min(int(n), len(buf))] {
			list = append(list, machine.Process{ID: int(p.id), Name: windows.UTF16ToString(p.app[:]), User: processUser(p.id)})
		}
		return list, nil
	}
}

// EndProcess ends one process and waits until it is gone. It fails where the
// process may not be ended, and where it is still there after a while.
func (m *Machine) EndProcess(id int) error {
	h, err := windows.OpenProcess(windows.PROCESS_TERMINATE|windows.SYNCHRONIZE, false, uint32(id))
	if errors.Is(err, windows.ERROR_INVALID_PARAMETER) {
		return fmt.Errorf("process %d: %w", id, fs.ErrNotExist)
	}
	if err != nil {
		return told(err, "end process %d", id)
	}
	defer windows.CloseHandle(h)
	if err := windows.TerminateProcess(h, 1); err != nil {
		return told(err, "end process %d", id)
	}
	_, err = windows.WaitForSingleObject(h, endWait)
	return told(err, "wait for the end of process %d", id)
}

// Classes of WTSQuerySessionInformation and a state of a session. Source:
// wtsapi32.h.
const (
	wtsUserName     = 5
	wtsConnectState = 8
	wtsActive       = 0
)

// Sessions are the users who are signed in.
func (m *Machine) Sessions() (list []machine.Session, err error) {
	var first *windows.WTS_SESSION_INFO
	var n uint32
	if err := windows.WTSEnumerateSessions(0, 0, 1, &first, &n); err != nil {
		return nil, told(err, "the sessions")
	}
	defer windows.WTSFreeMemory(uintptr(unsafe.Pointer(first)))
	var own uint32
	if err := windows.ProcessIdToSessionId(windows.GetCurrentProcessId(), &own); err != nil {
		return nil, told(err, "the own session")
	}
	for _, s := range unsafe.Slice(first, n) {
		if user := sessionUser(s.SessionID); user != "" {
			list = append(list, machine.Session{ID: int(s.SessionID), User: user, Active: s.State == wtsActive, Own: s.SessionID == own})
		}
	}
	return list, nil
}

// sessionUser asks whose a session is; services' sessions have no user.
func sessionUser(id uint32) string {
	var text *uint16
	var size uint32
	if ok, _, _ := wtsQuerySessionInfo.Call(0, uintptr(id), wtsUserName, uintptr(unsafe.Pointer(&text)),
		uintptr(unsafe.Pointer(&size))); ok == 0 || text == nil {
		return ""
	}
	defer windows.WTSFreeMemory(uintptr(unsafe.Pointer(text)))
	return windows.UTF16PtrToString(text)
}

// SignOut signs a session out and waits until it is.
func (m *Machine) SignOut(id int) error {
	if ok, _, err := wtsLogoffSession.Call(0, uintptr(id), 1); ok == 0 {
		return told(err, "sign out session %d", id)
	}
	return nil
}

// bcdedit is the OS's own editor of the start configuration; its element names
// are the same in every language.
func (m *Machine) bcdedit(args ...string) (lines []string, err error) {
	code, err := m.Run(context.Background(), append([]string{"bcdedit.exe"}, args...), func(l string) { lines = append(lines, l) })
	if err == nil && code != 0 {
		err = fmt.Errorf("bcdedit ended with %d: %s\nhint: run it again from an elevated prompt", code, strings.Join(lines, " "))
	}
	return lines, err
}

// SafeBoot reads the start configuration.
func (m *Machine) SafeBoot() (machine.SafeBoot, error) {
	lines, err := m.bcdedit("/enum", "{current}")
	if err != nil {
		return "", err
	}
	for _, l := range lines {
		if f := strings.Fields(strings.ToLower(l)); len(f) > 1 && f[0] == "safeboot" {
			return machine.SafeBoot(f[1]), nil
		}
	}
	return machine.SafeBootOff, nil
}

// SetSafeBoot changes the start configuration.
func (m *Machine) SetSafeBoot(to machine.SafeBoot) error {
	if to == machine.SafeBootOff {
		_, err := m.bcdedit("/deletevalue", "{current}", "safeboot")
		return err
	}
	_, err := m.bcdedit("/set", "{current}", "safeboot", string(to))
	return err
}

// Run runs a program of the OS, from its system folder. The number is the
// program's own exit code; an error means that it was not started.
func (m *Machine) Run(ctx context.Context, command []string, said func(string)) (int, error) {
	system, err := windows.GetSystemDirectory()
	if err != nil {
		return 0, err
	}
	// Only programs of the OS's own folder are run, by their names.
	if len(command) == 0 || strings.ContainsAny(command[0], `\/:`) {
		return 0, fmt.Errorf("%q is no program of the OS's system folder", command)
	}
	path := system + `\` + command[0]
	if strings.EqualFold(command[0], "powershell.exe") {
		path = system + `\WindowsPowerShell\v1.0\powershell.exe`
	}
	c := exec.CommandContext(ctx, path, command[1:]...)
	c.SysProcAttr = &syscall.SysProcAttr{HideWindow: true}
	out, err := c.StdoutPipe()
	if err != nil {
		return 0, err
	}
	c.Stderr = c.Stdout
	if err := c.Start(); err != nil {
		return 0, told(err, "run %s", command[0])
	}
	lines := bufio.NewScanner(out)
	lines.Split(progressLines)
	for lines.Scan() {
		if t := strings.TrimSpace(strings.ReplaceAll(lines.Text(), "\x00", "")); t != "" && said != nil {
			said(t)
		}
	}
	err = c.Wait()
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return exit.ExitCode(), nil
	}
	return 0, err
}

// RunLine runs a program of the system folder with a command line as it stands,
// for programs that have rules of their own about quotation marks.
func (m *Machine) RunLine(ctx context.Context, program, line string) (int, error) {
	system, err := windows.GetSystemDirectory()
	if err != nil {
		return 0, err
	}
	c := exec.CommandContext(ctx, system+`\`+program)
	c.SysProcAttr = &syscall.SysProcAttr{CmdLine: `"` + system + `\` + program + `" ` + line}
	err = c.Run()
	var exit *exec.ExitError
	if errors.As(err, &exit) {
		return exit.ExitCode(), nil
	}
	return 0, told(err, "run %s", program)
}

// progressLines ends lines at a carriage return, too: programs draw their
// progress with it.
func progressLines(data []byte, atEOF bool) (int, []byte, error) {
	for i, b := range data {
		if b == '\n' || b == '\r' {
			return i + 1, data[:i], nil
		}
	}
	if atEOF && len(data) > 0 || len(data) > 32<<10 {
		return len(data), data, nil
	}
	return 0, nil, nil
}

const (
	httpsPort = 443             // what setups fetch from; a host that answers there is there
	hostWait  = 4 * time.Second // a name that is known answers in tens of milliseconds; a person waits
)

// Reaches resolves a host and opens a connection to it. The error tells which
// of the two did not work.
func (m *Machine) Reaches(ctx context.Context, host string, port int) error {
	ctx, stop := context.WithTimeout(ctx, hostWait)
	defer stop()
	addresses, err := net.DefaultResolver.LookupHost(ctx, host)
	if err != nil {
		return fmt.Errorf("%s: %w: %w", host, machine.ErrNoName, err)
	}
	if port == 0 {
		port = httpsPort
	}
	var d net.Dialer
	c, err := d.DialContext(ctx, "tcp", net.JoinHostPort(addresses[0], strconv.Itoa(port)))
	if err != nil {
		return fmt.Errorf("%s (%s) does not answer on port %d: %w", host, addresses[0], port, err)
	}
	return c.Close()
}
