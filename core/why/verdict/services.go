// This file finds the service that lines name, by its name or its title.

package verdict

import (
	"cmp"
	"slices"
	"strings"
	"unicode"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

// How lines name a service: by words around its name, by the title that the OS
// shows for it, or by a call or tool that it answers.

// serviceIn is the service that lines name; empty where they name none in one
// of these ways.
func serviceIn(lines []*story.Message) string {
	for _, m := range lines {
		for _, re := range []*lazy.Regexp{saidOf, aService, calledFor} {
			f := re.FindStringSubmatch(firstLine(m.Text))
			if f == nil {
				continue
			}
			name := strings.TrimPrefix(cmp.Or(f[1:]...), "The ")
			if first, _, _ := strings.Cut(name, " "); !noService[strings.ToLower(first)] && !unlikelyService(name) {
				if title := names.ServiceTitled(strings.ToLower(name)); title != "" {
					return title
				}
				return name
			}
		}
	}
	for _, m := range lines {
		if word, _, _ := strings.Cut(m.Text, " "); errorName.MatchString(word) && strings.Contains(word, "SERVICE") && speaks(m) {
			return m.Source // its name stands where others say who speaks
		}
		if name := names.ServiceTitled(strings.ToLower(firstLine(m.Text))); name != "" {
			return name
		}
	}
	return servedIn(lines)
}

// servedIn is the service of the OS that answers what lines call; empty where
// they call none, or name another.
func servedIn(lines []*story.Message) string {
	for _, m := range lines {
		own := slices.ContainsFunc(names.In(firstLine(m.Text)), func(n names.Name) bool {
			return n.Kind == names.Service && !unlikelyService(n.Text)
		})
		for _, c := range servedBy {
			if !own && c.call.MatchString(firstLine(m.Text)) { // a service that is named comes before who answers the call
				return c.service
			}
		}
	}
	return ""
}

// firstService is the first name of a service by its form in lines; empty where
// there is none.
func firstService(lines []*story.Message) string {
	for _, m := range lines {
		for _, n := range names.In(firstLine(m.Text)) {
			if n.Kind == names.Service && !unlikelyService(n.Text) {
				return n.Text
			}
		}
	}
	return ""
}

// unlikelyService says that a word is what was called, or one of the sentence,
// and no service: "Start-Service", "bitsadmin", "EventLog.CreateEventSource",
// "enabling".
func unlikelyService(word string) bool {
	if strings.HasPrefix(word, "0x") || isFile(word) ||
		commandlet.MatchString(word) || names.IsCall(word) || names.ToolFolder(word) != "" || errorName.MatchString(word) {
		return true
	}
	if _, call, dotted := strings.Cut(word, "."); dotted && call != "" && unicode.IsUpper(rune(call[0])) && doesSomething.MatchString(call) {
		return true
	}
	return doneByNow.MatchString(word) || aboutThem.MatchString(word)
}

var (
	// doesSomething begins the name of a function: CreateEventSource.
	doesSomething = lazy.MustCompile(`^(?:Create|Open|Start|Stop|Add|Set|Get|Register|Delete|Remove|Install|Write|Run|Execute|Connect|Invoke|Enable|Query)[A-Z]`)
	// aboutThem is what a step does with services, and the name of none.
	aboutThem = lazy.MustCompile(`(?i)^(?:start|stop|restart|create|register|install|configure|enable|disable|remove|delete|prepare|check|wait for|set up)\w* (?:the |all |of )?(?:\w+ )?services?$`)
	// doneByNow is a word for what is being done, in small letters.
	doneByNow = lazy.MustCompile(`^[a-z]{3,}ing$|^[a-z]{4,}ed$|^(?:missing|unavailable|unknown|not|state|status|error|busy|down|offline|online|ready|gone|fails|stops|starts|needs|uses|deaktiviert|gestoppt|désactivé|deshabilitado|disabilitato)$|^(?:and|but|because|since|failed|error|could|cannot|not|it|is|was|that|which|while|when|after|before|step|phase|install|setup|net|start|stop|create)$`)
)

// aService is a service by its name before that word, which a sentence may
// begin with: "Spooler service is not running", or in front of a colon:
// "KelpSync: service is disabled".
var aService = lazy.MustCompile(`(?:^|[^\pL\d$] ?|\b[Tt]he )([A-Z][\w.$-]{2,40}(?: [A-Z][\w.-]{1,30}){0,4}) service (?:is|was|did|does|could|cannot|can't|failed|fails|has|timed|stopped|will|would|refused|terminated|ended)\b|` +
	`^([A-Z][\w.$-]{2,40}): [Ll]ogon failure\b|^([A-Z][\w.$-]{2,40}): (?:the )?service (?:is|was|did|does|could|cannot|can't|failed|has|timed|stopped|will|would|refused)\b|` +
	// or in front of the name of an error that only services have, or behind
	// what is done with it
	`^([A-Z][\w.$-]{2,40}): (?:error )?ERROR_(?:\w*_)?SERVICE_\w+|` +
	`\b(?:[Ss]tart|[Ss]top|[Rr]estart|[Oo]pen|[Qq]uery|[Cc]reate|[Rr]egister|[Dd]elete|[Pp]ause|[Cc]ontrol)(?:ing)? the ([A-Z][\w.$-]{2,40}(?: [A-Z][\w.-]{1,30}){0,4}) service\b|` +
	`\b(?:(?:Start|Stop|Restart|Set|Get|New|Remove|Suspend|Resume)-Service(?: -Name)?|net1?(?:\.exe)? (?:start|stop)|sc(?:\.exe)? (?:start|stop|create|config|delete|query|failure)) ["']?([A-Za-z][\w.$-]{2,40})["']?(?:[ ,:;)]|$)|` +
	// or before a state that only services have: "Spooler still in
	// STOP_PENDING", "TideSvc did not reach the stopped state"
	`\b([A-Z][\w.$-]{2,40}):? (?:(?:is|was|still|stays|stayed|remains|remained|hangs|stuck|has|been|entered|now|state|in|at|the) ){0,5}(?:START|STOP|PAUSE|CONTINUE)_PENDING\b|` +
	`\b([A-Z][\w.$-]{2,40}) (?:did|does|has|could) not (?:reach(?:ed)?|enter(?:ed)?|leave|left|get|got|come|gone|go) (?:to |into )?(?:the )?(?:stopped|running|started|paused|stopping|starting)\b`)

// nameOfService is a service's name: a title of several words with capitals, or
// one word.
const nameOfService = `(\p{Lu}[\w.$-]*(?: \p{Lu}[\w.$-]*){1,5}|[A-Za-z][\w.$-]{2,60})`

// saidOf is a service by its name behind that word, before what is said of it,
// a number or a colon: "the service tide-agent did not respond", "service Tide
// Sync Service: 1058"; or before a colon and what is said: "failed to start
// Tide Sync: the service is disabled".
var saidOf = lazy.MustCompile(`\b[Ss]ervice ["'«“]?` + nameOfService + `["'»”]?(?: \([\w.$-]+\))?(?: (?:did not|didn't|could not|couldn't|cannot|can't|can not|failed to|fails to|has failed|failed with|is disabled|is not|was not|has not|does not|is marked|` +
	`terminated|timed out|returned|on (?:computer|local)|to (?:start|stop))\b| ?[:(,-] ?(?:[Ee]rror |[Ss]ystem error |code )?\(?\d{2,5}\b|[:.,]? (?:[Aa]ccess|[Ll]ogon|[Tt]imed? ?out)\b|\.$|$)|` +
	`\b(?:[Ss]tart|[Ss]top|[Rr]estart|[Oo]pen|[Ee]nable|[Qq]uery)(?:ing|ed)? (?:the )?["'«“]?` + nameOfService + `["'»”]?: (?:the|this|that) service\b|` +
	`(?:^|\b[Tt]he |\b[Oo]pen )(\w+[.$_-][\w.$-]*|\w+(?:svc|srv|agent)|\p{Lu}[\w.$-]*(?: \p{Lu}[\w.$-]*){0,5}) service (?:on (?:computer|local)|is marked|terminated|entered|hung|could not|did not|is disabled|is not|failed)\b|` +
	`\bnet1?(?:\.exe)? (?:start|stop) "([^"]{3,60})"`)

// calledFor is a service as the argument of one of the OS's calls:
// "OpenService(TideSync) failed", "StartService for TideSync returned".
var calledFor = lazy.MustCompile(`\b(?:Start|Stop|Open|Control|Create|Delete|Query|Notify)(?:Service\w*|ServiceStatus\w*)(?: FAILED \d+:?)?(?: (?:for|on|of|with))?[ (:]{1,2}["']?([A-Za-z][\w.$-]{2,60})["']?(?:[),:]| (?:returned|failed|gave|error|->|=)|$)`)

// noService are words, in small letters, that are no service's name where they
// stand before that word, nor in front of a colon.
var noService = map[string]bool{"the": true, "this": true, "that": true, "another": true, "any": true, "each": true, "every": true, "required": true,
	"windows": true, "system": true, "remote": true, "local": true, "error": true, "warning": true, "fatal": true, "failure": true, "setup": true,
	"installer": true, "install": true, "step": true, "check": true, "status": true, "result": true, "reason": true, "which": true, "our": true,
	"state": true, "svc": true, "pack": true, "account": true, "control": true, "manager": true, "start": true, "stop": true, "name": true,
	"host": true, "process": true, "type": true, "key": true, "entry": true, "definition": true, "configuration": true, "database": true, "endpoint": true,
	"url": true, "call": true, "worker": true, "user": true, "password": true, "binary": true, "executable": true, "file": true, "path": true, "installation": true,
	"registration": true, "handle": true, "object": true, "list": true, "group": true, "dependency": true, "dependencies": true, "recovery": true, "startup": true,
	"request": true, "response": true, "desk": true, "provider": true, "in": true, "on": true, "at": true, "by": true, "and": true, "or": true, "with": true, "service": true, "it": true, "he": true, "background": true, "dependent": true, "depending": true, "said": true, "old": true, "new": true, "exception": true, "info": true}

// servedBy are calls and tools of the OS that a service of it answers: where it
// does not, they say that a server is not available.
var servedBy = []struct {
	service string
	call    *lazy.Regexp
}{
	{"Spooler", lazy.MustCompile(`\b(?:Add|Delete|Set|Enum|Open|Get|Install|Upload)Printer\w*|\bAdd(?:Port|Monitor|PrintProcessor)\b|\bPrintUIEntry\b|(?i:\bprnmngr|\badd-printer|\bwinspool)`)},
	{"Schedule", lazy.MustCompile(`(?i)\bschtasks\b|\b(?:Register|Get|Set|New|Unregister|Start|Enable)-ScheduledTask\w*|\bITask(?:Service|Folder|Scheduler)\b`)},
	{"BITS", lazy.MustCompile(`(?i)\bbitsadmin\b|\b(?:Start|Get|Resume|Add|Complete)-Bits\w+|\bIBackgroundCopy|\bBITS (?:job|transfer|download|client|error)\b`)},
	{"Winmgmt", lazy.MustCompile(`(?i)\bmofcomp\b|\bwmic\b|\bIWbem\w+|\b(?:Get|Invoke|Set|New)-(?:Wmi|Cim)\w+|\bWMI (?:query|namespace|provider|call|class|connection)\b|\bWQL\b`)},
	{"wuauserv", lazy.MustCompile(`(?i)\bwusa\b|\bWUA API\b|\bIUpdate(?:Session|Searcher|Installer)\b|\b(?:Add|Get)-WindowsCapability\b|/add-capability\b|\bWindows Update Agent\b`)},
	{"TrustedInstaller", lazy.MustCompile(`(?i)\bdism\b|\b(?:Enable|Disable|Get)-WindowsOptionalFeature\b|\bInstall-WindowsFeature\b|\bTiWorker\b|\bpkgmgr\b`)},
	{"EventLog", lazy.MustCompile(`(?i)\bCreateEventSource\b|\bNew-EventLog\b|\beventcreate\b|\bwevtutil\b|\bRegisterEventSource\w*`)},
	{"CryptSvc", lazy.MustCompile(`\bCryptCATAdmin\w+|\bCryptCATCDF\w+`)},
	{"VSS", lazy.MustCompile(`(?i)\bvssadmin\b|\bIVssBackup\w+`)},
	{"W32Time", lazy.MustCompile(`(?i)\bw32tm\b`)},
	{"AppXSvc", lazy.MustCompile(`(?i)\b(?:Add|Get|Remove)-Appx\w+`)},
	{"MpsSvc", lazy.MustCompile(`(?i)\badvfirewall\b|\b(?:Get|Set|Enable|Remove)-NetFirewall\w+|\bNew-NetFirewallRule\b|\bINetFwPolicy`)},
}

// ofServices is a service that a line next to the telling one names by what
// became of it, or by what is done with it: "Tide.Sync could not be created",
// "creating TideSync".
func (j *judge) ofServices() *signs.Subject {
	for _, m := range j.a.Messages {
		if n := j.ahead(m); n > around/2 || -n > nearby {
			continue
		}
		for _, re := range []*lazy.Regexp{becameOf, doneWith} {
			if f := re.FindStringSubmatch(firstLine(m.Text)); f != nil && !strings.EqualFold(f[1], j.a.Product.Name) && !names.IsCall(f[1]) {
				return &signs.Subject{Kind: "service", Name: f[1]}
			}
		}
	}
	return nil
}

var (
	// becameOf is a name of one word that says by its form that it is one, and
	// what did not become of it.
	becameOf = lazy.MustCompile(`(?:^|[\s"'«“(:])(\p{L}[\p{L}\d-]*[.$_\p{Lu}\d][\p{L}\d.$_-]*)["'»”)]* (?:(?:could|can|did|does|will|was) ?not|cannot|failed to|refused to|konnte nicht|kann nicht|startet nicht|n'a pas|no se pudo|non si)\b`)
	// doneWith is such a name at the end of a line that tells what is done with
	// it.
	doneWith = lazy.MustCompile(`(?i:\b(?:creat|start|stopp?|install|delet|register|configur|enabl|anleg|erstell|créa|démarr|cre|inici|avvi|uruch)\pL{0,8})(?: (?i:service|dienst|von|of|the|le|el|il))* ["'«“]?(\p{L}[\p{L}\d-]*[.$_\p{Lu}\d][\p{L}\d.$_-]*)["'»”]?[.…]*\s*$`)
)
