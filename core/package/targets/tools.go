// This file reads tools of the OS whose arguments have a form of their own.

package targets

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/machine"
	"hollowkey/core/package/installdb"
)

// removes adds the product that msiexec is to uninstall by its code.
func (r *reader) removes(args []word, row string) bool {
	for i, a := range args {
		low := strings.ToLower(a.text)
		code := strings.TrimPrefix(strings.TrimPrefix(low, "/x"), "/uninstall")
		if code == low {
			continue
		}
		if code == "" && i+1 < len(args) {
			code = args[i+1].text
		}
		if installdb.IsCode(code) {
			r.add(Product, strings.ToUpper(code), row, 0)
			return true
		}
	}
	return false
}

// named is a service that a question of wmic names.
var named = lazy.MustCompile(`(?i)\bname\s*=\s*["']?([\w .-]+?)["')]*\s*(?:call|$|\))`)

// wmic adds the service that "service where name='X' call startservice" is
// about.
func (r *reader) wmic(args []word, row string) {
	text := texts(args)
	low := strings.ToLower(text)
	m := named.FindStringSubmatch(text)
	if !strings.Contains(low, "service") || strings.Contains(low, "/node:") || m == nil {
		return
	}
	switch {
	case strings.Contains(low, "call startservice"):
		r.used(useStart, []word{{text: m[1]}}, row)
	case strings.Contains(low, " call "):
		r.used(useHas, []word{{text: m[1]}}, row)
	}
}

// tasks adds the task that schtasks runs, ends, changes, asks for or deletes.
func (r *reader) tasks(args []word, row string) {
	does, name := false, ""
	for i, a := range args {
		switch low := strings.ToLower(a.text); {
		case low == "/s": // on another machine
			return
		case slices.Contains([]string{"/run", "/end", "/delete", "/change", "/query"}, low):
			does = true
		case low == "/tn" && i+1 < len(args):
			name = args[i+1].text
		}
	}
	if does && name != "" && !strings.ContainsAny(name, "*%") {
		r.add(Task, `\`+strings.TrimLeft(name, `\`), row, 0)
	}
}

// fetches adds the host that something is fetched from.
func (r *reader) fetches(args []word, row string) {
	for _, a := range args {
		if u, err := url.Parse(a.text); err == nil && u.Hostname() != "" && (u.Scheme == "http" || u.Scheme == "https" || u.Scheme == "ftp") {
			r.add(Host, u.Host, row, 0)
			return
		}
	}
}

// asksHost adds the host that is asked for: the last word is it, since options
// with a value stand before.
func (r *reader) asksHost(args []word, row string) {
	if len(args) == 0 {
		return
	}
	if host := args[len(args)-1].text; host != "" && !strings.ContainsAny(host, `/\:%*`) && !strings.HasPrefix(host, "-") {
		r.add(Host, host, row, 0)
	}
}

// gate adds what "if exist FILE exit 1" and "if not exist FILE exit 1" ask for:
// with what is there, or is not there, the line ends in failure. What is done
// otherwise says nothing of that.
func (r *reader) gate(args []word, row string) {
	kind := Refused
	for len(args) > 0 && (strings.EqualFold(args[0].text, "/i") || strings.EqualFold(args[0].text, "not")) {
		if strings.EqualFold(args[0].text, "not") {
			kind = Read
		}
		args = args[1:]
	}
	if len(args) < 3 || !strings.EqualFold(args[0].text, "exist") || !strings.EqualFold(args[2].text, "exit") {
		return
	}
	code := args[len(args)-1].text
	if n, err := strconv.Atoi(code); err != nil || n == 0 || len(args) > 5 { // exit /b 1
		return
	}
	path := args[1].text
	if _, names, err := machine.SplitPath(strings.TrimRight(path, `\`)); err != nil || len(names) == 0 || strings.ContainsAny(path, "<>*?%") ||
		r.brings(path) {
		return
	}
	r.add(kind, path, row, 0)
}

// ends adds the program that taskkill ends by its name: without one of that
// name it ends with 128.
func (r *reader) ends(args []word, row string) {
	for i, a := range args {
		switch low := strings.ToLower(a.text); {
		case low == "/s": // on another machine
			return
		case low == "/im" && i+1 < len(args):
			if name := args[i+1].text; name != "" && !strings.ContainsAny(name, `*?%\/:`) {
				r.add(Ended, name, row, 0)
			}
			return
		}
	}
}

// people adds the accounts that "net user" and "net localgroup" are about. What
// the groups are called depends on the OS's language, so they are left.
func (r *reader) people(args []word, row string) bool {
	if len(args) < 2 {
		return false
	}
	var names []string
	adds, does := false, false
	for _, a := range args[1:] {
		low := strings.ToLower(a.text)
		switch {
		case low == "/domain":
			return true
		case low == "/add":
			adds = true
		case strings.HasPrefix(low, "/"):
			does = true
		case a.text != "":
			names = append(names, a.text)
		}
	}
	switch verb := strings.ToLower(args[0].text); {
	case verb == "user" && len(names) > 0 && adds:
		r.account(Newcomer, names[0], row)
	case verb == "user" && len(names) > 0 && (does || len(names) > 1):
		r.account(Person, names[0], row)
	case verb == "localgroup" && len(names) > 1 && adds:
		for _, n := range names[1:] {
			r.account(Person, n, row)
		}
	case verb != "user" && verb != "localgroup":
		return false
	}
	return true
}

// account adds an account by its name, unless that is put together while the
// line runs, or is of another machine.
func (r *reader) account(k Kind, name, row string) {
	name = strings.TrimPrefix(name, `.\`)
	if name == "" || strings.ContainsAny(name, `*%<>[]\/"`) {
		return
	}
	r.add(k, name, row, 0)
}

// granted adds the accounts to which icacls gives rights: NAME:(OI)(CI)F.
func (r *reader) granted(args []word, row string) {
	for i, a := range args {
		switch low := strings.ToLower(a.text); low {
		case "/grant", "/grant:r", "/deny":
			for _, to := range args[i+1:] {
				name, _, ok := strings.Cut(to.text, ":")
				if !ok || strings.HasPrefix(name, "/") {
					break
				}
				r.account(Person, name, row)
			}
		case "/setowner":
			if i+1 < len(args) {
				r.account(Person, args[i+1].text, row)
			}
		}
	}
}
