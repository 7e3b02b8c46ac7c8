// Package rehearse stands in for the OS's installer engine on a twin: it runs a
// package's execute sequence with its conditions, makes the changes on the
// twin, rolls back when something fails, and writes a verbose log in the
// engine's form. Where the twin does not say what a program does, it is assumed
// to work, and the result says so.
//
// docs/rehearsal.md tells what is done as the engine does it, and what is not.
package rehearse

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"slices"
	"strings"
	"time"

	"hollowkey/core/machine"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
)

// A Mode is what the engine is asked to do.
type Mode string

// The modes.
const (
	Install   Mode = "install"
	Repair    Mode = "repair"
	Uninstall Mode = "uninstall"
)

// A Request is one call of the engine.
type Request struct {
	Package    string            // path on the machine, or the product code of a registered product
	Transforms []string          // paths on the machine
	Properties map[string]string // of the command line
	Mode       Mode              // install, repair or uninstall
	User       string            // who runs it; the signed-in user when empty
	Started    time.Time         // the log's clock
}

// A Result is how a rehearsal ended.
type Result struct {
	Exit    int      `json:"exit"`                    // as the engine counts
	Product string   `json:"product"`                 // its name
	Version string   `json:"version"`                 // its version
	Code    string   `json:"product_code"`            // product code
	Failed  string   `json:"failed_action,omitempty"` // why it broke, in words; empty when it worked
	Message int      `json:"message,omitempty"`       // engine message of the failure
	Assumed []string `json:"assumed,omitempty"`       // what was taken to work, or left out
}

// The engine's exit codes. Source: the OS's documentation, "MsiExec.exe and
// InstMsi.exe Error Messages".
const (
	exitUnknownProduct = 1605
	exitServiceAccess  = 1601
	exitFatal          = 1603
	exitNoSource       = 1612
	exitBusy           = 1618
	exitNotOpened      = 1619
	exitInvalid        = 1620
	exitTransforms     = 1624
	exitPolicy         = 1625
	exitPlatform       = 1633
	exitOtherVersion   = 1638
	exitPatchTarget    = 1642
	exitRestart        = 3010
)

// A stop ends a setup as the engine would.
type stop struct {
	message int    // 0 when the engine writes none
	text    string // of the message
	detail  string // what the "Note:" line holds besides
	exit    int    // 0 for 1603
}

// Error is why the rehearsal cannot go on.
func (s *stop) Error() string { return s.text }

// session is one run of one package.
type session struct {
	m        machine.Machine        // a copy; it is changed
	req      Request                // what is rehearsed
	db       *installdb.Database    // the package, with its transforms
	world    *gates.World           // works conditions and searches out
	props    map[string]string      // all properties, as they are now
	log      *logger                // the verbose log
	user     machine.Account        // as whom it is run
	source   string                 // folder of the package, with backslash
	dirs     map[string]string      // folders by their key, resolved
	tree     *installdb.Directories // the Directory table
	comps    map[string]*component  // by name
	order    []string               // of components
	features map[string]*feature    // by name
	patch    *installdb.Database    // nil without one

	patchPath, patchCode, patchedFile string // of a patch that is applied along with it

	script   []op                                // what the deferred part does, with its way back
	cabinets map[string]map[string]*bytes.Buffer // read, by their names
	done     []op                                // carried out, to be rolled back
	res      Result                              // grows as it goes
	restart  bool                                // one is due at the end
	depth    int                                 // setups within setups
}

const maxDepth = 3 // of removals within installs

// Run runs the request on a machine and writes the log. The error is about the
// rehearsal itself; how the setup ended is in the result.
func Run(m machine.Machine, req Request, log io.Writer) (Result, error) {
	l := newLogger(log, req.Started)
	s := &session{m: m, req: req, log: l}
	res, err := s.run()
	return res, errors.Join(err, l.flush())
}

// run takes the setup from opening the package to its exit code. A refusal is a
// result with the engine's number, not an error: errors are what the rehearsal
// itself could not do.
func (s *session) run() (Result, error) {
	if err := s.begin(); err != nil {
		var no *stop
		if errors.As(err, &no) {
			s.res.Exit, s.res.Message = no.exit, no.message
			s.refused(no)
			return s.res, nil
		}
		return s.res, err
	}
	s.log.head(s)
	err := s.sequence()
	return s.finish(err)
}

// begin opens the package and looks at what keeps the engine from starting.
func (s *session) begin() error {
	if s.req.User == "" {
		s.req.User = s.m.SignedIn()
	}
	s.user, _ = s.m.Account(s.req.User)
	if err := s.engineReady(); err != nil {
		return err
	}
	path := s.req.Package
	// A product's code stands for the package that the engine kept of it.
	if strings.HasPrefix(path, "{") {
		cached, err := s.registered(path)
		if err != nil {
			return err
		}
		path = cached
	}
	db, err := s.open(path)
	if err != nil {
		return err
	}
	s.db, s.source = db, path[:strings.LastIndexByte(path, '\\')+1]
	if db.Format == installdb.Patch {
		if err := s.patched(path); err != nil {
			return err
		}
	}
	// Transforms come before the properties: they may change them.
	for _, t := range s.req.Transforms {
		if err := s.transform(t); err != nil {
			return err
		}
	}
	s.properties(path)
	return s.fits()
}

// engineReady looks at the installer's service, its policy, and another run.
func (s *session) engineReady() error {
	svc, err := s.m.Service("msiserver")
	if errors.Is(err, fs.ErrNotExist) || err == nil && svc.Start == machine.StartDisabled {
		return &stop{exit: exitServiceAccess, text: "the installer's service is absent or disabled"}
	}
	const key = `HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`
	if v, err := s.m.Value(key, "DisableMSI"); err == nil && v.Words() == "2" {
		return &stop{exit: exitPolicy, message: 1625,
			text: "This installation is forbidden by system policy.  Contact your system administrator."}
	}
	if there, err := s.m.KeyExists(`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\InProgress`); err == nil && there &&
		s.depth == 0 {
		return &stop{exit: exitBusy, message: 1500,
			text: "Another installation is in progress. You must complete that installation before continuing this one."}
	}
	return nil
}

// open opens the package on the twin. The number says which of the engine's two
// refusals it is: not found, or no package.
func (s *session) open(path string) (*installdb.Database, error) {
	info, err := s.m.Stat(path)
	if err != nil {
		return nil, &stop{exit: exitNotOpened,
			text: "This installation package could not be opened.  Verify that the package exists and that you can access it."}
	}
	f, err := s.m.Open(path)
	if err != nil {
		return nil, err
	}
	at, ok := f.(io.ReaderAt)
	if !ok {
		return nil, fmt.Errorf("%s: %w", path, machine.ErrUnsupported)
	}
	db, err := installdb.Open(at, info.Size)
	if err != nil {
		return nil, &stop{exit: exitInvalid, text: "This installation package could not be opened: " + err.Error()}
	}
	return db, nil
}

// transform applies a transform that lies on the twin.
func (s *session) transform(path string) error {
	info, err := s.m.Stat(path)
	if err != nil {
		return &stop{exit: exitTransforms, text: "Error applying transforms.  Verify that the specified transform paths are valid."}
	}
	f, err := s.m.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	at, ok := f.(io.ReaderAt)
	if !ok {
		return fmt.Errorf("%s: %w", path, machine.ErrUnsupported)
	}
	db, err := installdb.Open(at, info.Size)
	if err == nil {
		var t *installdb.TransformFile
		if t, err = installdb.ReadTransform(db, s.db.Columns); err == nil {
			err = s.db.Apply(t)
		}
	}
	if err != nil {
		return &stop{exit: exitTransforms, text: "Error applying transforms: " + err.Error()}
	}
	return nil
}

// fits compares the package with the machine and with what is installed.
func (s *session) fits() error {
	sum, err := s.db.Summary()
	if err != nil {
		return &stop{exit: exitInvalid, text: err.Error()}
	}
	if os := s.m.Facts().OS; os.Architecture != "" && !os.Runs(sum.Platform()) {
		return &stop{exit: exitPlatform, message: 1633,
			text: "This installation package is not supported by this processor type. Contact your product vendor."}
	}
	there := s.isRegistered(s.props["ProductCode"])
	switch {
	case s.patch != nil:
		s.req.Mode = Repair
	// Setting up what is there is a repair, and only with the very package of
	// before.
	case s.req.Mode == Install && there:
		s.req.Mode = Repair
		if was := s.registeredPackage(s.props["ProductCode"]); was != "" && !strings.EqualFold(was, sum.Text(installdb.SummaryRevision)) &&
			s.props["REINSTALLMODE"] == "" {
			return &stop{exit: exitOtherVersion, message: 1638,
				text: "Another version of this product is already installed.  Installation of this version cannot continue.  To configure or " +
					"remove the existing version of this product, use Add/Remove Programs on the Control Panel."}
		}
	case s.req.Mode != Install && !there:
		return &stop{exit: exitUnknownProduct, text: "This action is only valid for products that are currently installed."}
	}
	switch s.req.Mode {
	case Repair:
		s.props["Installed"], s.props["REINSTALL"] = "1", "ALL"
	case Uninstall:
		s.props["Installed"], s.props["REMOVE"] = "1", "ALL"
	}
	return nil
}

// finish rolls back or not, writes the end of the log, and gives the result.
func (s *session) finish(err error) (Result, error) {
	var no *stop
	switch {
	case err == nil:
		if s.restart {
			s.res.Exit = exitRestart
		}
	case errors.As(err, &no):
		s.res.Exit, s.res.Message = exitFatal, no.message
		if no.exit != 0 {
			s.res.Exit = no.exit
		}
	default:
		return s.res, err
	}
	s.log.tail(s)
	return s.res, nil
}

// assume notes once what was taken for granted, so that nobody takes the
// rehearsal for more than it is.
func (s *session) assume(format string, args ...any) {
	if text := fmt.Sprintf(format, args...); !slices.Contains(s.res.Assumed, text) {
		s.res.Assumed = append(s.res.Assumed, text)
	}
}

// row is a row of a table with its columns by name.
type row struct {
	t *installdb.Table // the table it is of
	r installdb.Row    // its cells
}

// text is a cell by its column's name.
func (r row) text(column string) string { return r.t.Get(r.r, column).Text }

// number is a cell that holds one.
func (r row) number(column string) int { return int(r.t.Get(r.r, column).Int) }

// rows are the rows of a table; a package without the table has none.
func (s *session) rows(table string) (list []row, err error) {
	t, err := s.db.TableOrEmpty(table)
	if err != nil {
		return nil, err
	}
	for _, r := range t.Rows {
		list = append(list, row{t, r})
	}
	return list, nil
}

// sortedProps are the names in their order, so that two rehearsals write one
// log.
func (s *session) sortedProps() []string { return slices.Sorted(maps.Keys(s.props)) }

// There says whether a package that a person names is on the machine; one that
// only a log names may be gone, and then that is what the setup fails at.
func There(m machine.Machine, pack string) error {
	if _, _, err := machine.SplitPath(pack); err != nil { // a share or another form: the engine tells
		return nil
	}
	if _, err := m.Stat(pack); errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("%s is not on %s\nhint: give the package's path as it is on that machine", pack, m.Name())
	}
	return nil
}
