package verdict

// A Weighed is a cause that was weighed, with what speaks for and against it.
type Weighed struct {
	Class  string  `json:"class"`  // of the cause
	Weight float64 `json:"weight"` // log-odds, in nats
	Points []Point `json:"points"` // the heaviest first
}

// A Point speaks for a cause, or against it.
type Point struct {
	Weight float64 `json:"weight"`         // in nats; below 0 against
	What   string  `json:"what"`           // the phrase, what a number means, or what a sign says
	Sign   string  `json:"sign,omitempty"` // its ID, where it is one
	Code   *int    `json:"code,omitempty"` // the number, where one said it
	File   string  `json:"file,omitempty"` // of the line
	Line   int     `json:"line,omitempty"` // from 1; 0 where no line shows it
	Text   string  `json:"text,omitempty"` // of the line
}

// Explained are all causes that were weighed, the likeliest first; none of a setup
// that worked.
func (v *Verdict) Explained() (all []Weighed) {
	if v.Worked() {
		return nil
	}
	for _, h := range v.Hypotheses {
		w := Weighed{Class: h.Class, Weight: round(h.Total), Points: []Point{}}
		for _, p := range h.Points {
			pt := Point{Weight: round(p.Weight), What: p.What, Sign: p.Sign, Code: p.Code}
			if p.Line != nil {
				pt.File, pt.Line, pt.Text = p.Line.File, p.Line.Line, firstLine(p.Line.Text)
			}
			w.Points = append(w.Points, pt)
		}
		all = append(all, w)
	}
	return all
}
