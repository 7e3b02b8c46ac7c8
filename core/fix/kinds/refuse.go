package kinds

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/machine"
)

// systemFolders belong to the whole system: their access is not changed, and
// they are not moved.
var systemFolders = []string{`c:\windows`, `c:\windows\system32`, `c:\windows\syswow64`, `c:\windows\winsxs`, `c:\windows\installer`,
	`c:\program files`, `c:\program files (x86)`,
	`c:\programdata`, `c:\users`, `c:\program files\common files`, `c:\program files (x86)\common files`}

// systemKeys are not deleted, nor is their access changed.
var systemKeys = []string{`software`, `software\microsoft`, `software\microsoft\windows`, `software\microsoft\windows\currentversion`,
	`software\microsoft\windows nt`,
	`software\microsoft\windows nt\currentversion`, `software\classes`, `software\classes\clsid`, `software\classes\installer`,
	`software\policies`, `software\policies\microsoft`,
	`software\wow6432node`, `software\wow6432node\microsoft`, `system\currentcontrolset`, `system\currentcontrolset\control`,
	`system\currentcontrolset\services`, `sam`, `security`,
	`software\microsoft\windows\currentversion\uninstall`, `software\microsoft\windows\currentversion\installer`,
	`software\microsoft\windows\currentversion\installer\userdata`,
	`software\classes\installer\products`}

// Check refuses a step that no plan would hold, before it is taken or taken back.
func (s Step) Check(machine.Machine) error { return refuse(s) }

// refuse keeps steps away from what holds the whole machine.
func refuse(s Step) error {
	bad := func(why string) error {
		return fmt.Errorf("a step on %s is refused: %s\nhint: name the folder or key that the set-up needs, not the one above it", s.Target, why)
	}
	k := s.kind()
	switch {
	case k.tag == "security" && !isKey(s), s.Kind == "quarantine":
		return refuseFolder(s, bad)
	case s.Kind == "remove-key", k.tag == "security":
		return refuseKey(s.Target, bad)
	case s.Args["key"] != "" && machine.IsKey(s.Args["key"]) && strings.Count(s.Args["key"], `\`) < 2:
		return bad("this key is a whole hive")
	case s.Kind == "end-process" && slices.Contains(vital, strings.ToLower(s.Target)):
		return fmt.Errorf("%s is not ended: the OS does not run without it", s.Target)
	case (s.Kind == "end-process" || s.Kind == "sign-out") && strings.ContainsAny(s.Target, "*?"):
		return fmt.Errorf("%q is refused: a pattern could mean more than one; name the very one", s.Target)
	}
	return nil
}

// refuseFolder compares the plain form of a path with the folders that all programs
// share. Moving more than a product's own folder is refused besides.
func refuseFolder(s Step, bad func(string) error) error {
	drive, names, err := machine.SplitPath(s.Target)
	if err != nil {
		return err
	}
	t := strings.ToLower(drive + `:\` + strings.Join(names, `\`))
	switch {
	case len(names) == 0:
		return bad("a whole drive belongs to the whole system")
	case slices.Contains(systemFolders, t):
		return bad("this folder belongs to the whole system")
	case s.Kind != "quarantine":
	case strings.HasPrefix(t, `c:\windows\`) && !strings.HasPrefix(t, `c:\windows\temp\`):
		return bad("it is a part of the OS")
	case strings.HasPrefix(t, `c:\users\`) && len(names) == 2,
		strings.HasPrefix(t, `c:\users\`) && len(names) <= 4 && strings.EqualFold(names[2], "AppData"):
		return bad("it holds all of a user's data")
	}
	return nil
}

// refuseKey keeps whole hives and the keys that all programs share.
func refuseKey(key string, bad func(string) error) error {
	long, err := machine.LongKey(key)
	if err != nil {
		return err
	}
	_, below, _ := strings.Cut(long, `\`)
	below = strings.ToLower(below)
	switch {
	case strings.Count(long, `\`) < 2:
		return bad("this key is a whole hive")
	case slices.Contains(systemKeys, below):
		return bad("this key belongs to the whole system")
	}
	return nil
}

// vital are processes without which the OS stops or loses what it does.
var vital = []string{"system", "smss.exe", "csrss.exe", "wininit.exe", "winlogon.exe", "services.exe", "lsass.exe", "svchost.exe",
	"dwm.exe", "0", "4"}
