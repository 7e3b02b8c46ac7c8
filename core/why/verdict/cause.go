// This file settles on the cause, by the surest sign or by what is left without
// one.

package verdict

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/step"
	"hollowkey/core/why/codes"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/lexicon"
	"hollowkey/core/why/signs"
)

const (
	leastSure     = 0.3  // a hit below this is not a cause
	bareMessage   = 0.62 // confidence from a message number that no sign knows
	signAdvantage = 0.2  // a sign may be so much less sure than a bare message and still say more
	bareExit      = 0.4  // confidence from an exit code alone
	bareCustom    = 0.55 // a custom action failed and nothing says why
	surest        = 0.98 // a log is a witness, never a proof beyond doubt
	disagreeing   = 0.08 // two causes closer than this cast doubt on each other
	cutLogFactor  = 0.8  // what came after the cut may have been the cause
	struckFactor  = 0.7  // what a machine that does not show the cause leaves of it
	confirmFactor = 0.5  // how much of the doubt a confirmation takes away
	// foreignFactor is what is left of a sign's word in a log whose layout
	// nobody here knows. There it rests on one sentence, with no numbers,
	// actions or results around it to say that the sentence is about the
	// failure: of 13 verdicts over 0.75 on such logs, seen for the first time,
	// 5 were right, while of 39 on known dialects 36 were.
	foreignFactor = 0.65
)

// cause settles on the surest sign, or on what message, exit code or action
// tell by themselves.
func (j *judge) cause() {
	j.caps = j.builtins()
	hits := j.pack.Match(j.scene)
	plainCaptures(hits)
	if j.opt.Machine != nil {
		hits = j.confirm(hits)
	}
	// Logs of vendors have no numbers to go by: signs, words and codes are
	// weighed together there.
	if j.foreign() {
		j.fromAll(hits)
		j.namedSubject()
		j.wholeKind()
		j.ask()
		j.v.Cause.Confidence = round(min(j.v.Cause.Confidence, surest))
		return
	}
	nearestFirst(hits)
	j.v.Hypotheses = evidence.Propose(proposed(hits))
	// The engine's logs are judged by its own messages; its words come only
	// where a message or a sign names no reason.
	best, ok := j.bare()
	if len(hits) == 0 || namesNoReason(hits[0]) {
		if own, said := j.ownWords(); said {
			hits, best, ok = nil, own, true
		} else if own, said := j.ownSentences(); said {
			hits, best, ok = nil, own, true
		}
	}
	if len(hits) > 0 && hits[0].Score >= leastSure && (!ok || hits[0].Score >= best.Confidence-signAdvantage) {
		j.fromHit(hits)
	} else if ok && (j.said == nil || *best.Class != "unknown") {
		j.v.Cause, j.v.Sign = best, ""
	} else if j.said != nil && j.v.Outcome == story.Failed { // nothing that is known of this kind of log: its words
		anchor := j.anchor
		if j.fromAll(hits); ok && *j.v.Cause.Class == "unknown" {
			j.v.Cause, j.v.Sign, j.anchor = best, "", anchor
		}
	} else {
		j.unknown()
	}
	j.systemSays()
	j.programSays()
	j.elevationTells()
	j.namedSubject()
	if c := &j.v.Cause; c.Subject == nil && j.said != nil && *c.Class != "unknown" && *c.Class != "cancelled" {
		if e := j.a.Exit; len(j.anchor) == 0 && e != nil { // the number alone told it
			c.Confidence = min(c.Confidence, bareExit)
			if at := slices.IndexFunc(j.a.Messages, func(m *story.Message) bool { return m.Line == e.Line }); at >= 0 {
				j.anchor = j.a.Messages[at : at+1 : at+1]
			}
		}
		if c.Subject = j.subject(*c.Class); c.Subject != nil && c.Subject.Kind == "service" {
			c.Subject.Name = wholeService(c.Subject.Name, j.anchor)
		}
	}
	// A message's own line may name the file even where the message has no
	// field for it.
	byNumber := j.said == nil && len(j.anchor) > 0 && j.anchor[0].Number > 0 // and by no sign
	if c := &j.v.Cause; c.Subject == nil && byNumber && ofFiles[*c.Class] {
		c.Subject = j.subjectIn(j.anchor[:1], slices.Concat(wanted[*c.Class], []names.Kind{names.Key}), anything)
	}
	if c := &j.v.Cause; c.Subject == nil && *c.Class == "network" { // the engine's own messages name no host
		c.Subject = j.hostOf()
	}
	j.wholeKind()
	j.ask()
	// A log that was cut may have been cut before the cause.
	if j.v.Outcome == story.Unfinished {
		j.v.Cause.Confidence *= cutLogFactor
	}
	// Words of a program that nobody here knows are trusted less than the
	// engine's, unless the machine agrees with them.
	if j.a.Dialect == story.Generic && !slices.ContainsFunc(j.v.Machine, func(f signs.Finding) bool { return f.Answer == "yes" }) {
		j.v.Cause.Confidence *= foreignFactor
	}
	j.v.Cause.Confidence = round(min(j.v.Cause.Confidence, surest))
}

// namedSubject takes what the telling line names for the subject where a sign
// knew no better than what is known of all the run: the product, the package,
// the action that broke. The engine's own messages name what they are about in
// fields of their own.
func (j *judge) namedSubject() {
	c := &j.v.Cause
	if c.Subject == nil || c.Class == nil || len(j.anchor) == 0 || j.anchor[0].Number != 0 || j.anchor[0].Kind == story.KindData {
		return
	}
	text, name := strings.ToLower(unescape(firstLine(j.anchor[0].Text))), strings.ToLower(c.Subject.Name)
	general := name == "file entry" || j.broke != nil && strings.EqualFold(name, j.broke.Name)
	for _, of := range []string{"product", "package", "action"} {
		general = general || strings.EqualFold(j.builtins()[of], name)
	}
	ofNames := ofFiles[*c.Class] || besideWords[*c.Class] || asksOfNamed[*c.Class]
	if !general || !ofNames || strings.Contains(strings.TrimPrefix(text, name+": "), name) {
		return
	}
	if j.said == nil { // the engine's log, whose own actions print what they like
		kinds := slices.Concat(wanted[*c.Class], []names.Kind{names.Path, names.File, names.Key, names.Service, names.Host})
		said := cmp.Or(j.spokenOfIn(j.anchor[:1], *c.Class), j.subjectIn(j.anchor[:1], kinds, started(*c.Class)))
		if said == nil && demanding[*c.Class] {
			said = j.demandedIn(j.anchor[:1])
		}
		if said != nil {
			c.Subject = &signs.Subject{Kind: said.Kind, Name: unescape(said.Name)}
		}
	} else if found := j.subject(*c.Class); found != nil && (strings.Contains(text, strings.ToLower(found.Name)) ||
		*c.Class == "service" && strings.EqualFold(name, j.builtins()["action"])) { // a step, and no service
		c.Subject = found
	}
}

// asksOfNamed are further classes whose subject a line names in plain words.
var asksOfNamed = map[string]bool{"policy": true, "prerequisite": true, "service": true, "network": true, "registry": true, "busy": true, "custom-action": true,
	"component-store": true, "command-line": true, "condition": true, "database": true, "elevation": true}

// unelevated are messages that an all-users package ends with when whoever
// started it had no administrator's rights: something of the machine's could
// not be written, or a DLL or script of the package's could not do its work.
// Source: the platform SDK, "Windows Installer Error Messages".
var unelevated = map[int]bool{1303: true, 1304: true, 1310: true, 1317: true, 1321: true, 1402: true, 1403: true, 1404: true, 1406: true, 1721: true, 1723: true, 1925: true}

// sureOfElevation is how sure that is: the log tells that the run was not
// elevated, and that it was for all users.
const sureOfElevation = 0.85

// elevationTells names the missing elevation as the cause where the log itself
// says that an all-users package ran without it, and the message is one of
// those that this brings.
func (j *judge) elevationTells() {
	c := &j.v.Cause
	if j.a.Dialect != story.Engine || j.a.Elevated == nil || *j.a.Elevated || c.Message == nil ||
		!unelevated[*c.Message] || *c.Class == "elevation" {
		return
	}
	if all := j.a.Properties["ALLUSERS"].Value; all != "1" && all != "2" {
		return
	}
	j.v.Others = append([]Other{{Class: *c.Class, Title: c.Title, Confidence: round(c.Confidence)}}, j.v.Others...)
	said := c.Title
	*c = Cause{Class: new("elevation"), Message: c.Message, Subject: c.Subject, Title: titles["elevation"], Confidence: sureOfElevation,
		Summary: "The package is for all users, and the log says that it ran with a user's rights only: " + said}
	j.v.Sign, j.v.Remedies, j.v.vague = "", nil, false
}

// hostOf is the host that the action that broke speaks of last; nil where it
// names none.
func (j *judge) hostOf() *signs.Subject {
	var lines []*story.Message
	for _, m := range slices.Backward(j.a.Messages) {
		if m.Action != nil && j.broke != nil && m.Action.Within(j.broke) {
			lines = append(lines, m)
		}
	}
	return j.subjectIn(lines, []names.Kind{names.Host}, anything)
}

// wholeKind says of a subject what it is where its class tells: a name that is
// no file is a service's where one fails, and a proxy is called by its name
// where a line has it.
func (j *judge) wholeKind() {
	c := &j.v.Cause
	switch s := c.Subject; {
	case c.Class == nil:
	// A call of the OS's is answered by a service of its own, which the line
	// does not name.
	case s == nil && *c.Class == "service":
		if last := j.rightBefore(j.before()); len(last) > 0 {
			if name := servedIn(last[:1]); name != "" {
				c.Subject = &signs.Subject{Kind: "service", Name: name}
			}
		}
	case s == nil:
	case *c.Class == "service" && s.Kind == kindWords[names.Unsure] && !hasExtension.MatchString(s.Name) && !strings.ContainsAny(s.Name, `\/:`):
		c.Subject = &signs.Subject{Kind: "service", Name: s.Name}
	case *c.Class == "service" && isFile(s.Name): // what was called for it
		c.Subject = nil
		if name := servedIn(slices.Concat(j.anchor, j.rightBefore(j.before()))); name != "" {
			c.Subject = &signs.Subject{Kind: "service", Name: name}
		}
	// Which proxy it was stands where the setup was told to use it.
	case s.Kind == "host" && s.Name == "proxy":
		for _, m := range slices.Backward(j.a.Messages) {
			if f := proxyHost.FindStringSubmatch(firstLine(m.Text)); f != nil {
				c.Subject = &signs.Subject{Kind: "host", Name: f[1]}
				return
			}
		}
	}
}

// proxyHost is the name or address of a proxy behind the word for it, or for
// going by it.
var proxyHost = lazy.MustCompile(`(?i)\b(?:via|through|proxy(?:server|[ _-]server)?|über|par|mediante|tramite)\b[ "'=:(]{1,4}(?:https?://)?((?:[a-z\d][\w-]*\.)+[a-z]{2,}|[a-z][\w-]*\d[\w-]*|\d{1,3}(?:\.\d{1,3}){3})(?::\d{2,5})?(?:[\s"',;)/]|$)`)

// asSystemError is how messages of the engine tell which of their fields is a
// system error.
var asSystemError = lazy.MustCompile(`system error \[(\d)\]`)

// leastEngineNumber is where the installer engine's own numbers begin among the
// system errors; what they say, its messages and signs say better.
const leastEngineNumber = 1600

// systemSays lets the system error in the engine's message decide when it names
// a cause by itself: "error while writing the file" with 225 is protection
// software, whatever the message is mostly about.
func (j *judge) systemSays() {
	if j.a.Dialect != story.Engine || len(j.anchor) == 0 || j.v.Cause.Class == nil {
		return
	}
	for _, m := range j.anchor {
		c, ok := evidence.SystemIn(strings.ToLower(m.Text))
		if e, known := codes.EngineMessage(m.Number); known && !ok {
			if at := asSystemError.FindStringSubmatch(e.Meaning); at != nil {
				field, _ := strconv.Atoi(at[1])
				if n, err := strconv.Atoi(m.Field(field)); err == nil {
					c, ok = evidence.SystemError(n)
				}
			}
		}
		if !ok || c.Strength != lexicon.Root && j.v.Sign != "" || c.Class == *j.v.Cause.Class || *c.Code >= leastEngineNumber {
			continue
		}
		j.decide(c, "the system error behind it is")
		return
	}
}

// programSays lets a system error with which a program of a chain ended decide,
// where the chain itself only knows that it failed: 0x80070020 is a file that
// is held.
func (j *judge) programSays() {
	of := slices.IndexFunc(j.pack.Signs, func(s *signs.Sign) bool { return s.ID == j.v.Sign })
	if j.a.Dialect != story.Chain || of < 0 || j.pack.Signs[of].Says != "nothing" || j.v.Cause.Class == nil {
		return
	}
	for _, m := range j.anchor {
		for _, c := range evidence.CluesIn(strings.ToLower(m.Text)) {
			if c.Code == nil || c.Strength != lexicon.Root || c.Class == *j.v.Cause.Class {
				continue
			}
			j.decide(c, "the program that the chain ran ended with")
			return
		}
	}
}

// decide lets a number's clue name the cause in place of a sign; behind are the
// words that lead to it.
func (j *judge) decide(c evidence.Clue, behind string) {
	j.v.Cause.Class, j.v.Sign, j.v.Remedies = &c.Class, "", nil
	j.v.Cause.Title = titles[c.Class]
	j.v.Cause.Summary = fmt.Sprintf("%s; %s %s", titles[c.Class], behind, c.What)
	j.v.checkable = false
}

// nearestFirst puts signs that name the cause itself before those that only
// speak of it and are not much surer.
func nearestFirst(hits []signs.Hit) {
	slices.SortStableFunc(hits, func(a, b signs.Hit) int {
		return cmp.Compare(b.Score*nearFactor[b.Sign.Says], a.Score*nearFactor[a.Sign.Says])
	})
}

// nearFactor is what a sign's score counts for by how near the cause it is.
var nearFactor = map[string]float64{"": 1, "root": 1, "tells": 0.85, "echo": 0.7, "nothing": 0.6}

// unescape takes the doubled backslashes out of a path that a program printed
// as source text.
func unescape(path string) string {
	if !strings.Contains(path, `:\\`) && !strings.HasPrefix(path, `\\\\`) {
		return path
	}
	return strings.ReplaceAll(path, `\\`, `\`)
}

// wrapped is a system error as an HRESULT.
var wrapped = lazy.MustCompile(`\b0x8007([0-9a-fA-F]{4})\b`)

// namesNoReason says whether a sign tells only that something failed.
func namesNoReason(h signs.Hit) bool { return h.Score < leastSure || h.Sign.Vague() }

// fromHit takes the cause from the sign that won: its class, its title filled
// with what it captured, its remedies. What was captured is cleaned first,
// since a pattern takes a name with what stands around it.
func (j *judge) fromHit(hits []signs.Hit) {
	h := hits[0]
	for name, v := range h.Captures {
		j.caps[name] = unescape(v)
		switch {
		case ofPlaces[name]:
			j.caps[name] = names.WithoutSentence(j.caps[name])
		case name == "need":
			j.caps[name] = thingAlone(j.caps[name])
		}
	}
	s := h.Sign
	j.fillWanted(h)
	c := Cause{Class: new(s.Class), Confidence: h.Score}
	c.Title, _ = signs.Fill(s.Title, j.caps)
	c.Summary, _ = signs.Fill(s.Explanation, j.caps)
	c.Summary = strings.Join(strings.Fields(c.Summary), " ")
	if s.Subject.Kind != "" {
		caps := maps.Clone(j.caps)
		for _, of := range []string{"key", "folder", "file"} { // the machine was asked for what lies above it
			if told := unescape(h.Told[of]); strings.HasPrefix(strings.ToLower(told), strings.ToLower(caps[of])+`\`) {
				caps[of] = told
			}
		}
		name, missing := signs.Fill(s.Subject.Name, caps)
		if len(missing) == 0 && name != "" && name != noAction {
			c.Subject = &signs.Subject{Kind: s.Subject.Kind, Name: strings.TrimRight(wholePlace(name, h.Lines), `\/`)}
			switch {
			case s.Subject.Kind == "service":
				c.Subject.Name = wholeService(name, h.Lines)
			case rootOfKeys.MatchString(name):
				c.Subject.Kind = "key"
			}
		}
	}
	c.Message = j.number(s, h)
	for _, other := range hits[1:] {
		if other.Sign.Class != s.Class && other.Score > h.Score-disagreeing {
			c.Confidence *= 0.95
			break
		}
	}
	for _, other := range hits[1:min(len(hits), 4)] {
		if other.Score >= leastSure {
			title, _ := signs.Fill(other.Sign.Title, other.Captures)
			o := Other{Class: other.Sign.Class, Title: title, Confidence: round(other.Score)}
			if len(other.Lines) > 0 {
				o.Line = other.Lines[0].Line
			}
			j.v.Others = append(j.v.Others, o)
		}
	}
	j.v.Cause, j.v.Sign, j.anchor = c, s.ID, h.Lines
	j.v.captured(h.Captures)
	j.v.checkable, j.v.vague = len(s.Confirm) > 0, s.Vague()
	j.v.mayStep = slices.ContainsFunc(s.Remedies, func(r step.Remedy) bool { return len(r.Steps) > 0 })
	struck := len(s.Confirm) > 0 && !j.v.Shown() && slices.ContainsFunc(j.v.Machine, func(f signs.Finding) bool { return f.Answer == "no" })
	done := map[string]bool{} // classes for which the machine gave steps
	for _, m := range s.Remedies {
		if struck && m.Needs != "" && len(m.Steps) > 0 {
			continue // the machine shows that there is nothing to fix so
		}
		if strings.HasPrefix(m.Title, "stop ") && step.Vital(h.Captures["service"]) != "" {
			continue // nobody should
		}
		if m.Class == "permission" && done[m.Class] && len(m.Steps) == 0 {
			continue // the same, for a person to find out
		}
		for _, r := range j.remedy(m) {
			done[r.Class] = done[r.Class] || m.Needs != "" && len(r.Steps) > 0
			if s.Own() {
				r.From = s.From()
			}
			j.v.Remedies = append(j.v.Remedies, r)
		}
	}
}

// number is the message that the verdict names: the sign's own, that of a line
// that showed it, or a code that was captured.
func (j *judge) number(s *signs.Sign, h signs.Hit) *int {
	told := strconv.Itoa(s.Message)
	if s.Message != 0 && (j.said == nil || len(h.Lines) == 0 ||
		slices.ContainsFunc(h.Lines, func(m *story.Message) bool { return strings.Contains(m.Text, told) })) {
		return &s.Message // a foreign log that never says it has a number of its own
	}
	for _, l := range h.Lines {
		if l.Number != 0 {
			return &l.Number
		}
	}
	if code := h.Captures["code"]; code != "" {
		if n, ok := exitcode.Parse(code); ok {
			return &n
		}
	}
	if j.a.Dialect != story.Engine {
		if e := j.a.Exit; e != nil && len(h.Lines) == 0 && e.Code != 0 {
			return &e.Code
		}
		for _, l := range h.Lines {
			if m := wrapped.FindStringSubmatch(l.Text); m != nil {
				if n, err := strconv.ParseUint(m[1], 16, 16); err == nil && n != 0 {
					return new(int(n))
				}
			}
		}
	}
	// The action's own message names it, even when other lines said why.
	for _, l := range j.scene.Lines {
		if l.Number != 0 && l.Weight > loud && l.Kind <= story.KindNote {
			return &l.Number
		}
	}
	return nil
}

// confirm lets the machine raise or strike what was seen.
func (j *judge) confirm(hits []signs.Hit) []signs.Hit {
	// Each question costs a look at the machine; the signs behind the third are
	// far less sure.
	asked := min(len(hits), 3)
	findings := make([][]signs.Finding, asked)
	for i := range asked {
		h := &hits[i]
		caps := maps.Clone(j.caps)
		maps.Copy(caps, h.Captures)
		for _, c := range h.Sign.Confirm {
			with := map[string]string{}
			complete := true
			for k, text := range c.With {
				v, missing := signs.Fill(text, caps)
				if text == "{user}" && len(missing) > 0 { // then the machine's own user is asked about
					v, missing = "", nil
				}
				complete = complete && len(missing) == 0
				with[k] = v
			}
			// A question with a gap in it would be about something else.
			if !complete {
				continue
			}
			if strings.HasSuffix(c.Check, "-writable") && with["by"] == "" && j.said != nil && j.workers() == "SYSTEM" { // the log says who did the work
				with["by"] = "SYSTEM"
			}
			f, more := j.opt.Machine.Check(c.Check, with)
			maps.Copy(caps, more)
			// What the log itself told is kept apart from what the machine
			// added: proof is shown from the log.
			if h.Told == nil {
				h.Told = maps.Clone(h.Captures)
			}
			maps.Copy(h.Captures, more)
			switch f.Answer {
			case "yes":
				h.Score += (1 - h.Score) * confirmFactor
			case "no":
				h.Score *= struckFactor
			}
			if !slices.ContainsFunc(findings[i], f.Same) {
				findings[i] = append(findings[i], f)
			}
		}
	}
	best := 0
	for i := range asked {
		if hits[i].Score > hits[best].Score {
			best = i
		}
	}
	if asked == 0 {
		return hits
	}
	// What the machine says may bring another sign to the front, but it never
	// brings one that the log did not show.
	hits[0], hits[best] = hits[best], hits[0]
	j.v.Machine = findings[best]
	if !j.v.Shown() && slices.ContainsFunc(j.v.Machine, func(f signs.Finding) bool { return !f.Unread }) {
		j.v.Remarks = append(j.v.Remarks, notNow)
	}
	return hits
}

// fillWanted finds what a sign is about by other ways where its expression has
// not taken it: its title, its questions and its steps want it.
func (j *judge) fillWanted(h signs.Hit) {
	_, missing := signs.Fill(h.Sign.Subject.Name, j.caps)
	if len(missing) != 1 || h.Sign.Subject.Name != "{"+missing[0]+"}" || j.said == nil || len(h.Lines) == 0 {
		return
	}
	had := j.anchor
	j.anchor = h.Lines
	if found := j.subject(h.Sign.Class); found != nil && found.Kind == h.Sign.Subject.Kind {
		j.caps[missing[0]] = found.Name
	}
	j.anchor = had
}

// round leaves two digits: confidences are no finer than that.
func round(f float64) float64 { return float64(int(f*100+0.5)) / 100 }
