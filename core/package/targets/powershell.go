// This file reads commands of PowerShell for the same.

package targets

import (
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
)

// What a line of PowerShell works on: its commands name the thing that they are
// about by -Path or -Name, or first of all.

// statements are the commands of a line, in words. What a pipe leads to works
// on what comes through it, and is left out.
func statements(text string) (list []command) {
	if len(text) > mostCall {
		return nil
	}
	var now []word
	var b strings.Builder
	var in rune // the quotation mark that is open
	begun, quoted, piped := false, false, false
	end := func() {
		if begun && !piped {
			now = append(now, word{b.String(), quoted})
		}
		b.Reset()
		begun, quoted = false, false
	}
	for _, c := range text + ";" {
		switch {
		case in != 0 && c == in:
			in = 0
		case in != 0:
			b.WriteRune(c)
		case c == '"' || c == '\'':
			in, begun, quoted = c, true, true
		case c == ';' || c == '\n' || c == '{' || c == '}' || c == '|':
			if end(); c != '|' {
				if len(now) > 0 && len(list) < mostCommands {
					list = append(list, command{words: now})
				}
				now, piped = nil, false
			} else {
				piped = true
			}
		case c == ' ' || c == '\t' || c == '\r':
			end()
		default:
			begun = true
			b.WriteRune(c)
		}
	}
	return list
}

// stopsAtOnce says that a line ends at the first command that fails, not only
// where the last one does.
var stopsAtOnce = lazy.MustCompile(`(?i)\$ErrorActionPreference\s*=\s*['"]?Stop`)

// takes are the parameters that have a value behind them, in small letters.
// Others are switches, or not of concern.
var takes = strings.Fields(`-path -literalpath -filepath -name -destination -erroraction -ea -value -type -propertytype -itemtype -encoding
	-filter -include -exclude -argumentlist -startuptype -displayname -certstorelocation -destinationpath -computername -newname -outvariable`)

// powershell adds what a line works on.
func (r *reader) powershell(text, row string, depth int) {
	list := statements(text)
	all := stopsAtOnce.MatchString(text)
	for i, s := range list {
		named, first := map[string]string{}, []string{}
		for k := 1; k < len(s.words); k++ {
			w := s.words[k]
			low := strings.ToLower(w.text)
			switch {
			case w.quoted || !strings.HasPrefix(w.text, "-"):
				first = append(first, w.text)
			case slices.Contains(takes, low) && k+1 < len(s.words):
				k++
				named[low] = s.words[k].text
			}
		}
		stops := strings.EqualFold(named["-erroraction"], "stop") || strings.EqualFold(named["-ea"], "stop")
		if quiet := !stops && (named["-erroraction"] != "" || named["-ea"] != ""); quiet || named["-computername"] != "" {
			continue
		}
		if all || stops || i == len(list)-1 {
			r.cmdlet(strings.ToLower(s.words[0].text), named, first, s.words, row, depth)
		}
	}
}

// cmdlet adds what one command of PowerShell works on; first are its values
// without a parameter.
func (r *reader) cmdlet(name string, named map[string]string, first []string, words []word, row string, depth int) {
	r.served(name, nil, row)
	if name == "stop-process" && named["-name"] != "" && !strings.ContainsAny(named["-name"], "$*?(,") {
		r.add(Ended, strings.TrimSuffix(strings.ToLower(named["-name"]), ".exe")+".exe", row, 0)
		return
	}
	u, ok := uses()[name]
	if !ok {
		r.command(words, row, depth+1) // a program
		return
	}
	pick := func(names ...string) string {
		for _, n := range names {
			if named[n] != "" {
				return named[n]
			}
		}
		if len(first) > 0 {
			return first[0]
		}
		return ""
	}
	what := ""
	switch u {
	case useStart, useHas:
		what = pick("-name")
	default:
		what = pick("-literalpath", "-path", "-filepath")
	}
	if what == "" || strings.ContainsAny(what, "$`(@") { // put together while it runs
		return
	}
	key, is := providerKey(what)
	switch {
	case is && u == useFile:
		u = useAsked
	case !is && (u == useWrite || u == useAsked): // of a file
		return
	}
	args := []word{{text: what}}
	if is {
		args[0].text = key
		value := named["-name"]
		if value == "" && len(first) > 1 {
			value = first[1]
		}
		if u == useAsked && value != "" && !strings.ContainsAny(value, "*?$") && strings.HasSuffix(name, "property") {
			args = append(args, word{text: "/v"}, word{text: value})
		}
	}
	r.used(u, args, row)
}

// providerKey is a key as PowerShell names it: HKLM:\Software,
// Registry::HKEY_LOCAL_MACHINE\Software.
func providerKey(text string) (key string, ok bool) {
	if i := strings.LastIndex(text, "::"); i >= 0 && strings.Contains(strings.ToLower(text[:i]), "registry") {
		return text[i+2:], true
	}
	if root, rest, cut := strings.Cut(text, ":"); cut && strings.HasPrefix(strings.ToUpper(root), "HK") {
		return root + `\` + strings.TrimLeft(rest, `\/`), true
	}
	return "", false
}
