package verdict

import (
	"context"
	"fmt"
	"os"
	"testing"
)

func TestDebugBurst(t *testing.T) {
	name := os.Getenv("LOGFILE")
	if name == "" {
		t.Skip()
	}
	f, _ := os.Open(name)
	s, _ := Read(context.Background(), Input{"x", f}, Options{}.Reading)
	a := s.Last()
	v, _ := Judge(s, Options{})
	_ = v
	j := judge{a: a, v: &Verdict{}}
	j.v.Outcome = outcome(a)
	j.trail = breaking(a, j.v.Outcome)
	if n := len(j.trail); n > 0 {
		j.broke = j.trail[n-1]
	}
	j.weigh()
	if j.broke != nil {
		fmt.Println("broke", j.broke.Name, j.broke.Line, j.broke.EndLine)
	}
	if a.Exit != nil {
		fmt.Println("exit", *a.Exit)
	}
	fmt.Println("rollback", a.Rollback, "last", a.LastLine, "msgs", len(a.Messages), "attempts", len(s.Attempts))
	fmt.Println(j.said.Debug())
}
