package checks

import (
	"errors"
	"io/fs"
	"strings"

	"hollowkey/core/machine"
)

// Looks at what stands around a set-up: files in the way, PATH, programs that
// hold files, accounts of services.

// inTheWay asks whether an empty file stands where a folder must be.
func (c checker) inTheWay(folder string) answer {
	drive, names, err := machine.SplitPath(folder)
	if err != nil {
		return unknown("%v", err)
	}
	for i := range names {
		at := drive + `:\` + strings.Join(names[:i+1], `\`)
		info, err := c.m.Stat(at)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			return no("nothing stands at %s on %s", at, c.m.Name())
		case err != nil:
			return unknown("%v", err)
		case !info.Folder && info.Size == 0:
			return yes(map[string]string{"folder": at}, "%s is an empty file, not a folder", at)
		case !info.Folder:
			return yes(map[string]string{"folder": ""}, "%s is a file of %d bytes, not a folder; look what it is before you move it", at, info.Size)
		}
	}
	return no("%s is a folder", folder)
}

const pathKey = `HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`

// pathVariable asks whether the machine's PATH holds the OS's own folders.
func (c checker) pathVariable() answer {
	v, err := c.m.Value(pathKey, "Path")
	if err != nil {
		return c.cannot("PATH", err)
	}
	system := `c:\windows`
	for _, want := range []string{`C:\Windows\system32`, `C:\Windows`, `C:\Windows\System32\WindowsPowerShell\v1.0`} {
		found := false
		for e := range strings.SplitSeq(v.Words(), ";") {
			e = strings.ToLower(strings.TrimRight(strings.Trim(e, `" `), `\`))
			e = strings.NewReplacer("%systemroot%", system, "%windir%", system).Replace(e)
			found = found || e == strings.ToLower(want)
		}
		if !found {
			return yes(map[string]string{"entry": want}, "PATH of %s lacks %s", c.m.Name(), want)
		}
	}
	return no("PATH of %s holds the OS's folders", c.m.Name())
}

// fileHolder asks which program keeps a file open.
func (c checker) fileHolder(file string) answer {
	h, ok := c.m.(interface {
		Holders(files ...string) ([]machine.Process, error)
	})
	if file == "" || !ok {
		return unknown("which file is meant is not known")
	}
	list, err := h.Holders(file)
	switch {
	case err != nil:
		return unknown("%v", err)
	case len(list) == 0:
		return unknown("nothing holds %s on %s at the moment", file, c.m.Name())
	}
	return yes(map[string]string{"holder": list[0].Name}, "%s (process %d, of %s) holds %s", list[0].Name, list[0].ID, list[0].User, file)
}

// serviceAccount asks whether a service's account may log on as one.
func (c checker) serviceAccount(name string) answer {
	s, err := c.m.Service(name)
	if err != nil {
		return unknown("%v", err)
	}
	if machine.OwnAccount(s.Account) {
		return no("%s runs as %s, which needs no such right", s.Name, s.Account)
	}
	rights, err := c.m.LogonRights(s.Account)
	if err != nil {
		return unknown("%v", err)
	}
	for _, r := range rights {
		if r == "SeServiceLogonRight" {
			return no("%s, the account of %s, has the right to log on as a service", s.Account, s.Name)
		}
	}
	return yes(map[string]string{"account": s.Account}, "%s, the account of %s, was not given the right to log on as a service", s.Account, s.Name)
}
