// This file asks the machine about what the telling lines name, where all else
// is open.

package verdict

import (
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

// Where the words of a log tell no cause, or hardly one, the things that the
// telling lines name are asked of the machine all the same: a service that is
// disabled there, a folder on a drive that is gone, a tool that PATH hides, are
// what the line speaks of, in whatever words.

const (
	mostProbed = 8 // things that are asked of: a line that names more is a list
	linesBack  = 2 // lines before the telling one that may name what it speaks of
)

// probed are the classes of causes that a yes of the machine alone may move,
// since the words for them fit many things, each with the classes that it may
// move to; nil stands for all.
var probed = map[string][]string{"unknown": nil, "custom-action": nil, "policy": nil, "source": nil, "leftover": nil,
	"prerequisite": {"service"}, "path": {"path"}, "service": {"service", "path"}}

// wellTold is the confidence of a cause from which a look at another thing
// moves it no more.
const wellTold = 0.9

// A probe is a question about a thing, and the thing.
type probe struct {
	question
	about signs.Subject
}

// probes are what to ask about the things that the telling lines name.
func (j *judge) probes() (all []probe) {
	add := func(class, check string, about signs.Subject, pairs ...string) {
		with := map[string]string{"user": j.caps["user"]}
		for i := 0; i+1 < len(pairs); i += 2 {
			with[pairs[i]] = pairs[i+1]
		}
		all = append(all, probe{question{class: class, yes: true, check: check, with: with}, about})
	}
	for _, m := range j.told() {
		text := withFields(m.Text)
		if m.Source != "" { // a name in front of a colon may be what is spoken of
			text = m.Source + ": " + text
		}
		for _, n := range names.In(text) {
			switch n.Kind {
			// A path is asked about as what it was to be: a folder that is made
			// may be absent, one that is read may not.
			case names.Path:
				path := strings.TrimRight(n.Text, `\`)
				what := "file"
				makes := makingFolder.MatchString(text)
				if makes || notFolder.MatchString(text) || folderField(text, path) {
					what = "folder"
				}
				if isPath.MatchString(path) {
					add("path", "path-usable", signs.Subject{Kind: what, Name: path}, "path", path, "what", what, "made", made(makes))
				}
			case names.Drive:
				add("path", "path-usable", signs.Subject{Kind: "drive", Name: n.Text}, "path", n.Text+`\`, "what", "folder")
			case names.Key:
				if writesKey.MatchString(text) {
					add("permission", "key-writable", signs.Subject{Kind: "key", Name: n.Text}, "key", n.Text, "by", j.workers())
				}
			}
		}
		for _, w := range strings.FieldsFunc(text, notOfName) {
			switch {
			case names.ToolFolder(w) != "" && !alsoWords[strings.ToLower(w)] && toolMissing.MatchString(text):
				add("path", "tool-in-path", signs.Subject{Kind: "program", Name: w}, "tool", w)
			case aboutServices.MatchString(text) && ownName.MatchString(w) && !unlikelyService(w) && !noService[strings.ToLower(w)]:
				add("service", "service-startable", signs.Subject{Kind: "service", Name: w}, "service", w)
			}
		}
		if len(all) > mostProbed {
			break
		}
	}
	return all[:min(len(all), mostProbed)]
}

var (
	// ownName is a word that a service may be called: with a capital within, or
	// a figure, or of one word with a capital in front.
	ownName = lazy.MustCompile(`^[A-Z][A-Za-z0-9_$-]{3,40}$|^[a-z]+[A-Z][A-Za-z0-9_$-]{2,40}$`)
	// aboutServices are words with which a line speaks of what runs or does
	// not: a service that somebody disabled on purpose is not named by chance.
	aboutServices = lazy.MustCompile(`(?i)disabl|\bservice|\bstart|\bdepend|not running|\bto run\b|deaktiviert|\bdienst|désactiv|deshabilit|disabilit|desativ|uitgeschakeld|wyłączon|zakázán|inaktiver|devre dışı|отключ|служб|無効|サービス|已禁用|服务|사용 안 함|서비스|\b10(?:58|68)\b|0x8007042[2c]`)
	// writesKey are words for writing to a key.
	writesKey = lazy.MustCompile(`(?i)\b(?:set|write|writing|add|adding|create|creating|delete|deleting|change|update|save)\w*\b|SetValue|CreateKey`)
	// toolMissing are words for a command that is not there.
	toolMissing = lazy.MustCompile(`(?i)not found|no such|could not find|cannot find|can't find|\bwhich\b|\b9009\b|not recogni[sz]ed|FILE_NOT_FOUND|\b(?:error|code|returned|exited with|rc)[ =:]{1,2}2\b|\(2\)|(?:could not|cannot|can't|unable to|failed to) (?:be )?(?:launch|start|run|execute)`)
)

// alsoWords are tools of the OS whose names are words of sentences, too.
var alsoWords = wordSet("find more replace sort label print choice where timeout compact convert expand control comp write clip query msg net tree route start recover")

// notOfName says whether a letter is none of a name.
func notOfName(c rune) bool { return strings.ContainsRune(" \n\t\"'`(),;:=<>[]{}|/\\„“”«»", c) }

// told are the lines in which the run says that it broke, and what stands right
// before the first.
func (j *judge) told() []*story.Message {
	near := j.before()
	lines := slices.Clone(j.anchor)
	if j.said != nil {
		for _, m := range j.said.Broke() {
			if m.Kind <= story.KindWarning && !slices.Contains(lines, m) && len(lines) < mostProbed {
				lines = append(lines, m)
			}
		}
	}
	return append(lines, near[:min(len(near), linesBack)]...)
}

// probe asks the machine about the things that the lines name, where nothing
// else that was asked is so: the first that is settles the cause.
func (j *judge) probe() {
	v := j.v
	own := *v.Cause.Class
	to, known := probed[own]
	if v.Shown() || !known && v.Cause.Confidence >= saysLittle {
		return
	}
	for _, q := range j.probes() {
		// A yes of the machine moves a verdict only along causes whose words
		// are alike, and never one that the log tells well.
		if len(to) > 0 && !slices.Contains(to, q.class) || q.class != own && v.Cause.Confidence >= wellTold {
			continue
		}
		f, caps := j.opt.Machine.Check(q.check, q.with)
		if f.Answer != "yes" || slices.ContainsFunc(v.Machine, f.Same) {
			continue
		}
		class := q.class
		if f.Class != "" {
			class = f.Class
		}
		about := q.about
		if caps["service"] != "" {
			about.Name = caps["service"]
		}
		// The first yes counts: further ones would be other troubles of the
		// machine, and it has many.
		v.Machine = append(v.Machine, f)
		if class == own {
			v.Cause.Confidence += (1 - v.Cause.Confidence) * (1 - exactFactor)
			v.weighed(own, nearCause*2, f)
		} else {
			v.moveTo(class, f, j.anchored())
		}
		v.Cause.Subject = &about
		v.byMachine(f)
		return
	}
}
