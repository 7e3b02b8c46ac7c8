package remedy

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/step"
)

// Order puts remedies that a program can take into the order of what they
// change and cost, the smallest first. They come with the evidence in order,
// and advice to a person keeps its place among them.
func Order(list []step.Remedy) {
	var at []int
	var with []step.Remedy
	for i, r := range list {
		if len(r.Steps) > 0 {
			at, with = append(at, i), append(with, r)
		}
	}
	slices.SortStableFunc(with, func(a, b step.Remedy) int {
		x, y := Price(a.Steps), Price(b.Steps)
		return 10*(x.Size-y.Size) + x.Minutes - y.Minutes
	})
	for n, i := range at {
		list[i] = with[n]
	}
}

// Price is what a row of steps asks for together.
func Price(models []step.Model) (all Cost) {
	var effects []string
	for _, m := range models {
		for name := range m {
			k := kinds()[name]
			all.Size += k.Size
			all.Minutes += k.Minutes
			all.Restart = all.Restart || k.Restart
			if k.oneWay != "" {
				effects = append(effects, "it cannot be taken back")
			}
			if k.Effect != "" {
				effects = append(effects, k.Effect)
			}
		}
	}
	all.Effect = strings.Join(slices.Compact(effects), "; ")
	return all
}

// Words says what a price means for a person.
func (c Cost) Words() string {
	size := "changes much"
	switch {
	case c.Size <= 2:
		size = "changes little"
	case c.Size <= 4:
		size = "changes some"
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
