// This file says when an attempt began, by whatever the log tells of it.

package story

import (
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/lazy"
)

var (
	// A date's parts without regard to what stands between them.
	dateNumbers = lazy.MustCompile(`\d+`)
	// A month by name, in any language: three letters tell it.
	dateWord = lazy.MustCompile(`\p{L}{3}`)
)

// months are the numbers of months by the first three letters of their names,
// in the languages whose logs write words: English, German, French, Spanish,
// Italian, Dutch.
var months = map[string]string{
	"jan": "1", "ene": "1", "gen": "1", "feb": "2", "fév": "2", "mar": "3", "mär": "3", "mrt": "3", "apr": "4", "avr": "4", "abr": "4",
	"may": "5", "mai": "5", "mag": "5", "mei": "5", "jun": "6", "giu": "6", "jul": "7", "lug": "7", "aug": "8", "aoû": "8", "ago": "8",
	"sep": "9", "set": "9", "oct": "10", "okt": "10", "ott": "10", "nov": "11", "dec": "12", "dez": "12", "déc": "12", "dic": "12",
}

const (
	// earliest is the year before which no engine wrote logs: a clock that was
	// never set, or numbers that are no date.
	earliest = 1999
	// zones is how far two clocks of one moment may lie apart. Source: UTC-12
	// to UTC+14.
	zones = 26 * time.Hour
	// american is the language whose dates have the month before the day.
	// Source: the platform SDK, "Language Identifier Constants".
	american = "1033"
)

// Began is when the attempt began: by the date and the time of day in its log,
// as the machine's clock showed them, without a zone. Where day and month could
// be either way round, the user's language decides, then that no log is younger
// than near, when its file was changed last. It is not ok where the log tells
// no date, or one that stays unclear.
func (a *Attempt) Began(near time.Time) (t time.Time, ok bool) {
	date := a.Date
	if word := dateWord.FindString(date); word != "" {
		month, known := months[strings.ToLower(word)]
		if !known {
			return t, false
		}
		n := dateNumbers.FindAllString(date, -1)
		switch {
		case len(n) == 1 && !near.IsZero(): // Feb 19: of the year that ends with near
			date = strings.Join([]string{strconv.Itoa(near.Year()), month, n[0]}, "-")
			if at, err := time.Parse("2006-1-2", date); err == nil && at.After(near.Add(zones)) {
				date = strings.Join([]string{strconv.Itoa(near.Year() - 1), month, n[0]}, "-")
			}
		case len(n) == 2 && len(n[1]) == 4: // 12/May/2026
			date = strings.Join([]string{n[1], month, n[0]}, "-")
		default:
			return t, false
		}
	}
	n := dateNumbers.FindAllString(date, -1)
	if len(n) != 3 {
		return t, false
	}
	var could []time.Time
	for _, order := range dateOrders(date, n, a.Properties["UserLanguageID"].Value+a.Properties["SystemLanguageID"].Value) {
		at, err := time.Parse("2006-1-2", strings.Join([]string{n[order[0]], n[order[1]], n[order[2]]}, "-"))
		if err != nil || at.Year() < earliest {
			continue
		}
		if a.FirstTime >= 0 {
			at = at.Add(a.FirstTime)
		}
		if near.IsZero() || !at.After(near.Add(zones)) {
			could = append(could, at)
		}
	}
	switch {
	case len(could) == 0:
		return t, false
	case len(could) == 1 || could[0].Equal(could[1]):
		return could[0], true
	case near.IsZero():
		return t, false
	}
	if near.Sub(could[1]) < near.Sub(could[0]) {
		return could[1], true
	}
	return could[0], true
}

// dateOrders are the places of year, month and day in a date, the likelier
// first.
func dateOrders(date string, n []string, languages string) [][3]int {
	ymd, mdy, dmy := [3]int{0, 1, 2}, [3]int{2, 0, 1}, [3]int{2, 1, 0}
	switch {
	case len(n[0]) == 4:
		return [][3]int{ymd}
	case !strings.Contains(date, "/"): // 7.5.2026, 7-5-2026
		return [][3]int{dmy, mdy}[:1+strings.Count(date, "-")/2]
	case strings.Contains(languages, american):
		return [][3]int{mdy}
	case languages != "":
		return [][3]int{dmy}
	}
	if m, _ := strconv.Atoi(n[0]); m > 12 { // only one of them parses
		return [][3]int{dmy}
	}
	return [][3]int{mdy, dmy}
}
