// This file tells cheaply which expressions can match a line at all.

package generic

import (
	"strings"
	"sync"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// The expressions that tell stages and ends, and the pieces by which a line
// that has none of them is passed over.

var (
	// "Stage 3/7: copy-files", "task: Register", "[step 2 of 5] 'Unpack'": the
	// name that follows the word and its count.
	stageName = lazy.MustCompile(`(?i)\b(?:stage|step|phase|task|action|job)\b(?:\s+\d+(?:/\d+|\s+of\s+\d+)?)?\s*[:= ]\s*['"\[]?([A-Za-z][\w.:-]*[\w])`)
	// "Starting Berth Client setup 4.2.1 …" on a first line: the product's name
	// and its version.
	opening = lazy.MustCompile(`(?i)^(?:starting |launching )?(?:the )?([A-Z][\w.'&+-]*(?: [A-Z0-9][\w.'&+-]*)*?)(?: (?:setup|installer|updater|update))?,?[ :]+(?:version )?v?(\d+(?:\.\d+)+)\b(.*)$`)
	// Somebody's own words for "the run failed", with the thing that failed
	// beside them: a bare "failed" is said of far too much.
	failing = lazy.MustCompile(`(?i)\b(?:install(?:ation|er)?|set-?up|update|upgrade|deployment|migration|patch|uninstall(?:ation)?|bootstrap|provisioning|rollout|repair|job|run)\b[^.;]{0,80}?\b(?:failed|aborted|was not successful|unsuccessful|could not be completed|did not complete|has failed|cannot continue|giving up)\b|^(?:fatal|giving up|aborting)\b|\brolling back\b|\brolled back\b|\bunhandled exception\b|\bterminating\b.*\berror\b|\bfailed to (?:install|update|upgrade|deploy|apply)\b`)
	// The same for "it worked"; both look at one sentence only, so the distance
	// between the words is bounded.
	working = lazy.MustCompile(`(?i)\b(?:install(?:ation)?|set-?up|update|upgrade|deployment|migration|patch|uninstall(?:ation)?|repair)\b[^.;]{0,60}?\b(?:succeeded|successful(?:ly)?|completed|complete|finished|done|installed)\b|\b(?:successfully|was) (?:installed|updated|upgraded|deployed)\b|\binstalled(?:,| successfully| ok)\b|-> [\pL ]{0,20}\binstalled[.! ]*$`)
	// What takes "it worked" back: denied, conditional, of the future, or of
	// something that was there before.
	notReally = lazy.MustCompile(`(?i)\b(?:not|never|un)\s*(?:\w+ ){0,2}(?:successful|completed|complete|finished|done|made|installed)|\b(?:no|nothing) (?:\w+ )?(?:completed|finished|done|made|installed)\b|\bunsuccessful|failed|\bif\b|\b(?:when|once|until|as soon as) (?:all|the|every|it)\b|\bwill be\b|\bwas installed (?:by|on|before|earlier|in)\b|already installed|not installed|would|\b(?:cannot|can not|can['’]t|could not|couldn['’]t|may not|must not) be\b|\bunable to\b`)
	// Said of a person or of the setup as a whole. "Download cancelled, trying
	// the mirror" ends nothing.
	cancelled = lazy.MustCompile(`(?i)\b(?:cancell?ed by|user cancell?ed|aborted by (?:the )?user|user aborted|operation was cancell?ed by)\b|\b(?:setup|install(?:ation|er)?|update|upgrade|deployment) (?:was |has been |is )?cancell?ed\b`)
)

// What a match of each expression must hold, in small letters: the expressions
// run only where one of the pieces stands, which is in few lines.
const (
	cancelling mark = 1 << iota
	failed
	worked
	staged
	begun
)

// A mark says which expressions have a chance on a line.
type mark uint8

var markPieces = map[mark][]string{
	cancelling: {"cancel", "abort"},
	failed: {"fail", "abort", "success", "complete", "cannot continue", "giving up", "fatal", "rolling",
		"rolled", "unhandled", "terminating"},
	worked: {"succe", "complete", "finished", "done", "installed", "updated", "upgraded", "deployed"},
	staged: append(strings.Split(stageWords, "|"), "task", "action", "job"),
	begun:  {"begin", "start", "processing", "entering", "running"},
}

// marks are all pieces in one set.
var marks = sync.OnceValue(func() (m struct {
	set  *pieces.Set
	of   []mark
	size []int // of the pieces
}) {
	var all []string
	for k, ps := range markPieces {
		for _, p := range ps {
			all, m.of, m.size = append(all, p), append(m.of, k), append(m.size, len(p))
		}
	}
	m.set = pieces.New(all)
	return m
})

// mostStages is how many words for a stage of one line are looked at.
const mostStages = 4

// marksIn are the expressions that have a chance on a text in small letters,
// and the bytes at which words for a stage begin.
func marksIn(low string) (found mark, stages []int) {
	m := marks()
	m.set.Find(low, func(piece, end int) {
		if m.of[piece] != staged {
			found |= m.of[piece]
			return
		}
		from := end - m.size[piece]
		if (from == 0 || !isLetter(low[from-1])) && (end == len(low) || !isLetter(low[end])) {
			if found |= staged; len(stages) < mostStages {
				stages = append(stages, from)
			}
		}
	})
	return found, stages
}

// isLetter says whether a byte of a text in small letters goes on with a word.
func isLetter(c byte) bool { return c >= 'a' && c <= 'z' || c == '_' }

// hasAny says whether a text holds one of some pieces.
func hasAny(low string, pieces []string) bool {
	for _, p := range pieces {
		if strings.Contains(low, p) {
			return true
		}
	}
	return false
}
