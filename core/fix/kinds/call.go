// This file writes the call of a setup for two shells, quoted as each of them
// parts it again.

package kinds

import (
	"fmt"
	"strings"
)

// A Call is how a setup is started, quoted for two shells; both elevated, with
// a verbose log.
type Call struct {
	Prompt     string `json:"prompt"`     // for an elevated command prompt
	PowerShell string `json:"powershell"` // asks for elevation itself
	Log        string `json:"log"`        // where the log goes
}

// MakeCall writes the call of a setup: a package (.msi), a patch (.msp), an app
// package (.msix, .appx) or a program. Switches are those of a program, quoted
// as they were given; properties are NAME=VALUE; transforms are paths.
func MakeCall(path, switches string, properties, transforms []string) (Call, error) {
	if strings.ContainsAny(path+strings.Join(transforms, ""), "\"\r\n") || strings.ContainsAny(switches, "\r\n\x00\x1a") {
		return Call{}, fmt.Errorf("the path %q cannot stand in a command line", path)
	}
	base := strings.TrimSuffix(baseOf(path), extensionOf(path))
	// Packages are started by the engine, which takes properties; a program
	// takes switches that only its vendor knows.
	switch strings.ToLower(extensionOf(path)) {
	case ".msi":
		line, err := CommandLine(path, strings.Join(properties, "\n"), strings.Join(transforms, ";"))
		return elevated("msiexec.exe", line, base), err
	case ".msp":
		line, err := CommandLine(path, strings.Join(properties, "\n"), "")
		return elevated("msiexec.exe", strings.Replace(line, "/i", "/p", 1), base), err
	case ".msix", ".appx", ".msixbundle", ".appxbundle":
		line := "Add-AppxPackage -Path " + PS(path)
		return Call{Prompt: `powershell -NoProfile -Command "` + line + `"`, PowerShell: line}, nil
	}
	if len(properties)+len(transforms) > 0 {
		return Call{}, fmt.Errorf("%s is a program: which of its switches hand properties on is the vendor's to say", path)
	}
	c := Call{Prompt: `"` + path + `"`, PowerShell: "Start-Process -Verb RunAs -Wait -FilePath " + PS(path)}
	if folder := strings.LastIndexByte(path, '\\'); folder > len("C:") { // old setups look for their files in the present folder
		c.PowerShell += " -WorkingDirectory " + PS(path[:folder])
	}
	if switches != "" {
		c.Prompt += " " + switches
		c.PowerShell += " -ArgumentList " + PS(switches)
	}
	return c, nil
}

// extensionOf is what a name ends with, the dot included. A dot in a folder's
// name is none of the file's.
func extensionOf(path string) string {
	if i := strings.LastIndexByte(path, '.'); i > strings.LastIndexByte(path, '\\') {
		return path[i:]
	}
	return ""
}

// elevated makes both forms of a call of the engine.
func elevated(program, line, base string) Call {
	args := strings.TrimPrefix(line, "msiexec ")
	const temp = "%TEMP%"
	before, after, _ := strings.Cut(args, temp)
	return Call{Prompt: line, PowerShell: "Start-Process -Verb RunAs -Wait -FilePath " + program + " -ArgumentList (" + PS(before) +
		" + $env:TEMP + " + PS(after) + ")",
		Log: temp + `\` + base + ".log"}
}
