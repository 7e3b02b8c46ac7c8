// This file reads lines that give two sides, one wanted and one found.

package evidence

import (
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/why/lexicon"
)

// Lines that hold what is and what has to be, side by side and without a word
// for a failure: "domain joined: no (required: yes)", "kelpcore.dll is a 32-bit
// image, the loader is 64-bit", "3 of 4 volumes found".

// sidesOf finds what such a line, in small letters, tells.
func sidesOf(lower string) (clues []Clue) {
	looks := []func(string) (Clue, bool){otherAnswer, otherWidths, fewerThere, otherSize, otherSum, fullQuota, moduleCall, turnedHome}
	for _, look := range looks {
		if c, ok := look(lower); ok {
			clues = append(clues, c)
		}
	}
	return clues
}

// asksFor is a question that is answered with no, and has to be answered with
// yes, or the other way round.
var asksFor = lazy.MustCompile(`(?:^|[,;(\] ])([\pL][\pL\d ._-]{2,40}?) ?(?:[:=]|is|->) ?(no|false|off|none|disabled|absent|nein|non|yes|true|on|enabled|ja|oui|sí)\b[ ,;(\[/-]{1,4}(?:but |and )?(?:is )?` +
	`(?:required|requires|expected|expects|needed|needs|wanted|wants|must be|should be|erforderlich|erwartet|soll|requis|attendu|requerido|esperado)(?: is| to be)?[ :=]{1,3}(no|false|off|none|disabled|absent|nein|non|yes|true|on|enabled|ja|oui|sí)\b`)

// good are the answers that mean yes.
var good = map[string]bool{"yes": true, "true": true, "on": true, "enabled": true, "ja": true, "oui": true, "sí": true}

// otherAnswer says that a line holds such a question.
func otherAnswer(lower string) (c Clue, ok bool) {
	at := asksFor.FindStringSubmatchIndex(lower)
	if at == nil || good[lower[at[4]:at[5]]] == good[lower[at[6]:at[7]]] {
		return c, false
	}
	return Clue{Class: "condition", Strength: lexicon.Root, Compared: true, Name: strings.TrimSpace(lower[at[2]:at[3]]), At: at[2],
		What: strings.TrimSpace(lower[at[2]:at[3]]) + ": " + lower[at[4]:at[5]] + ", and it has to be " + lower[at[6]:at[7]]}, true
}

// oneWidth is something that has 32 or 64 bits.
var oneWidth = lazy.MustCompile(`([\pL\d._+-]{2,40})(?: process| image| program| module| version| edition)? (?:is|ist|est|es|has|runs as|=|:)[ :]{0,2}(?:an? |the )?(?:only )?(32|64)[- ]?bits?\b`)

// wideHosts are what a program of 32 bits runs on, though they have 64.
var wideHosts = map[string]bool{"os": true, "system": true, "windows": true, "machine": true, "host": true, "cpu": true, "processor": true, "computer": true, "pc": true,
	"betriebssystem": true, "système": true, "sistema": true, "hardware": true, "platform": true}

// loaders are what loads others into itself, or is loaded.
var loaders = lazy.MustCompile(`\.(?:dll|ocx|drv|sys|node|pyd|so)$|^(?:loader|office|caller|parent|driver|provider|plug-?in|add-?in|module|library|interpreter|jvm|java|python|bibliothek|treiber)$`)

// otherWidths says that a line tells of two things that do not have the same
// bits, and have to.
func otherWidths(lower string) (c Clue, ok bool) {
	if !strings.Contains(lower, "32") || !strings.Contains(lower, "64") {
		return c, false
	}
	all := oneWidth.FindAllStringSubmatch(lower, 3)
	if len(all) != 2 || all[0][2] == all[1][2] {
		return c, false
	}
	loads := false
	for _, m := range all {
		if m[2] == "64" && wideHosts[m[1]] {
			return c, false
		}
		loads = loads || loaders.MatchString(m[1])
	}
	if !loads { // a window and a helper of other bits get on well
		return c, false
	}
	return Clue{Class: "platform", Strength: lexicon.Root, Compared: true, Kind: "bits", Name: all[0][1], At: strings.Index(lower, all[0][1]),
		What: all[0][1] + " has " + all[0][2] + " bits, and " + all[1][1] + " " + all[1][2]}, true
}

// ofMedia is how many of the parts of what is installed were found.
var ofMedia = lazy.MustCompile(`\b(\d{1,4}) (?:of|out of|from|von|sur|de|di) (\d{1,4}) (?:volumes?|dis[ck]s?|cabinets?|cabs?|archives?|parts?|media|medien|packages|pakete|payloads?|containers?|segments?|pieces?)(?: files)? (?:were |are |is )?(?:found|present|there|available|on the medium|gefunden|vorhanden|trouvés?|encontrad[oa]s?|trovat[ie])\b`)

// fewerThere says that some of them are not there.
func fewerThere(lower string) (c Clue, ok bool) {
	m := ofMedia.FindStringSubmatch(lower)
	if m == nil || len(m[1]) > len(m[2]) || len(m[1]) == len(m[2]) && m[1] >= m[2] {
		return c, false
	}
	return Clue{Class: "source", Strength: lexicon.Root, Compared: true, At: strings.Index(lower, m[0]), What: m[0]}, true
}

var (
	// declaredBy is where the size of a file is written down.
	declaredBy = lazy.MustCompile(`\b(?:(?:in|by|from|per|according to) (?:the )?(?:manifest|catalog(?:ue)?|index|header|feed|file table|packing list)|` +
		`(?:manifest|catalog(?:ue)?|index|header|feed)(?: file)?:? (?:says|lists|declares|expects|announces|wants|size)|declared|announced|content-length)\b`)
	// longNumber is a size in bytes.
	longNumber = lazy.MustCompile(`\b\d{5,15}\b`)
	// noSizes are words by which two sizes of a line need not be the same.
	noSizes = lazy.MustCompile(`\b(?:compressed|packed|free|of \d{5,}|offset|position|resum\w+|so far|progress|remaining|bytes/s|limit|maximum|max|build|crc|version|items|entries|files)\b`)
)

// otherSize says that a line holds the size of a file and another one that is
// written down for it.
func otherSize(lower string) (c Clue, ok bool) {
	if !sized.MatchString(lower) || !declaredBy.MatchString(lower) || noSizes.MatchString(lower) {
		return c, false
	}
	all := longNumber.FindAllString(lower, 3)
	if len(all) != 2 || all[0] == all[1] {
		return c, false
	}
	return Clue{Class: "corrupt", Strength: lexicon.Root, Compared: true, At: strings.Index(lower, all[0]), What: "one size is " + all[0] + ", and the other " + all[1]}, true
}

// quotaUsed is a quota and what of it is used, or the other way round.
var quotaUsed = lazy.MustCompile(`\b(?:quota|kontingent)\b`)

// fullShare is of a quota what is as good as all of it.
const fullShare = 0.97

// fullQuota says that a line tells of one that is used up.
func fullQuota(lower string) (c Clue, ok bool) {
	if !quotaUsed.MatchString(lower) {
		return c, false
	}
	var bytes []float64
	var used []bool
	for _, m := range amountIn.FindAllStringSubmatchIndex(lower, 3) {
		n, ok := bytesOf(lower[m[2]:m[3]], lower[m[4]:m[5]])
		before, after := lower[max(0, m[2]-len("in use now: ")):m[2]], lower[m[5]:min(len(lower), m[5]+len(" are in use"))]
		if ok {
			bytes = append(bytes, n)
			used = append(used, slices.ContainsFunc([]string{"used", "in use", "usage", "belegt", "utilisé", "usado"}, func(w string) bool {
				return strings.Contains(before, w) || strings.HasPrefix(strings.TrimLeft(after, " ("), w)
			}))
		}
	}
	if len(bytes) != 2 || used[0] == used[1] {
		return c, false
	}
	all, taken := bytes[0], bytes[1]
	if used[0] {
		all, taken = taken, all
	}
	if taken < fullShare*all {
		return c, false
	}
	return Clue{Class: "space", Strength: lexicon.Root, Compared: true, Kind: "quota", What: "a quota that is used up", At: strings.Index(lower, "quota")}, true
}

// modules is a call that loads a module, and the number that it gave.
var modules = lazy.MustCompile(`\b(?:loadlibrary\w*|loadmodule|load_library|dlopen)\(["']?([^)"']{3,160})["']?[^)]{0,20}\)[^\d]{0,24}?\b(126|127|193|1157|0x0*7[ef]|0x0*c1)\b`)

// moduleCall says that such a call gave nothing.
func moduleCall(lower string) (c Clue, ok bool) {
	m := modules.FindStringSubmatchIndex(lower)
	if m == nil {
		return c, false
	}
	class, what := "prerequisite", "a module, or one that it needs, is not there"
	if n := lower[m[4]:m[5]]; n == "193" || strings.HasSuffix(n, "c1") {
		class, what = "platform", "a module for another processor"
	}
	return Clue{Class: class, Strength: lexicon.Root, Call: true, Name: lower[m[2]:m[3]], What: what, At: m[2]}, true
}

// homeward is a host of the outside whose name leads back to this machine.
var homeward = lazy.MustCompile(`\b((?:[a-z\d-]+\.)+[a-z]{2,}) ?(?:resolve[sd] to|->|=|is at|points to) ?(?:127\.0\.0\.\d|0\.0\.0\.0|::1)(?:$|[^\d.])`)

// turnedHome says that a line tells of one.
func turnedHome(lower string) (c Clue, ok bool) {
	m := homeward.FindStringSubmatchIndex(lower)
	if m == nil {
		return c, false
	}
	return Clue{Class: "network", Strength: lexicon.Root, Name: lower[m[2]:m[3]], What: "a host's name that leads to this machine", At: m[2]}, true
}
