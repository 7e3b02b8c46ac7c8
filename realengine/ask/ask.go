// Package ask is what the tests and the program that they run beside a real
// installer engine say to each other.
package ask

// A Request is one piece of work.
type Request struct {
	Run     []string `json:"run,omitempty"`      // run a program and give its exit code
	RawLine string   `json:"raw_line,omitempty"` // its command line as it is

	Database string         `json:"database,omitempty"` // open this package
	Create   bool           `json:"create,omitempty"`   // as a new one
	Import   []string       `json:"import,omitempty"`   // table texts
	SQL      []SQL          `json:"sql,omitempty"`
	Summary  map[int]string `json:"summary,omitempty"` // put into its summary information
	Apply    string         `json:"apply,omitempty"`   // a transform
	Commit   bool           `json:"commit,omitempty"`
	Dump     bool           `json:"dump,omitempty"`

	Conditions  []string          `json:"conditions,omitempty"` // evaluate these in a session of the package
	Actions     []string          `json:"actions,omitempty"`    // after these actions
	Properties  map[string]string `json:"properties,omitempty"` // with these properties
	Environment map[string]string `json:"environment,omitempty"`
	Want        []string          `json:"want,omitempty"` // give these properties
}

// SQL is one statement; a stream takes the last parameter.
type SQL struct {
	Text   string   `json:"text"`
	Params []string `json:"params,omitempty"`
	Stream string   `json:"stream,omitempty"`
}

// An Answer is what came of it.
type Answer struct {
	Error      string            `json:"error,omitempty"`
	Exit       int               `json:"exit,omitempty"`
	Tables     map[string]Table  `json:"tables,omitempty"`
	Summary    map[int]string    `json:"summary,omitempty"`
	Results    []int             `json:"results,omitempty"` // 0 false, 1 true, 2 none, 3 error
	Properties map[string]string `json:"properties,omitempty"`
}

// A Table is a table as the engine tells it.
type Table struct {
	Columns []string `json:"columns"`
	Types   []string `json:"types"`
	Rows    [][]Cell `json:"rows"`
}

// A Cell is one cell; streams come as size and SHA-256.
type Cell struct {
	Null bool   `json:"null,omitempty"`
	Text string `json:"text,omitempty"`
	Size int    `json:"size,omitempty"`
	Hash string `json:"hash,omitempty"`
}
