// This file reads what commands of a package work on, by a list of the OS's
// programs.

package targets

import (
	_ "embed"
	"slices"
	"strings"
	"sync"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/machine"
	"hollowkey/core/package/installdb"
)

// A program that a package runs says in its call what it works on: reg add a
// key, net start a service, regsvr32 a file.

//go:embed commands.txt
var commandsText string

// A use is what a command does with one of its arguments.
type use string

// The uses: of a file or folder that must be there, a folder that is made, a
// path on another machine, a key that is written, a key that must be there, a
// service that is started, a service that must be there, one that must not be
// there.
const (
	useFile  use = "file"
	useMake  use = "make"
	useShare use = "share"
	useWrite use = "key"
	useAsked use = "asked"
	useStart use = "start"
	useHas   use = "service"
	useNew   use = "new"
)

// uses are the commands of commands.txt: by program and verb what is done with
// the first argument that can be it.
var uses = sync.OnceValue(func() map[string]use {
	all := map[string]use{}
	for line := range strings.Lines(commandsText) {
		kind, words, ok := strings.Cut(strings.TrimSpace(line), " ")
		if !ok || kind == "#" || kind == servesKind {
			continue
		}
		for w := range strings.SplitSeq(words, "|") {
			all[strings.TrimSpace(w)] = use(kind)
		}
	}
	return all
})

// servesKind begins the lines of commands.txt that tell which service answers a
// program.
const servesKind = "serves"

// servedBy are the services that answer programs, by program and verb.
var servedBy = sync.OnceValue(func() map[string]string {
	all := map[string]string{}
	for line := range strings.Lines(commandsText) {
		kind, words, _ := strings.Cut(strings.TrimSpace(line), " ")
		if kind != servesKind {
			continue
		}
		service, programs, _ := strings.Cut(words, " ")
		for w := range strings.SplitSeq(programs, "|") {
			all[strings.TrimSpace(w)] = service
		}
	}
	return all
})

// served adds the service that answers a program, by its name alone or with the
// first word behind it; not where another machine's answers.
func (r *reader) served(name string, args []word, row string) {
	elsewhere := func(a word) bool { // /node: of wmic, /s of schtasks
		low := strings.ToLower(a.text)
		return strings.HasPrefix(low, "/node:") || low == "/s" && name == "schtasks" || strings.HasPrefix(low, "/remote")
	}
	if slices.ContainsFunc(args, elsewhere) {
		return
	}
	service := servedBy()[name]
	if service == "" && len(args) > 0 {
		service = servedBy()[name+" "+strings.ToLower(args[0].text)]
	}
	if service != "" {
		r.add(Serving, service, row, 0)
	}
}

const (
	mostCommands = 20 // of one call
	mostCall     = 2000
)

// A word is one word of a call, and whether it stood in quotation marks.
type word struct {
	text   string
	quoted bool
}

// A command is one of a call, in words. It decides where the call fails if it
// does: of what & or | parts, the shell gives back the result of the last
// alone.
type command struct {
	words   []word
	decides bool
}

// commandsIn parts a call into commands: what stands between &&, || and & in a
// shell's line is a command of its own.
func commandsIn(call string) (commands []command) {
	if len(call) > mostCall {
		return nil
	}
	var now []word
	var before rune // the sign before
	var b strings.Builder
	in, begun, quoted := false, false, false
	end := func() {
		if begun {
			now = append(now, word{b.String(), quoted})
		}
		b.Reset()
		begun, quoted = false, false
	}
	next := func() {
		if end(); len(now) > 0 && len(commands) < mostCommands {
			commands = append(commands, command{now, true})
		}
		now = nil
	}
	for i, c := range call {
		switch {
		case c == '"':
			in, begun, quoted = !in, true, true
		case in:
			b.WriteRune(c)
		case c == ' ' || c == '\t':
			end()
		case c == '&' && before == '>': // 2>&1
			b.WriteRune(c)
		case c == '&' || c == '|':
			next()
			if double := before == c || strings.HasPrefix(call[i+1:], string(c)); !double {
				for k := range commands {
					commands[k].decides = false
				}
			}
		case c == '(' && !begun || c == ')':
			next()
		default:
			begun = true
			b.WriteRune(c)
		}
		before = c
	}
	next()
	return commands
}

// nameOf is a program's name without folder and extension, in small letters.
func nameOf(program string) string {
	low := strings.ToLower(program)
	low = low[strings.LastIndexAny(low, `\/`)+1:]
	for _, e := range []string{".exe", ".com"} {
		low = strings.TrimSuffix(low, e)
	}
	return low
}

// works adds what a call of a program works on. program is empty where the call
// begins with it.
func (r *reader) works(program, call, row string) {
	for i, c := range commandsIn(call) {
		words := c.words
		if i == 0 && program != "" {
			words = append([]word{{text: program}}, words...)
		}
		if c.decides {
			r.command(words, row, 0)
		}
	}
}

// mostNested is how deep shells call shells.
const mostNested = 3

// command adds what one command works on.
func (r *reader) command(words []word, row string, depth int) {
	for len(words) > 0 && slices.Contains([]string{"call", "@", "start"}, strings.ToLower(words[0].text)) {
		words = words[1:]
	}
	if len(words) == 0 || depth == mostNested {
		return
	}
	name := strings.TrimPrefix(nameOf(words[0].text), "@")
	args := words[1:]
	r.served(name, args, row)
	switch name {
	case "taskkill":
		r.ends(args, row)
		return
	case "net", "net1":
		if r.people(args, row) {
			return
		}
	case "icacls":
		r.granted(args, row)
	case "if":
		r.gate(args, row)
		return
	case "powershell", "pwsh":
		for i, a := range args {
			if low := strings.ToLower(a.text); low == "-command" || low == "-c" || low == "-com" {
				r.powershell(texts(args[i+1:]), row, depth)
				return
			}
		}
	case "wmic":
		r.wmic(args, row)
		return
	case "schtasks":
		r.tasks(args, row)
		return
	case "dism":
		for _, a := range args {
			if option, path, ok := strings.Cut(a.text, ":"); ok && slices.Contains(sources, strings.ToLower(option)) {
				r.used(useFile, []word{{text: path}}, row)
			}
		}
		return
	case "msiexec":
		if r.removes(args, row) {
			return
		}
	case "curl", "bitsadmin", "wget":
		r.fetches(args, row)
		return
	case "ping", "nslookup", "tracert":
		r.asksHost(args, row)
		return
	case "for", "rem", "echo", "exit":
		return // what follows is done only when something holds, or is no command
	case "cmd":
		for i, a := range args {
			if low := strings.ToLower(a.text); low == "/c" || low == "/k" {
				r.shell(args[i+1:], row, depth)
				return
			}
		}
		return
	}
	if name == "reg" {
		args = narrowed(args)
		if len(args) > 2 && (strings.EqualFold(args[0].text, "load") || strings.EqualFold(args[0].text, "restore")) { // the key comes first
			args = append([]word{args[0]}, args[2:]...)
		}
	}
	if u, ok := uses()[name]; ok {
		r.used(u, args, row)
		return
	}
	for i, a := range args {
		if strings.HasPrefix(a.text, `\\`) { // sc \\other: of another machine
			return
		}
		if u, ok := uses()[name+" "+strings.ToLower(a.text)]; ok {
			r.used(u, args[i+1:], row)
			return
		}
	}
}

// variable is one of the environment in a shell's line, with or without a part
// of it.
var variable = lazy.MustCompile(`%([A-Za-z_][\w()]*)(?::[^%]*)?%`)

// shell adds what the rest of a shell's line works on: one command in quotation
// marks, or several words.
func (r *reader) shell(words []word, row string, depth int) {
	for _, w := range words {
		for _, m := range variable.FindAllStringSubmatch(w.text, mostCommands) {
			sets := func(w word) bool {
				return strings.HasPrefix(strings.ToLower(strings.TrimLeft(w.text, " ")), strings.ToLower(m[1])+"=")
			}
			if !slices.ContainsFunc(words, sets) && !strings.Contains(strings.ToLower(w.text), "set "+strings.ToLower(m[1])+"=") {
				r.add(Variable, m[1], row, 0)
			}
		}
	}
	if len(words) == 1 && words[0].quoted && strings.Contains(words[0].text, " ") {
		for _, c := range commandsIn(words[0].text) {
			if c.decides {
				r.command(c.words, row, depth+1)
			}
		}
		return
	}
	if len(words) > 0 {
		if first := words[0].text; isTool(first) && !r.carries(first) {
			r.add(Tool, first, row, 0)
		}
	}
	r.command(words, row, depth+1)
}

// isTool says whether a command is one that is looked for in PATH, and no word
// of the shell.
func isTool(name string) bool {
	return name != "" && !strings.ContainsAny(name, `\/:%[]<>=*`) && !builtIn[strings.ToLower(name)]
}

// builtIn are the shell's own commands. Source: the OS's "Windows commands",
// those without a program.
var builtIn = func() map[string]bool {
	m := map[string]bool{}
	for w := range strings.FieldsSeq(`assoc break call cd chdir cls color copy date del dir echo endlocal erase exit for ftype goto if md
		mkdir mklink move path pause popd prompt pushd rd rem ren rename rmdir set setlocal shift start time title type ver verify vol @echo`) {
		m[w] = true
	}
	return m
}()

// placed says whether a word of a call is a path, be it one that nobody can
// look at from here: what follows it is where something goes to.
func placed(text string) bool {
	return strings.ContainsAny(text, `\%`) || len(text) > 1 && text[1] == ':'
}

// used adds the first argument that can be what a command is about.
func (r *reader) used(u use, args []word, row string) {
	for i, a := range args {
		text := strings.TrimRight(a.text, ",;")
		if text == "" || strings.HasPrefix(text, "/") || strings.HasPrefix(text, "-") {
			continue
		}
		if at := strings.LastIndexByte(text, '\\'); u == useFile && at > len(`C:`) && strings.ContainsAny(text[at:], "*?") {
			text = text[:at] // some files of a folder
		}
		if strings.ContainsAny(text, "<>*?%") {
			if placed(text) {
				return
			}
			continue
		}
		switch u {
		case useFile:
			if file, _, cut := strings.Cut(text, ","); cut { // rundll32 file,function
				text = file
			}
			if _, names, err := machine.SplitPath(text); err == nil && len(names) > 0 {
				if !r.brings(text) {
					r.add(Read, text, row, 0)
				}
				return
			}
			if strings.HasPrefix(text, `\\`) {
				r.add(Share, text, row, 0)
				return
			}
			if placed(text) {
				return
			}
		case useMake:
			if _, names, err := machine.SplitPath(text); err == nil && len(names) > 0 && !r.brings(text) {
				r.add(Made, text, row, 0)
			}
			return
		case useShare:
			if strings.HasPrefix(text, `\\`) {
				r.add(Share, text, row, 0)
				return
			}
		case useWrite, useAsked:
			key, isKey := keyIn(text)
			if !isKey {
				return
			}
			if u == useWrite {
				r.add(Key, key, row, 0)
			} else if !r.writes(key) {
				r.add(Asked, key+valueOf(args[i+1:]), row, 0)
			}
			return
		case useStart, useHas, useNew:
			if strings.HasPrefix(text, `\\`) || strings.ContainsAny(text, `\/=`) { // on another machine
				return
			}
			switch {
			case r.makes(text): // it is there only while the setup runs
			case u == useStart:
				r.add(Needed, text, row, 0)
			case u == useNew:
				r.add(New, text, row, 0)
			default:
				r.add(Present, text, row, 0)
			}
			return
		}
	}
}

// sources are options of dism that name a file or folder that is read.
var sources = []string{"/source", "/packagepath", "/imagefile", "/driver"}

// narrowed are the words of reg, where it is called for the view of programs of
// 32 bits with the keys that it then means.
func narrowed(args []word) []word {
	if !slices.ContainsFunc(args, func(a word) bool { return strings.EqualFold(a.text, "/reg:32") }) {
		return args
	}
	args = slices.Clone(args)
	for i, a := range args {
		root, rest, ok := strings.Cut(a.text, `\`)
		if up := strings.ToUpper(root); ok && (up == "HKLM" || up == "HKEY_LOCAL_MACHINE") {
			args[i].text = `HKLM32\` + rest
			break
		}
	}
	return args
}

// texts are words as one text; a word that stood in quotation marks and has
// blanks keeps marks, where it is not alone.
func texts(words []word) string {
	if len(words) == 1 {
		return words[0].text
	}
	var b strings.Builder
	for _, w := range words {
		if w.quoted && strings.ContainsAny(w.text, " ;|") {
			b.WriteString(` "` + w.text + `"`)
			continue
		}
		b.WriteString(" " + w.text)
	}
	return b.String()
}

// brings says whether the package itself makes a file or folder: behind a setup
// that failed it is gone again.
func (r *reader) brings(path string) bool {
	low := strings.ToLower(strings.TrimRight(path, `\`))
	for _, folder := range r.where {
		if f := strings.ToLower(folder); f != "" && (low == f || strings.HasPrefix(low, f+`\`)) {
			return true
		}
	}
	return false
}

// carries says whether the package brings a program of a name.
func (r *reader) carries(name string) bool {
	t := r.table("File")
	return slices.ContainsFunc(t.Rows, func(row installdb.Row) bool {
		return nameOf(installdb.LongName(t.Get(row, "FileName").Text)) == nameOf(name)
	})
}

// writes says whether the package itself writes a key, or one below it.
func (r *reader) writes(key string) bool {
	low := strings.ToLower(key)
	t := r.table("Registry")
	return slices.ContainsFunc(t.Rows, func(row installdb.Row) bool {
		own, ok := r.w.Format(t.Get(row, "Key").Text)
		own = strings.ToLower(own)
		_, below, _ := strings.Cut(low, `\`) // its root is told apart from it in the table
		return ok && own != "" && (below == own || strings.HasPrefix(below, own+`\`) || strings.HasPrefix(own, below+`\`))
	})
}

// makes says whether the package itself installs a service.
func (r *reader) makes(service string) bool {
	t := r.table("ServiceInstall")
	return slices.ContainsFunc(t.Rows, func(row installdb.Row) bool {
		name, ok := r.w.Format(t.Get(row, "Name").Text)
		return ok && strings.EqualFold(name, service)
	})
}

// keyIn says whether a text is a key of this machine's registry.
func keyIn(text string) (key string, ok bool) {
	for _, n := range names.In(text) {
		if n.Kind == names.Key && n.At == 0 {
			return text, true
		}
	}
	return "", false
}

// valueOf is the value that reg asks for, behind a vertical bar; empty where it
// asks for the key.
func valueOf(args []word) string {
	for i, a := range args {
		if strings.EqualFold(a.text, "/v") && i+1 < len(args) {
			return "|" + args[i+1].text
		}
	}
	return ""
}
