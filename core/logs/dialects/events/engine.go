// This file makes messages of events: the engine's own, and those of others
// that tell of setups.

package events

import (
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/story"
)

// sort brings the events into the order of their time: exports are often newest
// first.
func (r *Reader) sort() {
	if len(r.events) < 2 {
		return
	}
	if !slices.ContainsFunc(r.events, func(e event) bool { return !strings.Contains(e.time, "T") }) {
		slices.SortStableFunc(r.events, func(a, b event) int { return strings.Compare(a.time, b.time) })
		return
	}
	// Other forms of time cannot be compared as text; the order of one begin
	// and its end tells which way round the export is.
	begin, end := -1, -1
	for i, e := range r.events {
		switch {
		case e.id == transactionBegin && begin < 0:
			begin = i
		case (e.id == transactionEnd || e.id == installed) && end < 0:
			end = i
		}
	}
	if end >= 0 && begin > end {
		slices.Reverse(r.events)
	}
}

// Events of the installer engine. Source: the platform SDK's installer
// documentation, "Event Logging"; message n is logged as 10000 + n.
const (
	transactionBegin = 1040
	transactionEnd   = 1042
	installed        = 1033
	removed          = 1034
	configured       = 1035
	updated          = 1036
	restartNeeded    = 1038
	messageBase      = 10000
	internalError    = 5 // "Internal error [2]", and what a custom action shows
)

var (
	// The status in the installer's own events: "…; 1603; (NULL); …" or at the
	// text's end.
	statusCode = lazy.MustCompile(`(\d{1,5})\.?\s*(?:;|$)`)
	// "Product: NAME -- text": the word before the colon follows the OS's
	// language.
	productPart = lazy.MustCompile(`^(?:Product|Produkt|Producto|Produit|Prodotto|Produto)\s?: (.+?) -- `)
	// "Error 1921. Service …", "Fehler 1303.": a message's number behind one
	// word, at the start or behind the product.
	numberedText = lazy.MustCompile(`(?:^| -- )\S+ (\d{4,5})[.。:]`)
)

// take makes messages and outcomes of one event.
func (r *Reader) take(e event) {
	engine := strings.EqualFold(e.source, "MsiInstaller")
	if engine && e.id == transactionBegin && r.b.A != nil && (r.b.A.Exit != nil || r.b.A.Closed) {
		r.b.Begin(e.line)
	}
	r.b.Ensure(e.line)
	a := r.b.A
	if date, at, n := lines.Stamp([]byte(e.time)); n > 0 {
		r.b.Stamp(e.line, at, date)
	}
	raw := strings.TrimSpace(e.source + " " + strconv.Itoa(e.id) + ": " + strings.ReplaceAll(e.message, "\n", " "))
	kind := story.KindInfo
	switch peel.Level(e.level) {
	case peel.Error:
		kind = story.KindError
	case peel.Warning:
		kind = story.KindWarning
	}
	if watched[e.id] && watcher.MatchString(e.source) {
		kind = story.KindData
	}
	number := 0
	if engine {
		switch {
		case e.id > messageBase && e.id < messageBase+10000:
			number = e.id - messageBase
		case e.id == configured && goodEnd.MatchString(e.message): // a look at all products writes one for each
			return
		case e.id == installed, e.id == removed, e.id == configured, e.id == updated:
			r.result(e, raw)
			kind = story.KindProduct
		case e.id == transactionEnd:
			a.Closed = true
		case e.id == transactionBegin && a.Package == "":
			a.Package = strings.TrimSpace(strings.SplitN(strings.TrimPrefix(e.message, "Beginning a Windows Installer transaction: "), ". ", 2)[0])
		case e.id == restartNeeded:
			a.Restart = true
		}
		if number == 0 || number == internalError { // which says behind it what it is about
			if m := numberedText.FindStringSubmatch(e.message); m != nil {
				number, _ = strconv.Atoi(m[1])
			}
		}
		if m := productPart.FindStringSubmatch(e.message); m != nil && a.Product.Name == "" {
			a.Product.Name = m[1]
		}
	}
	switch number {
	case 1707, 1724, 1728:
		a.Success = new(true)
	case 1708, 1725, 1729:
		a.Success = new(false)
		kind = story.KindInfo
	}
	text := strings.ReplaceAll(e.message, "\n", " ")
	if _, after, ok := strings.Cut(text, " -- "); ok && engine {
		text = after
	}
	if !engine && kind >= story.KindInfo && !quiet[e.id] {
		return
	}
	if said := endings.Read(text); !engine && kind == story.KindError && said.Exit != nil && said.Failed { // of a program that installs
		r.b.Exit(e.line, *said.Exit, raw)
	}
	r.b.Add(lines.Entry{Line: e.line, At: -1, Kind: kind, Number: number, Source: e.source, Text: text, Raw: raw})
}

// goodEnd is the end of a text about a product with the status 0.
var goodEnd = lazy.MustCompile(`\b0\.?\s*$`)

// quiet are events that tell causes at the level of information: a service's
// start type was changed, a service was put in, a package is under way or was
// refused.
var quiet = map[int]bool{7040: true, 7045: true, 400: true, 401: true, 404: true, 1121: true, 1123: true, 8002: true}

// watched are events that tell what a rule would have stopped if it were in
// force, and did not: program and script rules in audit, attack surface rules
// in audit, code that a policy in audit would refuse. Source: the OS's event
// manifests.
var watched = map[int]bool{8003: true, 8006: true, 8021: true, 8024: true, 1122: true, 1124: true, 1126: true, 3034: true, 3076: true}

// watcher writes them.
var watcher = lazy.MustCompile(`(?i)AppLocker|Defender|CodeIntegrity`)

// result takes "Product Name: N. Product Version: V. … status: 1603." or the
// bare fields of such an event.
func (r *Reader) result(e event, raw string) {
	a := r.b.A
	if parts := strings.Split(e.message, "; "); len(parts) >= 4 && !strings.Contains(parts[0], ": ") {
		a.Product.Name, a.Product.Version = parts[0], parts[1]
		for _, p := range parts[2:] {
			if code, err := strconv.Atoi(p); err == nil && code != 1033 && (code == 0 || code > 1000) && !isLanguage(code) {
				r.b.Exit(e.line, code, raw)
			}
		}
		return
	}
	fields := strings.Split(e.message, ": ")
	if len(fields) >= 5 {
		value := func(s string) string {
			if i := strings.LastIndex(s, ". "); i >= 0 {
				return s[:i]
			}
			return s
		}
		a.Product.Name, a.Product.Version = value(fields[1]), value(fields[2])
	}
	if m := statusCode.FindStringSubmatch(strings.TrimSpace(e.message)); m != nil {
		code, _ := strconv.Atoi(m[1])
		r.b.Exit(e.line, code, raw)
	}
}

// isLanguage says whether a number is one of the usual language identifiers,
// which stand beside the status in bare events.
func isLanguage(n int) bool {
	switch n {
	case 1025, 1028, 1029, 1030, 1031, 1032, 1033, 1034, 1035, 1036, 1038, 1040, 1041, 1042, 1043, 1044, 1045, 1046, 1049, 1053, 1055, 2052,
		2057, 2070, 3082:
		return true
	}
	return false
}
