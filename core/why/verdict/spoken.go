// This file finds what lines name in words that say what it is.

package verdict

import (
	"cmp"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

// spoken is how a line names what a class is about, in words that say so.
var spoken = map[string]*struct {
	kind string
	expr *lazy.Regexp
}{
	"in-use": {"port", lazy.MustCompile(`(?i)\bport[ :=#]{1,3}(\d{2,5})\b.{0,60}\b(?:in use|taken|occupied|busy|listen|already|bound|belegt|utilisé|ocupado|occupat|używan|занят)|` +
		`(?:in use|already bound|cannot bind|could not bind|bind\w*\(?|listen\w*)\b[^\\]{0,40}?(?:\bport[ :=]{1,2}|\b(?:\d{1,3}\.){3}\d{1,3}:|\*:|\[?::\]?:|localhost:)(\d{2,5})\b|` +
		`WSAEADDRINUSE.{0,40}?:(\d{2,5})\b|:(\d{2,5})\b.{0,20}(?:WSAEADDRINUSE|EADDRINUSE|address already in use)|EADDRINUSE.{0,40}?:(\d{2,5})\b`)},
	"prerequisite": {"program", lazy.MustCompile(`(?:必要な|所需的|必需的|필요한|[Bb]enötigte[rns]?|[Ee]rforderliche[rns]?|[Rr]equired (?:component|runtime|package|product|framework)?|[Pp]rerequisite:?|[Mm]issing (?:component|runtime|product|framework):?)\s?["'«“「]?((?:\.NET|\p{Lu}[\p{L}\d.+#&_-]*)(?: [\p{Lu}\d\p{Katakana}\p{Han}.][\p{L}\d.+#&ー_-]*){0,4})`)},
	"registry":     {"value", lazy.MustCompile(`\bvalue (?:of |named )?["']?([A-Za-z][\w -]{1,40}?)["']? (?:in|under|of|at|below) (?:the key |key )?["']?HK`)},
	"leftover":     {"folder", lazy.MustCompile(`(?i)(?:^|[^\p{L}])(?:(?:previous|earlier|older|old|existing|former) (?:version|installation|setup|release)|(?:vorherige|frühere|ältere|alte)\w? (?:version|installation)|(?:version|installation) (?:anterior|précédente|ancienne|antérieure|precedente|vecchia|antiga|previa)|versión anterior|instalación anterior|versão anterior|versione precedente|(?:vorige|eerdere|oude) (?:versie|installatie)|(?:poprzedni|star)\w+ (?:wersj|instalacj)\w+|(?:předchozí|stará) (?:verze|instalace)|(?:tidigare|gammal|äldre) (?:version|installation)|önceki sürüm|предыдущ\p{L}+ верси\p{L}+|стар\p{L}+ верси\p{L}+)[^\\]{0,40}?[ :]([A-Za-z]:\\[^"<>|*?,;\n]*?)(?:["),;]|$)`)},
	"source":       {"package", lazy.MustCompile(`(?i)\b(?:content|payload|bundle|image|distribution|inhalt|contenu|contenido) ["']?([\w{}.-]*\d[\w{}.-]*)["']? (?:is |was |could )?(?:not (?:found|available|present|there|be found)|missing|nicht gefunden|introuvable|no encontrado)|\bholds (?:content|payload) ([\w{}.-]*\d[\w{}.-]*)`)},
	"database":     {"property", lazy.MustCompile(`(?i)\bobject name '([^']{2,80})'|\b(?:table|no such column:?|column(?: name)?:?|relation|view|index|constraint|object named|tabelle|tabla|tabella|tabela) ["'\[` + "`" + `]?([a-z_][\w.$]+)`)},
	"command-line": {"option", lazy.MustCompile(`(?:^|[\s"'])([A-Za-z][\w-]{1,30})=(?:''|""|'[^']*'|"[^"]*"|\S*) (?:must|has to|needs|should|is not|may not|cannot)\b|(?:^|\s)([A-Z][A-Z0-9_]{2,}|[/-]{1,2}[A-Za-z][\w-]*)(?:[:=]\S+)? (?:needs|requires|expects|has no|must be|must have|is not a|without) |(?i)\b(?:argument|option|switch|parameter|flag|verb|property|feature)s?(?: (?:is|was|given|named|called))?(?:: ?| )["'‘“«]?([/-]{1,2}\w[\w-]*|[A-Z][A-Z0-9_]{2,}(?:=\S*)?|[\w]+\\\S+)`)},
	"busy":         {"mutex", lazy.MustCompile(`(?i)\b(?:mutex|semaphore|lock|event)(?: named| name)?[ :=]{1,2}["']?((?:Global|Local)\\[^\s"',;]+)|(?:^|[^\w\\])((?:Global|Local)\\[\w{}.-]+)|\b(PendingFileRenameOperations2?|RebootPending|RebootRequired|RebootInProgress|PackagesPending)\b`)},
	"network": {"host", lazy.MustCompile(`\[([\da-f]{0,4}:[\da-f:]{2,38})\](?::\d{2,5})?|` + // an address of IP 6
		`(?i)\b(?:host|server|proxy|port \d{2,5} (?:on|of|at))(?: named?)?[ :=]{1,2}["']?([a-z][a-z\d]*-[a-z\d-]+(?:\\\w+)?|[a-z]+\d[a-z\d-]*(?:\\\w+)?)\b(?:[^.]|\.?$)|` +
		// a machine by its short name, which has a figure or stands in
		// capitals, behind words that lead to one or before what it did not do
		`(?:connect(?:ing|ion)? (?:to|with)|connected to|resolve|route to|handshake with|(?:download|fetch|load|get|reach|answer|response|reply|read)(?:ed|ing)? (?:\w+ )?from|certificate of|ping|contact|reach|verbindung (?:zu|mit)|connexion à|conexión (?:con|a)|connessione a|conexão com|verbinding met|połączenie z|připojení k|anslutning(?:en)? till|соединение с|подключение к)[ :="'«“\[]{1,3}([\da-f]{1,4}:[\da-f:]*:[\da-f:]+|(?-i:[A-Z][A-Z\d]*-[A-Z\d-]+|[A-Za-z][A-Za-z]*-?\d[A-Za-z\d-]*|[A-Za-z][A-Za-z\d]*-[A-Za-z-]*\d[A-Za-z\d-]*)(?:\\\w+)?)(?::\d{2,5})?(?:[^\w.]|$)|` +
		`^["']?((?-i:[A-Z][A-Z\d]+-[A-Z\d-]+|[A-Z]+\d[A-Z\d-]*)(?:\\\w+)?)(?::\d{2,5})?["']?: (?:connection|no answer|no response|timed? ?out|unreachable|refused|not reachable|host)|` +
		// or in small letters with a hyphen, before what became of it
		`(?i:connect(?:ion|ing)? (?:to|with)|connected to|\bping|resolve|ENOTFOUND|handshake with|\breach|contact|verbindung zu) ["']?([a-z][a-z\d]*(?:-[a-z\d]+)+)["']?(?: (?:port|timed?|failed|could|did|is|was|wurde|refused|on)\b|[:,)]|\.?$)|` +
		`\b(?i:such host is known): ?'?([A-Za-z][\w-]{2,14})(?:['")\s,;]|\.?$)|\bENOTFOUND ([A-Za-z][\w-]{2,62})(?:['")\s,;:]|\.?$)`)},
	"policy":          {"value", lazy.MustCompile(`\b((?:DoNot|Disable|Disallow|No|Block|Deny|Prevent|Prohibit|Restrict|Forbid)[A-Z]\w{2,})\s?[=:]\s?"?(?:[1-9]|0x0*[1-9]|true|yes|enabled)\b|\b(Allow[A-Z]\w{3,})\s?[=:]\s?"?(?:0|0x0+|false|no|disabled)\b`)},
	"component-store": {"feature", lazy.MustCompile(`(?:(?:\b|_)(?i:feature|capability|role)[ :=(]{1,2}["'“]?|\b(?i:feature|capability)(?i:name)[ :=]{1,2}["'“]?)([A-Za-z]+[a-z][A-Z0-9~.-][\w.~-]{2,60})|(?:[Ee]nabl(?:ing|e)|[Aa]dd(?:ing)?|[Ii]nstall(?:ing)?) (?:[Ff]eature |[Cc]apability )?["']?((?:\p{Lu}[a-z]+){1,4}\d+|(?:\p{Lu}[a-z]+){2,5}(?:-\w+)*|[\w.]+~~~~[\d.]+)\b`)},
}

// spokenOfIn is what lines name in words that say so.
func (j *judge) spokenOfIn(lines []*story.Message, class string) *signs.Subject {
	x := spoken[class]
	if x == nil {
		return nil
	}
	for _, m := range lines {
		text := firstLine(m.Text)
		f := x.expr.FindStringSubmatch(text)
		if f == nil || class == "registry" && !slices.Contains(j.anchor, m) {
			continue
		}
		if joining[strings.ToLower(cmp.Or(f[1:]...))] { // "the CREATE INDEX statement …": the name may stand further on
			if rest := x.expr.FindStringSubmatch(text[strings.Index(text, f[0])+len(f[0]):]); rest != nil {
				f = rest
			}
		}
		if class == "leftover" {
			if folder := oldFolder(text, cmp.Or(f[1:]...)); folder != "" {
				return &signs.Subject{Kind: x.kind, Name: folder}
			}
			continue
		}
		if name := strings.TrimRight(strings.Trim(cmp.Or(f[1:]...), `,;:'"`), "."); !joining[strings.ToLower(name)] {
			if class == "command-line" {
				name = cmp.Or(j.splitOption(name), name)
			}
			return &signs.Subject{Kind: x.kind, Name: name}
		}
	}
	return nil
}

// joining are words that stand where a name does in another sentence: "missing
// argument for --dir".
var joining = wordSet("for could cannot can is was are were be not must may has have had to in of on at by the and or which that with without needs need wants expects")

// cleared tells that what was in the way is gone.
var cleared = lazy.MustCompile(`(?i)\b(?:removed|uninstalled|deleted|cleared|entfernt|gelöscht|deinstalliert|supprimée?|désinstallée?|eliminad[oa]|rimoss[oa]|removid[oa]|verwijderd|usunięto|odebrán[oa]|borttagen|удален[оа]?)\b`)

// oldFolder is the folder in which a line says that an earlier version lies;
// empty where it was removed.
func oldFolder(line, told string) string {
	if cleared.MatchString(line) {
		return ""
	}
	for _, n := range names.In(told) {
		if n.Kind == names.Path {
			return n.Text
		}
	}
	return ""
}
