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
