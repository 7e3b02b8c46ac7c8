// This file works out what a package's searches find.

package gates

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/machine/inifile"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/package/condition"
	"hollowkey/core/package/installdb"
)

// search works out what AppSearch finds for a property; ok is false when no
// search is for it. Source: the platform SDK, "Searching for Existing
// Applications, Files, Registry Entries or .ini File Entries".
func (w *World) search(property string) (Known, bool) {
	t := w.table("AppSearch")
	looked := Known{}
	any := false
	for _, r := range t.Rows {
		if t.Get(r, "Property").Text != property {
			continue
		}
		w.last = nil
		k := w.locate(t.Get(r, "Signature_").Text, 0)
		k.Origin = Searched
		if k.Unknown || k.Text != "" {
			w.found[property] = w.last
			return k, true
		}
		if any {
			k.Detail = looked.Detail + "; " + k.Detail
		}
		looked, any = k, true
	}
	return looked, any
}

const maxLocators = 10 // a folder search that begins where another ended

// locate follows a signature through the tables of searches. A search may begin
// in what another one found.
func (w *World) locate(signature string, depth int) Known {
	if depth > maxLocators {
		return unknown(Searched, "searches that go in a circle")
	}
	for _, l := range []struct {
		table string
		look  func(*installdb.Table, installdb.Row, int) Known
	}{{"RegLocator", w.regLocator}, {"IniLocator", w.iniLocator}, {"CompLocator", w.compLocator}, {"DrLocator", w.drLocator}} {
		t := w.table(l.table)
		for _, r := range t.Rows {
			if t.Get(r, "Signature_").Text == signature {
				if w.m == nil {
					return unknown(Searched, describeSearch(t, r)+"; name a machine with --machine")
				}
				return l.look(t, r, depth)
			}
		}
	}
	return Known{Detail: "the search " + signature + " is nowhere defined"}
}

// describeSearch says what a locator looks for.
func describeSearch(t *installdb.Table, r installdb.Row) string {
	get := func(c string) string { return t.Get(r, c).Text }
	switch t.Name {
	case "RegLocator":
		return "the registry value " + valuePath(rootName(int(t.Get(r, "Root").Int), get("Key"), int(t.Get(r, "Type").Int), false), get("Name"))
	case "IniLocator":
		return fmt.Sprintf("the key %s in section %s of %s", get("Key"), get("Section"), get("FileName"))
	case "CompLocator":
		return "the installed component " + get("ComponentId")
	}
	return "the folder " + get("Path")
}

// valuePath names a registry value.
func valuePath(key, name string) string {
	if name == "" {
		name = "(default)"
	}
	return key + ", " + name
}

// The Root column of the RegLocator table.
var locatorRoots = map[int]string{0: "HKCR", 1: "HKCU", 2: "HKLM", 3: "HKU"}

const (
	locatorKind = 0xF // the bits that tell what is looked for; the others are flags
	locatorRaw  = 2   // the value itself, not a file or folder that it names
	locator64   = 16  // the 64-bit view
)

// rootName is the key that a search looks at; on a 64-bit OS a search without
// the mark for the 64-bit view looks into the 32-bit one.
func rootName(root int, key string, kind int, wide bool) string {
	if rest, ok := cutPrefixFold(key, `SOFTWARE\`); ok && root == 2 && wide && kind&locator64 == 0 {
		key = `SOFTWARE\WOW6432Node\` + rest
	}
	name, ok := locatorRoots[root]
	if !ok {
		name = "HKLM"
	}
	return name + `\` + key
}

// cutPrefixFold cuts a prefix off, whatever its letters' case.
func cutPrefixFold(s, prefix string) (string, bool) {
	if len(s) >= len(prefix) && strings.EqualFold(s[:len(prefix)], prefix) {
		return s[len(prefix):], true
	}
	return s, false
}

// regLocator looks a registry value up as the engine does, in the view that its
// type and the OS call for.
func (w *World) regLocator(t *installdb.Table, r installdb.Row, _ int) Known {
	kind := int(t.Get(r, "Type").Int)
	keyText, ok := w.Format(t.Get(r, "Key").Text)
	name, ok2 := w.Format(t.Get(r, "Name").Text)
	if !ok || !ok2 {
		return unknown(Searched, describeSearch(t, r)+", whose name is known at run time only")
	}
	key := rootName(int(t.Get(r, "Root").Int), keyText, kind, w.m.Facts().OS.Wide())
	v, err := w.m.Value(key, name)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return Known{Detail: "there is no " + valuePath(key, name) + " on " + w.m.Name()}
	case err != nil:
		return unknown(Searched, valuePath(key, name)+" cannot be read: "+bounded.Words(err))
	}
	found := valuePath(key, name) + " on " + w.m.Name()
	// A raw value is the answer; any other kind names a file or folder that
	// must be there.
	if kind&locatorKind == locatorRaw {
		w.last = &Found{key, name, found}
		return Known{Value: condition.Value{Text: propertyText(v)}, Detail: found}
	}
	path := strings.Trim(v.Words(), `"`)
	there, sure := w.there(path)
	switch {
	case !sure:
		return unknown(Searched, path+", which "+found+" names")
	case !there:
		return Known{Detail: path + ", which " + found + " names, is not there"}
	}
	return Known{Value: condition.Value{Text: path}, Detail: found}
}

// propertyText writes a registry value as the engine puts it into a property.
func propertyText(v regfile.Value) string {
	text := v.Words()
	switch v.Type {
	case regfile.DWord:
		return "#" + text
	case regfile.Binary:
		return "#x" + text
	case regfile.Expand:
		return "#%" + text
	case regfile.MultiStr:
		return "[~]" + strings.ReplaceAll(text, "\n", "[~]") + "[~]"
	}
	if strings.HasPrefix(text, "#") {
		return "#" + text
	}
	return text
}

const maxIni = 4 << 20 // bytes

// iniLocator reads an INI file of the OS's folder; others are searches for
// files.
func (w *World) iniLocator(t *installdb.Table, r installdb.Row, _ int) Known {
	name := t.Get(r, "FileName").Text
	if _, long, ok := strings.Cut(name, "|"); ok {
		name = long
	}
	// The engine looks for INI files in the OS's folder.
	path := `C:\Windows\` + name
	f, err := w.m.Open(path)
	if errors.Is(err, fs.ErrNotExist) {
		return Known{Detail: "there is no " + path + " on " + w.m.Name()}
	}
	if err != nil {
		return unknown(Searched, path+" cannot be read: "+bounded.Words(err))
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxIni))
	if err != nil {
		return unknown(Searched, path+" cannot be read: "+bounded.Words(err))
	}
	ini, err := inifile.Parse(b)
	if err != nil {
		return unknown(Searched, path+": "+bounded.Words(err))
	}
	v, ok := ini.Get(t.Get(r, "Section").Text, t.Get(r, "Key").Text)
	if !ok {
		return Known{Detail: describeSearch(t, r) + " is not there on " + w.m.Name()}
	}
	// A field is a part of the value between commas, counted from one.
	if n := int(t.Get(r, "Field").Int); n > 0 {
		parts := strings.Split(v, ",")
		if n > len(parts) {
			return Known{Detail: describeSearch(t, r) + " has fewer parts"}
		}
		v = strings.TrimSpace(parts[n-1])
		return Known{Value: condition.Value{Text: v}, Detail: describeSearch(t, r)}
	}
	return Known{Value: condition.Value{Text: v}, Detail: describeSearch(t, r),
		ini: &IniKey{File: path, Section: t.Get(r, "Section").Text, Key: t.Get(r, "Key").Text}}
}

// compLocator looks for a component by the engine's own registration.
func (w *World) compLocator(t *installdb.Table, r installdb.Row, _ int) Known {
	id := t.Get(r, "ComponentId").Text
	key := `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\UserData\S-1-5-18\Components\` + installdb.PackCode(id)
	values, err := w.m.Values(key)
	if errors.Is(err, fs.ErrNotExist) || err == nil && len(values) == 0 {
		return Known{Detail: describeSearch(t, r) + " is not on " + w.m.Name()}
	}
	if err != nil {
		return unknown(Searched, key+" cannot be read: "+bounded.Words(err))
	}
	return Known{Value: condition.Value{Text: values[0].Value.Words()}, Detail: describeSearch(t, r) + " is on " + w.m.Name()}
}

// drLocator looks for a folder or file below a path. All drives would have to
// be searched where the path is empty: that is not done here, and told.
func (w *World) drLocator(t *installdb.Table, r installdb.Row, depth int) Known {
	path, ok := w.Format(t.Get(r, "Path").Text)
	if !ok {
		return unknown(Searched, describeSearch(t, r)+", which is known at run time only")
	}
	// The path is relative to what another search finds.
	if parent := t.Get(r, "Parent").Text; parent != "" {
		above := w.locate(parent, depth+1)
		if above.Unknown || above.Text == "" {
			return above
		}
		path = strings.TrimRight(above.Text, `\`) + `\` + path
	}
	if len(path) < 2 || path[1] != ':' {
		return unknown(Searched, "a search of all drives for "+path)
	}
	what := path
	files := w.table("Signature")
	for _, f := range files.Rows {
		if files.Get(f, "Signature").Text == t.Get(r, "Signature_").Text {
			name := files.Get(f, "FileName").Text
			if _, long, ok := strings.Cut(name, "|"); ok {
				name = long
			}
			what = strings.TrimRight(path, `\`) + `\` + name
			if files.Get(f, "MinVersion").Text+files.Get(f, "MaxVersion").Text != "" {
				if there, sure := w.there(what); sure && there {
					return unknown(Searched, what+" is there; the search also asks for its version")
				}
			}
		}
	}
	there, sure := w.there(what)
	switch {
	case !sure:
		return unknown(Searched, what+" cannot be looked at")
	case !there:
		return Known{Detail: "there is no " + what + " on " + w.m.Name()}
	}
	return Known{Value: condition.Value{Text: path}, Detail: what + " is on " + w.m.Name()}
}
