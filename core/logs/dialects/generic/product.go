// This file finds names and versions of products in what lines say.

package generic

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
)

// version is a number with points in it, with or without a v.
var version = lazy.MustCompile(`(?:^|[\s(=:"'v])v?(\d{1,4}(?:\.\d{1,6}){1,3})(?:[\s,;:)"'|<–-]|$)`)

const (
	productLines = 14   // entries in which a program says what it is; behind them it says what it finds
	agentLines   = 3000 // entries of an agent's log in which it names what it installs
	productWords = 6    // of a product's name at most
)

// notProducts are words whose versions setups print too, in small letters; a
// name that begins with one is none either.
var notProducts = map[string]bool{"info": true, "error": true, "warning": true, "warn": true, "debug": true, "trace": true, "fatal": true, "windows": true, "microsoft": true, "java": true, "jre": true, "jdk": true, ".net": true, "dotnet": true,
	"node": true, "python": true, "powershell": true, "psversion": true, "os": true, "kernel": true, "framework": true, "runtime": true, "chrome": true,
	"electron": true, "openssl": true, "sql": true, "linux": true, "found": true, "new": true, "latest": true, "current": true, "installed": true,
	"available": true, "previous": true, "old": true, "from": true, "to": true, "update": true, "target": true, "using": true, "checking": true,
	"downloading": true, "upgrading": true, "running": true, "version": true, "build": true, "protocol": true, "http": true, "tls": true, "log": true,
	"format": true, "schema": true, "config": true, "library": true, "driver": true, "file": true, "image": true, "osversion": true,
	"looking": true, "searching": true, "removing": true, "uninstalling": true, "detected": true, "detecting": true, "finding": true, "reading": true,
	"comparing": true, "requires": true, "needs": true, "wants": true, "keeping": true, "replacing": true, "keeps": true, "replaces": true, "removes": true,
	"there": true, "here": true, "release": true, "clr": true, "x64": true, "x86": true, "amd64": true, "arm64": true, "vm": true, "definitions": true}

// notAlone are words that are no product's name by themselves.
var notAlone = map[string]bool{"net": true, "engine": true, "project": true, "product": true, "setup": true, "rules": true, "catalog": true,
	"client": true, "server": true, "database": true, "core": true, "agent": true, "package": true, "app": true, "application": true,
	"program": true, "anwendung": true, "programm": true, "module": true, "installer": true, "updater": true, "bootstrapper": true,
	"launcher": true, "service": true, "script": true, "tool": true, "host": true, "wizard": true}

// ofNames are small words that lead to a product's name: "Installation von …".
var ofNames = map[string]bool{"of": true, "for": true, "the": true, "to": true, "von": true, "für": true, "der": true, "de": true, "du": true, "des": true,
	"la": true, "le": true, "del": true, "di": true, "do": true, "da": true, "van": true, "voor": true, "av": true, "för": true, "dla": true, "pro": true,
	"welcome": true, "willkommen": true, "bei": true, "starting": true, "launching": true, "started": true, "installing": true, "updating": true, "this": true,
	"is": true, "version": true, "ver": true, "v": true, "program": true, "programm": true, "programme": true, "wird": true, "gestartet": true, "log": true,
	"script": true, "deployment": true, "tool": true, "trace": true, "report": true, "protokoll": true, "build": true, "release": true, "edition": true,
	"package": true, "paket": true, "programu": true, "wizard": true, "assistant": true, "and": true, "und": true, "avvio": true, "inicio": true, "início": true, "début": true, "start": true, "begin": true, "main": true, "démarrage": true, "opening": true,
	"запуск": true, "начало": true, "開始": true, "시작": true, "启动": true, "başlangıç": true}

// mostVersions is how many numbers of a line are looked at.
const mostVersions = 3

// productOf reads what a program calls itself: the words before its version, or
// those of the line's head when a whole number follows a name of two words.
func productOf(text string) (name, number string, ok bool) {
	text = strings.TrimLeft(text, "-=*#<>~_·•✔✓✖✗!+ \t")
	if m := logOfSetup.FindStringSubmatch(text); m != nil {
		name, number := strings.TrimSpace(m[1]), ""
		if v := version.FindStringSubmatch(text); v != nil {
			number = v[1]
		}
		if number == "" || !strings.Contains(name, number) {
			return name, number, true
		}
	}
	if m := colonTitle.FindStringSubmatch(text); m != nil && speaksOfSetups([]byte(m[2])) {
		if v := version.FindStringSubmatch(m[2]); v != nil && !unit.MatchString(m[2][strings.Index(m[2], v[1])+len(v[1]):]) {
			return m[1], v[1], true
		}
	}
	// What stands before a version is a product, if it looks like a name and
	// the number is no amount.
	for _, m := range version.FindAllStringSubmatchIndex(text, mostVersions) {
		if unit.MatchString(text[m[3]:]) {
			continue
		}
		name, ok := nameBefore(text[:m[2]])
		if ok && isSetupProgram(name) { // it tells its own version first: QuaySetup 3.0 Tide Watch
			if behind := capitals.FindString(strings.TrimLeft(text[m[3]:], " -–:")); behind != "" {
				return behind, "", true
			}
		}
		if ok {
			return name, text[m[2]:m[3]], true
		}
	}
	if m := setupOf.FindStringSubmatch(text); m != nil && speaksOfSetups([]byte(m[1])) {
		name, number := withYear(m[2], m[3])
		return name, number, true
	}
	if m := release.FindStringSubmatch(text); m != nil {
		if name, ok := nameBefore(m[1]); ok && strings.Contains(name, " ") {
			name, number := withYear(name, m[2])
			return name, number, true
		}
	}
	return "", "", false
}

// aYear is a year after which a product may be called.
var aYear = lazy.MustCompile(`^(?:199|20\d)\d$`)

// withYear takes a year for a part of the name, as everybody does who speaks of
// the product, and no version.
func withYear(name, number string) (whole, version string) {
	if aYear.MatchString(number) {
		return name + " " + number, ""
	}
	return name, number
}

// asks says whether a line names what a setup asks for, or what failed: "Nautic
// Runtime 4.6 is required".
func asks(text string) bool {
	said := endings.Read(text)
	return said.Refuses || said.Fails
}

// unit is what makes a number a measure and no version: "4.5 ms", "1.2 GB".
var unit = lazy.MustCompile(`^\s?(?:[kmgt]i?b|ms|µs|us|s|sec|min|%|[kmgt]?bit)\b|^\s?%`)

// logOfSetup is the head of a log that says whose it is: "Start of setup log:
// Tide Watch".
var logOfSetup = lazy.MustCompile(`(?i)^[^:]{0,30}\b(?:set-?up|install(?:ation)?|deployment|update) log(?:(?: (?:of|for))?: ?| (?:of|for) )(\p{L}[^,;:\\/=]{2,60}?)(?:[,;]|\s*$)`)

// capitals are at least two words with capitals, as of a name.
var capitals = lazy.MustCompile(`^\p{Lu}[\p{L}\d&+-]*(?: \p{Lu}[\p{L}\d&+-]*){1,4}`)

// colonTitle is a name of several words with a colon behind it, as of a title:
// "Tide Watch: installation of version 5.1".
var colonTitle = lazy.MustCompile(`^(\p{Lu}[\p{L}\d&+-]*(?: \p{Lu}[\p{L}\d&+-]*){1,4})\s?: (.{4,})$`)

// isSetupProgram says whether a name is one word that ends with a word for a
// setup.
func isSetupProgram(name string) bool {
	low := strings.ToLower(name)
	return !strings.Contains(low, " ") &&
		(strings.HasSuffix(low, "setup") || strings.HasSuffix(low, "installer") || strings.HasSuffix(low, "inst"))
}

// release is a line that begins with a name and a whole number, and speaks of a
// setup: "Tide Watch 3 setup script".
var release = lazy.MustCompile(`(?i)^((?:\p{Lu}[\p{L}&+-]*\s){2,4})(\d{1,4})\s.*(?:set-?up|instal|deploy|updat|upgrad|provision|rollout|einricht|bereitstell|kurul|установ|安装|インストール)`)

// setupOf is a word for a setup, one that leads to a name, the name and a whole
// number: "Einrichtung von Tide Watch 9".
var setupOf = lazy.MustCompile(`^(\p{L}[\p{L} ]{4,30}?) (?:of|for|von|für|de|du|di|do|da|van|voor|av|för|dla|programu|программы) ` +
	`((?:\p{Lu}[\p{L}&+-]*)(?: \p{Lu}[\p{L}&+-]*){0,3}) (\d{1,4})(?:\s*$|\s?[-–—(,;.:]| (?:wird|beginnt|startet|starts|begins|gestartet|commence|comienza|inizia|começa)\b)`)

// titled is a line with which a setup says whose it is, and nothing else: a
// name of several words and a whole number.
var titled = lazy.MustCompile(`^((?:\p{Lu}[\p{L}&+-]*\s){2,4})(\d{1,4})(?:\s*$|\s?[-–—(,;:])`)

// firstWords is how many entries of a setup may be such a line.
const firstWords = 3

// quotedName is a name in marks of quotation at the end of a text that speaks
// of a setup.
var quotedName = lazy.MustCompile(`["“„«‹'‘「『]\s*(\p{L}[^"”“»›'’」』\\/=]{2,60}?)\s*["”“»›'’」』]\s*(?:[Vv]ersion |v)?$`)

// nameBefore reads a product's name at the end of a text.
func nameBefore(before string) (name string, ok bool) {
	if m := quotedName.FindStringSubmatch(before); m != nil && speaksOfSetups([]byte(before)) {
		return m[1], true
	}
	before = strings.TrimRight(versionWord.ReplaceAllString(behindName.ReplaceAllString(before, ""), ""), " (=':,")
	if at := strings.LastIndexAny(before, "=>|,;:\\[]{}\"“”„«»/"); at >= 0 { // another cell or sentence
		_, n := utf8.DecodeRuneInString(before[at:])
		before = before[at+n:]
	}
	for _, mark := range []string{" - ", " – ", " — ", "："} {
		if at := strings.LastIndex(before, mark); at >= 0 && strings.TrimSpace(before[at+len(mark):]) != "" {
			if behind := before[at+len(mark):]; len(trimWords(strings.Fields(behind))) > 0 {
				before = behind
			} else { // "Tide Watch - setup"
				before = before[:at]
			}
		}
	}
	before = forPackage.ReplaceAllString(before, "")
	words := afterDoing(strings.Fields(puttingInPlace.ReplaceAllString(before, "")))
	words = trimWords(words)
	if len(words) == 1 && scriptName.MatchString(words[0]) { // it runs the setup, and is none
		return "", false
	}
	if len(words) == 0 || len(words) > productWords || notProducts[strings.ToLower(strings.Trim(words[0], "().='"))] ||
		len(words) == 1 && notAlone[strings.ToLower(words[0])] {
		return "", false
	}
	name = strings.Trim(strings.Join(words, " "), " ('=")
	if first, _ := utf8.DecodeRuneInString(name); !unicode.IsLetter(first) || utf8.RuneCountInString(name) < 3 ||
		strings.ContainsAny(name, "(#") || strings.Contains(strings.ToLower(name), "windows") {
		return "", false
	}
	return name, true
}

// versionWord is the word for a version, set off from the name before it: "Tide
// Watch, version".
var versionWord = lazy.MustCompile(`(?i)[,;] ?(?:version|ver|versión|versione|versão|versie|wersja|verze|sürüm|версия)[ .:=]*$`)

// behindName is the letter of a version, which no letter of the name stands
// before: "Tide Watch v".
var behindName = lazy.MustCompile(`(?:^|[\s(=':])[vV]$`)

// forPackage is what leads to the name of what a script installs: "deploy.py
// 1.9 started for package".
var forPackage = lazy.MustCompile(`(?i)^.* (?:for|of|für|pour|para|per) (?:the )?(?:package|product|application|app|program|bundle|paket|produkt|paquet|produit|paquete|producto|pacchetto|prodotto) `)

// scriptName is the name of a script.
var scriptName = lazy.MustCompile(`(?i)\.(?:py|ps1|psm1|cmd|bat|vbs|js|sh|pl|rb|lua|wsf)$`)

// puttingInPlace is a word for a setup that is several words, and the one that
// leads to a name.
var puttingInPlace = lazy.MustCompile(`(?i)^ *(?:.{0,40} )?(?:la |l['’]|il |o |el )?(?:mise (?:en place|à jour)|(?:programme|assistant|utilitaire) d['’]installation|` +
	`(?:programa|asistente|assistente) de (?:instalación|instalação)|(?:programma|procedura) di installazione|instalační program|průvodce instalací|` +
	`program instalacyjny|kreator instalacji|kurulum sihirbazı|программа установки|мастер установки)(?: (?:de|du|del|di|do|da|dla|programu|программы) | d['’]| )`)

// afterDoing are the words behind what is being done: "Evaluating rules for
// Tide Watch".
func afterDoing(words []string) []string {
	if len(words) > 2 && strings.EqualFold(words[0], "setting") && strings.EqualFold(words[1], "up") {
		return words[2:]
	}
	if len(words) < 2 || len(words[0]) < len("doing") || !strings.HasSuffix(words[0], "ing") || !unicode.IsUpper([]rune(words[0])[0]) {
		return words
	}
	for i := len(words) - 2; i > 0; i-- {
		if w := strings.ToLower(words[i]); w == "for" || w == "of" {
			return words[i+1:]
		}
	}
	if next := []rune(words[1]); unicode.IsUpper(next[0]) && !strings.EqualFold(words[0], words[1]) && knownDoing[strings.ToLower(words[0])] {
		return words[1:]
	}
	return words
}

// knownDoing are words for what setups do with products; "Rolling Tide" is one.
var knownDoing = map[string]bool{"installing": true, "updating": true, "upgrading": true, "starting": true, "launching": true, "deploying": true,
	"removing": true, "uninstalling": true, "repairing": true, "configuring": true, "resolving": true, "fetching": true, "preparing": true}

// behindNames are small words that stand between a product's name and its
// version.
var behindNames = map[string]bool{"version": true, "ver": true, "v": true, "build": true, "release": true, "start": true, "starting": true, "started": true,
	"log": true, "begin": true, "script": true, "deployment": true, "tool": true, "and": true, "wizard": true,
	"to": true, "vers": true, "la": true, "versione": true, "alla": true, "versión": true, "versão": true, "auf": true, "naar": true, "versie": true,
	"na": true, "wersji": true, "wersję": true, "verze": true, "verzi": true, "till": true, "sürüm": true, "версия": true, "версии": true, "до": true}

// leads are those of them that lead to a version or a place; with a capital
// they are a name's.
var leads = map[string]bool{"to": true, "la": true, "alla": true, "auf": true, "naar": true, "na": true, "till": true, "do": true}

// trimWords takes the words for a setup, and those that lead to a name, off
// both ends.
func trimWords(words []string) []string {
	plain := func(w string, more map[string]bool) bool {
		low := strings.ToLower(strings.Trim(w, "(),.='"))
		if leads[low] && !strings.HasPrefix(w, low[:1]) { // a till is no "to"
			return false
		}
		return low == "" || more[low] || endings.IsSetup(low) || unspacedSetup(low)
	}
	for len(words) > 0 && plain(words[0], ofNames) {
		words = words[1:]
	}
	cut := len(words)
	for n := len(words); n > 0; n = len(words) {
		switch last := strings.ToLower(words[n-1]); {
		case plain(words[n-1], behindNames), n > 1 && setupRoles[last] && endings.IsSetup(strings.ToLower(words[n-2])):
			words = words[:n-1]
		case cut > n && setupWays[last]:
			words = words[:n-1]
		default:
			return words
		}
	}
	return words
}

// unspacedSetup says whether a word of a script without blanks holds one for a
// setup.
func unspacedSetup(word string) bool {
	for _, w := range []string{"インストール", "セットアップ", "安装", "安裝", "설치", "更新"} {
		if strings.Contains(word, w) && word != w {
			return true
		}
	}
	return false
}

// toldProduct is the name of what an agent installs, in quotation marks behind
// the word for it.
var toldProduct = lazy.MustCompile(`(?i)\b(?:(?:installation|install|download|removal|update|upgrade|repair|deployment) of|installing|application|app(?: dt)?|product|package|program|software|task|job|deployment|anwendung|produkt|paket|produit|producto|prodotto|produto)\b(?:[ :=#]{1,3}\d{1,9})?[ :=]{1,3}["'«“„]([^"'»”“\\/=]{3,60})["'»”“]`)

// notInstalled is how scripts tell at their end what could not be installed, or
// was: "could not install Tide Watch, code 1603". Names begin with a capital,
// and end before a sign, a number or what follows as a sentence.
var notInstalled = lazy.MustCompile(`(?:[Cc]ould not|[Ff]ailed to|[Uu]nable to|[Cc]annot) (?:install|update|upgrade|deploy) (?:the )?|(?:[Ii]mpossible d['’]installer|[Ii]mpossibile installare|[Nn]o se pudo instalar|[Nn]ão foi possível instalar|[Nn]ie udało się zainstalować|[Nn]epodařilo se nainstalovat|[Kk]unde inte installera|[Нн]е удалось (?:установить|обновить)) |(?:无法安装|無法安裝)\s?`)

// installedName is a name that stands there.
var installedName = lazy.MustCompile(`^["'«“„「]?(\p{Lu}[\p{L}\d&+-]+(?: [\p{Lu}\d][\p{L}\d&+-]*){0,4}?|\p{Han}[\p{Han}\d]{1,12})(?: v?(\d+(?:\.\d+)+))?["'»”“」]?(?:[.,:;(!，。：；（]|$| \(| [a-zа-я])`)

// generalThings are words with a capital that stand there and are none.
var generalThings = map[string]bool{"Driver": true, "Service": true, "Windows": true, "Update": true, "Package": true, "Feature": true, "Certificate": true,
	"Setup": true, "Application": true, "Product": true, "Program": true, "Files": true, "Printer": true, "Module": true}

// lastLines is how many messages before its end a script tells what it was
// about.
const lastLines = 8

// toldAtEnd gives an attempt whose product no line introduced the name that its
// end tells.
func toldAtEnd(a *story.Attempt) {
	if a.Product.Name != "" {
		return
	}
	for _, m := range a.Messages[max(0, len(a.Messages)-lastLines):] {
		if name, version, ok := notInstalledIn(m.Text); ok {
			a.Product.Name, a.Product.Version = name, version
			return
		}
	}
	if n := len(a.Messages); n > 0 && a.Success != nil && !*a.Success {
		// "Tide Watch 4.1 was not installed" is the result, and asks for
		// nothing.
		if f := wasNot.FindStringSubmatch(a.Messages[n-1].Text); f != nil && !generalThings[f[1]] {
			a.Product.Name, a.Product.Version = f[1], f[2]
		}
	}
}

// wasNot is what a last line says of a product alone that did not come to be
// installed.
var wasNot = lazy.MustCompile(`^(\p{Lu}[\p{L}\d+&-]*(?: \p{Lu}[\p{L}\d+&-]*){0,4})(?: v?(\d+(?:\.\d+)*))? (?:was|has|could|is|wurde|konnte|n'a pas été|no se|non è stato|não foi|werd|nie został|nebyl) ?(?:not|nicht|niet)? ?(?:been |be )?` +
	`(?:installed|updated|upgraded|set up|deployed|installiert|eingerichtet|aktualisiert|installée?|instaló|installato|instalado|geïnstalleerd|zainstalowany|nainstalován)[.!]?$`)

// notInstalledIn is the product of which a text says that it could not be
// installed.
func notInstalledIn(text string) (name, version string, ok bool) {
	at := notInstalled.FindStringIndex(text)
	if at == nil {
		return "", "", false
	}
	f := installedName.FindStringSubmatch(text[at[1]:])
	if f == nil || generalThings[f[1]] {
		return "", "", false
	}
	return f[1], f[2], true
}

// jobOf is an agent's job called after the product that it installs: job 412
// "Tide Watch 3.1".
var jobOf = lazy.MustCompile(`(?i)\b(?:job|task|deployment|assignment|auftrag|tâche|tarea)\b[ #:]*\d* ?["'“«]((?:[\p{Lu}\d][\p{L}\d.&+-]* ){1,5})v?(\d+(?:\.\d+)+)["'”»]`)

// product takes what a program calls itself at its beginning, and what an agent
// installs.
func (r *Reader) product(e entry) {
	p := &r.b.A.Product
	if p.Name != "" {
		r.toldAgain(e)
		return
	}
	first := r.entries == 1
	// From the surest to the loosest, and the loose ones only in the first
	// lines: later ones name other products, too.
	name, number, ok := e.product, e.version, e.product != ""
	if !ok && r.entries <= productLines {
		name, number, ok = notInstalledIn(e.text)
	}
	if !ok && r.entries <= firstWords {
		name, number, ok = introduced(e.text, false, first)
	}
	if !ok && r.entries <= productLines {
		name, number, ok = productOf(e.text)
		ok = ok && !asks(e.text)
	}
	if !ok && r.entries <= firstWords {
		if m := titled.FindStringSubmatch(e.text); m != nil &&
			(endings.IsSetup(strings.ToLower(e.source)) || speaksOfSetups([]byte(e.text[len(m[0]):]))) {
			name, number, ok = strings.TrimSpace(m[1]), m[2], true
		} else {
			name, number, ok = introduced(e.text, true, first)
		}
	}
	if ok {
		p.Name, p.Version = name, number
	}
	if p.Name == "" && r.entries <= agentLines && strings.ContainsAny(e.text, `"'«“„`) {
		if m := toldProduct.FindStringSubmatch(e.text); m != nil && strings.Contains(m[1], " ") {
			p.Name, p.Version = partedVersion(m[1])
			r.told = map[string]int{p.Name: 1}
		}
	}
}

// withVersion is a name with its version behind it.
var withVersion = lazy.MustCompile(`^(.{3,}?) v?(\d+(?:\.\d+)+)$`)

// partedVersion parts a name from the version behind it, where it has one.
func partedVersion(name string) (alone, version string) {
	if m := withVersion.FindStringSubmatch(name); m != nil {
		return m[1], m[2]
	}
	return name, ""
}
