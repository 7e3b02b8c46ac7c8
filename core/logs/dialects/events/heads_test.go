package events

import "testing"

// The head of a table is one by its cells, not by a value of an object that
// ends like one of them.
func TestHeadsOfTables(t *testing.T) {
	for line, want := range map[string]bool{
		"Level,Date and Time,Source,Event ID,Task Category":                           true,
		`"Id","TimeCreated","ProviderName","Message"`:                                 true,
		`{"level":"info","host":"T","run":"a","msg":"hash of a.pak is valid","at":3}`: false,
		"Level,Date,Source,Text":                                                      false,
	} {
		if got := detect([]byte(line)) == formCSV; got != want {
			t.Errorf("%q: %v", line, got)
		}
	}
}
