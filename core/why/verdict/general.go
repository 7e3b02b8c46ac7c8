// This file has the remedy of each class for where no sign has a better one.

package verdict

import (
	"hollowkey/core/step"
)

// general holds for each cause class the remedy that is offered when no sign
// has a better one.
var general = map[string]step.Remedy{
	"permission": {Class: "permission",
		Title: "give the account of the setup (SYSTEM for its service part) the one right that it lacks there"},
	"elevation": {Class: "elevation", Title: "run the setup from an elevated prompt"},
	"service": {Class: "service",
		Title: "look at the service's state, start type, account and dependencies, and correct what is off"},
	"registry":      {Class: "registry", Title: "compare the key or value with a machine where the setup works, and correct it"},
	"condition":     {Class: "condition", Title: "meet the condition, or have the vendor's newer package"},
	"prerequisite":  {Class: "package", Title: "install what is missing first, then run the setup again"},
	"custom-action": {Class: "advice", Title: "read the log of the vendor's own program, and send it to the vendor with this verdict"},
	"source": {Class: "file", Title: "put the source where it is looked for, or copy the whole setup to a local folder and " +
		"run it there"},
	"cached-package":    {Class: "cache", Title: "restore the OS's cached package from the very same package (hollowkey cache restore)"},
	"corrupt":           {Class: "package", Title: "fetch the package again and compare its size and hash with the vendor's"},
	"in-use":            {Class: "advice", Title: "close the program that holds the file, or restart, then run the setup again"},
	"busy":              {Class: "restart", Title: "let the other installation end, or restart, then run the setup again"},
	"space":             {Class: "file", Title: "free space on the target, the system and the temporary drive"},
	"path":              {Class: "environment", Title: "correct the path, or what leads to it"},
	"policy":            {Class: "policy", Title: "ask whoever sets the policy for an exception for this setup"},
	"installer-service": {Class: "service", Title: "set the installer service to start on demand and register it anew"},
	"component-store":   {Class: "repair", Title: "let the OS repair its component store, restart, and run the setup again"},
	"security-software": {Class: "policy", Title: "ask for an exception for this setup in the protection software, then run it again"},
	"network":           {Class: "network", Title: "put the connection to the named host right, or use an offline setup"},
	"platform":          {Class: "package", Title: "take the package for this processor type and OS"},
	"leftover":          {Class: "file", Title: "clear what the earlier version left"},
	"command-line":      {Class: "advice", Title: "call the setup again with the command line corrected"},
	"database": {Class: "package",
		Title: "have the package corrected by its vendor, or alter it with a transform (hollowkey package alter)"},
	"cancelled": {Class: "advice", Title: "run the setup again and let it finish; silent calls need the switch for no questions"},
	"unknown":   {Class: "advice", Title: "run the setup again with a verbose log, and read what stands before the place where it broke"},
}

// A special cause is one of a kind that is known more closely than by its
// class.
type special struct {
	title  string // in a few words
	remedy step.Remedy
}

// specials are such causes by the kind that a clue tells.
var specials = map[string]special{
	"clock": {"The clock of this machine is wrong, and certificates and tokens are refused",
		step.Remedy{Class: "network", Title: "set the clock (or let the time service set it), then run the setup again"}},
	"value-type": {"A registry value has another type than the setup wants",
		step.Remedy{Class: "registry", Title: "look at the value's type, set it to the one that is wanted, or take the value away and let the setup write its own"}},
	"length": {"A path is longer than most programs can use",
		step.Remedy{Class: "environment", Title: "let the setup work in a folder with a shorter path, such as one right below the drive"}},
	"bits": {"What has 32 bits and what has 64 do not go together",
		step.Remedy{Class: "package", Title: "install the kind of as many bits as the setup wants, or take the setup of the other kind"}},
	"processor": {"It is made for another processor than this machine has",
		step.Remedy{Class: "package", Title: "take the package for this machine's processor"}},
	"version": {"What is there is not in a version that the setup works with",
		step.Remedy{Class: "package", Title: "bring it to a version that the setup works with, then run the setup again"}},
	"share-offline": {"The share that the setup is installed from is offline",
		step.Remedy{Class: "file", Title: "connect the share again, or copy the whole setup to a local folder and run it there"}},
	"uninstaller": {"The earlier version cannot be removed, since its uninstall program is not there",
		step.Remedy{Class: "file", Title: "repair the earlier version from its own setup and remove it, or clear what it left (hollowkey leftovers)"}},
	"runtime": {"Something that other programs need was looked for and not found",
		step.Remedy{Class: "package", Title: "install it first, then run the setup again"}},
	"token": {"The setup ran without the rights of an administrator",
		step.Remedy{Class: "elevation", Title: "run the setup from an elevated prompt"}},
	"sums": {"A file is not the one that was published: its sum differs",
		step.Remedy{Class: "package", Title: "fetch the file again, and see whether something on the way changes it (a proxy, protection software)"}},
	"cut-short": {"A file ends before its end: it was not fetched as a whole",
		step.Remedy{Class: "package", Title: "fetch the file again and compare its size with the vendor's"}},
	"policy-value": {"A policy forbids it",
		step.Remedy{Class: "policy", Title: "ask whoever sets the policy for an exception for this setup"}},
	"read-only": {"A file is marked as read-only, whatever rights there are",
		step.Remedy{Class: "permission", Title: "take the read-only attribute off the file (attrib -r), then run the setup again"}},
	"answer": {"A value that the setup needs was left empty",
		step.Remedy{Class: "advice", Title: "fill the value in the answer file or on the command line, then run the setup again"}},
}
