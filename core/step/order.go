// This file puts remedies into the order of what they cost a person.

package step

import (
	"fmt"
	"slices"
	"strings"
)

// minutesPerSize is how many minutes of waiting weigh as much as one more size
// of change: nobody takes the larger change to save less than that.
const minutesPerSize = 10

// Order puts remedies that a program can take into the order of what they
// change and cost, the smallest first. They come with the evidence in order,
// and advice to a person keeps its place among them. Those that would let
// others in over the network wait to be named.
func Order(list []Remedy) {
	for i := range list {
		list[i].OnlyNamed = list[i].OnlyNamed || opens(list[i].Steps)
	}
	var at []int
	var with []Remedy
	for i, r := range list {
		if len(r.Steps) > 0 && !r.OnlyNamed {
			at, with = append(at, i), append(with, r)
		}
	}
	slices.SortStableFunc(with, func(a, b Remedy) int {
		x, y := Price(a.Steps), Price(b.Steps)
		return minutesPerSize*(x.Size-y.Size) + x.Minutes - y.Minutes
	})
	for n, i := range at {
		list[i] = with[n]
	}
}

// Price is what a row of steps asks for together. Kinds that are not known cost
// nothing here; drafting them is an error.
func Price(models []Model) (all Cost) {
	var effects []string
	for _, m := range models {
		for name := range m {
			k, _ := KindOf(name)
			all.Size += k.Size
			all.Minutes += k.Minutes
			all.Restart = all.Restart || k.Restart
			if k.OneWay != "" {
				effects = append(effects, "it cannot be undone")
			}
			if k.Effect != "" {
				effects = append(effects, k.Effect)
			}
		}
	}
	all.Effect = strings.Join(slices.Compact(effects), "; ")
	return all
}

// smallChange is the size up to which a change is small: an entry, a value, a
// service's state.
const smallChange = 2

// Words says what a price means for a person.
func (c Cost) Words() string {
	size := "larger change"
	if c.Size <= smallChange {
		size = "small change"
	}
	parts := []string{size, "no restart"}
	if c.Restart {
		parts[1] = "needs a restart"
	}
	if c.Minutes > 0 {
		parts = append(parts, fmt.Sprintf("about %d minutes", c.Minutes))
	}
	if c.Effect != "" {
		parts = append(parts, c.Effect)
	}
	return strings.Join(parts, "; ")
}
