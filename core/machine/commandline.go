// This file reads command lines as the OS does. Uninstall commands, services
// and Run values all have such, and each of them is written wrongly somewhere.

package machine

import (
	"errors"
	"io/fs"
	"slices"
	"strings"
)

// Presence says whether what a command line or a path leads to is on the
// machine.
type Presence int

// What can be known of it.
const (
	Untold  Presence = iota // it is on another machine, on a drive that is not there, behind an address or an unset variable
	Present                 // it is there
	Absent                  // its place can be looked at, and it is not there
)

// Sources are where paths and command lines are read.
type Sources interface {
	Accounts
	Files
	Registry
	Facts() Facts
}

// A CommandLine is one that is registered on a machine: an uninstall command, a
// service's program, a task's action, a value that runs at the start.
type CommandLine struct {
	Text   string
	User   string // whose variables count besides the machine's; may be empty
	Folder string // where a program without a folder is looked for; may be empty
	Narrow bool   // whether it is registered for programs of 32 bits, which see their own system folder
}

// endings are those of what a command line can start by itself or through a
// host.
var endings = []string{".exe", ".com", ".cmd", ".bat", ".msi", ".ps1", ".vbs", ".vbe", ".js", ".wsf", ".dll", ".ocx", ".cpl", ".jar", ".py", ".hta"}

// hosts are programs that run what their arguments name, and are never what a
// product left.
var hosts = []string{"rundll32", "cmd", "powershell", "pwsh", "wscript", "cscript", "mshta", "regsvr32", "conhost", "java", "javaw", "explorer", "control", "msiexec"}

// mostWords bounds how many blanks of an unquoted line are tried as the end of
// its program.
const mostWords = 32

// ProgramOf is the program of a command line: in quotes, up to its ending, or
// the first word. Which of several endings it is [CommandLine.Runs] asks the
// machine.
func ProgramOf(line string) string {
	line = strings.TrimSpace(line)
	if rest, ok := strings.CutPrefix(line, `"`); ok {
		program, _, _ := strings.Cut(rest, `"`)
		return program
	}
	if end := endOfProgram(line); end > 0 {
		return line[:end]
	}
	program, _, _ := strings.Cut(line, " ")
	return program
}

// endOfProgram is where the first name ends that has a program's ending; 0
// where none has.
func endOfProgram(line string) int {
	low := strings.Map(func(r rune) rune { // other letters may get another length, and places would move
		if r >= 'A' && r <= 'Z' {
			return r + 'a' - 'A'
		}
		return r
	}, strings.ToValidUTF8(line, "?"))
	if len(low) != len(line) {
		return 0
	}
	first := 0
	for _, e := range endings {
		for at := 0; ; {
			i := strings.Index(low[at:], e)
			if i < 0 {
				break
			}
			at += i + len(e)
			if at == len(low) || strings.IndexByte(" ,\"/\t", low[at]) >= 0 {
				if first == 0 || at < first {
					first = at
				}
				break
			}
		}
	}
	return first
}

// EngineCode is the product code, in braces and capitals, that a command line
// gives to the installer engine; empty where it does not call the engine, or
// for a file.
func EngineCode(line string) string {
	const length = len("{00000000-0000-0000-0000-000000000000}")
	at := strings.IndexByte(line, '{')
	if !strings.Contains(strings.ToLower(line), "msiexec") || at < 0 || len(line) < at+length || line[at+length-1] != '}' {
		return ""
	}
	return strings.ToUpper(line[at : at+length])
}

// programs are what a command line may start, in the order in which the OS
// tries it: all that stands in quotes, or each beginning that ends at a blank.
func programs(line string) (tries []string, rest map[string]string) {
	line, rest = strings.TrimSpace(line), map[string]string{}
	for strings.HasPrefix(line, `""`) {
		line = line[1:]
	}
	if quoted, ok := strings.CutPrefix(line, `"`); ok {
		program, behind, _ := strings.Cut(quoted, `"`)
		rest[program] = behind
		return []string{program}, rest
	}
	add := func(end int) {
		if p := line[:end]; p != "" && !slices.Contains(tries, p) {
			tries, rest[p] = append(tries, p), line[end:]
		}
	}
	for i, r := range line {
		if r == ' ' || r == '\t' || r == ',' || r == '"' {
			if add(i); len(tries) > mostWords {
				break
			}
		}
	}
	add(len(line))
	return tries, rest
}

// Runs is the file that a command line runs in the end, cleaned and with its
// variables put in, and whether it is there. Behind a host (rundll32, cmd /c,
// powershell -File …) it is what that is told to run.
func (c CommandLine) Runs(m Sources) (path string, there Presence) {
	return c.runs(m, Expand(m, c.Text, c.User), 0)
}

// ServiceProgram is what a service runs, and whether it is there: its program,
// or the library that the OS's host of services loads for it.
func ServiceProgram(m Sources, s Service) (string, Presence) {
	line := s.Binary
	if strings.Contains(strings.ToLower(line), "svchost") {
		if library := TextOf(m, `HKLM\SYSTEM\CurrentControlSet\Services\`+s.Name+`\Parameters`, "ServiceDll"); library != "" {
			line = `"` + library + `"`
		}
	}
	return CommandLine{Text: line}.Runs(m)
}

const mostHosts = 3 // one within the other: cmd /c powershell -File …

// runs is the program that a line starts, and whether it is there. Where a host
// of the OS's is started, it is what the host is given to run; depth bounds
// hosts that start hosts.
func (c CommandLine) runs(m Sources, line string, depth int) (string, Presence) {
	tries, rest := programs(line)
	for _, t := range tries {
		if isHost(t) && depth < mostHosts {
			if p, there := c.argument(m, rest[t], depth); p != "" {
				return p, there
			}
			return CleanPath(t), Untold
		}
		if p, there := c.look(m, t); there == Present {
			return p, Present
		}
	}
	return c.look(m, ProgramOf(line))
}

// isHost says whether a program is one of the OS's that run others.
func isHost(program string) bool {
	name := strings.ToLower(program[strings.LastIndexAny(program, `\/`)+1:])
	return slices.Contains(hosts, strings.TrimSuffix(name, ".exe"))
}

// argument is what a host is told to run: the first of its arguments that is a
// path, has a program's ending, or is another host. Switches and their values
// are passed over.
func (c CommandLine) argument(m Sources, text string, depth int) (string, Presence) {
	for text = strings.TrimSpace(text); text != ""; text = strings.TrimSpace(text) {
		if call, ok := strings.CutPrefix(strings.TrimPrefix(text, `"`), "&"); ok { // -Command "& 'C:\…'"
			text = call
			continue
		}
		if text[0] == '\'' { // the quotation marks of the OS's newer shell
			text = strings.Replace(text, "'", `"`, 2)
		}
		word, rest, _ := strings.Cut(text, " ")
		quoted := strings.HasPrefix(text, `"`) && !strings.HasPrefix(text, `""`)
		first := strings.Trim(word, `"`)
		if quoted {
			first = ProgramOf(text)
		}
		isSwitch := strings.HasPrefix(word, "/") || strings.HasPrefix(word, "-")
		if !isSwitch && (strings.ContainsAny(first, `\/`) || hasEnding(first) || isHost(first)) {
			return c.runs(m, text, depth+1)
		}
		if quoted && len(first)+2 < len(text) {
			rest = text[len(first)+2:]
		}
		if strings.HasPrefix(text, `""`) && len(word) > 2 { // cmd /c ""program" arguments"
			rest = text[1:]
		}
		text = rest
	}
	return "", Untold
}

// look asks whether one file is there: as it is written, with the ending that
// the OS adds, in the line's own folder, in the system folder of programs of 32
// bits.
func (c CommandLine) look(m Files, program string) (string, Presence) {
	p := CleanPath(program)
	bare := !strings.Contains(p, `\`) && c.Folder != ""
	if bare {
		p = c.Folder + `\` + p
	}
	tries := []string{p}
	if !hasEnding(p) {
		tries = append(tries, p+".exe")
	}
	if low := strings.ToLower(p); c.Narrow && strings.HasPrefix(low, system32) {
		tries = append(tries, narrowSystem+p[len(system32):])
	}
	all := Absent
	for _, t := range tries {
		there := WhetherThere(m, t)
		if there == Present {
			if info, err := m.Stat(t); err == nil && !info.Folder {
				return t, Present
			}
			continue
		}
		all = min(all, there)
	}
	if bare && all == Absent { // it may be a program of the OS, which PATH leads to
		return CleanPath(program), Untold
	}
	return p, all
}

// The system folder, and the one that programs of 32 bits see in its place.
const (
	system32     = `c:\windows\system32\`
	narrowSystem = `C:\Windows\SysWOW64\`
)

// hasEnding says whether a path ends as programs do; without one the OS tries
// endings of its own.
func hasEnding(p string) bool {
	low := strings.ToLower(p)
	return slices.ContainsFunc(endings, func(e string) bool { return strings.HasSuffix(low, e) })
}

// WhetherThere says whether a path is on the machine. What cannot be judged is
// untold: a share, a drive that is not there, an address, a variable that is
// not set, a short name whose long one is not known.
func WhetherThere(m Files, path string) Presence {
	if _, _, err := SplitPath(path); err != nil || strings.Contains(path, "%") {
		return Untold
	}
	final, err := m.FinalPath(path)
	switch {
	case err == nil:
	case strings.Contains(path, "~"):
		return Untold
	default:
		final = path
	}
	switch _, err := m.Stat(final); {
	case err == nil:
		return Present
	case !errors.Is(err, fs.ErrNotExist):
		return Untold
	}
	// Only below what can be looked into is what is not found not there:
	// neither on a drive that is not there, nor in a captured twin's folder of
	// which nothing was taken.
	for at := strings.LastIndexByte(path, '\\'); at > 1; at = strings.LastIndexByte(path[:at], '\\') {
		folder := path[:at]
		if at == len(`C:`) {
			folder += `\`
		}
		if _, err := m.ReadDir(folder); err == nil {
			return Absent
		}
		if _, err := m.Stat(folder); err == nil {
			return Untold
		}
	}
	return Untold
}

// FolderOf is the folder that a registration names: cleaned, with its variables
// put in and short names written out; some name a file in it.
func FolderOf(m Sources, path, user string) string {
	folder := CleanPath(Expand(m, path, user))
	if final, err := m.FinalPath(folder); err == nil && folder != "" {
		folder = final
	}
	if info, err := m.Stat(folder); err == nil && !info.Folder {
		folder = folder[:max(0, strings.LastIndexByte(folder, '\\'))]
	}
	return folder
}

// CleanPath is a path as it is compared with others: without blanks and quotes
// around it, with the OS's stroke, without \\?\ before it, doubled strokes
// within and strokes at its end, and no .. in it. A share keeps its two.
func CleanPath(p string) string {
	p = strings.ReplaceAll(strings.Trim(p, "\"' \t"), "/", `\`)
	p = strings.TrimPrefix(strings.TrimPrefix(p, `\\?\`), `\??\`)
	share := strings.HasPrefix(p, `\\`)
	for strings.Contains(p, `\\`) {
		p = strings.ReplaceAll(p, `\\`, `\`)
	}
	if share {
		p = `\` + p
	}
	if len(p) > len(`C:\`) {
		p = strings.TrimRight(p, `\`)
	}
	for {
		at := strings.Index(p+`\`, `\..\`)
		above := strings.LastIndexByte(p[:max(at, 0)], '\\')
		if above < 0 {
			return p
		}
		p = p[:above] + p[at+len(`\..`):]
	}
}

// given are the variables that every machine has, in capitals. Source: the OS's
// documentation of its recognized environment variables.
var given = map[string]string{"SYSTEMDRIVE": "C:", "SYSTEMROOT": `C:\Windows`, "WINDIR": `C:\Windows`, "PROGRAMFILES": `C:\Program Files`,
	"PROGRAMW6432": `C:\Program Files`, "PROGRAMFILES(X86)": `C:\Program Files (x86)`, "COMMONPROGRAMFILES": `C:\Program Files\Common Files`,
	"COMMONPROGRAMFILES(X86)": `C:\Program Files (x86)\Common Files`, "PROGRAMDATA": `C:\ProgramData`, "ALLUSERSPROFILE": `C:\ProgramData`,
	"PUBLIC": `C:\Users\Public`}

// ofProfile are the variables that lie below a user's profile, in capitals.
var ofProfile = map[string]string{"USERPROFILE": "", "APPDATA": `\AppData\Roaming`, "LOCALAPPDATA": `\AppData\Local`}

// Bounds of variables that stand within each other: how deep, and to how many
// bytes in all, which is the most that the OS lets one hold.
const (
	mostNested   = 8
	mostExpanded = 32_767
)

// Expand puts the variables of a machine and of a user into a text, as the OS
// does: a user's own go before the machine's. One that is not set stays as it
// is written. user may be empty.
func Expand(m Sources, text, user string) string {
	left := mostExpanded
	return expand(m, text, user, &left, 0)
}

// expand puts variables in, as the OS does. left are the bytes that may still
// come of it, since a variable may hold itself twice over.
func expand(m Sources, text, user string, left *int, depth int) string {
	if *left -= len(text); *left < 0 || depth > mostNested || !strings.Contains(text, "%") {
		return text
	}
	var b strings.Builder
	for {
		before, behind, ok := strings.Cut(text, "%")
		b.WriteString(before)
		if !ok {
			return b.String()
		}
		name, rest, closed := strings.Cut(behind, "%")
		value, set := "", false
		if closed && name != "" {
			value, set = variable(m, name, user)
		}
		if !set { // the second mark may open the next name
			b.WriteByte('%')
			text = behind
			continue
		}
		b.WriteString(expand(m, value, user, left, depth+1))
		text = rest
	}
}

// variable is what one variable holds, not yet expanded itself.
func variable(m Sources, name, user string) (string, bool) {
	if user != "" {
		if a, err := m.Account(user); err == nil {
			if below, is := ofProfile[strings.ToUpper(name)]; is && a.Profile != "" {
				return a.Profile + below, true
			}
			if v := TextOf(m, `HKEY_USERS\`+string(a.SID)+`\Environment`, name); v != "" {
				return v, true
			}
		}
	}
	for k, v := range m.Facts().Environment {
		if strings.EqualFold(k, name) {
			return v, true
		}
	}
	v, ok := given[strings.ToUpper(name)]
	return v, ok
}
