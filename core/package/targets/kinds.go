// This file has what a target can be.

package targets

import (
	"fmt"
	"strings"
)

// Kind is what a target is.
type Kind string

// The kinds.
const (
	Folder  Kind = "folder"  // is made, or written into
	File    Kind = "file"    // is written
	Key     Kind = "key"     // of the registry, is written
	Service Kind = "service" // is made, started, stopped or deleted
	Needed  Kind = "needed"  // a service that one of the package's depends on
	Cabinet Kind = "cabinet" // beside the package, is read
	Inside  Kind = "inside"  // a cabinet that the package carries, and that cannot be read
	Source  Kind = "source"  // a loose file beside the package, is read
	Program Kind = "program" // is run
	Named   Kind = "named"   // a path that a program is called with: read or written, the package does not say
	Read    Kind = "read"    // a file or folder that a program is to read or run: it must be there
	Asked   Kind = "asked"   // a key that a program asks for, behind a bar its value: it must be there
	Share   Kind = "share"   // a path on another machine: that must answer
	Made    Kind = "made"    // a folder that a shell's command makes, which it cannot where something has that name
	Refused Kind = "refused" // a file or folder with which a shell's line ends in failure: it must not be there
	Class   Kind = "class"   // a class that a script makes an object of, by its name: it must be registered
	New     Kind = "new"     // a service that a program makes: it must not be there
	Product Kind = "product" // that a program uninstalls, by its code: it must be there
	Task    Kind = "task"    // of the scheduler, by its path: it must be there
	Host    Kind = "host"    // that must answer, with or without a port
	Present Kind = "present" // a service that a program stops, sets or deletes: it must be there
	Tool    Kind = "tool"    // a program that is found by its name
	// A variable of the environment that a shell's line uses, and an account
	// under which a service is to run: they must be there.
	Variable Kind = "variable"
	Account  Kind = "account"
	// A program that a line ends: it must run. A service of the OS's that
	// answers a tool: where there is one, it must be able to run.
	Ended   Kind = "ended"
	Serving Kind = "serving"
	// An account that a line names, and one that it makes: the one must be
	// there, the other not.
	Person   Kind = "person"
	Newcomer Kind = "newcomer"
	Engine   Kind = "engine" // what the engine itself works with: temporary folder, its own folder
	Cached   Kind = "cached" // the engine's copy of a product or patch, by its product code
)

// elsewhere are the kinds of what may lie on another machine, by which no more
// can be asked than whether that answers.
var elsewhere = map[Kind]bool{Folder: true, File: true, Read: true, Named: true, Source: true, Cabinet: true, Program: true}

// HostOf is the machine that must answer for a target; empty where none must.
func HostOf(t Target) string {
	switch t.Kind {
	case Host:
		return t.Name
	case Share:
	default:
		return ""
	}
	host, _, _ := strings.Cut(strings.TrimLeft(t.Name, `\`), `\`)
	host, _, _ = strings.Cut(host, "@") // a port of a web folder
	return host
}

// Words says what a target is, for a sentence.
func (t Target) Words() string {
	switch t.Kind {
	case Engine:
		return "the engine's " + t.Name
	case Cached:
		return "the engine's copy of " + t.Name
	case Needed:
		return "the service " + t.Name
	case Source:
		return "the source file " + t.Name
	case Inside:
		return "the package " + t.Name
	case Named, Read, Made, Refused:
		return "the path " + t.Name
	case Asked:
		return "the key " + strings.ReplaceAll(t.Name, "|", `\`)
	case Present, New, Serving:
		return "the service " + t.Name
	case Ended:
		return "the program " + t.Name
	case Person, Newcomer:
		return "the account " + t.Name
	case Task:
		return "the task " + t.Name
	case Variable:
		return "the variable " + t.Name
	}
	return fmt.Sprintf("the %s %s", t.Kind, t.Name)
}
