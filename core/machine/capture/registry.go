// This file takes the parts of the registry that setups touch; whole hives
// would be hundreds of megabytes.

package capture

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
)

// A part is a key that is taken; deep ones with all below.
type part struct {
	key  string // long form
	deep bool   // with all below it
}

// What of the registry a twin needs; whole hives would be hundreds of
// megabytes, mostly without meaning for a setup.
var parts = []part{
	{`HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion`, false}, {`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer`, true},
	{`HKLM\SOFTWARE\Classes\Installer`, true}, {`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall`, true},
	{`HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall`, true},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Run`, false},
	{`HKLM\SOFTWARE\WOW6432Node\Microsoft\Windows\CurrentVersion\Run`, false}, {`HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`, true},
	{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager`, false},
	{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`, false},
	{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Power`, false},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\RebootPending`, false},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\WindowsUpdate\Auto Update\RebootRequired`, false},
	{`HKLM\SOFTWARE\Microsoft\NET Framework Setup\NDP`, true},
	{`HKCU\Software\Microsoft\Windows\CurrentVersion\Explorer\User Shell Folders`, false},
	{`HKCU\Software\Microsoft\Windows\CurrentVersion\Explorer\Shell Folders`, false},
	{`HKCU\Software\Microsoft\Windows\CurrentVersion\Run`, false}, {`HKCU\Software\Microsoft\Windows\CurrentVersion\Internet Settings`, false},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\RebootInProgress`, false},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\PackagesPending`, false},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\WindowsUpdate\Auto Update\PostRebootReporting`, false},
	{`HKLM\SOFTWARE\Microsoft\Updates`, false},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\RunOnce`, false},
	{`HKLM\SYSTEM\CurrentControlSet\Control\ComputerName\ActiveComputerName`, false},
	{`HKLM\SYSTEM\CurrentControlSet\Control\ComputerName\ComputerName`, false}, {`HKLM\SOFTWARE\Policies\Microsoft\Windows\Appx`, false},
	{`HKLM\SOFTWARE\Policies\Microsoft\Windows\Safer\CodeIdentifiers`, false},
	{`HKLM\SOFTWARE\Policies\Microsoft\Windows\SrpV2\Msi`, false}, {`HKLM\SOFTWARE\Policies\Microsoft\Windows\SrpV2\Exe`, false},
	{`HKLM\SOFTWARE\Policies\Microsoft\Windows\SrpV2\Script`, false}, {`HKLM\SOFTWARE\dotnet\Setup\InstalledVersions`, true},
	{`HKLM\SOFTWARE\Microsoft\VisualStudio\14.0\VC\Runtimes`, true},
	{`HKLM\SOFTWARE\WOW6432Node\Microsoft\VisualStudio\14.0\VC\Runtimes`, true},
}

// registry takes the parts of the registry that setups touch, and the keys that
// were asked for besides. Users' keys go into a file of their own.
func (c *capture) registry() error {
	hives := map[string]*strings.Builder{"registry/machine.reg": {}, "registry/user.reg": {}}
	all := slices.Clone(parts)
	for _, k := range c.opt.Keys {
		all = append(all, part{k, true})
	}
	seen := map[string]bool{}
	for _, p := range all {
		key, err := machine.LongKey(p.key)
		if err != nil {
			return err
		}
		if err := c.key(hives, key, p.deep, 0, seen); err != nil {
			return err
		}
	}
	if err := c.drivers(hives, seen); err != nil {
		return err
	}
	for name, b := range hives {
		if err := c.write(name, []byte("Windows Registry Editor Version 5.00\r\n"+b.String())); err != nil {
			return err
		}
	}
	return nil
}

// drivers takes the drivers that scan files, and the key above them, so that
// their absence can be told from not having looked.
func (c *capture) drivers(hives map[string]*strings.Builder, seen map[string]bool) error {
	const services = `HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Services`
	names, err := c.m.Subkeys(services)
	if err != nil || len(names) == 0 {
		return nil
	}
	hives["registry/machine.reg"].WriteString("\r\n" + regfile.KeyText(services+`\msiserver`, nil))
	for _, n := range names {
		if g, err := c.m.Value(services+`\`+n, "Group"); err == nil && strings.EqualFold(g.Words(), "FSFilter Anti-Virus") {
			if err := c.key(hives, services+`\`+n, false, 0, seen); err != nil {
				return err
			}
		}
	}
	return nil
}

// key takes one key, and with deep those below it.
func (c *capture) key(hives map[string]*strings.Builder, key string, deep bool, depth int, seen map[string]bool) error {
	if seen[strings.ToLower(key)] {
		return nil
	}
	values, err := c.m.Values(key)
	if errors.Is(err, fs.ErrNotExist) { // a key that only leads to others may have no entry of its own
		if below, err := c.m.Subkeys(key); err != nil || len(below) == 0 || !deep {
			return nil
		}
		err = nil
	}
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		c.skip(key, err)
		return nil
	}
	seen[strings.ToLower(key)] = true
	// A registry that is damaged may have keys without end.
	if c.rep.Keys++; c.rep.Keys > maxKeys {
		return fmt.Errorf("more than %d registry keys", maxKeys)
	}
	at, b := key, hives["registry/machine.reg"]
	if rest, ok := strings.CutPrefix(key, "HKEY_CURRENT_USER"); ok {
		if c.user.SID == "" {
			return nil
		}
		at, b = `HKEY_USERS\`+string(c.user.SID)+rest, hives["registry/user.reg"]
	}
	values = slices.DeleteFunc(values, func(e regfile.Entry) bool { return len(e.Value.Data) > maxValue })
	values = c.masked(values)
	c.rep.Values += len(values)
	b.WriteString("\r\n" + regfile.KeyText(at, values))
	if !deep || depth >= maxDepth {
		return nil
	}
	below, err := c.m.Subkeys(key)
	if err != nil {
		c.skip(key, err)
		return nil
	}
	slices.Sort(below)
	for _, name := range below {
		if err := c.key(hives, key+`\`+name, true, depth+1, seen); err != nil {
			return err
		}
	}
	return nil
}

// masked masks texts inside of values, which registry text may hold as bytes in
// hex. A value of bytes in which a private name stands is left out.
func (c *capture) masked(values []regfile.Entry) (out []regfile.Entry) {
	if c.mask == nil {
		return values
	}
	for _, e := range values {
		switch e.Value.Type {
		case regfile.String, regfile.Expand, regfile.MultiStr:
			if words := c.hide(e.Value.Words()); words != e.Value.Words() {
				v, err := regfile.Make(e.Value.Type, words)
				if err != nil {
					continue
				}
				e.Value = v
			}
		case regfile.DWord, regfile.QWord:
		default:
			wide := strings.ReplaceAll(string(e.Value.Data), "\x00", "") // UTF-16 of plain letters
			if c.hide(wide) != wide {
				c.rep.Masked["value left out"]++
				continue
			}
		}
		out = append(out, e)
	}
	return out
}
