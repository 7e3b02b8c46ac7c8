package evidence

import "fmt"

func (r *Run) Debug() (s string) {
	s = fmt.Sprintln("end", r.end)
	for _, i := range r.burst {
		l := r.lines[i]
		t := l.Text
		if len(t) > 150 {
			t = t[:150]
		}
		s += fmt.Sprintf("B %d k=%v rated=%.2f linked=%.2f rep=%d %s\n", l.Line, l.Kind, l.rated, l.linked, l.Repeated, t)
	}
	for n := range r.hot {
		s += n + "; "
	}
	s += "\n"
	for i := range r.lines {
		l := &r.lines[i]
		for _, c := range l.clues {
			t := l.Text
			if len(t) > 110 {
				t = t[:110]
			}
			s += fmt.Sprintf("C %d %v r=%.2f l=%.2f %s %v %q  %s\n", l.Line, l.Kind, l.rated, l.linked, c.Class, c.Strength, c.What, t)
		}
	}
	return s
}
