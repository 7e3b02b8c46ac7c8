// This file gives all that was weighed, for those who want to see it.

package verdict

import (
	"math"

	"hollowkey/core/why/evidence"
)

// A Weighed is a cause that was weighed, with what speaks for and against it.
type Weighed struct {
	Class      string  `json:"class"`             // of the cause
	Subject    string  `json:"subject,omitempty"` // what it is about, of the one that was settled on
	Confidence float64 `json:"confidence"`        // 0 to 1; those of all causes together are at most 1
	Weight     float64 `json:"weight"`            // log-odds, in nats
	For        []Point `json:"for"`               // the heaviest first
	Against    []Point `json:"against"`           // the heaviest first
}

// A Point speaks for a cause, or against it.
type Point struct {
	Weight float64 `json:"weight"`         // in nats
	What   string  `json:"what"`           // the phrase, what a number means, or what a sign says
	Sign   string  `json:"sign,omitempty"` // its ID, where it is one
	Code   *int    `json:"code,omitempty"` // the number, where one said it
	File   string  `json:"file,omitempty"` // of the line
	Line   int     `json:"line,omitempty"` // from 1; 0 where no line shows it
	Text   string  `json:"text,omitempty"` // of the line
}

// Explained are all causes that were weighed, the likeliest first; none of a
// setup that worked.
func (v *Verdict) Explained() (all []Weighed) {
	if v.Worked() {
		return nil
	}
	share := 0.0 // of the others, by their weights
	for i, h := range v.Hypotheses {
		if i > 0 {
			share += math.Exp(h.Total)
		}
	}
	// The verdict's own confidence stands as it was settled; the others share
	// what is left, by their weights.
	for i, h := range v.Hypotheses {
		w := Weighed{Class: h.Class, Weight: round(h.Total), For: []Point{}, Against: []Point{}, Confidence: v.Cause.Confidence}
		if i > 0 {
			w.Confidence = round((1 - v.Cause.Confidence) * math.Exp(h.Total) / share)
		} else if s := v.Cause.Subject; s != nil {
			w.Subject = s.Name
		}
		for _, p := range h.Points {
			if pt := point(p); p.Weight < 0 {
				w.Against = append(w.Against, pt)
			} else {
				w.For = append(w.For, pt)
			}
		}
		all = append(all, w)
	}
	return all
}

// point is a reason as it is shown: its weight without a sign, since that
// stands with the side it speaks for.
func point(p evidence.Point) Point {
	pt := Point{Weight: round(math.Abs(p.Weight)), What: p.What, Sign: p.Sign, Code: p.Code}
	if p.Line != nil {
		pt.File, pt.Line, pt.Text = p.Line.File, p.Line.Line, firstLine(p.Line.Text)
	}
	return pt
}
