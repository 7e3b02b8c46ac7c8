// This file reads and changes the registry, in the view that is named.

package live

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"
	"unsafe"

	"golang.org/x/sys/windows"
	"golang.org/x/sys/windows/registry"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/sddl"
)

var roots = map[string]registry.Key{
	"HKEY_LOCAL_MACHINE": registry.LOCAL_MACHINE, "HKEY_CURRENT_USER": registry.CURRENT_USER, "HKEY_USERS": registry.USERS,
	"HKEY_CLASSES_ROOT": registry.CLASSES_ROOT, "HKEY_CURRENT_CONFIG": registry.CURRENT_CONFIG,
}

const maxValue = 64 << 20 // bytes of a registry value

// open opens a key in the 64-bit view; WOW6432Node in its path leads to the
// other one.
func open(key string, access uint32) (registry.Key, error) {
	root, path, err := split(key)
	if err != nil {
		return 0, err
	}
	k, err := registry.OpenKey(root, path, access|registry.WOW64_64KEY)
	if errors.Is(err, registry.ErrNotExist) {
		return 0, fmt.Errorf("key %s: %w", key, fs.ErrNotExist)
	}
	return k, told(err, "key %s", key)
}

// split parts a key into its root, as the OS's calls want it, and the path
// below.
func split(key string) (registry.Key, string, error) {
	long, err := machine.LongKey(key)
	if err != nil {
		return 0, "", err
	}
	root, path, _ := strings.Cut(long, `\`)
	return roots[root], path, nil
}

// KeyExists says whether a key is there.
func (m *Machine) KeyExists(key string) (bool, error) {
	k, err := open(key, registry.QUERY_VALUE)
	if errors.Is(err, fs.ErrNotExist) {
		return false, nil
	}
	if errors.Is(err, windows.ERROR_ACCESS_DENIED) {
		return true, nil // there, but not for us to read
	}
	if err != nil {
		return false, err
	}
	return true, k.Close()
}

// CreateKey makes a key and those above it.
func (m *Machine) CreateKey(key string) error {
	root, path, err := split(key)
	if err != nil {
		return err
	}
	k, _, err := registry.CreateKey(root, path, registry.ALL_ACCESS|registry.WOW64_64KEY)
	if err != nil {
		return told(err, "make the key %s", key)
	}
	return k.Close()
}

// DeleteKey deletes a key that has none below it. With keys below it that is an
// error, so that nothing goes that was not looked at.
func (m *Machine) DeleteKey(key string) error {
	if below, err := m.Subkeys(key); err != nil {
		return err
	} else if len(below) > 0 {
		return fmt.Errorf("key %s has %d keys below it", key, len(below))
	}
	root, path, err := split(key)
	if err != nil {
		return err
	}
	if at := strings.LastIndexByte(path, '\\'); at > 0 {
		parent, err := registry.OpenKey(root, path[:at], registry.ALL_ACCESS|registry.WOW64_64KEY)
		if err != nil {
			return told(err, "key %s", key)
		}
		defer parent.Close()
		root, path = parent, path[at+1:]
	}
	return told(registry.DeleteKey(root, path), "delete the key %s", key)
}

// Subkeys lists the keys below a key.
func (m *Machine) Subkeys(key string) ([]string, error) {
	k, err := open(key, registry.ENUMERATE_SUB_KEYS)
	if err != nil {
		return nil, err
	}
	defer k.Close()
	names, err := k.ReadSubKeyNames(-1)
	return names, told(err, "key %s", key)
}

// Values lists the values of a key.
func (m *Machine) Values(key string) ([]regfile.Entry, error) {
	k, err := open(key, registry.QUERY_VALUE)
	if err != nil {
		return nil, err
	}
	defer k.Close()
	names, err := k.ReadValueNames(-1)
	if err != nil {
		return nil, told(err, "key %s", key)
	}
	var list []regfile.Entry
	for _, n := range names {
		v, err := value(k, n)
		if err != nil {
			return nil, told(err, "value %s of %s", n, key)
		}
		list = append(list, regfile.Entry{Name: n, Value: v})
	}
	return list, nil
}

// value asks again with a larger buffer: a value may grow between two calls.
func value(k registry.Key, name string) (regfile.Value, error) {
	b := make([]byte, 512)
	for {
		n, kind, err := k.GetValue(name, b)
		if errors.Is(err, registry.ErrShortBuffer) && n <= maxValue {
			b = make([]byte, n)
			continue
		}
		if err != nil {
			return regfile.Value{}, err
		}
		return regfile.Value{Type: regfile.Type(kind), Data: b[:n:n]}, nil
	}
}

// Value reads a value. Errors wrap [fs.ErrNotExist] for a key or value that is
// not there.
func (m *Machine) Value(key, name string) (regfile.Value, error) {
	k, err := open(key, registry.QUERY_VALUE)
	if err != nil {
		return regfile.Value{}, err
	}
	defer k.Close()
	v, err := value(k, name)
	if errors.Is(err, registry.ErrNotExist) {
		return v, fmt.Errorf("value %q of %s: %w", name, key, fs.ErrNotExist)
	}
	return v, told(err, "value %q of %s", name, key)
}

// SetValue sets a value of any type.
func (m *Machine) SetValue(key, name string, v regfile.Value) error {
	k, err := open(key, registry.SET_VALUE)
	if err != nil {
		return err
	}
	defer k.Close()
	n, err := windows.UTF16PtrFromString(name)
	if err != nil {
		return err
	}
	data := unsafe.Pointer(nil)
	if len(v.Data) > 0 {
		data = unsafe.Pointer(&v.Data[0])
	}
	rc, _, _ := regSetValueEx.Call(uintptr(k), uintptr(unsafe.Pointer(n)), 0, uintptr(v.Type), uintptr(data), uintptr(len(v.Data)))
	if rc != 0 {
		return told(windows.Errno(rc), "set the value %q of %s", name, key)
	}
	return nil
}

// DeleteValue deletes a value. One that is not there is [fs.ErrNotExist].
func (m *Machine) DeleteValue(key, name string) error {
	k, err := open(key, registry.SET_VALUE)
	if err != nil {
		return err
	}
	defer k.Close()
	err = k.DeleteValue(name)
	if errors.Is(err, registry.ErrNotExist) {
		return fmt.Errorf("value %q of %s: %w", name, key, fs.ErrNotExist)
	}
	return told(err, "delete the value %q of %s", name, key)
}

// KeySecurity is the owner and access list of a key.
func (m *Machine) KeySecurity(key string) (machine.Security, error) {
	k, err := open(key, windows.READ_CONTROL)
	if err != nil {
		return machine.Security{}, err
	}
	defer k.Close()
	d, err := windows.GetSecurityInfo(windows.Handle(k), windows.SE_REGISTRY_KEY,
		windows.OWNER_SECURITY_INFORMATION|windows.DACL_SECURITY_INFORMATION)
	if err != nil {
		return machine.Security{}, told(err, "the access list of %s", key)
	}
	return securityOf(d), nil
}

// SetKeySecurity sets owner and access list of a key.
func (m *Machine) SetKeySecurity(key string, s machine.Security) error {
	before, err := m.KeySecurity(key)
	if err != nil {
		return err
	}
	set, err := descriptor(before, s)
	if err != nil {
		return err
	}
	access := uint32(windows.WRITE_DAC | windows.READ_CONTROL)
	if set.owner != nil {
		access |= windows.WRITE_OWNER
	}
	// An administrator may set any list, but has to ask for it.
	return withPrivileges(ownerPrivileges, func() error {
		k, err := open(key, access|windows.WRITE_OWNER)
		if err != nil {
			k, err = open(key, access)
		}
		if err != nil {
			return err
		}
		defer k.Close()
		if err := windows.SetSecurityInfo(windows.Handle(k), windows.SE_REGISTRY_KEY, set.info, set.owner, nil, set.dacl, nil); err != nil {
			return told(err, "set the access list of %s", key)
		}
		return keepOwner(windows.Handle(k), before.SDDL, set)
	})
}

// keepOwner gives a key its owner back where setting the list alone took it
// away.
func keepOwner(k windows.Handle, before string, set change) error {
	old, err := sddl.Parse(before)
	if err != nil || set.owner != nil || old.Owner == "" {
		return nil
	}
	d, err := windows.GetSecurityInfo(k, windows.SE_REGISTRY_KEY, windows.OWNER_SECURITY_INFORMATION)
	if err != nil { // with the new list it may not be read; the caller reads it again
		return nil
	}
	if now, _, err := d.Owner(); err != nil || now.String() == string(old.Owner) {
		return nil
	}
	owner, err := windows.StringToSid(string(old.Owner))
	if err != nil {
		return err
	}
	return windows.SetSecurityInfo(k, windows.SE_REGISTRY_KEY, windows.OWNER_SECURITY_INFORMATION|set.info, owner, nil, set.dacl, nil)
}
