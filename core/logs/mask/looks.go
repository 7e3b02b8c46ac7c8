// This file has what hides itself by its looks, and what is no secret though it
// looks like one.

package mask

import (
	"net/netip"
	"slices"
	"strings"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
)

// What is private by how it looks, or by what it is called.

// What names are learned from.
var (
	profilePattern = lazy.MustCompile(`(?i)(?:^|[\\/])(?:users|documents(?: |%20|\+)and(?: |%20|\+)settings|home|homes|profiles|homedirs|userdata)\$?[\\/]{1,2}((?:[^\\/:*?"<>|\r\n,;&=()\[\]{}']|'\pL)+)`)
	uncPattern     = lazy.MustCompile(`(?:^|[^\\\w:])\\\\(?:\\\\)?([A-Za-z0-9][\w.-]{1,62})\\`)
	valuePattern   = lazy.MustCompile(`(?i)\b(LogonUser|USERNAME|USER_?NAME|UserId|LoggedOnUser|FullName|DisplayUser|RegisteredOwner|ComputerName|Computer|MachineName|HostName|UserDomain|` +
		`DomainName|CLIENTNAME|LOGONSERVER|COMPANYNAME|COMPANY|RegisteredOrganization|Organization|Tenant|TenantName|Author|Owner|Contact)"?(?: property\. Its (?:current |new )?value is:? '|\s*[=:]\s*(?:\\\\)?\\?["']?|>)([^'"\\<>\r\n;,\x00]+)`)
	domainPattern = lazy.MustCompile(`(?:^|[\s"'(=:,;>\[])([A-Za-z][A-Za-z0-9-]{1,14})\\{1,2}([A-Za-z][\w.-]{1,19})(?:$|[\s"'),;<\]:.])`)
	netUsePattern = lazy.MustCompile(`(?i)/user:\s*"?(?:([A-Za-z][\w.-]*)\\)?([A-Za-z][\w.@-]+)`)
	addressHost   = lazy.MustCompile(`(?i)\b(?:https?|ftp|wss?|ldaps?|smb|file)://(?:[^/\s@"'<>]*@)?([a-z0-9][a-z0-9.-]*[a-z0-9])`)
	dottedHost    = lazy.MustCompile(`(?i)\b([a-z0-9][a-z0-9-]{0,62}(?:\.[a-z0-9-]{1,63}){0,6}\.(?:local|lan|corp|internal|intranet|intra|home|ad|localdomain|example))\b`)
)

// valueKinds are what the names of values say; the others are users'.
var valueKinds = map[string]Kind{"computername": Host, "computer": Host, "machinename": Host, "hostname": Host,
	"userdomain": Host, "domainname": Host, "clientname": Host,
	"logonserver": Host, "companyname": Company, "company": Company, "registeredorganization": Company,
	"organization": Company, "tenant": Company, "tenantname": Company}

// What hides itself.
var (
	sidPattern    = lazy.MustCompile(`\bS-1-(?:5-21(?:-\d+){3,4}|12-1(?:-\d+){4})\b`)
	mailPattern   = lazy.MustCompile(`\b[\w.+%-]+(?:@|%40)[\w-]+(?:\.[\w-]+)+\b`)
	serialPattern = lazy.MustCompile(`\b[A-Z0-9]{5}(?:-[A-Z0-9]{5}){3,5}\b`)
	macPattern    = lazy.MustCompile(`(?i)\b[0-9a-f]{2}(?:[:-][0-9a-f]{2}){5}\b`)
	v4Pattern     = lazy.MustCompile(`\b(?:\d{1,3}\.){3}\d{1,3}\b`)
	v6Pattern     = lazy.MustCompile(`(?i)(?:^|[^\w:.])((?:[0-9a-f]{1,4}:){1,7}(?::[0-9a-f]{1,4}){1,7}|(?:[0-9a-f]{1,4}:){7}[0-9a-f]{1,4}|::(?:[0-9a-f]{1,4}:){0,6}[0-9a-f]{1,4}|(?:[0-9a-f]{1,4}:){1,7}:)`)
	phonePattern  = lazy.MustCompile(`(?i)(?:^|[\s"'(=:])(\+\d[\d ()/.-]{6,}\d)|\b(?:phone|tel|telephone|telefon|mobile|fax)(?:number|no)?\.?"?\s*[=:]?\s*"?([\d(][\d ()/.-]{5,}\d)`)
	bearerPattern = lazy.MustCompile(`(?i)\b(bearer|basic|negotiate|ntlm|digest)\s+[A-Za-z0-9._~+/=-]{8,}`)
	jwtPattern    = lazy.MustCompile(`\beyJ[\w-]{10,}\.[\w-]+\.[\w-]*`)
	urlPattern    = lazy.MustCompile(`(?i)(://)([^/\s:@]+):([^/\s@]+)@`)
	knownToken    = lazy.MustCompile(`\b(?:AKIA[0-9A-Z]{16}|gh[pousr]_[A-Za-z0-9]{20,}|xox[abprs]-[\w-]{10,}|sk-[A-Za-z0-9-]{20,}|glpat-[\w-]{15,}|[sr]k_(?:live|test)_[\w]{10,}|AIza[\w-]{30,}|npm_\w{20,}|ya29\.[\w-]{20,})`)
	encodedCall   = lazy.MustCompile(`(?i)([-/]e(?:nc|ncodedcommand|c)?\s+)["']?[A-Za-z0-9+/]{16,}={0,2}["']?`)
	signedQuery   = lazy.MustCompile(`(?i)([?&;](?:sig|signature|se|sv|skoid|sktid|x-amz-(?:signature|credential|security-token)|access_token|id_token|token|code|key|apikey|api_key|password|pwd|auth|ticket|session|sessionid|sid|client_secret|hash)=)[^&\s"'<>;]+`)
	netUse        = lazy.MustCompile(`(?i)(\bnet1?(?:\.exe)?\s+use\s+(?:[a-z]:\s+|\*\s+)?"?\\\\[^\s"]+"?\s+)("[^"]*"|[^\s/][^\s]*)`)
	userCall      = lazy.MustCompile(`(?i)(\bnet1?(?:\.exe)?\s+user\s+(?:"[^"]*"|\S+)\s+)("[^"]*"|[^\s/][^\s]*)`)
	secureString  = lazy.MustCompile(`(?i)(ConvertTo-SecureString\s+(?:-String\s+)?)("[^"]*"|'[^']*'|[^\s-]\S*)`)
	keyBlock      = lazy.MustCompile(`(?is)-----BEGIN [A-Z ]*PRIVATE KEY-----.*?(?:-----END [A-Z ]*PRIVATE KEY-----|$)`)
	cookiePattern = lazy.MustCompile(`(?i)\b((?:set-)?cookie"?\s*[:=]\s*)[^\r\n"]+`)
)

// secretName tells names of properties, switches and fields that hold secrets;
// serialName those that hold licences.
const (
	secretName = `[\w.$-]*(?:PASS(?:WORD|WD|WRD|PHRASE|CODE)?|PWD|PSWD|PASSWORT|KENNWORT|MOTDEPASSE|CONTRASE(?:Ñ|N)A|` + passwords + `|X-[\w-]*KEY|SECRET|TOKEN|API_?-?KEY|ACCESS_?-?KEY|ACCOUNT_?KEY|SHARED_?KEY|PRIVATE_?KEY|STORAGE_?KEY|CREDENTIAL|AUTHORIZATION|PIN(?:CODE)?|SAS|CONNECTIONSTRING_?PW)[\w.$-]*`
	serialName = `[\w.-]*(?:SERIAL(?:_?(?:NUMBER|NO))?|PIDKEY|PID_?KEY|PRODUCTID|LICEN[CS]E_?(?:KEY|CODE)|LICEN[CS]E|PRODUCT_?KEY|ACTIVATION_?(?:KEY|CODE)?)[\w.-]*`
	// quoted values: with doubled marks, in text that is quoted itself, and
	// plain.
	inMarks = `\\+"[^"\\]*\\+"|"(?:[^"\r\n]|"")*"|'(?:[^'\r\n]|'')*'`
)

var (
	// secretAssigned is a name and an equals sign; the value is read from there
	// on, as an unquoted one may have blanks up to the next name, switch or
	// mark.
	secretAssigned = lazy.MustCompile(`(?i)(^|[^\w.])(` + secretName + `)(\\*["']?\s*=\s*)`)
	// A value that stands in quotes, which may be doubled or escaped.
	quotedValue = lazy.MustCompile(`^(?:` + inMarks + `)`)
	// "password: …", "token = …", "'api_key' : '…'": up to the first sign that
	// ends a value.
	secretTold = lazy.MustCompile(`(?i)(^|[^\w.])(` + secretName + `)(\\*["']?\s*:\s*)(` + inMarks + `|[^\s;,"'<>&|]+)`)
	// "<Password>…</Password>", with or without a namespace.
	secretElement = lazy.MustCompile(`(?i)(<(?:\w+:)?` + secretName + `(?:\s[^>]*)?>)([^<]+)`)
	// A pair in two attributes: name="Password" value="…".
	secretNamed = lazy.MustCompile(`(?i)(\b(?:name|key|id)\s*=\s*["']` + secretName + `["']\s+value\s*=\s*)("[^"]*"|'[^']*')`)
	// The engine's sentences on a property of such a name: the rest of the line
	// goes.
	secretProperty = lazy.MustCompile(`(?i)\b` + secretName + ` property\b[^\r\n]*`)
	// "Its current value is '…'", which follows such a sentence.
	itsValue = lazy.MustCompile(`(?i)(\bits (?:current |new )?value(?: is)?:? )'[^']*'`)
	// Where a value without quotes ends: the next switch or the next name with
	// a sign of assignment.
	nextWord = lazy.MustCompile(`\s+(?:[/-]\S|[\w.]+\s*=)`)
	// "/p secret", "--token=…", "-pw:…": the value is the next word.
	secretSwitch = lazy.MustCompile(`(?i)(^|\s)(--?|/)(p|pw|pass|password|passwd|pwd|passphrase|token|key|secret|apikey|api-key|pin|rp|client-secret|sas)([:=]|\s+)(` + inMarks + `|[^\s;,"'/-][^\s;,"']*)`)
	// A serial or licence number behind its name; without the name nothing that
	// looks like one is hidden.
	serialValue = lazy.MustCompile(`(?i)\b(` + serialName +
		`)(\s*[=:]\s*|"\s*:\s*| property\. Its (?:current )?value is )("[^"]*"|'[^']*'|[^\s;,"']+)`)
)

// states are values that say how something stands, and no secret.
var states = []string{"", "(masked)", "none", "null", "nil", "empty", "(empty)", "not set", "set", "unset",
	"missing", "true", "false", "yes", "no", "on", "off", "0", "ok", "required", "invalid",
	"incorrect", "expired", "changed", "blank", "<null>", "(null)", "hidden", "redacted", "masked", "valid",
	"failed", "denied", "unknown", "default", "n/a", "-", "enabled", "disabled", "accepted",
	"rejected", "wrong", "present", "absent", "is", "not", "was", "found", "given"}

// state says whether a value is one of them, or only stars.
func state(low string) bool {
	low = strings.Trim(low, `"'\ .`)
	return slices.Contains(states, low) || strings.Trim(low, "*•x") == ""
}

// Most lines hold nothing private. A few words, looked for first, tell which of
// the patterns can match at all.
var (
	secretWords = []string{"pass", "pwd", "pswd", "kennwort", "motdepasse", "contrase", "secret", "token", "key",
		"credential", "authorization", "pin", "sas"}
	// What the tokens of knownToken begin with, and the switches of
	// encodedCall.
	tokenHeads   = []string{"AKIA", "ghp_", "gho_", "ghu_", "ghs_", "ghr_", "xox", "sk-", "glpat-", "k_live_", "k_test_", "AIza", "npm_", "ya29."}
	encodedHeads = []string{"-e ", "/e ", "-ec ", "/ec ", "-enc", "/enc"}

	switchWords = []string{"-p", "/p", "/rp", "-token", "/token", "-key", "/key", "-secret", "/secret", "-api", "-sas", "-client", "-pin"}
	serialWords = []string{"serial", "pidkey", "pid_key", "productid", "licen", "product_key", "productkey", "activation"}
	valueWords  = []string{"user", "owner", "computer", "machinename", "hostname", "domain", "clientname",
		"logonserver", "company", "organization", "tenant", "author", "contact", "fullname"}
	folderWords = []string{`users`, `settings`, "home", "profiles", "userdata"}
	hostWords   = []string{"://", ".local", ".lan", ".corp", ".intern", ".intra", ".home", ".ad", ".example"}
	// everybodysHosts are those of the OS's vendor, which every machine asks.
	everybodysHosts = []string{"microsoft.com", "windowsupdate.com", "windows.com", "msftconnecttest.com",
		"msftncsi.com", "microsoftonline.com", "live.com", "azureedge.net", "windows.net", "w3.org", "xmlsoap.org"}
	// noDomains stand before a backslash and are no domain of a user.
	noDomains = []string{"hklm", "hkcu", "hkcr", "hku", "hkcc", "software", "system", "nt", "builtin", "windows",
		"program", "users", "temp", "bin", "lib", "data", "classes", "microsoft",
		"wow6432node", "policies", "currentversion", "services", "clsid", "root", "cimv2", "appdata", "local",
		"roaming", "system32", "syswow64", "common", "installer", "setup", "src", "res", "msi", "authority", "apppool", "manager"}
)

// holds says whether a text holds one of some words.
func holds(low string, words []string) bool {
	return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(low, w) })
}

// hideLooks hides what is private by its look or by the name of its value.
func (m *Masker) hideLooks(text string) string {
	low := strings.ToLower(text)
	// What is replaced keeps its surroundings, so that the line reads on.
	all := func(p *lazy.Regexp, kind Kind, to string) {
		text = p.ReplaceAllStringFunc(text, func(t string) string { return m.hide(kind, p.ReplaceAllString(t, to)) })
	}
	if strings.Contains(low, "private key") {
		all(keyBlock, Secret, "(masked)")
	}
	if strings.Contains(text, "@") && strings.Contains(text, "://") {
		all(urlPattern, Secret, "://(masked)@")
	}
	if strings.Contains(text, "eyJ") {
		all(jwtPattern, Secret, "(masked)")
	}
	if holds(text, tokenHeads) {
		all(knownToken, Secret, "(masked)")
	}
	if holds(low, []string{"bearer", "basic", "negotiate", "ntlm", "digest"}) {
		all(bearerPattern, Secret, "$1 (masked)")
	}
	if holds(low, encodedHeads) {
		all(encodedCall, Secret, "${1}(masked)")
	}
	if strings.Contains(text, "=") && strings.ContainsAny(text, "?&") {
		all(signedQuery, Secret, "${1}(masked)")
	}
	if strings.Contains(low, "net") && strings.Contains(low, "use") {
		all(netUse, Secret, "${1}(masked)")
		all(userCall, Secret, "${1}(masked)")
	}
	if strings.Contains(low, "securestring") {
		all(secureString, Secret, "${1}(masked)")
	}
	if strings.Contains(low, "cookie") {
		all(cookiePattern, Secret, "${1}(masked)")
	}
	text = m.hideSecrets(text, low)
	text = m.hideSerials(text, low)
	if strings.ContainsAny(text, "@%") {
		text = mailPattern.ReplaceAllStringFunc(text, func(t string) string { return m.hide(Mail, orMasked(m.learn(Mail, t))) })
	}
	if strings.Contains(low, "s-1-") {
		text = sidPattern.ReplaceAllStringFunc(text, func(t string) string {
			if strings.HasPrefix(t, "S-1-5-21-0-0-0-") {
				return t
			}
			return m.hide(SID, orMasked(m.learn(SID, t)))
		})
	}
	return m.hideAddresses(text)
}

// hideSecrets hides values by the names that they are given. How something
// stands is no secret.
func (m *Masker) hideSecrets(text, low string) string {
	text = m.hideAround(text, low)
	if given(low, secretWords) || given(low, foreignWords) {
		if strings.Contains(low, " property") {
			text = secretProperty.ReplaceAllStringFunc(text, func(t string) string {
				return itsValue.ReplaceAllStringFunc(t, func(t string) string { return m.hide(Secret, itsValue.ReplaceAllString(t, "$1(masked)")) })
			})
		}
		text = m.hideAssigned(text)
		for _, p := range toldIn(text) {
			text = p.ReplaceAllStringFunc(text, func(t string) string {
				f := p.FindStringSubmatch(t)
				value := f[len(f)-1]
				if state(strings.ToLower(value)) || strings.HasPrefix(value, "(masked") || notSecret(f[1:len(f)-1]) {
					return t
				}
				return m.hide(Secret, t[:len(t)-len(value)]+"(masked)")
			})
		}
	}
	// A switch and its value, in the many ways in which the two are joined.
	if holds(low, switchWords) {
		text = secretSwitch.ReplaceAllStringFunc(text, func(t string) string {
			f := secretSwitch.FindStringSubmatch(t)
			if value := f[5]; state(strings.ToLower(value)) || strings.HasPrefix(value, "(masked") ||
				len(f[3]) == 1 && f[2] == "/" && f[4] != ":" && f[4] != "=" {
				return t
			}
			return m.hide(Secret, strings.Join(f[1:5], "")+"(masked)")
		})
	}
	return text
}

// toldIn are the forms, other than behind an equals sign, in which a text can
// give a secret.
func toldIn(text string) (forms []*lazy.Regexp) {
	if strings.Contains(text, ":") {
		forms = append(forms, secretTold)
	}
	if strings.Contains(text, "<") {
		forms = append(forms, secretElement, secretNamed)
	}
	return forms
}

// given says whether one of the words may be the name of a value: what follows
// its name is a sign of assignment, the end of a tag, or the engine's word for
// a property. Most lines with such a word ("copying", "key") are none, and the
// expressions are slow.
func given(low string, words []string) bool {
	for _, w := range words {
		for at := 0; ; {
			i := strings.Index(low[at:], w)
			if i < 0 {
				break
			}
			at += i + len(w)
			end := at
			for end < len(low) && (strings.IndexByte("_.$-", low[end]) >= 0 || digit(low[end]) ||
				low[end] >= 'a' && low[end] <= 'z' || low[end] >= utf8.RuneSelf) {
				end++
			}
			rest := strings.TrimLeft(low[end:], " \t\\\"'")
			if rest == "" {
				continue
			}
			if strings.IndexByte("=:>,", rest[0]) >= 0 || strings.HasPrefix(rest, "property") || strings.HasPrefix(rest, "value") ||
				strings.Contains(low, "<") {
				return true
			}
		}
	}
	return false
}

// hideAssigned hides the values of secrets behind equals signs.
func (m *Masker) hideAssigned(text string) string {
	var b strings.Builder
	for {
		at := secretAssigned.FindStringSubmatchIndex(text)
		if at == nil {
			return b.String() + text
		}
		head := text[:at[1]]
		value := quotedValue.FindString(text[at[1]:])
		if value == "" {
			value = unquotedValue(text[at[1]:])
		}
		b.WriteString(head)
		if state(strings.ToLower(value)) || strings.HasPrefix(value, "(masked") || strings.HasPrefix(value, "{") ||
			notSecret([]string{text[at[4]:at[5]]}) {
			b.WriteString(value)
		} else {
			b.WriteString(m.hide(Secret, "(masked)"))
		}
		text = text[at[1]+len(value):]
	}
}

// mostWords is how many words an unquoted value may have; a line that goes on
// longer says something.
const mostWords = 4

// unquotedValue is a value without quotation marks: it goes on to the next
// mark, name or switch, and stops at its first word where a sentence follows.
func unquotedValue(text string) string {
	value := text
	if i := strings.IndexAny(value, ";,\"'<>&|\r\n"); i >= 0 {
		value = value[:i]
	}
	if at := nextWord.FindStringIndex(value); at != nil {
		value = value[:at[0]]
	}
	if len(strings.Fields(value)) > mostWords {
		value, _, _ = strings.Cut(value, " ")
	}
	return strings.TrimRight(value, " \t")
}

// publicWords end or begin names that only sound like a secret's: a key of the
// registry, a token of a public assembly, a pin board.
var publicWords = lazy.MustCompile(`(?i)(?:publickeytoken|^key$|regkey|keypath|keyname|hkey|registrykey|subkey|keyfile|keyboard|passed|passes|bypass|compass|tokens?_?(?:type|count|read|expires?)|shipping|mapping|pinned|ping|spin|pinyin|pin_?to|upgradepin|typing|keycode|sastype|monkey|hotkey)`)

// notSecret says whether a name is one of them.
func notSecret(parts []string) bool {
	return slices.ContainsFunc(parts, func(part string) bool { return publicWords.MatchString(strings.Trim(part, `"'<> `)) })
}

// hideSerials hides licences: by the names of their values, and by their five
// groups of five. A product code says nothing of its owner, a version and a
// time are none.
func (m *Masker) hideSerials(text, low string) string {
	if holds(low, serialWords) {
		text = serialValue.ReplaceAllStringFunc(text, func(t string) string {
			f := serialValue.FindStringSubmatch(t)
			value := strings.Trim(f[3], `"'`)
			if strings.HasPrefix(value, "{") || state(strings.ToLower(value)) || stamp.MatchString(value) ||
				!strings.ContainsAny(value, "0123456789") || strings.HasPrefix(value, "(masked") {
				return t
			}
			return m.hide(Serial, f[1]+f[2]+orMasked(m.learn(Serial, value)))
		})
	}
	if strings.Count(text, "-") > 2 {
		text = serialPattern.ReplaceAllStringFunc(text, func(t string) string {
			if !strings.ContainsAny(t, "ABCDEFGHIJKLMNOPQRSTUVWXYZ") {
				return t
			}
			return m.hide(Serial, orMasked(m.learn(Serial, t)))
		})
	}
	return text
}

// stamp is a version, a date or a time.
var stamp = lazy.MustCompile(`^(?:\d+(?:\.\d+){1,3}|\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}.*|\d{1,2}:\d{2}.*)$`)

// nearAddress are words before four numbers that make an address of them, and
// versionNear those that make a version.
var (
	nearAddress = lazy.MustCompile(`(?i)(?:\bip|address|addr|host|server|proxy|gateway|dns|connect(?:ed|ing)?(?: to)?|from|client|peer|remote|ping|//|@)[\s:="'(\[]*$`)
	versionNear = lazy.MustCompile(`(?i)(?:version|ver\.?|build|v|release|product|file|windows|runtime|framework|engine|update|\bto|_)[\s:="'(]*$`)
)

// hideAddresses hides what a machine is called on the network. Four numbers are
// an address when words or a port say so, or in the blocks of private networks
// where nothing says that they are a version.
func (m *Masker) hideAddresses(text string) string {
	if strings.Count(text, ":") >= 5 || strings.Count(text, "-") >= 5 {
		text = macPattern.ReplaceAllStringFunc(text, func(t string) string { return m.hide(Address, "00:00:5E:00:53:00") })
	}
	if strings.Contains(text, "::") || strings.Count(text, ":") >= 7 { // shortened, or with all its eight groups
		text = v6Pattern.ReplaceAllStringFunc(text, func(t string) string {
			from := strings.IndexFunc(t, func(r rune) bool { return r == ':' || r >= '0' && r <= '9' || r|0x20 >= 'a' && r|0x20 <= 'f' })
			a, err := netip.ParseAddr(t[max(from, 0):])
			if err != nil || !a.Is6() || a.IsLoopback() || a.IsUnspecified() {
				return t
			}
			return t[:max(from, 0)] + m.hide(Address, orMasked(m.learn(Address, t[max(from, 0):])))
		})
	}
	if dotted(text) {
		text = replaceAt(v4Pattern, text, func(from, to int) string {
			t := text[from:to]
			a, err := netip.ParseAddr(t)
			if err != nil || a.IsLoopback() || a.IsUnspecified() || strings.HasPrefix(t, "255.") ||
				strings.HasPrefix(text[to:], ".") || from > 0 && strings.ContainsRune(".-", rune(text[from-1])) {
				return t
			}
			// Four numbers with dots may be a version: what stands around them
			// decides.
			before := text[max(0, from-24):from]
			port := len(text) > to+1 && text[to] == ':' && text[to+1] >= '0' && text[to+1] <= '9'
			if !port && !nearAddress.MatchString(before) && (!a.IsPrivate() && !a.IsLinkLocalUnicast() || versionNear.MatchString(before)) {
				return t
			}
			for _, ours := range []string{"192.0.2.", "198.51.100.", "203.0.113."} {
				if strings.HasPrefix(t, ours) && m.kinds[t] == Address {
					return t
				}
			}
			return m.hide(Address, orMasked(m.learn(Address, t)))
		})
	}
	if strings.Contains(text, "+") || holds(strings.ToLower(text), []string{"phone", "tel", "mobile", "fax"}) {
		text = phonePattern.ReplaceAllStringFunc(text, func(t string) string {
			f := phonePattern.FindStringSubmatch(t)
			number := f[1] + f[2]
			if stamp.MatchString(number) {
				return t
			}
			return t[:len(t)-len(number)] + m.hide(Phone, orMasked(m.learn(Phone, number)))
		})
	}
	return text
}

// dotted says whether a text has three dots between digits near each other, as
// an address has.
func dotted(text string) bool {
	dots, last := 0, 0
	for i := 1; i+1 < len(text); i++ {
		if text[i] != '.' || !digit(text[i-1]) || !digit(text[i+1]) {
			continue
		}
		if i-last > len("123.") {
			dots = 0
		}
		if dots, last = dots+1, i; dots == 3 {
			return true
		}
	}
	return false
}

// digit says whether a byte is a figure.
func digit(b byte) bool { return b >= '0' && b <= '9' }

// replaceAt replaces what matches, by its place.
func replaceAt(p *lazy.Regexp, text string, with func(from, to int) string) string {
	var b strings.Builder
	at := 0
	for _, f := range p.FindAllStringIndex(text, -1) {
		b.WriteString(text[at:f[0]] + with(f[0], f[1]))
		at = f[1]
	}
	return b.String() + text[at:]
}
