// This file takes failures out that went well later. A setup may try five times
// and only the last counts.

package evidence

import (
	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"slices"
)

// recoveredFactor is what is left of a failure whose operation went well later.
const recoveredFactor = 0.2

// recovered finds the failures whose operation went well later, before the run
// was given up: the same tag in front of a colon, or the same thing by its
// name, with a word for success. Only logs without numbered messages need it;
// the engine says itself which failures it went on after.
func (r *Run) recovered() map[*story.Message]bool {
	open := map[string][]*story.Message{} // failures by what they name
	found := map[*story.Message]bool{}
	cleared, worded := -2*nearCommand, -2*nearCommand // where the last command stands that only clears up, and words for it
	for i := range r.lines {
		m, lower, pos := r.lines[i].Message, r.lines[i].lower, r.lines[i].pos
		if clearsUp.MatchString(lower) {
			cleared = pos
		} else if saysToClear.MatchString(lower) || stopsOne.MatchString(lower) {
			worded = pos
		}
		if before := r.doneOtherwise(i); before != nil {
			found[before] = true
		}
		for _, m := range r.waved(i) {
			found[m] = true
		}
		switch {
		case pos > r.end || m.Rollback || m.Verdict:
		case pos < r.end-nearCommand && (pos-cleared <= nearCommand && notThere.MatchString(lower) ||
			pos-worded <= nearCommand && gone.MatchString(lower)):
			found[m] = true
		case m.Kind <= story.KindWarning:
			for _, k := range concerns(m) {
				open[k] = append(open[k], m)
			}
		case len(open) > 0 && endings.WentWell(m.Text):
			for _, k := range concerns(m) {
				for _, failure := range open[k] {
					found[failure] = true
				}
				delete(open, k)
			}
		}
	}
	return found
}

// Survived says whether a message tells of a failure that was made good later,
// or that does not matter.
func (r *Run) Survived(m *story.Message) bool {
	return r.again[m] || slices.ContainsFunc(r.lines, func(l line) bool { return l.Message == m && l.passes })
}

// doneOtherwise is the failure right before a line that tells that it is done
// another way, by the same part of the program: "cannot write a.log: access
// denied", "logging to memory instead". Close to the end that may be why it
// broke, so it counts only where the run went on for a while.
func (r *Run) doneOtherwise(i int) *story.Message {
	l := &r.lines[i]
	wellEnded := r.a.Success != nil && *r.a.Success
	if !l.said.Instead && !endings.Otherwise(l.lower) || l.Kind <= story.KindError || l.pos > r.end-otherwiseLines && !wellEnded || i == 0 {
		return nil
	}
	for k := i - 1; k >= 0 && k >= i-nearCommand; k-- {
		b := r.lines[k].Message
		switch {
		case b.Source != l.Source:
			continue
		case b.Kind <= story.KindWarning || len(r.lines[k].clues) > 0:
			return b
		}
		return nil
	}
	return nil
}

// otherwiseLines is how many lines a run goes on for at least that did something
// another way and did not break over that.
const otherwiseLines = 6

var (
	// All five are of lines in small letters. clearsUp is a command that stops
	// or removes what an earlier version left, should it be there.
	clearsUp = lazy.MustCompile(`\b(?:sc(?:\.exe)?["']? (?:\\\\\S+ )?(?:stop|delete)|net1?(?:\.exe)?["']? (?:stop|use \S+ /delete|share \S+ /delete)|taskkill(?:\.exe)?|(?:stop|remove)-(?:service|process|item|itemproperty|scheduledtask)|unregister-scheduledtask|schtasks(?:\.exe)?\b[^|]*/(?:delete|end)|reg(?:\.exe)? delete|rmdir|rd /s|del /|regsvr32(?:\.exe)?\b[^|]*/u|netsh\b.*\bdelete)\b`)
	// saysToClear is a line that says so in words, be it above what it does.
	saysToClear = lazy.MustCompile(`^\W*(?:stop(?:ping)?|remov(?:e|ing)|delet(?:e|ing)|clean(?:ing)?(?: up)?|uninstall(?:ing)?|unregister(?:ing)?|kill(?:ing)?|beende|stoppe|entferne|lösche|arrêt|suppression|deteniendo|eliminando|arresto|rimozione)\b.{0,60}\b(?:services?|process(?:es)?|tasks?|old|previous|earlier|existing|dienste?s?|alte\w*|ancienne?|anterior|precedente)\b`)
	// stopsOne is a line that says that one thing is stopped or removed, by its
	// name, and nothing else: "stopping TideSync".
	stopsOne = lazy.MustCompile(`^\W*(?:stop(?:ping)?|remov(?:e|ing)|delet(?:e|ing)|unregister(?:ing)?|kill(?:ing)?|clos(?:e|ing)|beende|stoppe|entferne|lösche|arrêt de|arresto di|deteniendo|zatrzymywanie|zastavuji|stoppar) (?:the )?["'«]?[\w$.-]+["'»]?\W*$`)
	// gone is what the OS answers of a service or a program that is not there:
	// the only answer of which words tell that it is harmless, since an
	// uninstaller that is not there may be why the setup stops.
	gone = lazy.MustCompile(`\b(?:1060|1062)\b|installed service|\bservice\b.{0,60}\b(?:not exist|not installed|not found|not running|not been started)|\bprocess\b.{0,60}\bnot found|^\W*[\w$.-]+["']? (?:is|was) not (?:running|there|registered|started)\b`)
	// notThere is what it answers where nothing is.
	notThere = lazy.MustCompile(`\b(?:1060|1062|1061|3523|2185|128)\b|does not exist|not exist as an installed|is not installed|has not been started|is not started|was not found|not found|cannot find|could not find|unable to find|n'existe pas|introuvable|no existe|existiert nicht|nicht vorhanden|nicht gefunden|nicht gestartet|non esiste|não existe|bestaat niet|nie istnieje|не существует|не найден|存在しません|存在しない|不存在|없습니다`)
)

// nearCommand is how many lines behind a command its answer stands at most: the
// OS's tools write two and a blank one between, and all lines may have a blank one
// behind them.
const nearCommand = 4

// concerns is what a line is about: what it names, or the part of the program
// that tries something for a second time.
func concerns(m *story.Message) []string {
	found := endings.Things(m.Text)
	if len(found) == 0 && m.Source != "" && len(m.Source) <= endings.LongestTag && attempted.MatchString(m.Text) {
		found = append(found, lower(m.Source))
	}
	return found
}

// attempted is which try of something it is.
var attempted = lazy.MustCompile(`(?i)\b(?:attempt|try|retry|versuch|tentative|intento|tentativo|tentativa|poging|próba|pokus|försök|deneme)\b|попытк|回目|재시도|第.次`)
