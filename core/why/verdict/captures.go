// This file cleans what a sign's expression took out of a line.

package verdict

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/story"
)

// group says whether a name that a log gives for who ran the setup is that of a
// group in which everybody is: it would be given rights that are nobody's.
func group(name string) bool { return slices.Contains(groupNames, strings.ToLower(name)) }

// groupNames are the names of such groups in the languages that we read, in
// small letters.
var groupNames = strings.Split("everyone|users|authenticated users|guests|guest|anonymous "+
	"logon|interactive|network|domain users|all users|jeder|benutzer|authentifizierte benutzer|gäste|"+
	"tout le monde|utilisateurs|utilisateurs authentifiés|invités|todos|usuarios|usuarios "+
	"autentificados|invitados|usuários|convidados|tutti|utenti|ospiti|iedereen|gebruikers|gasten|"+
	"wszyscy|użytkownicy|goście|alla|användare|gäster|herkes|kullanıcılar|konuklar|все|пользователи|гости", "|")

// ofPlaces are the captures of signs that hold paths and keys.
var ofPlaces = map[string]bool{"file": true, "folder": true, "path": true, "key": true}

// besideThings are words that stand behind what a setup needs and are no part
// of its name, in the languages of most dialogs.
var besideThings = wordSet("is are was to or and in on for before first not must has have be been the with from installed required needed missing needs " +
	"ou et est n'est pas sur pour doit oder und ist nicht wird muss fehlt auf o y e es no está para en debe è non per deve of en niet lub i nie a nebo není")

// thingAlone is the name of what a setup needs, without what the sentence goes
// on with behind it.
func thingAlone(name string) string {
	words := strings.Fields(name)
	for i, w := range words {
		if i > 0 && besideThings[strings.ToLower(strings.Trim(w, ".,;:"))] {
			words = words[:i]
			break
		}
	}
	return strings.TrimRight(strings.Join(words, " "), ".,;: ")
}

// noAction stands in sentences for the action that failed where no line names
// one. It is nothing to be about.
const noAction = "the setup"

// builtins are the captures that every sign may use.
func (j *judge) builtins() map[string]string {
	a := j.a
	caps := map[string]string{"product": a.Product.Name, "version": a.Product.Version, "code": "", "package": a.Package}
	if user := a.Properties["LogonUser"].Value; strings.EqualFold(user, "SYSTEM") || group(user) {
		defer func() { caps["user"] = "" }()
	}
	for name, property := range map[string]string{
		"user": "LogonUser", "computer": "ComputerName", "temp": "TempFolder", "usersid": "UserSID", "productcode": "ProductCode",
		"personal": "PersonalFolder", "build": "WindowsBuild", "versionnt": "VersionNT", "systemfolder": "SystemFolder",
	} {
		caps[name] = a.Properties[property].Value
	}
	caps["productcode"] = cmp.Or(caps["productcode"], a.Product.Code)
	if v, b := caps["versionnt"], caps["build"]; v != "" && b != "" { // as one, so that a dialog's words leave no gap
		caps["os"] = fmt.Sprintf(" (VersionNT %s, build %s)", v, b)
	}
	caps["action"] = noAction
	if j.broke != nil && a.Dialect == story.Servicing && j.broke.Name == wholeSession { // it names nothing
		caps["action"] = cmp.Or(a.Product.Name, noAction)
	} else if j.broke != nil {
		caps["action"] = j.broke.Name
		if j.broke.Code != nil {
			caps["result"] = strconv.Itoa(*j.broke.Code)
		}
		for _, d := range j.broke.Data {
			dataCaptures(d.Text, caps)
		}
	}
	if a.Exit != nil {
		caps["exit"] = strconv.Itoa(a.Exit.Code)
	}
	return caps
}

// dataCaptures takes what the action was working on: program, service, file and
// key of the last operation.
func dataCaptures(text string, caps map[string]string) {
	op, args, ok := strings.Cut(text, "(")
	// Progress texts are "Field: value, Field: value"; the first value is what
	// was worked on. Script lines are calls: Name(Key=value,…).
	if !ok {
		if _, v, ok := strings.Cut(text, ": "); ok {
			if _, w, ok := strings.Cut(v, ": "); ok {
				v = w
			}
			caps["doing"] = strings.TrimSpace(strings.SplitN(v, ",", 2)[0])
		} else if text != "" {
			caps["doing"] = text
		}
		return
	}
	arg := func(name string) string {
		for part := range strings.SplitSeq(args, ",") {
			if v, ok := strings.CutPrefix(part, name+"="); ok {
				return strings.TrimSuffix(v, ")")
			}
		}
		return ""
	}
	switch op {
	case "CustomActionSchedule":
		if src := arg("Source"); strings.ContainsAny(src, `\.`) {
			caps["program"] = src[strings.LastIndexAny(src, `\/`)+1:]
			caps["programpath"] = src
		}
		caps["target"] = arg("Target")
	case "ServiceControl", "ServiceInstall":
		caps["service"] = arg("Name")
	case "RegOpenKey":
		caps["key"] = arg("Key")
	case "FolderCreate", "SetTargetFolder":
		caps["folder"] = arg("Folder")
	case "FileCopy":
		caps["file"] = arg("DestName")
	}
}
