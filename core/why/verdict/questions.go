// This file has the questions to a machine by the class of a cause, the
// likeliest first.

package verdict

import (
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/signs"
)

// A question is one look at the machine.
type question struct {
	class string            // of the cause that a yes is
	yes   bool              // only a yes tells: there are causes of the class that it does not ask for
	check string            // its name
	with  map[string]string // its arguments
}

// openClasses are causes behind which a place that cannot be used may stand,
// told in words that fit several of them.
var openClasses = map[string]bool{"unknown": true, "leftover": true, "custom-action": true, "path": true, "permission": true, "elevation": true}

// noDependency tells that what a service depends on is not there, by the OS's
// number or words.
var noDependency = lazy.MustCompile(`(?i)\b1075\b|0x80070433|dependency service does not exist|abhängigkeitsdienst ist nicht vorhanden|service de dépendance n['’]existe pas|servicio de dependencia no existe|servizio di dipendenza non esiste|依存服务不存在`)

// notRunning are words for a service that must run and does not.
var notRunning = lazy.MustCompile(`(?i)\b(?:is |was |be |are )?not (?:been )?(?:running|started|up|active)\b|\bis (?:stopped|down|inactive)\b|\b(?:must|has to|needs to|should) (?:be running|run|be started)\b|\bis not alive\b|` +
	`läuft nicht|(?:ist|wurde) nicht gestartet|ist (?:beendet|gestoppt|angehalten)|muss (?:laufen|gestartet sein)|n['’]est pas (?:démarré|en cours)|est arrêté|ne tourne pas|no (?:está|se está) (?:en ejecución|iniciad|ejecut)|está detenid|` +
	`non è (?:in esecuzione|avviat)|è arrestat|não está (?:em execução|iniciad)|está parad|(?:is|wordt) niet (?:gestart|actief|uitgevoerd)|nie (?:działa|jest uruchomion)|jest zatrzyman|neběží|není spuštěn|je zastaven|` +
	`körs inte|är inte startad|är stoppad|çalışmıyor|durdurul|не запущен|остановлен|не работает|実行されていません|停止しています|開始されていません|실행되고 있지 않|중지|未运行|未启动|已停止`)

// An asker collects questions.
type asker struct {
	user string // whom the setup ran for
	all  []question
}

// put asks a question: pairs are the names and values of its arguments.
func (q *asker) put(class, check string, pairs ...string) {
	with := map[string]string{"user": q.user}
	for i := 0; i+1 < len(pairs); i += 2 {
		with[pairs[i]] = pairs[i+1]
	}
	q.all = append(q.all, question{class: class, check: check, with: with})
}

// hear asks one of which only a yes tells anything.
func (q *asker) hear(class, check string, pairs ...string) {
	q.put(class, check, pairs...)
	q.all[len(q.all)-1].yes = true
}

// questions are what to ask about a cause of a class, the likeliest first.
func (j *judge) questions(class string) []question {
	q := &asker{user: j.caps["user"]}
	kind, name := "", ""
	if s := j.v.Cause.Subject; s != nil {
		kind, name = s.Kind, s.Name
	}
	tool := j.tool()
	if g, ok := j.iniGate(); ok && (class == "condition" || class == "prerequisite" || class == "platform") {
		q.put("condition", "ini-gate", "file", g.file, "section", g.section, "key", g.key, "bound", g.bound, "found", g.found)
		return q.all
	}
	switch path, what := j.located(kind, name); {
	case class == "path" && tool != "":
		q.put("path", "tool-in-path", "tool", tool)
	case class == "leftover" && kind == "service":
		q.put("leftover", "service-left", "service", name)
	case class == "service" && name != "" && path == "":
		j.askService(q, name)
	case class == "network":
		if ofTime.MatchString(j.anchored()) { // certificates and tokens do not hold under a wrong clock
			q.put("network", "clock")
		}
		switch kind {
		case "host":
			q.put("network", "host-reachable", "host", name)
		case "service": // of the OS, without which nothing of the network is set
			q.hear("service", "service-startable", "service", name)
		}
	case class == "security-software":
		q.put(class, "protection")
	case class == "space":
		q.put("space", "space-at", "path", path)
	case class == "source" && strings.HasPrefix(name, `\\`):
		server, _, _ := strings.Cut(strings.TrimPrefix(name, `\\`), `\`)
		q.hear("source", "host-reachable", "host", server)
	case class == "elevation": // the machine may have been looked at from another prompt
		q.hear(class, "not-elevated")
	case class == "path" && path == "" && ofTemporary.MatchString(j.anchored()):
		q.hear("path", "temp-writable")
	case class == "source" && path != "":
		q.hear("source", "drive-there", "path", path)
		if j.pathNotFound() { // the setup may have been to unpack it there
			q.hear("path", "path-usable", "path", path, "what", what, "made", made(j.makesFolder(path)))
		}
	case kind == "drive" && (class == "path" || class == "source") && isDrive.MatchString(name):
		q.hear("path", "path-usable", "path", name[:len("C:")]+`\`, "what", "folder")
	case (class == "leftover" || class == "in-use" || class == "busy") && path != "" && lockFile.MatchString(path):
		pid := ""
		if f := processOf.FindStringSubmatch(j.anchored()); f != nil {
			pid = f[1]
		}
		q.hear(class, "lock-left", "file", path, "process", pid)
	case class == "permission" && readOnly.MatchString(j.anchored()):
		// it is no right that is lacking
	case class == "in-use" && path != "":
		q.put("in-use", "file-holder", "file", path)
	case class == "in-use" && name != "" && (kind == "program" || kind == "file"):
		q.hear("in-use", "program-running", "program", name) // it may have been closed since
	case kind == "key" && (class == "permission" || class == "registry"):
		q.put("permission", "key-writable", "key", name, "by", j.workers())
	case class == "installer-service":
		q.put(class, "installer-service")
	case class == "policy" && j.byPolicy(): // there are more policies than these two
		q.hear(class, "installer-policy")
		q.hear(class, "software-restriction")
	case class == "busy":
		q.put(class, "other-installation")
		q.put(class, "pending-restart")
	case path != "" && class == "path" && !j.making(path): // it may be read, and not there by nature
		j.askPlace(q, path, what)
	case path != "" && openClasses[class] && (class == "permission" || j.making(path) || alreadyThere.MatchString(j.anchored())):
		j.askMaking(q, class, path, what)
	}
	return q.all
}

// askService asks why a service does not start.
func (j *judge) askService(q *asker, name string) {
	switch said := j.anchored(); {
	case slices.ContainsFunc(j.v.Machine, func(f signs.Finding) bool { return f.Check == "service-stoppable" }):
		// it is one that does not stop: what keeps one from starting does not
		// matter
	case noDependency.MatchString(said):
		q.put("service", "service-startable", "service", name)
		q.hear("service", "service-dependency", "service", name)
	case notRunning.MatchString(said):
		q.put("service", "service-running", "service", name)
		q.put("service", "service-account", "service", name)
	default:
		q.put("service", "service-startable", "service", name)
		q.put("service", "service-account", "service", name)
	}
}

// askPlace asks for a place that was to be read.
func (j *judge) askPlace(q *asker, path, what string) {
	if isFolder.MatchString(j.anchored()) {
		q.put("path", "folder-in-the-way", "path", path)
		return
	}
	q.hear("path", "path-usable", "path", path, "what", what, "made", made(j.makesFolder(path)))
	if j.pathNotFound() && j.a.Dialect != story.Engine && what == "file" { // the engine takes back the folders that it made
		q.hear("path", "folder-missing", "path", path, "what", j.leadingTo(what))
	}
}

// askMaking asks for a place where something was to be made or changed.
func (j *judge) askMaking(q *asker, class, path, what string) {
	there := alreadyThere.MatchString(j.anchored())
	if what == "file" && !hasExtension.MatchString(path) && there { // what was to be made is not told
		q.hear("path", "empty-file", "path", path)
	}
	if what == "file" && hasExtension.MatchString(path) { // of a folder there the OS says that access is denied
		q.hear("path", "folder-in-the-way", "path", path)
	}
	by := j.workers()
	if class == "permission" {
		q.put("permission", "file-writable", "file", path, "by", by)
		if by == "user" { // a service of the setup may do it
			q.hear("permission", "file-writable", "file", path, "by", "SYSTEM")
		}
	}
	usable := []string{"path", path, "what", what, "made", made(j.makesFolder(path))}
	if j.pathNotFound() { // that nothing stands in the way is no answer to that
		q.hear("path", "path-usable", usable...)
		if class != "permission" && j.a.Dialect != story.Engine && (what == "file" || j.makesFolder(path)) {
			q.hear("path", "folder-missing", "path", path, "what", j.leadingTo(what))
		}
	} else {
		q.put("path", "path-usable", usable...)
	}
	if class != "permission" {
		q.put("permission", "file-writable", "file", path, "by", by)
	}
}

// leadingTo is what a path is of which a part is not there: of a folder that
// was to be made, that part lies above it, as of a file.
func (j *judge) leadingTo(what string) string {
	if makingFolder.MatchString(j.anchored()) {
		return "file"
	}
	return what
}

// pathNotFound says whether the lines hold the OS's words or its number for a
// path of which a part is not there.
func (j *judge) pathNotFound() bool {
	const notFound = 3 // ERROR_PATH_NOT_FOUND
	m := j.v.Cause.Message
	if code, told := evidence.CodeOfText(strings.ToLower(j.anchored()), "path"); told && code == notFound {
		return true
	}
	return pathNotFound.MatchString(j.anchored()) || m != nil && *m == notFound
}

// byPolicy are the engine's exit codes and messages that tell of a policy of
// its own. Source: the platform SDK, "Windows Installer Error Messages".
var byPolicy = map[int]bool{1625: true, 1640: true, 1643: true, 1644: true, 1645: true, 1649: true, 1718: true}

// workers are who does the work of what failed, as checks take it.
func (j *judge) workers() string {
	switch j.a.Dialect {
	case story.Engine:
		return ""
	case story.Servicing, story.Driver, story.AppPackage:
		return "SYSTEM"
	}
	for _, m := range slices.Concat(j.a.Messages[:min(len(j.a.Messages), firstWords)], j.anchor, j.before()) {
		if bySystem.MatchString(m.Text) {
			return "SYSTEM"
		}
	}
	return "user"
}
