// This file settles of what kind a bare name is by the word before it: the user
// 'lantern', the value "Port".

package verdict

import (
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/why/signs"
)

// accountWords stand before an account's name.
const accountWords = `(?:user|account|login|principal|benutzer|konto|dienstkonto|anmeldung|utilisateur|compte|usuario|cuenta|utente|usuário|conta|gebruiker|użytkownika?|konta|uživatele?|účet|användaren?|kontot|kullanıcı|hesabı?|пользовател[ья]|учетная запись|учётная запись)`

// valueWords stand before the name of a registry value.
const valueWords = `(?:value(?: name)?|registrierungswert|wert|valeur|valor|valore|waarde|wartość|hodnota|värdet|değer|параметр)`

// accountBefore and valueBefore are what a line has right before such a name.
var (
	accountBefore = lazy.MustCompile(`(?i)(?:^|[^\p{L}])` + accountWords + `:?\s*["'«“„(]?$`)
	valueBefore   = lazy.MustCompile(`(?i)(?:^|[^\p{L}])` + valueWords + `:?\s*["'«“„(]?$`)
)

// lockedAccount is an account that cannot be logged on to, told with its name.
var lockedAccount = lazy.MustCompile(`(?i)(?:\b` + accountWords + `\s+["'«“„]?|\bpassword (?:of|for)(?: (?:the )?(?:user|account))?\s+["'«“„]?)([\w.-]+(?:[\\@][\w.$-]+)?\$?)["'»”“]?(?:,|:|\.|$| (?:is|was|has been|has|ist|est|está|è|is|jest|je|är)\b)`)

// cannotLogOn is said of such an account.
var cannotLogOn = lazy.MustCompile(`(?i)\blog(?:in|on|-on)?\b|\bpassword\b|\blocked out\b|\bdisabled\b|\bexpired\b|kennwort|gesperrt|mot de passe|verrouillé|contraseña|bloquead[oa]|bloccato|senha|wachtwoord|hasł|zablokowan|heslo|lösenord|parola|пароль`)

// byItsWord gives a name of no known kind the kind that the word before it in
// the cause's own line tells, and finds the account that could not log on where
// nothing else is named.
func byItsWord(s *signs.Subject, class, line string) *signs.Subject {
	switch {
	case s == nil && aboutLogon[class] && cannotLogOn.MatchString(line):
		if f := lockedAccount.FindStringSubmatch(line); f != nil && !notAnAccount.MatchString(f[1]) {
			return &signs.Subject{Kind: "account", Name: f[1]}
		}
	case s == nil || s.Kind != "program" && s.Kind != "service":
	case before(accountBefore, s.Name, line):
		s.Kind = "account"
	case class == "registry" && before(valueBefore, s.Name, line):
		s.Kind = "value"
	}
	return s
}

// aboutLogon are the classes that an account which cannot log on is told in.
var aboutLogon = map[string]bool{"service": true, "custom-action": true, "database": true, "elevation": true, "permission": true,
	"unknown": true}

// notAnAccount is a word of the sentence behind the account's word.
var notAnAccount = lazy.MustCompile(`^(?i:is|was|has|for|of|the|a|name|account|user|password|credentials?|failed|denied|disabled|locked|expired|cannot|could|not|und|ist|et|est)$`)

// before says whether a word stands right before a name in a line, in quotes or
// not.
func before(word *lazy.Regexp, name, line string) bool {
	for from := 0; name != ""; {
		at := strings.Index(line[from:], name)
		if at < 0 {
			break
		}
		if word.MatchString(line[:from+at]) {
			return true
		}
		from += at + len(name)
	}
	return false
}
