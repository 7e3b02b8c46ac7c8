package exitcode

import "testing"

func TestGood(t *testing.T) {
	for code, want := range map[int][2]bool{0: {true, false}, 3010: {true, true}, 1641: {true, true}, 1603: {false, false},
		1: {false, false}, -1: {false, false}} {
		if got := [2]bool{Good(code), Restart(code)}; got != want {
			t.Errorf("%d: good and restart are %v; want %v", code, got, want)
		}
	}
	for _, c := range All {
		if !Good(c) {
			t.Errorf("%d is listed and not good", c)
		}
	}
}

func TestUnwrap(t *testing.T) {
	for _, tt := range []struct {
		in   int64
		want int
	}{
		{1603, 1603}, {0x80070643, 1603}, {-2147023293, 1603}, {0x80070005, 5}, {5, 5}, {0x80040154, -2147221164}, {0, 0}, {-1, -1},
		{0x00070005, 0x70005}, // no failure: nothing is wrapped
	} {
		if got := Unwrap(tt.in); got != tt.want {
			t.Errorf("Unwrap(%#x) = %d; want %d", tt.in, got, tt.want)
		}
	}
	if _, ok := Win32(0x80040005); ok {
		t.Error("another facility carries a system error")
	}
}

func TestParse(t *testing.T) {
	for in, want := range map[string]int{"1920": 1920, "0x80072ee7": 12007, "0x80073712": 14098, "0x800f0988": -2146498168, "-5": -5} {
		if got, ok := Parse(in); !ok || got != want {
			t.Errorf("Parse(%q) = %d, %v; want %d", in, got, ok, want)
		}
	}
	for _, in := range []string{"", "x", "0x", "0x123456789"} {
		if got, ok := Parse(in); ok {
			t.Errorf("Parse(%q) = %d", in, got)
		}
	}
}
