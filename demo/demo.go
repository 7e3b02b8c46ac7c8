// Package demo holds the made-up scenario: the harbour office of Port Ellery,
// its desktop ELLERY-D07, and setups that failed on it.
package demo

import (
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"hollowkey/demo/enginelog"
)

//go:embed all:data
var data embed.FS

// Machine is the name of the twin's folder.
const Machine = "ELLERY-D07"

// Around is the folder of the case for the work around the setups.
const Around = "desktop.case"

const marker = "made-by-hollowkey-demo.txt"

// A Case is one setup of the scenario that failed.
type Case struct {
	Log   string          // file name
	Told  string          // what the person said
	setup enginelog.Setup // as it is written down
}

// Folder is where the demo keeps the case.
func (c Case) Folder() string { return strings.TrimSuffix(c.Log, ".log") + ".case" }

const (
	userName = "mwhitlow"
	// Two of the setups were run by a colleague.
	colleague    = "dpayne"
	colleagueSID = "S-1-5-21-2104885761-1177238915-682003330-1112"
	userSID      = "S-1-5-21-2104885761-1177238915-682003330-1107"
	temp         = `C:\Users\mwhitlow\AppData\Local\Temp\`
)

// setup is what the demo's setups have in common, with the product's own in it.
func setup(product, version, code, vendor, folder string) enginelog.Setup {
	return enginelog.Setup{
		Product: product, Version: version, Code: code, Manufacturer: vendor, Folder: folder,
		Package: `C:\Deploy\` + folder + `.msi`, User: userName, SID: userSID, Computer: Machine,
		PersonalFolder: `Z:\Documents\`, Started: time.Date(2026, 5, 4, 9, 12, 1, 0, time.UTC),
	}
}

// Cases are the failed setups, in the order in which they are told.
func Cases() []Case {
	planner := setup("Berthline Planner", "4.2.0", "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C11}", "Saltmarsh Quay Software", "Berthline")
	planner.Files = 1900
	planner.Failure = enginelog.Failure{Action: "InstallInitialize", Lines: []string{
		`Note: 1: 1336 2: 5 3: ` + temp + ` `,
		`Note: 1: 2203 2: ` + temp + `4c1f0.ipi 3: -2147287035 `,
		`Note: 1: 2205 2:  3: Error `,
		"Note: 1: 2228 2:  3: Error 4: SELECT `Message` FROM `Error` WHERE `Error` = 2203 ",
		`DEBUG: Error 2203:  Database: ` + temp + `4c1f0.ipi. Cannot open database file. System error -2147287035`,
		`The installer has encountered an unexpected error installing this package. This may indicate a problem with this package. The error code is 2203. The arguments are: ` + temp + `4c1f0.ipi, -2147287035, `,
		`Product: Berthline Planner -- The installer has encountered an unexpected error installing this package. This may indicate a problem with this package. The error code is 2203. The arguments are: ` + temp + `4c1f0.ipi, -2147287035, `,
	}}
	tidebook := setup("Tidebook Desk", "2.8.1", "{5D0B1C77-2E9A-4B6B-8C35-0A6C2E5F7D22}", "Saltmarsh Quay Software", "Tidebook")
	tidebook.Files = 420
	tidebook.User, tidebook.SID = colleague, colleagueSID
	tidebook.Services = []enginelog.Service{{Name: "BerthSync", Display: "Berth Sync"}}
	tidebook.Failure = enginelog.Failure{Action: "StartServices", Wait: 31 * time.Second, Lines: []string{
		`Error 1920. Service 'Berth Sync' (BerthSync) failed to start.  Verify that you have sufficient privileges to start system services.`,
		`Product: Tidebook Desk -- Error 1920. Service 'Berth Sync' (BerthSync) failed to start.  Verify that you have sufficient privileges to start system services.`,
	}}
	roster := setup("Pilot Roster", "5.1.3", "{A97E4B02-6C1D-4E58-B1F0-3D9C8E7A6B33}", "Nine Fathom Systems", "Pilot Roster")
	roster.Files, roster.Folders = 60, 1960
	roster.Failure = enginelog.Failure{Action: "CostFinalize", Wait: 9 * time.Second, Lines: []string{
		`Note: 1: 1314 2: Z:\Documents `,
		`Note: 1: 1327 2: Z:\ `,
		`Note: 1: 2205 2:  3: Error `,
		"Note: 1: 2228 2:  3: Error 4: SELECT `Message` FROM `Error` WHERE `Error` = 1327 ",
		`Error 1327. Invalid Drive: Z:\`,
		`Product: Pilot Roster -- Error 1327. Invalid Drive: Z:\`,
	}}
	old := setup("Berthline Planner", "3.1.0", "{7B3D1A60-52C4-4D0E-8F3A-91C2E6B7A031}", "Saltmarsh Quay Software", "Berthline")
	old.Package = PlannerPath
	old.User, old.SID = colleague, colleagueSID
	old.Failure = enginelog.Failure{Action: "LaunchConditions", Lines: []string{
		`Product: Berthline Planner -- Berthline Planner 3.1.0 runs on Windows XP only.`,
	}}
	ledger := setup("Wharfage Ledger", "2.5.0", "{C41F7E08-93B2-4D6A-8E15-70A2B9D3F645}", "Saltmarsh Quay Software", "Ledger")
	ledger.Files = 80
	ledger.User, ledger.SID = colleague, colleagueSID
	ledger.Failure = enginelog.Failure{Action: "CreateFolders", Lines: []string{
		`Error 1312. Cannot create the directory 'C:\ProgramData\Saltmarsh Quay'.  A file with this name already exists.  Please rename or remove the file and click retry, or click Cancel to exit.`,
		`Product: Wharfage Ledger -- Error 1312. Cannot create the directory 'C:\ProgramData\Saltmarsh Quay'.  A file with this name already exists.  Please rename or remove the file and click retry, or click Cancel to exit.`,
	}}
	return []Case{
		{"berthline.log", "Berthline Planner says \"unexpected error\" and closes", planner},
		{"tidebook.log", "Tidebook Desk stops at \"starting services\"", tidebook},
		{"roster.log", "Pilot Roster complains about a drive that nobody has", roster},
		{"ledger.log", "Wharfage Ledger cannot make a folder that nobody sees", ledger},
		{"planner31.log", "The office's old Berthline Planner says it is for Windows XP", old},
	}
}

// LayOut puts the twin and the logs into folder, which must be new, empty, or
// of an earlier demo; that one is replaced.
func LayOut(folder string) error {
	entries, err := os.ReadDir(folder)
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if len(entries) > 0 {
		if _, err := os.Stat(filepath.Join(folder, marker)); err != nil {
			return fmt.Errorf("%s: the folder is not empty and was not made by the demo\nhint: name another one with --into", folder)
		}
		if err := clear(folder); err != nil {
			return err
		}
	}
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(folder, marker), []byte("Made-up data; hollowkey demo replaces this folder.\n"), 0o644); err != nil {
		return err
	}
	sub, err := fs.Sub(data, "data")
	if err != nil {
		return err
	}
	if err := os.CopyFS(folder, sub); err != nil {
		return err
	}
	for _, c := range Cases() {
		for _, name := range []string{filepath.Join(folder, c.Log), filepath.Join(folder, Machine, "disk", "C", "Windows", "Temp", c.Log)} {
			if err := writeLog(name, c.setup); err != nil {
				return err
			}
		}
	}
	for _, at := range []string{folder, filepath.Join(folder, Machine, "disk", "C", "Deploy")} {
		if err := writePlanner(at); err != nil {
			return err
		}
	}
	if err := writePackages(filepath.Join(folder, Machine, "disk", "C", "Deploy")); err != nil {
		return err
	}
	return writeCache(folder)
}

// clear takes an earlier demo away: what it is known to have made.
func clear(folder string) error {
	names := []string{Machine, Machine + ".case", Around, Share}
	for _, c := range Cases() {
		names = append(names, c.Folder())
	}
	for _, name := range names {
		if err := os.RemoveAll(filepath.Join(folder, name)); err != nil {
			return err
		}
	}
	return nil
}

// writeLog writes the log of a setup to a new file.
func writeLog(name string, s enginelog.Setup) error {
	f, err := os.Create(name)
	if err != nil {
		return err
	}
	return errors.Join(enginelog.Write(f, s), f.Close())
}
