// This file learns names by the words around them, in the languages that logs
// have.

package mask

import (
	"math/big"
	"regexp"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
)

// What is private by the words around it: in the lexicon's languages, in
// structures that part a name from its value, in the calls of well-known
// programs, and by check digits.

// passwords are the words for a password, besides the English and German ones
// that secretName has, in small letters.
const passwords = `MOT DE PASSE|CLAVE|HASŁO|HASLO|ПАРОЛЬ|パスワード|WACHTWOORD|SENHA|PALAVRA-PASSE|LÖSENORD|LOSENORD|ŞIFRE|SIFRE|PAROLA|HESLO|` +
	`ADGANGSKODE|密码|密碼|口令|암호|비밀번호`

// people are the words for a user, besides the English ones.
const people = `BENUTZER(?:NAME)?|UTILISATEUR|USUARIO|USUÁRIO|UTENTE|GEBRUIKER(?:SNAAM)?|UŻYTKOWNIK|UŽIVATEL|ANVÄNDARE|KULLANICI|ПОЛЬЗОВАТЕЛЬ|ユーザー|ユーザー名|用户|用戶|使用者|사용자`

// foreignWords are those of both, in small letters, to tell which texts can
// match.
var foreignWords = strings.FieldsFunc(strings.ToLower(regexp.MustCompile(`\(\?:[^)]*\)\??`).ReplaceAllString(passwords+"|"+people, "")),
	func(r rune) bool { return r == '|' })

var (
	// "<setting name="DbPassword">…", "<property name="password"><value>…": up
	// to the next element.
	namedElement = lazy.MustCompile(`(?i)(<[\w:.-]+[^<>]*\b(?:name|key|id)\s*=\s*["']` + secretName + `["'](?:[^<>]*[^<>/])?>(?:\s*<value[^<>]*>)?)([^<>\r\n]+)`)
	// {"name":"password","value":"…"}
	namedField = lazy.MustCompile(`(?i)("(?:name|key|id)\\*"\s*:\s*\\*"` + secretName + `\\*"\s*,\s*\\*"value\\*"\s*:\s*\\*)("[^"]*")`)
	// "password": ["…", "…"]
	secretList = lazy.MustCompile(`(?i)(` + secretName + `\\*"\s*:\s*\[)([^\]]+)`)
	// "Passwort für den Dienst: …", "password for svcquay is q1w2": a word with
	// a digit, or a quoted one.
	secretFor = lazy.MustCompile(`(?i)\b((?:pass(?:word|wort|phrase)|kennwort|pwd)\s+(?:for|für|of|von|pour|de|para|per|di|voor)\s+[^\r\n:=,;]{1,40}?(?:\s*[:=]\s*|\s+is\s+))("[^"]+"|'[^']+'|[^\s,;"']*\d[^\s,;"']*)`)
	// The value of the registry in the OS's own tools: reg add … /v NAME … /d
	// VALUE; NAME REG_SZ VALUE.
	registryCall = lazy.MustCompile(`(?i)(/v\s+"?` + secretName + `"?\s[^\r\n]*?/d\s+)("[^"]*"|\S+)`)
	registryRow  = lazy.MustCompile(`(?i)(\b` + secretName + `\s+REG_\w+\s+)(\S[^\r\n]*)`)
	// -u user:secret, and -uuser … -psecret, where the secret has a figure
	userColon    = lazy.MustCompile(`(?i)(\s--?(?:u|user|proxy-user)(?:\s+|=)"?[^\s:"/\\]+:)([^\s"/][^\s"]*)`)
	databaseCall = lazy.MustCompile(`(?i)(\s-u ?[^\s-][^\s]*\s(?:[^\r\n|]*?\s)?-p)([^\s"'-]*\d[^\s"']*)`)
	// Six digits eight times: the key that opens an encrypted drive. A code for
	// one use.
	recoveryKey = lazy.MustCompile(`\b\d{6}(?:-\d{6}){7}\b`)
	oneTime     = lazy.MustCompile(`(?i)(\b(?:otp|one[- ]time (?:code|password|pin)|verification code|passcode)\b[\s:=is]{1,6})(\d{4,8})\b`)
	// Names with a blank: "Serial Number: …", "S/N: …", "activation code …".
	spacedSerial = lazy.MustCompile(`(?i)(\b(?:serial (?:number|no\.?)|s/n|(?:activation|licen[cs]e|product|registration) (?:key|code|number))\s*[:=#]?\s*)([A-Z0-9][A-Z0-9-]{5,})\b`)
	// ISO 13616, and the numbers of payment cards: both are told by their check
	// digits.
	ibanPattern = lazy.MustCompile(`\b[A-Z]{2}\d{2}(?: ?[A-Z0-9]{4}){3,7}(?: ?[A-Z0-9]{1,3})?\b`)
	cardPattern = lazy.MustCompile(`\b\d{4}([ -])\d{4}[ -]\d{4}[ -]\d{4}\b`)
)

// What names are learned from, by the words around them.
var (
	foreignUser = lazy.MustCompile(`(?i)(?:` + people + `)"?\s*[=:：]\s*"?([^'"\\<>\r\n;,：]+)`)
	// "Host Name . . . : X", "Running on machine: X": a name of a computer, and
	// no sentence.
	spacedHost = lazy.MustCompile(`(?i)\b(?:host|computer|machine|device|pc)[ _-]?(?:name)?"?[ .]*[=:][ \t]*"?([a-z0-9][a-z0-9-]{2,62}(?:\.[a-z0-9-]+)*)"?\s*(?:$|[,;|)])`)
	// "computer account X$", "machine QUAYPC07 (…": capitals and digits, as
	// machines are called.
	accountHost = lazy.MustCompile(`(?i:\b(?:account|computer|machine|host|workstation)\s+"?)([A-Za-z0-9][A-Za-z0-9-]{2,14})\$`)
	proseHost   = lazy.MustCompile(`(?i:\b(?:computer|machine|host|workstation|device)\s+'?"?)((?:[A-Za-z]+-?)+\d[A-Za-z0-9-]*)\b`)
	bareShare   = lazy.MustCompile(`(?:^|[\s"'=(])\\\\([A-Za-z0-9][A-Za-z0-9-]{3,62}(?:\.[\w.-]+)?)(?:$|[\s"'),;])`)
	longShare   = lazy.MustCompile(`(?i)\\\\[?.]\\UNC\\([A-Za-z0-9][\w.-]{1,62})`)
	storedLogon = lazy.MustCompile(`(?i)/(?:add|generic|targetname):"?([A-Za-z][\w.-]{2,62})`)
	// "Logged on user: X", "Registered to: X", "User 'X' is …", "running as X"
	spacedUser  = lazy.MustCompile(`(?i)\b(?:logged[ _-]?(?:on|in)[ _-]?user|registered (?:to|user|owner)|display name of user|user[ _-]?(?:name|id)?|account name)\s*[=:][ \t]*"?([^'"\\<>\r\n;,]+)`)
	quotedUser  = lazy.MustCompile(`(?i)\buser(?: account)? ['"]([^'"\\<>\r\n]{3,40})['"]`)
	runningUser = lazy.MustCompile(`(?i)\b(?:running|logged (?:on|in)|executing|started|impersonating)(?: as)?(?: user)? (?:as )?user "?([a-z][\w.-]{2,30})\b`)
	companyTold = lazy.MustCompile(`(?i)(?:\b(?:customer(?: ?name)?|organi[sz]ation|licensee|firma|société|azienda|empresa)"?\s*[=:]\s*"?|\blicensed to:? )([^'"\\<>\r\n;,]{3,60})`)
	networkName = lazy.MustCompile(`(?i)\bSSID(?: name)?\s*[=:]\s*"?([^"\r\n,;]{2,32})`)
	domainTold  = lazy.MustCompile(`(?i)\b(?:domain|workgroup)\s*[=:]\s*"?([a-z][\w.-]{2,62})"?\s*(?:$|[,;|)])`)
	directory   = lazy.MustCompile(`(?i)\b(CN|OU|DC|O)=((?:[^,;"'<>\r\n\\]|\\.)+)`)
)

// commonWords are no names of anybody, where a sentence has one in a name's
// place.
var commonWords = strings.Fields(`the this that not and for with was has mode settings setting profile data account accounts interface group groups
	context session request input name names rights registry folder level limited standard normal elevated local current other any each per
	first last new service system administrator configuration install installation policy x64 x86 amd64 arm64 win32 localhost machine computer
	wide based specific type only id info version details`)

// namelike says whether a word may be somebody's, or a machine's, name.
func namelike(name string) bool {
	low := strings.ToLower(strings.TrimSpace(name))
	return low != "" && !slices.Contains(commonWords, low) && !state(low) && !stamp.MatchString(low) && strings.Trim(low, "0123456789.-") != ""
}

// learnAround takes in names by the words around them.
func (m *Masker) learnAround(text, low string) {
	take := func(p *lazy.Regexp, kind Kind, words int) {
		for _, f := range p.FindAllStringSubmatch(text, -1) {
			name, _, _ := strings.Cut(f[1], "(") // what is said of somebody is not the name
			name = strings.TrimSpace(name)
			parts := strings.Fields(name)
			// A name of several words has capitals; words in small letters are
			// the sentence's.
			sentence := len(parts) > 1 && slices.ContainsFunc(parts, func(w string) bool { return w[0] >= 'a' && w[0] <= 'z' })
			if len(parts) > 0 && len(parts) <= words && namelike(name) && namelike(parts[0]) && !sentence {
				m.learn(kind, strings.TrimRight(name, ". "))
			}
		}
	}
	if holds(low, foreignWords) {
		take(foreignUser, User, 3)
	}
	if holds(low, []string{"host", "computer", "machine", "device", "workstation", "pc"}) {
		for _, p := range []*lazy.Regexp{spacedHost, accountHost, proseHost} {
			take(p, Host, 1)
		}
	}
	if strings.Contains(text, `\\`) {
		take(bareShare, Host, 1)
		take(longShare, Host, 1)
	}
	if strings.Contains(low, "cmdkey") {
		take(storedLogon, Host, 1)
	}
	if holds(low, []string{"user", "registered", "account name"}) {
		take(spacedUser, User, 3)
		take(quotedUser, User, 3)
		take(runningUser, User, 1)
	}
	if holds(low, []string{"customer", "organi", "licensee", "licensed to", "firma", "soci", "azienda", "empresa"}) {
		take(companyTold, Company, 4)
	}
	if strings.Contains(low, "ssid") {
		take(networkName, Host, 4)
	}
	if holds(low, []string{"domain", "workgroup"}) {
		take(domainTold, Host, 1)
	}
	if strings.Contains(low, "dc=") { // a name in a directory, and no publisher's in a certificate
		for _, f := range directory.FindAllStringSubmatch(text, -1) {
			kind := map[string]Kind{"CN": User, "OU": Company, "O": Company, "DC": Host}[strings.ToUpper(f[1])]
			if !slices.Contains([]string{"users", "computers", "builtin", "local", "com", "net", "org"}, strings.ToLower(f[2])) && namelike(f[2]) {
				m.learn(kind, f[2])
			}
		}
	}
}

// hideAround hides secrets by the words and structures around them.
func (m *Masker) hideAround(text, low string) string {
	each := func(p *lazy.Regexp) {
		text = p.ReplaceAllStringFunc(text, func(t string) string {
			f := p.FindStringSubmatch(t)
			value := f[2]
			if state(strings.ToLower(value)) || strings.HasPrefix(value, "(masked") || notSecret(f[1:2]) {
				return t
			}
			return m.hide(Secret, t[:len(t)-len(value)]+"(masked)")
		})
	}
	switch secret := holds(low, secretWords); {
	case secret && strings.Contains(text, "<"):
		each(namedElement)
	case secret && strings.Contains(text, `"`) && strings.ContainsAny(text, "[,"):
		each(namedField)
		each(secretList)
	case secret && (strings.Contains(low, "reg_") || strings.Contains(low, "reg ")):
		each(registryCall)
		each(registryRow)
	}
	if holds(low, []string{"pass", "kennwort", "pwd"}) {
		each(secretFor)
	}
	if strings.Contains(text, "-") && strings.Contains(low, "-u") || strings.Contains(low, "--proxy-user") {
		each(userColon)
	}
	if strings.Contains(low, " -u") && strings.Contains(low, " -p") {
		each(databaseCall)
	}
	if holds(low, []string{"otp", "one-time", "one time", "verification", "passcode"}) {
		each(oneTime)
	}
	if strings.Count(text, "-") >= 7 {
		text = recoveryKey.ReplaceAllStringFunc(text, func(string) string { return m.hide(Secret, "(masked)") })
	}
	if holds(low, []string{"serial", "s/n", "activation", "licen", "product", "registration"}) {
		text = spacedSerial.ReplaceAllStringFunc(text, func(t string) string {
			f := spacedSerial.FindStringSubmatch(t)
			if !strings.ContainsAny(f[2], "0123456789") || stamp.MatchString(f[2]) {
				return t
			}
			return m.hide(Serial, f[1]+orMasked(m.learn(Serial, f[2])))
		})
	}
	// Numbers of accounts and cards have check digits, by which they are told
	// from any other row of figures.
	account, card := numbersIn(text)
	if card {
		text = cardPattern.ReplaceAllStringFunc(text, func(t string) string {
			if !luhn(t) {
				return t
			}
			return m.hide(Serial, orMasked(m.learn(Serial, t)))
		})
	}
	if !account {
		return text
	}
	return ibanPattern.ReplaceAllStringFunc(text, func(t string) string {
		if !checked(t) {
			return t
		}
		return m.hide(Serial, orMasked(m.learn(Serial, t)))
	})
}

// numbersIn says whether the number of an account, or that of a card, can stand
// in a text: two capitals before two digits, and groups of four digits.
func numbersIn(text string) (account, card bool) {
	digits, run, groups := 0, 0, 0 // in all, side by side, groups of four one behind the other
	for i := range len(text) {
		if digit(text[i]) {
			digits, run = digits+1, run+1
			capital := func(b byte) bool { return b >= 'A' && b <= 'Z' }
			account = account || i >= 3 && digit(text[i-1]) && capital(text[i-2]) && capital(text[i-3]) && (i == 3 || !letter(rune(text[i-4])))
			card = card || run == 4 && groups == 3
			continue
		}
		if run == 4 && (text[i] == ' ' || text[i] == '-') {
			groups++
		} else {
			groups = 0
		}
		run = 0
	}
	return account && digits >= 8, card
}

// luhn says whether a number's last digit is its check digit. Source: ISO/IEC
// 7812-1.
func luhn(number string) bool {
	sum, second := 0, false
	for i := len(number) - 1; i >= 0; i-- {
		if number[i] < '0' || number[i] > '9' {
			continue
		}
		d := int(number[i] - '0')
		if second {
			if d *= 2; d > 9 {
				d -= 9
			}
		}
		sum, second = sum+d, !second
	}
	return sum%10 == 0
}

// checked says whether an account's number has the check digits that it must.
// Source: ISO 13616: the first four characters go to the end, letters count
// from 10, the rest by 97 is 1.
func checked(account string) bool {
	account = strings.ReplaceAll(account, " ", "")
	var digits strings.Builder
	for _, r := range account[4:] + account[:4] {
		if r >= 'A' {
			digits.WriteString([]string{"10", "11", "12", "13", "14", "15", "16", "17", "18", "19", "20", "21", "22", "23", "24", "25", "26", "27", "28",
				"29", "30", "31", "32", "33", "34", "35"}[r-'A'])
			continue
		}
		digits.WriteRune(r)
	}
	n, ok := new(big.Int).SetString(digits.String(), 10)
	return ok && new(big.Int).Mod(n, big.NewInt(97)).Int64() == 1
}
