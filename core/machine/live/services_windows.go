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
	maxServiceConfig = 64 << 10 // bytes
	serviceWait      = 40 * time.Second
	serviceLook      = 100 * time.Millisecond
)

var startTypes = map[uint32]machine.StartType{
	windows.SERVICE_BOOT_START: machine.StartBoot, windows.SERVICE_SYSTEM_START: machine.StartSystem, windows.SERVICE_AUTO_START: machine.StartAutomatic,
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
	if errors.Is(err, windows.ERROR_SERVICE_DOES_NOT_EXIST) {
		if name, err = keyName(scm, n); err == nil {
			if n, err = windows.UTF16PtrFromString(name); err == nil {
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
	if ok, _, err := getServiceKeyName.Call(uintptr(scm), uintptr(unsafe.Pointer(display)), uintptr(unsafe.Pointer(&buf[0])), uintptr(unsafe.Pointer(&n))); ok == 0 {
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
			Account: windows.UTF16PtrToString(c.ServiceStartName), Start: startTypes[c.StartType], DependsOn: texts(c.Dependencies), Running: status == windows.SERVICE_RUNNING}
		return nil
	})
	return out, err
}

const (
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

// StartService starts a service and waits until it runs.
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

// StopService stops a service and waits until it has.
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
