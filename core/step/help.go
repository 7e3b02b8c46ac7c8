// This file says what each kind of step does and takes.

package step

import "slices"

// does says what each kind of step does, in one phrase.
var does = map[string]string{
	"grant": "adds the one right that the account lacks", "revoke": "takes the account's own entries away",
	"security": "sets owner and access list as given",
	"owner":    "changes the owner", "inherit": "takes entries from above, or no longer",
	"service": "changes a service's start type, starts or stops it", "dependency": "adds or removes what a service depends on",
	"remove-service":    "deletes a leftover service",
	"installer-service": "registers the installer's service as the OS does", "logon-right": "gives or takes a right to log on",
	"registry": "sets a value; missing keys are made", "unset": "takes a value away", "key": "makes a key",
	"remove-key": "deletes a key with all its subkeys",
	"import":     "merges registry text", "policy": "sets a policy that concerns setups", "path-entry": "adds or removes one entry of PATH",
	"restart": "runs a command once after the restart that is due", "ini": "sets one key of an INI file",
	"transform": "writes a transform for a package", "copy": "writes an altered copy of a package",
	"command": "writes the call of a setup into a file",
	"folder":  "makes a folder, in place of an empty file if there is one", "away": "takes a small file away; the journal keeps it",
	"place": "puts a file in place; what was there goes into quarantine", "quarantine": "moves a file or folder into the case",
	"free-space": "moves files that nobody uses out of a temporary folder",
	"task":       "switches a task of the scheduler", "remove-task": "deletes a task of the scheduler",
	"safe-boot": "sets the OS's flag for safe mode", "end-process": "ends a program", "sign-out": "signs another user out",
	"restore-point": "lets the OS take a restore point", "repair": "runs the OS's own repair and reads its result",
}

// arguments says what each argument is; those of one kind alone stand behind
// its name.
var arguments = map[string]string{
	"folder": "a folder", "file": "a file", "key": "a registry key", "account": "a user, group or service account",
	"right":             "read, modify or full",
	"logon-right right": "SeServiceLogonRight and the like", "entries": "all, denied or allowed", "sddl": "owner and access list as text",
	"state": "present or absent", "inherit state": "on or off", "policy state": "on or off",
	"task state": "on or off", "service state": "running or stopped",
	"name": "its name", "policy name": "sideloading, fast-startup, setups or logging",
	"registry name": "the value's name; left out for the key's default",
	"unset name":    "the value's name", "start": "automatic, manual or disabled",
	"on": "the service that it depends on", "type": "string, expand, multi, dword, qword, binary or none",
	"value": "the value", "from": "the file that it comes from", "text": "the text itself", "entry": "a folder",
	"at": "front or end", "scope": "machine or user",
	"command": "the command line", "section": "the section's name", "ini key": "the key's name",
	"copy": "where a copy goes, for a file that cannot be written",
	"out":  "the file to write", "package": "the package", "edits": "the edits, as package alter takes them",
	"properties": "NAME=VALUE, with blanks between",
	"transforms": "transforms, with semicolons between", "inside": "the item of a wrapper",
	"sha256": "the hash that it must have", "path": "the file, folder or task",
	"older": "only files that are older than so many hours (24)", "mode": "minimal, network or off",
	"process": "a file name or number", "user": "the user's name",
	"title": "its title", "what": "component-store, system-files, network, register:NAME or reset:NAME of an app package, or a product code",
}

// An Argument is one argument of a kind of step.
type Argument struct {
	Name   string `json:"name"`
	Means  string `json:"means"`
	Needed bool   `json:"needed"` // it, or another one that names the target
}

// Does says what the kind does.
func (k Kind) Does() string { return does[k.Name] }

// Arguments are the arguments with what they mean.
func (k Kind) Arguments() (list []Argument) {
	for _, a := range k.Args {
		means := arguments[k.Name+" "+a]
		if means == "" {
			means = arguments[a]
		}
		list = append(list, Argument{a, means, slices.Contains(k.Needs, a) || slices.Contains(k.Target, a)})
	}
	return list
}
