package story

import (
	"testing"
	"time"
)

func TestBegan(t *testing.T) {
	near := time.Date(2026, 5, 8, 10, 0, 0, 0, time.UTC)
	for _, tt := range []struct{ date, language, near, want string }{
		{"2026-05-07", "", "", "2026-05-07 09:12"},
		{"5/7/2026", "1033", "", "2026-05-07 09:12"},
		{"7/5/2026", "2057", "", "2026-05-07 09:12"},
		{"7/5/2026", "", "", ""},
		{"7/5/2026", "", "near", "2026-05-07 09:12"}, // 5 July is still to come
		{"3/4/2026", "", "near", "2026-04-03 09:12"}, // both are past: the nearer one
		{"25/4/2026", "", "", "2026-04-25 09:12"},
		{"07.05.2026", "", "", "2026-05-07 09:12"},
		{"07-05-2026", "", "near", "2026-05-07 09:12"},
		{"12/May/2026", "", "", "2026-05-12 09:12"},
		{"5 mai 2026", "", "", "2026-05-05 09:12"},
		{"Feb 19", "", "near", "2026-02-19 09:12"},
		{"Nov 19", "", "near", "2025-11-19 09:12"},
		{"Feb 19", "", "", ""},
		{"1/1/1601", "1033", "", ""},
		{"", "", "near", ""},
	} {
		a := &Attempt{Date: tt.date, FirstTime: 9*time.Hour + 12*time.Minute,
			Properties: map[string]Property{"UserLanguageID": {Value: tt.language}}}
		if tt.language == "" {
			a.Properties = nil
		}
		by := time.Time{}
		if tt.near != "" {
			by = near
		}
		got := ""
		if at, ok := a.Began(by); ok {
			got = at.Format("2006-01-02 15:04")
		}
		if got != tt.want {
			t.Errorf("%q in %q: %s, want %s", tt.date, tt.language, got, tt.want)
		}
	}
}
