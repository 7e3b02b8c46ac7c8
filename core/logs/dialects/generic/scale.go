// This file tells what levels mean that are figures.

package generic

import (
	"maps"
	"slices"

	"hollowkey/core/logs/story"
)

// A scale is what levels that are figures mean. Some programs count up from the
// least grave, others, as system loggers, down from the gravest.
type scale map[string]story.Kind

var (
	// upward is of programs that count from trace at 0 to critical at 5.
	upward = scale{"0": story.KindText, "1": story.KindText, "2": story.KindInfo, "3": story.KindWarning, "4": story.KindError, "5": story.KindError}
	// agents is of management agents: information, warning, error.
	agents = scale{"1": story.KindInfo, "2": story.KindWarning, "3": story.KindError}
	// downward is of programs that count from fatal or error on to debug at 4.
	downward = scale{"0": story.KindError, "1": story.KindError, "2": story.KindWarning, "3": story.KindInfo, "4": story.KindText}
	// system is that of system loggers, RFC 5424, section 6.2.1.
	system = scale{"0": story.KindError, "1": story.KindError, "2": story.KindError, "3": story.KindError, "4": story.KindWarning,
		"5": story.KindInfo, "6": story.KindInfo, "7": story.KindText}
)

// leastScaled is how many lines with such a level tell which scale it is.
const leastScaled = 8

// withoutScale is how many lines without such a level show that none has one:
// it stands on each line, or on none.
const withoutScale = 100

// scaleOf tells the scale by what is written most: errors are few in any log.
func scaleOf(r *Reader, head [][]byte) scale {
	counts, all, bare := map[string]int{}, 0, false
	for i, l := range head {
		if e, ok := r.parse(l); ok && e.number != "" {
			counts[e.number]++
			all++
			bare = bare || e.bare
		}
		if all == 0 && i == withoutScale {
			return nil
		}
	}
	if all < leastScaled || len(counts) < 2 {
		return nil
	}
	seen := slices.Sorted(maps.Keys(counts))
	least, most := seen[0], seen[len(seen)-1]
	// Most lines of any log are mere information: which figure that is tells in
	// which direction the scale goes.
	often := slices.MaxFunc(seen, func(a, b string) int { return counts[a] - counts[b] })
	down := 2*int(often[0]) > int(least[0])+int(most[0])
	found := upward
	switch {
	case down && most > "4":
		found = system
	case down:
		found = downward
	case least > "0" && most <= "3":
		found = agents
	}
	if bare && (!down || most <= "4" || !found.plausible(counts, all)) { // the small ones are counted in three ways at least
		return nil
	}
	return found
}

// mostErrors is the share of lines that are errors in a log of a setup at most:
// the figures of threads are spread more evenly.
const mostErrors = 0.15

// plausible says whether figures that nothing names as levels can be ones of
// this scale.
func (s scale) plausible(counts map[string]int, all int) bool {
	errors := 0
	for figure, n := range counts {
		kind, known := s[figure]
		if !known {
			return false
		}
		if kind == story.KindError {
			errors += n
		}
	}
	return len(counts) > 2 && float64(errors) <= mostErrors*float64(all)
}
