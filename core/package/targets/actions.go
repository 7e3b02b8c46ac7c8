// This file finds what each action of a package works on, resolved for a
// machine. These are the places at which the package can fail there.

package targets

import (
	"cmp"
	"slices"
	"strings"

	"hollowkey/core/logs/names"
	"hollowkey/core/machine"
	"hollowkey/core/package/condition"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/sequence"
	"hollowkey/core/package/whole"
)

// A Target is one thing that an action of a package works on, resolved for a
// machine.
type Target struct {
	Kind  Kind
	Name  string // path, key, service, product code; what is meant of the engine
	Row   string // the table and key that it follows from; empty where none does
	Size  int64  // bytes, of a file or source; 0 where it is not known
	Fault string // what is wrong with a cabinet inside, in one sentence
	// Found is the registry value from which the package took a folder; nil
	// where no search found it.
	Found *gates.Found
}

// A Run is what is known of the run in which an action failed.
type Run struct {
	Package string            // where the package lies on the machine
	Given   map[string]string // properties that the run ended with, or that were given
}

// Of are the targets of an action; of "" those of all actions that are due, in
// the order of the sequence. What cannot be resolved on this machine is left
// out.
func Of(db *installdb.Database, m gates.Machine, run Run, action string) ([]Target, error) {
	r := reader{db: db, w: gates.NewWorld(db, m, run.Given), run: run, where: map[string]string{}, left: map[string]bool{}}
	r.components()
	var names []string
	if action != "" {
		names = []string{action}
	} else {
		list, err := sequence.Read(db, "InstallExecuteSequence", r.w.Lookup)
		if err != nil {
			return nil, err
		}
		for _, a := range list {
			if a.Number > 0 && a.Answer != "skipped" {
				names = append(names, a.Name)
			}
		}
	}
	for _, n := range names {
		r.action(n)
	}
	return r.out, cmp.Or(r.err, r.w.Err())
}

type reader struct {
	db    *installdb.Database
	w     *gates.World
	run   Run
	where map[string]string // folders of components that are installed, without a backslash at the end
	left  map[string]bool   // components that are not installed
	out   []Target
	err   error
}

// table is a table of the package, empty where it has none. The first table
// that cannot be read is the error of the whole; the reading goes on, so that
// what can be said is.
func (r *reader) table(name string) *installdb.Table {
	t, err := r.db.TableOrEmpty(name)
	if err != nil {
		r.err = cmp.Or(r.err, err)
		return &installdb.Table{Name: name}
	}
	return t
}

// add adds a target once. All of one share are one.
func (r *reader) add(kind Kind, name, row string, size int64) {
	name = strings.TrimRight(name, `\`)
	if elsewhere[kind] && strings.HasPrefix(name, `\\`) {
		kind = Share
	}
	if name == "" || slices.ContainsFunc(r.out, func(t Target) bool { return t.Kind == kind && strings.EqualFold(t.Name, name) }) {
		return
	}
	r.out = append(r.out, Target{Kind: kind, Name: name, Row: row, Size: size})
}

// components works out which are installed, and where.
func (r *reader) components() {
	t := r.table("Component")
	for _, row := range t.Rows {
		name := t.Get(row, "Component").Text
		if text := t.Get(row, "Condition").Text; text != "" {
			if e, err := condition.Parse(text); err == nil && condition.Eval(e, r.w.Lookup) == condition.False {
				r.left[name] = true
				continue
			}
		}
		if path, ok := r.w.Folder(t.Get(row, "Directory_").Text); ok {
			r.where[name] = strings.TrimRight(path, `\`)
		}
	}
}

// folder resolves a directory, or a property that holds a folder.
func (r *reader) folder(key string) (string, bool) {
	if path, ok := r.w.Folder(key); ok {
		return strings.TrimRight(path, `\`), true
	}
	path, ok := r.w.Format("[" + key + "]")
	return strings.TrimRight(path, `\`), ok && path != ""
}

// action adds the targets of one action.
func (r *reader) action(name string) {
	// Each of the engine's actions works on the rows of a table of its own; the
	// others touch nothing that could be asked about.
	switch name {
	case "CostInitialize", "FileCost", "CostFinalize":
		r.folders()
	case "InstallValidate":
		r.folders()
		r.files()
	case "InstallInitialize":
		r.add(Engine, "temporary folder", "", 0)
		r.add(Engine, "own folder", "", 0)
	case "CreateFolders":
		r.rows("CreateFolder", func(t *installdb.Table, row installdb.Row) {
			if path, ok := r.folder(t.Get(row, "Directory_").Text); ok {
				r.add(Folder, path, place(t, row), 0)
			}
		})
	case "InstallFiles", "PatchFiles":
		r.sources()
		r.folders()
		r.files()
	case "MoveFiles", "DuplicateFiles":
		r.rows(map[string]string{"MoveFiles": "MoveFile", "DuplicateFiles": "DuplicateFile"}[name], func(t *installdb.Table, row installdb.Row) {
			if path, ok := r.folder(t.Get(row, "DestFolder").Text); ok {
				r.add(Folder, path, place(t, row), 0)
			}
		})
	case "RemoveFiles", "RemoveFolders":
		r.files()
		r.folders()
	case "RegisterFonts", "UnregisterFonts":
		r.add(Folder, `C:\Windows\Fonts`, "", 0)
		r.add(Key, `HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion\Fonts`, "", 0)
	case "InstallODBC", "RemoveODBC":
		r.add(Key, `HKLM\SOFTWARE\ODBC\ODBCINST.INI`, "", 0)
		r.add(Key, `HKLM\SOFTWARE\WOW6432Node\ODBC\ODBCINST.INI`, "", 0)
	case "SelfRegModules", "SelfUnregModules":
		r.add(Key, `HKLM\SOFTWARE\Classes`, "", 0)
	case "CreateShortcuts", "RemoveShortcuts":
		r.rows("Shortcut", func(t *installdb.Table, row installdb.Row) {
			if path, ok := r.folder(t.Get(row, "Directory_").Text); ok {
				r.add(Folder, path, place(t, row), 0)
			}
		})
	case "WriteRegistryValues", "RemoveRegistryValues":
		r.registry()
	case "RegisterClassInfo", "RegisterExtensionInfo", "RegisterProgIdInfo", "RegisterMIMEInfo", "RegisterTypeLibraries":
		r.add(Key, `HKLM\SOFTWARE\Classes`, "", 0)
	case "WriteIniValues", "RemoveIniValues":
		r.rows("IniFile", r.ini)
	case "WriteEnvironmentStrings", "RemoveEnvironmentStrings":
		r.rows("Environment", func(t *installdb.Table, row installdb.Row) {
			key := `HKCU\Environment`
			if strings.ContainsRune(prefixOf(t.Get(row, "Name").Text), '*') {
				key = `HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`
			}
			r.add(Key, key, place(t, row), 0)
		})
	case "InstallServices", "StartServices", "StopServices", "DeleteServices":
		r.services(name)
	case "ProcessComponents", "RegisterProduct", "RegisterUser", "PublishFeatures", "PublishProduct", "InstallFinalize":
		r.add(Key, `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UserData`, "", 0)
		if name == "RegisterProduct" || name == "InstallFinalize" {
			r.add(Engine, "own folder", "", 0)
		}
		if name == "RegisterProduct" {
			r.add(Key, `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Uninstall`, "", 0)
		}
		if name == "PublishProduct" || name == "PublishFeatures" {
			r.add(Key, `HKLM\SOFTWARE\Classes\Installer`, "", 0)
		}
	case "RemoveExistingProducts":
		r.rows("Upgrade", func(t *installdb.Table, row installdb.Row) {
			if k, ok := r.w.Related(t.Get(row, "ActionProperty").Text); ok && !k.Unknown {
				for code := range strings.SplitSeq(k.Text, ";") {
					r.add(Cached, code, place(t, row), 0)
				}
			}
		})
	default:
		r.rows("CustomAction", func(t *installdb.Table, row installdb.Row) {
			if t.Get(row, "Action").Text == name {
				r.custom(t, row)
			}
		})
	}
}

// rows goes through a table, leaving out what belongs to components that are
// not installed.
func (r *reader) rows(table string, take func(*installdb.Table, installdb.Row)) {
	t := r.table(table)
	for _, row := range t.Rows {
		if t.Column("Component_") < 0 || !r.left[t.Get(row, "Component_").Text] {
			take(t, row)
		}
	}
}

// place is a row as a person finds it again.
func place(t *installdb.Table, row installdb.Row) string {
	return t.Name + " " + strings.ReplaceAll(t.Key(row), "\t", ", ")
}

// folders are those of all components that are installed, in the order of the
// table.
func (r *reader) folders() {
	r.rows("Component", func(t *installdb.Table, row installdb.Row) {
		if path := r.where[t.Get(row, "Component").Text]; path != "" {
			dir := t.Get(row, "Directory_").Text
			r.add(Folder, path, "Directory "+dir, 0)
			if last := &r.out[len(r.out)-1]; last.Name == path && last.Found == nil {
				last.Found = r.found(dir)
			}
		}
	})
}

// found is the search that a folder, or one above it, was taken from.
func (r *reader) found(dir string) *gates.Found {
	dirs, err := r.db.Directories()
	if err != nil {
		return nil
	}
	chain, _ := dirs.Up(dir)
	for _, d := range chain {
		if f := r.w.Found(d.Key); f != nil {
			return f
		}
	}
	return nil
}

// mostFiles is how many files of a package are looked at one by one; folders
// tell most, and larger packages put hundreds into each.
const mostFiles = 3000

// files are those of the components that are installed.
func (r *reader) files() {
	n := 0
	r.rows("File", func(t *installdb.Table, row installdb.Row) {
		folder := r.where[t.Get(row, "Component_").Text]
		if n++; folder == "" || n > mostFiles {
			return
		}
		r.add(File, folder+`\`+installdb.LongName(t.Get(row, "FileName").Text), place(t, row), int64(t.Get(row, "FileSize").Int))
	})
}

// The bits of a file's attributes that say whether it lies loose. Source: the
// platform SDK, "File Table"; of the words of the summary, "Word Count
// Summary".
const (
	fileLoose      = 0x2000
	fileCompressed = 0x4000
	wordShort      = 1 // source names are short
	wordCompressed = 2
	wordImage      = 4 // an administrative image: files lie loose
)

// sources are cabinets beside the package, and files that lie loose there.
func (r *reader) sources() {
	for _, f := range whole.Inside(r.db) {
		r.out = append(r.out, Target{Kind: Inside, Name: r.run.Package, Fault: f.Seen})
	}
	at := strings.LastIndexByte(r.run.Package, '\\')
	if at < 0 {
		return
	}
	base := r.run.Package[:at]
	if given := r.run.Given["SourceDir"]; given != "" {
		base = strings.TrimRight(given, `\`)
	}
	media := r.table("Media")
	for _, row := range media.Rows {
		if cab := media.Get(row, "Cabinet").Text; cab != "" && !strings.HasPrefix(cab, "#") {
			r.add(Cabinet, base+`\`+cab, place(media, row), 0)
		}
	}
	words := 0
	if s, err := r.db.Summary(); err == nil {
		words = s.Number(installdb.SummaryWords)
	}
	dirs, err := r.db.Directories()
	if err != nil {
		r.err = cmp.Or(r.err, err)
		return
	}
	of := map[string]string{}
	c := r.table("Component")
	for _, row := range c.Rows {
		of[c.Get(row, "Component").Text] = c.Get(row, "Directory_").Text
	}
	n := 0
	r.rows("File", func(t *installdb.Table, row installdb.Row) {
		flags := int(t.Get(row, "Attributes").Int)
		loose := flags&fileLoose != 0 || words&wordCompressed == 0 && flags&fileCompressed == 0
		if n++; !loose || n > mostFiles {
			return
		}
		path := base
		chain, _ := dirs.Up(of[t.Get(row, "Component_").Text])
		for _, d := range slices.Backward(chain) {
			if d.Parent != "" && d.Source != "" {
				path += `\` + d.Source
			}
		}
		name := t.Get(row, "FileName").Text
		if short, _, both := strings.Cut(name, "|"); both && words&wordShort != 0 {
			name = short
		}
		r.add(Source, path+`\`+installdb.LongName(name), place(t, row), int64(t.Get(row, "FileSize").Int))
	})
}

// roots are the registry's roots by their numbers; -1 is the machine's or the
// user's, by how the package is installed. Source: the platform SDK, "Registry
// Table".
var roots = map[int]string{0: "HKCR", 1: "HKCU", 2: "HKLM", 3: "HKU"}

// wideComponent is the bit of a component for programs of 64 bits. Source: the
// platform SDK, "Component Table".
const wideComponent = 256

// registry are the keys that values are written into.
func (r *reader) registry() {
	wide := map[string]bool{}
	c := r.table("Component")
	for _, row := range c.Rows {
		wide[c.Get(row, "Component").Text] = c.Get(row, "Attributes").Int&wideComponent != 0
	}
	r.rows("Registry", func(t *installdb.Table, row installdb.Row) {
		n := int(t.Get(row, "Root").Int)
		root := roots[n]
		if n == -1 {
			root = "HKCU"
			if r.w.Know(condition.Symbol{Name: "ALLUSERS"}).Text == "1" {
				root = "HKLM"
			}
		}
		key, ok := r.w.Format(t.Get(row, "Key").Text)
		if !ok || root == "" || key == "" {
			return
		}
		switch {
		case n == 0:
			root, key = "HKLM", `SOFTWARE\Classes\`+key
		case root == "HKLM" && !wide[t.Get(row, "Component_").Text]:
			root = "HKLM32"
		}
		if long, err := machine.LongKey(root + `\` + key); err == nil {
			r.add(Key, long, place(t, row), 0)
		}
	})
}

// ini is the file of a row of the IniFile table.
func (r *reader) ini(t *installdb.Table, row installdb.Row) {
	folder := r.where[t.Get(row, "Component_").Text]
	if key := t.Get(row, "DirProperty").Text; key != "" {
		folder, _ = r.folder(key)
	}
	if folder == "" {
		folder = `C:\Windows`
	}
	if !r.brings(folder) { // which is asked for by itself
		r.add(Folder, folder, place(t, row), 0)
	}
	r.add(File, folder+`\`+installdb.LongName(t.Get(row, "FileName").Text), place(t, row), 0)
}

// prefixOf are the signs in front of a variable's name that say what is done
// with it.
func prefixOf(name string) string {
	return name[:len(name)-len(strings.TrimLeft(name, "=+-!*"))]
}

// startsService is the bit of a row that starts a service while it is
// installed. Source: the platform SDK, "ServiceControl Table".
const startsService = 1

// services are those that an action works on, and what they depend on.
func (r *reader) services(action string) {
	own := map[string]bool{}
	made := r.table("ServiceInstall")
	for _, row := range made.Rows {
		own[strings.ToLower(made.Get(row, "Name").Text)] = true
	}
	r.rows("ServiceControl", func(t *installdb.Table, row installdb.Row) {
		name, ok := r.w.Format(t.Get(row, "Name").Text)
		switch {
		case !ok:
		case action == "StartServices" && t.Get(row, "Event").Int&startsService != 0 && !own[strings.ToLower(name)]:
			r.add(Needed, name, place(t, row), 0)
		case action == "StopServices" || action == "DeleteServices": // of a service that does not start, or is not there, nothing is asked
		default:
			r.add(Service, name, place(t, row), 0)
		}
	})
	r.rows("ServiceInstall", func(t *installdb.Table, row installdb.Row) {
		if action == "InstallServices" {
			if name, ok := r.w.Format(t.Get(row, "Name").Text); ok {
				r.add(Service, name, place(t, row), 0)
			}
		}
		if name, ok := r.w.Format(t.Get(row, "StartName").Text); ok && name != "" {
			r.add(Account, name, place(t, row), 0)
		}
		for d := range strings.SplitSeq(t.Get(row, "Dependencies").Text, "[~]") {
			if d != "" && !strings.HasPrefix(d, "+") { // a plus begins a group of services
				r.add(Needed, d, place(t, row), 0)
			}
		}
	})
}

// custom is the program of a custom action, where it is a file on the machine,
// and what it works on.
func (r *reader) custom(t *installdb.Table, row installdb.Row) {
	source, target := t.Get(row, "Source").Text, t.Get(row, "Target").Text
	c := sequence.Decode(int(t.Get(row, "Type").Int), source, target)
	if text, doubled := r.scriptOf(c, target); text != "" {
		r.script(text, doubled, place(t, row))
		return
	}
	line, ok := r.w.Format(target)
	if !c.Program || !ok {
		return
	}
	program := ""
	switch c.From {
	case "File": // the package brings it, and takes it away again when it fails
		f := r.table("File")
		if i := f.Find(source); i >= 0 {
			program = installdb.LongName(f.Get(f.Rows[i], "FileName").Text)
		}
	case "Property":
		if path, ok := r.w.Format("[" + source + "]"); ok {
			program = strings.Trim(path, `"`)
		}
	case "Directory":
		program = machine.ProgramOf(line)
	}
	if c.From != "File" && !r.brings(program) {
		r.add(Program, program, place(t, row), 0)
	}
	if c.From == "Directory" { // it stands in the line
		r.works("", line, place(t, row))
	} else if program != "" {
		r.works(program, line, place(t, row))
	}
	for _, n := range names.In(line) {
		itself := func(o Target) bool { return o.Kind == Program && strings.EqualFold(o.Name, n.Text) }
		if n.Kind == names.Path && !strings.HasPrefix(n.Text, `\\`) && !slices.ContainsFunc(r.out, itself) {
			r.add(Named, n.Text, place(t, row), 0)
		}
	}
}
