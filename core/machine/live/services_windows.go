// This file talks to the service manager with no more rights than the call
// needs.

package live

import (
	"errors"
	"fmt"
	"io/fs"
	"time"
	"unsafe"

	"golang.org/x/sys/windows"

	"hollowkey/core/machine"
)

const (
	maxServiceConfig = 64 << 10               // bytes
	serviceWait      = 40 * time.Second       // past the 30 s after which the service manager itself gives up
	serviceLook      = 100 * time.Millisecond // between two looks at a service that starts or stops
)

var startTypes = map[uint32]machine.StartType{
	windows.SERVICE_BOOT_START: machine.StartBoot, windows.SERVICE_SYSTEM_START: machine.StartSystem,
	windows.SERVICE_AUTO_START:   machine.StartAutomatic,
	windows.SERVICE_DEMAND_START: machine.StartManual, windows.SERVICE_DISABLED: machine.StartDisabled,
}

// withService opens a service by its name or display name with just the rights
// that are needed.
func withService(name string, access uint32, do func(h windows.Handle, name string) error) error {
	scm, err := windows.OpenSCManager(nil, nil, windows.SC_MANAGER_CONNECT)
	if err != nil {
		return told(err, "the service manager")
	}
	defer windows.CloseServiceHandle(scm)
	n, err := windows.UTF16PtrFromString(name)
	if err != nil {
		return err
	}
	h, err := windows.OpenService(scm, n, access)
	// People and logs call services by their titles.
	if errors.Is(err, windows.ERROR_SERVICE_DOES_NOT_EXIST) {
		key := ""
		if key, err = keyName(scm, n); err == nil {
			if n, err = windows.UTF16PtrFromString(key); err == nil {
				name = key
				h, err = windows.OpenService(scm, n, access)
			}
		}
	}
	if errors.Is(err, windows.ERROR_SERVICE_DOES_NOT_EXIST) || errors.Is(err, windows.ERROR_INVALID_NAME) {
		return fmt.Errorf("service %.80q: %w", name, fs.ErrNotExist)
	}
	if err != nil {
		return told(err, "service %s", name)
	}
	defer windows.CloseServiceHandle(h)
	return do(h, name)
}

// keyName finds a service by its display name.
func keyName(scm windows.Handle, display *uint16) (string, error) {
	buf := make([]uint16, 300)
	n := uint32(len(buf))
	if ok, _, err := getServiceKeyName.Call(uintptr(scm), uintptr(unsafe.Pointer(display)), uintptr(unsafe.Pointer(&buf[0])),
		uintptr(unsafe.Pointer(&n))); ok == 0 {
		return "", err
	}
	return windows.UTF16ToString(buf), nil
}

// Service finds a service by its name or display name.
func (m *Machine) Service(name string) (out machine.Service, err error) {
	err = withService(name, windows.SERVICE_QUERY_CONFIG|windows.SERVICE_QUERY_STATUS, func(h windows.Handle, name string) error {
		buf := make([]byte, 1024)
		var c *windows.QUERY_SERVICE_CONFIG
		for {
			need := uint32(0)
			c = (*windows.QUERY_SERVICE_CONFIG)(unsafe.Pointer(&buf[0]))
			err := windows.QueryServiceConfig(h, c, uint32(len(buf)), &need)
			if err == nil {
				break
			}
			if !errors.Is(err, windows.ERROR_INSUFFICIENT_BUFFER) || need > maxServiceConfig || int(need) <= len(buf) {
				return told(err, "service %s", name)
			}
			buf = make([]byte, need)
		}
		status, err := state(h)
		if err != nil {
			return told(err, "service %s", name)
		}
		out = machine.Service{Name: name, Display: windows.UTF16PtrToString(c.DisplayName), Binary: windows.UTF16PtrToString(c.BinaryPathName),
			Account: windows.UTF16PtrToString(c.ServiceStartName), Start: startTypes[c.StartType], DependsOn: texts(c.Dependencies),
			Running: status == windows.SERVICE_RUNNING}
		if v, err := m.Value(servicesKey+`\`+name, delayedValue); err == nil && v.Words() == "1" {
			out.Delayed = true
		}
		return nil
	})
	return out, err
}

const (
	// What the service manager's own calls do not give (triggers, parameters,
	// the access list) is read from here.
	servicesKey    = `HKLM\SYSTEM\CurrentControlSet\Services`
	serviceProcess = 0x30 // a program of its own, or one that several share
)

// ServiceNames lists the services that the service manager's database has; it
// can be read without special rights.
func (m *Machine) ServiceNames() (names []string, err error) {
	all, err := m.Subkeys(servicesKey)
	if err != nil {
		return nil, err
	}
	for _, n := range all {
		v, err := m.Value(servicesKey+`\`+n, "Type")
		if err != nil || len(v.Data) != 4 || v.Data[0]&serviceProcess == 0 {
			continue
		}
		names = append(names, n)
	}
	return names, nil
}

// texts reads strings that follow one another, up to an empty one.
func texts(p *uint16) (list []string) {
	for p != nil && *p != 0 {
		t := windows.UTF16PtrToString(p)
		list = append(list, t)
		p = (*uint16)(unsafe.Add(unsafe.Pointer(p), 2*(len(windows.StringToUTF16(t)))))
	}
	return list
}

// state asks the service manager for a service's present state.
func state(h windows.Handle) (uint32, error) {
	var s windows.SERVICE_STATUS
	err := windows.QueryServiceStatus(h, &s)
	return s.CurrentState, err
}

// SetStartType sets when a service starts.
func (m *Machine) SetStartType(name string, t machine.StartType) error {
	for n, known := range startTypes {
		if known == t {
			return withService(name, windows.SERVICE_CHANGE_CONFIG, func(h windows.Handle, name string) error {
				const keep = windows.SERVICE_NO_CHANGE
				return told(windows.ChangeServiceConfig(h, keep, n, keep, nil, nil, nil, nil, nil, nil, nil), "set the start type of %s", name)
			})
		}
	}
	return fmt.Errorf("the start type %q is not known", t)
}

// StartService starts a service and waits until it runs. It fails where the OS
// refuses, with the OS's own number, and where the service is still starting
// after a while.
func (m *Machine) StartService(name string) error {
	return withService(name, windows.SERVICE_START|windows.SERVICE_QUERY_STATUS, func(h windows.Handle, name string) error {
		fail := func(code int) error {
			return machine.SystemError{Code: code, What: fmt.Sprintf("service %s on %s does not start", name, m.name)}
		}
		if err := windows.StartService(h, 0, nil); err != nil {
			return fail(number(err))
		}
		if now, err := await(h, windows.SERVICE_RUNNING, windows.SERVICE_STOPPED); err != nil || now != windows.SERVICE_RUNNING {
			var s windows.SERVICE_STATUS
			if windows.QueryServiceStatus(h, &s) == nil && s.Win32ExitCode != 0 {
				return fail(int(s.Win32ExitCode))
			}
			return fail(int(windows.ERROR_SERVICE_REQUEST_TIMEOUT))
		}
		return nil
	})
}

// StopService stops a service and waits until it has. It fails where others
// that depend on it run.
func (m *Machine) StopService(name string) error {
	return withService(name, windows.SERVICE_STOP|windows.SERVICE_QUERY_STATUS, func(h windows.Handle, name string) error {
		fail := func(code int) error {
			return machine.SystemError{Code: code, What: fmt.Sprintf("service %s on %s does not stop", name, m.name)}
		}
		var s windows.SERVICE_STATUS
		if err := windows.ControlService(h, windows.SERVICE_CONTROL_STOP, &s); err != nil {
			return fail(number(err))
		}
		if now, err := await(h, windows.SERVICE_STOPPED, windows.SERVICE_STOPPED); err != nil || now != windows.SERVICE_STOPPED {
			return fail(int(windows.ERROR_SERVICE_REQUEST_TIMEOUT))
		}
		return nil
	})
}

// await waits until a service is in the wanted state, or in the one that means
// that it will not come.
func await(h windows.Handle, wanted, lost uint32) (now uint32, err error) {
	begun := false
	for end := time.Now().Add(serviceWait); time.Now().Before(end); time.Sleep(serviceLook) {
		if now, err = state(h); err != nil || now == wanted {
			return now, err
		}
		if now == lost && begun {
			return now, nil
		}
		begun = true
	}
	return now, nil
}

const delayedValue = "DelayedAutostart" // of the service's key

// SetDependencies sets what a service depends on.
func (m *Machine) SetDependencies(name string, on []string) error {
	list, err := multi(on)
	if err != nil {
		return err
	}
	return withService(name, windows.SERVICE_CHANGE_CONFIG, func(h windows.Handle, name string) error {
		const keep = windows.SERVICE_NO_CHANGE
		return told(windows.ChangeServiceConfig(h, keep, keep, keep, nil, nil, nil, &list[0], nil, nil, nil), "set what %s depends on", name)
	})
}

// multi writes strings one after another, with an empty one at the end.
func multi(texts []string) (out []uint16, err error) {
	for _, t := range texts {
		u, err := windows.UTF16FromString(t)
		if err != nil {
			return nil, err
		}
		out = append(out, u...)
	}
	return append(out, 0, 0), nil
}

// CreateService makes a service with a process of its own.
func (m *Machine) CreateService(s machine.Service) error {
	if !machine.OwnAccount(s.Account) {
		return fmt.Errorf("the service %s runs as %s, whose password is not known: %w", s.Name, s.Account, machine.ErrUnsupported)
	}
	scm, err := windows.OpenSCManager(nil, nil, windows.SC_MANAGER_CREATE_SERVICE)
	if err != nil {
		return told(err, "the service manager")
	}
	defer windows.CloseServiceHandle(scm)
	start := uint32(windows.SERVICE_DEMAND_START)
	for n, t := range startTypes {
		if t == s.Start {
			start = n
		}
	}
	deps, err := multi(s.DependsOn)
	if err != nil {
		return err
	}
	text := map[string]*uint16{}
	for _, t := range []string{s.Name, s.Display, s.Binary, s.Account} {
		if text[t], err = windows.UTF16PtrFromString(t); err != nil {
			return err
		}
	}
	account, display := text[s.Account], text[s.Display]
	// Without one it is the OS's own account.
	if s.Account == "" {
		account = nil
	}
	if s.Display == "" {
		display = nil
	}
	h, err := windows.CreateService(scm, text[s.Name], display, windows.SERVICE_ALL_ACCESS, windows.SERVICE_WIN32_OWN_PROCESS, start,
		windows.SERVICE_ERROR_NORMAL, text[s.Binary], nil, nil, &deps[0], account, nil)
	if errors.Is(err, windows.ERROR_SERVICE_EXISTS) || errors.Is(err, windows.ERROR_DUPLICATE_SERVICE_NAME) {
		return fmt.Errorf("service %s: %w", s.Name, fs.ErrExist)
	}
	if err != nil {
		return told(err, "make the service %s", s.Name)
	}
	defer windows.CloseServiceHandle(h)
	if !s.Delayed {
		return nil
	}
	delay := windows.SERVICE_DELAYED_AUTO_START_INFO{IsDelayedAutoStartUp: 1}
	return told(windows.ChangeServiceConfig2(h, windows.SERVICE_CONFIG_DELAYED_AUTO_START_INFO, (*byte)(unsafe.Pointer(&delay))),
		"delay the start of %s", s.Name)
}

// DeleteService deletes a stopped service.
func (m *Machine) DeleteService(name string) error {
	s, err := m.Service(name)
	if err != nil {
		return err
	}
	if s.Running {
		return fmt.Errorf("the service %s runs\nhint: stop it first", s.Name)
	}
	const deleteRight = 0x10000 // DELETE
	return withService(name, deleteRight, func(h windows.Handle, name string) error {
		return told(windows.DeleteService(h), "delete the service %s", name)
	})
}
