// This file reads what a record's further values name.

package verdict

import (
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/why/signs"
)

// A record tells in values of their own what it is about: {"message": "check
// disk", "drive": "C:"}. Their names say which of them.

// subjectFields are the names of such values by the class of the cause, in
// small letters and without marks, the likeliest first.
var subjectFields = map[string][]string{
	"permission": slices.Concat(fileFields, keyFields), "in-use": slices.Concat(fileFields, []string{"process", "holder", "program"}),
	"service": {"service", "servicename", "svc", "dienst"}, "elevation": fileFields,
	"network": {"host", "hostname", "server", "url", "uri", "endpoint", "proxy", "address", "remote"},
	"space":   slices.Concat([]string{"drive", "volume", "disk", "laufwerk", "mount"}, fileFields),
	"source":  slices.Concat([]string{"source", "src", "from", "share", "media"}, fileFields), "path": fileFields,
	"security-software": fileFields, "policy": slices.Concat(fileFields, keyFields), "registry": keyFields, "corrupt": fileFields,
	"prerequisite": {"component", "dependency", "prerequisite", "runtime", "requires", "needs", "package", "module", "dll", "feature", "product"},
	"condition":    {"condition", "check", "rule", "property", "requirement"},
	"command-line": {"option", "switch", "argument", "arg", "parameter", "param", "flag", "property"},
	"database":     {"database", "db", "table", "catalog", "script", "migration", "server", "instance"},
	"busy":         {"mutex", "lock", "process"}, "leftover": slices.Concat([]string{"service", "product", "productcode"}, fileFields, keyFields),
}

var (
	fileFields = []string{"path", "file", "filename", "filepath", "dest", "destination", "dst", "target", "exe", "image", "dll", "dir", "directory", "folder", "src", "source"}
	keyFields  = []string{"key", "regkey", "registrykey", "subkey", "registry"}
)

// kindOfClass is what a class's subject is where the value's form does not
// tell.
var kindOfClass = map[string]string{"service": "service", "network": "host", "space": "drive", "prerequisite": "product", "condition": "condition",
	"command-line": "option", "database": "database", "registry": "key", "busy": "program"}

// mostFields are as many of them as are looked at; fewer than leastFields in
// one line may be words of a sentence: "Reason: …".
const mostFields, leastFields = 16, 2

// inFields is what the further values of a telling record say by their names.
func (j *judge) inFields(class string) *signs.Subject {
	wanted := subjectFields[class]
	for _, m := range j.anchor {
		_, further, ok := strings.Cut(m.Text, "\n")
		if !ok { // or in the line itself, where it has several
			further = m.Text
		}
		values := fieldsOf(further)
		if !ok && len(values) < leastFields {
			continue
		}
		for _, name := range wanted {
			if v := values[name]; v != "" {
				return subjectOfValue(class, v)
			}
		}
	}
	return nil
}

// fieldsOf are the further values of a record by their names, in small letters
// and without marks.
func fieldsOf(further string) map[string]string {
	values := map[string]string{}
	for name, value := range names.Fields(further, mostFields) {
		name = strings.ToLower(strings.NewReplacer("_", "", "-", "", ".", "").Replace(name))
		if value != "" && values[name] == "" {
			values[name] = value
		}
	}
	return values
}

// longestField is how many bytes such a value has at most; longer ones are
// texts.
const longestField = 200

// beyondPath is what no path goes on with: a mark that it cannot hold, or one
// that begins a remark.
var beyondPath = lazy.MustCompile(`["<>|*?\n]| [(\[-]|: |, `)

// subjectOfValue makes a subject of a value: what it names by its form, else
// all of it.
func subjectOfValue(class, value string) *signs.Subject {
	found := names.In(value)
	whole := strings.TrimRight(unescape(value), `\`)
	if isPath.MatchString(whole) && len(found) == 1 && !beyondPath.MatchString(whole[min(len(whole), len(found[0].Text)):]) {
		return &signs.Subject{Kind: kindWords[names.Path], Name: whole} // blanks in it part nothing
	}
	if at := slices.IndexFunc(found, func(n names.Name) bool { return n.Kind == names.Host }); at >= 0 && class == "network" {
		return &signs.Subject{Kind: "host", Name: found[at].Text}
	}
	if len(found) > 0 && found[0].At == 0 && found[0].Kind != names.Unsure {
		return &signs.Subject{Kind: kindWords[found[0].Kind], Name: found[0].Text}
	}
	if kind := kindOfClass[class]; kind != "" && len(value) <= longestField && value != "true" && value != "false" {
		return &signs.Subject{Kind: kind, Name: value}
	}
	return nil
}

// folderNames end the names of values that hold a folder, in small letters.
var folderNames = []string{"folder", "dir", "directory", "ordner", "verzeichnis"}

// folderField says whether a record has a path in a further value that is
// called a folder; its first line is a sentence, unless it is an object itself.
func folderField(record, path string) bool {
	further := record
	if !strings.HasPrefix(record, "{") {
		_, further, _ = strings.Cut(record, "\n")
	}
	for line := range strings.Lines(further) {
		for name, value := range fieldsOf(line) {
			called := slices.ContainsFunc(folderNames, func(end string) bool { return strings.HasSuffix(name, end) })
			if called && strings.EqualFold(strings.TrimRight(unescape(value), `\`), strings.TrimRight(path, `\`)) {
				return true
			}
		}
	}
	return false
}
