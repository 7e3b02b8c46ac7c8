// Command host asks a real installer engine: it reads one request as JSON from
// the file that its first argument names and writes the answer into the second.
// The tests run it under wine.
package main

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"unsafe"

	"hollowkey/realengine/ask"
)

var (
	// The OS's own installer engine. Everything below is one of its public
	// functions, called as its reference tells.
	msi                = syscall.NewLazyDLL("msi.dll")
	openDatabase       = msi.NewProc("MsiOpenDatabaseW")
	openView           = msi.NewProc("MsiDatabaseOpenViewW")
	execute            = msi.NewProc("MsiViewExecute")
	fetch              = msi.NewProc("MsiViewFetch")
	columnInfo         = msi.NewProc("MsiViewGetColumnInfo")
	recordString       = msi.NewProc("MsiRecordGetStringW")
	recordSetString    = msi.NewProc("MsiRecordSetStringW")
	recordSetStream    = msi.NewProc("MsiRecordSetStreamW")
	recordRead         = msi.NewProc("MsiRecordReadStream")
	fieldCount         = msi.NewProc("MsiRecordGetFieldCount")
	isNull             = msi.NewProc("MsiRecordIsNull")
	createRecord       = msi.NewProc("MsiCreateRecord")
	closeHandle        = msi.NewProc("MsiCloseHandle")
	commit             = msi.NewProc("MsiDatabaseCommit")
	applyTransform     = msi.NewProc("MsiDatabaseApplyTransformW")
	importTable        = msi.NewProc("MsiDatabaseImportW")
	openPackage        = msi.NewProc("MsiOpenPackageExW")
	setProperty        = msi.NewProc("MsiSetPropertyW")
	getProperty        = msi.NewProc("MsiGetPropertyW")
	doAction           = msi.NewProc("MsiDoActionW")
	evaluate           = msi.NewProc("MsiEvaluateConditionW")
	summaryInformation = msi.NewProc("MsiGetSummaryInformationW")
	summaryProperty    = msi.NewProc("MsiSummaryInfoGetPropertyW")
	summarySet         = msi.NewProc("MsiSummaryInfoSetPropertyW")
	summaryPersist     = msi.NewProc("MsiSummaryInfoPersist")
	setUI              = msi.NewProc("MsiSetInternalUI")
)

// main reads what is asked from a file, asks the engine, and writes the answer
// to another. No pipes: services that the engine starts would hold them open.
func main() {
	setUI.Call(2, 0) // no dialogs
	var q ask.Request
	b, err := os.ReadFile(os.Args[1])
	if err == nil {
		err = json.Unmarshal(b, &q)
	}
	var a ask.Answer
	if err == nil {
		err = answer(q, &a)
	}
	if err != nil {
		a.Error = err.Error()
	}
	out, _ := json.Marshal(a)
	if err := os.WriteFile(os.Args[2], out, 0o644); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// answer does what is asked, one thing a call.
func answer(q ask.Request, a *ask.Answer) error {
	switch {
	case len(q.Run) > 0:
		c := exec.Command(q.Run[0], q.Run[1:]...)
		if q.RawLine != "" {
			c.SysProcAttr = &syscall.SysProcAttr{CmdLine: q.RawLine}
		}
		var failed *exec.ExitError
		err := c.Run()
		if errors.As(err, &failed) {
			a.Exit, err = failed.ExitCode(), nil
		}
		return err
	case len(q.Conditions) > 0:
		return conditions(q, a)
	}
	mode := uintptr(0) // read only
	if len(q.SQL) > 0 || len(q.Import) > 0 || len(q.Summary) > 0 {
		mode = 1 // transact
		if q.Create {
			mode = 3
		}
	}
	if q.Apply != "" {
		mode = 1
	}
	db, err := openDB(q.Database, mode)
	if err != nil {
		return err
	}
	defer closeHandle.Call(db)
	for _, f := range q.Import {
		if rc, _, _ := importTable.Call(db, text(filepath.Dir(f)), text(filepath.Base(f))); rc != 0 {
			return fmt.Errorf("import %s: %d", f, rc)
		}
	}
	for _, s := range q.SQL {
		if err := run(db, s); err != nil {
			return fmt.Errorf("%s: %w", s.Text, err)
		}
	}
	if len(q.Summary) > 0 {
		if err := putSummary(db, q.Summary); err != nil {
			return err
		}
	}
	if q.Apply != "" {
		if rc, _, _ := applyTransform.Call(db, text(q.Apply), 0); rc != 0 {
			return fmt.Errorf("apply: %d", rc)
		}
	}
	if mode == 3 || q.Commit {
		if rc, _, _ := commit.Call(db); rc != 0 {
			return fmt.Errorf("commit: %d", rc)
		}
	}
	if q.Dump {
		return dump(db, a)
	}
	return nil
}

// text is a string as the engine takes it; it has none with a zero in it.
func text(s string) uintptr {
	p, err := syscall.UTF16PtrFromString(s)
	if err != nil {
		panic(err)
	}
	return uintptr(unsafe.Pointer(p))
}

// openDB opens a database and gives its handle.
func openDB(path string, mode uintptr) (uintptr, error) {
	var db uintptr
	if rc, _, _ := openDatabase.Call(text(path), mode, uintptr(unsafe.Pointer(&db))); rc != 0 {
		return 0, fmt.Errorf("open %s: %d", path, rc)
	}
	return db, nil
}

// run runs one statement with its parameters, a stream among them.
func run(db uintptr, s ask.SQL) error {
	var view, rec uintptr
	if rc, _, _ := openView.Call(db, text(s.Text), uintptr(unsafe.Pointer(&view))); rc != 0 {
		return fmt.Errorf("view: %d", rc)
	}
	defer closeHandle.Call(view)
	if len(s.Params) > 0 || s.Stream != "" {
		n := len(s.Params)
		if s.Stream != "" {
			n++
		}
		rec, _, _ = createRecord.Call(uintptr(n))
		defer closeHandle.Call(rec)
		for i, p := range s.Params {
			recordSetString.Call(rec, uintptr(i+1), text(p))
		}
		if s.Stream != "" {
			if rc, _, _ := recordSetStream.Call(rec, uintptr(n), text(s.Stream)); rc != 0 {
				return fmt.Errorf("stream: %d", rc)
			}
		}
	}
	if rc, _, _ := execute.Call(view, rec); rc != 0 {
		return fmt.Errorf("execute: %d", rc)
	}
	return nil
}

// stringOf calls a function that fills a buffer of characters.
func stringOf(call func(buf uintptr, size uintptr) uintptr) (string, error) {
	size := uint32(256)
	for {
		buf := make([]uint16, size+1)
		n := size + 1
		rc := call(uintptr(unsafe.Pointer(&buf[0])), uintptr(unsafe.Pointer(&n)))
		if rc == 234 { // more data
			size = n + 1
			continue
		}
		if rc != 0 {
			return "", fmt.Errorf("read: %d", rc)
		}
		return syscall.UTF16ToString(buf[:n]), nil
	}
}

// field is a cell of a record as text.
func field(rec uintptr, i int) (string, error) {
	return stringOf(func(b, n uintptr) uintptr { rc, _, _ := recordString.Call(rec, uintptr(i), b, n); return rc })
}

// dump gives all tables with the shapes of their columns, as the engine has
// them.
func dump(db uintptr, a *ask.Answer) error {
	names, _, err := query(db, "SELECT `Name` FROM `_Tables`")
	if err != nil {
		return err
	}
	a.Tables = map[string]ask.Table{}
	for _, n := range names {
		t := ask.Table{}
		rows, shape, err := query(db, "SELECT * FROM `"+n[0].Text+"`")
		if err != nil {
			return fmt.Errorf("table %s: %w", n[0].Text, err)
		}
		t.Rows, t.Columns, t.Types = rows, shape[0], shape[1]
		a.Tables[n[0].Text] = t
	}
	return readSummary(db, a)
}

// query gives the cells of all rows, and the names and types of the columns.
func query(db uintptr, sql string) (rows [][]ask.Cell, shape [2][]string, err error) {
	var view uintptr
	if rc, _, _ := openView.Call(db, text(sql), uintptr(unsafe.Pointer(&view))); rc != 0 {
		return nil, shape, fmt.Errorf("view: %d", rc)
	}
	defer closeHandle.Call(view)
	if rc, _, _ := execute.Call(view, 0); rc != 0 {
		return nil, shape, fmt.Errorf("execute: %d", rc)
	}
	for i := range shape {
		var rec uintptr
		if rc, _, _ := columnInfo.Call(view, uintptr(i), uintptr(unsafe.Pointer(&rec))); rc != 0 {
			return nil, shape, fmt.Errorf("columns: %d", rc)
		}
		n, _, _ := fieldCount.Call(rec)
		for k := 1; k <= int(n); k++ {
			s, err := field(rec, k)
			if err != nil {
				return nil, shape, err
			}
			shape[i] = append(shape[i], s)
		}
		closeHandle.Call(rec)
	}
	for {
		var rec uintptr
		rc, _, _ := fetch.Call(view, uintptr(unsafe.Pointer(&rec)))
		if rc == 259 {
			return rows, shape, nil
		}
		if rc != 0 {
			return nil, shape, fmt.Errorf("fetch: %d", rc)
		}
		var row []ask.Cell
		for k, kind := range shape[1] {
			c, err := cell(rec, k+1, kind)
			if err != nil {
				return nil, shape, fmt.Errorf("%s of row %d: %w", shape[0][k], len(rows)+1, err)
			}
			row = append(row, c)
		}
		rows = append(rows, row)
		closeHandle.Call(rec)
	}
}

// cell is one cell; of a stream, which may be large, only size and hash.
func cell(rec uintptr, i int, kind string) (ask.Cell, error) {
	if null, _, _ := isNull.Call(rec, uintptr(i)); null != 0 {
		return ask.Cell{Null: true}, nil
	}
	if strings.EqualFold(kind[:1], "v") {
		h, size := sha256.New(), 0
		for {
			buf := make([]byte, 64<<10)
			n := uint32(len(buf))
			rc, _, _ := recordRead.Call(rec, uintptr(i), uintptr(unsafe.Pointer(&buf[0])), uintptr(unsafe.Pointer(&n)))
			if rc != 0 {
				return ask.Cell{}, fmt.Errorf("stream: %d", rc)
			}
			if n == 0 {
				return ask.Cell{Size: size, Hash: hex.EncodeToString(h.Sum(nil))}, nil
			}
			h.Write(buf[:n])
			size += int(n)
		}
	}
	s, err := field(rec, i)
	return ask.Cell{Text: s}, err
}

// readSummary gives the package's summary; a database may have none, which is
// no error.
func readSummary(db uintptr, a *ask.Answer) error {
	var info uintptr
	if rc, _, _ := summaryInformation.Call(db, 0, 0, uintptr(unsafe.Pointer(&info))); rc != 0 {
		return nil // none
	}
	defer closeHandle.Call(info)
	a.Summary = map[int]string{}
	for id := 1; id < 20; id++ {
		var kind, number uint32
		var when [2]uint32
		s, err := stringOf(func(b, n uintptr) uintptr {
			rc, _, _ := summaryProperty.Call(info, uintptr(id), uintptr(unsafe.Pointer(&kind)), uintptr(unsafe.Pointer(&number)),
				uintptr(unsafe.Pointer(&when[0])), b, n)
			return rc
		})
		if err != nil {
			return fmt.Errorf("summary %d: %w", id, err)
		}
		switch kind {
		case 2, 3:
			a.Summary[id] = fmt.Sprint(int32(number))
		case 30:
			a.Summary[id] = s
		}
	}
	return nil
}

// putSummary writes the summary; each property has a type that the format
// fixes.
func putSummary(db uintptr, values map[int]string) error {
	var info uintptr
	if rc, _, _ := summaryInformation.Call(db, 0, 20, uintptr(unsafe.Pointer(&info))); rc != 0 {
		return fmt.Errorf("summary: %d", rc)
	}
	defer closeHandle.Call(info)
	for id, v := range values {
		kind, number := 30, 0
		if id == 1 || id >= 14 && id != 18 {
			kind = 3
			if id == 1 {
				kind = 2
			}
			fmt.Sscan(v, &number)
		}
		if rc, _, _ := summarySet.Call(info, uintptr(id), uintptr(kind), uintptr(number), 0, text(v)); rc != 0 {
			return fmt.Errorf("summary %d: %d", id, rc)
		}
	}
	if rc, _, _ := summaryPersist.Call(info); rc != 0 {
		return fmt.Errorf("summary: %d", rc)
	}
	return nil
}

// conditions lets the engine say which conditions hold, with properties and
// environment as asked.
func conditions(q ask.Request, a *ask.Answer) error {
	for k, v := range q.Environment {
		os.Setenv(k, v)
		k16, _ := syscall.UTF16PtrFromString(k)
		v16, _ := syscall.UTF16PtrFromString(v)
		syscall.SetEnvironmentVariable(k16, v16)
	}
	var pkg uintptr
	if rc, _, _ := openPackage.Call(text(q.Database), 1, uintptr(unsafe.Pointer(&pkg))); rc != 0 {
		return fmt.Errorf("open package: %d", rc)
	}
	defer closeHandle.Call(pkg)
	for _, action := range q.Actions {
		if rc, _, _ := doAction.Call(pkg, text(action)); rc != 0 {
			return fmt.Errorf("%s: %d", action, rc)
		}
	}
	for k, v := range q.Properties {
		if rc, _, _ := setProperty.Call(pkg, text(k), text(v)); rc != 0 {
			return fmt.Errorf("property %s: %d", k, rc)
		}
	}
	for _, c := range q.Conditions {
		rc, _, _ := evaluate.Call(pkg, text(c))
		a.Results = append(a.Results, int(rc))
	}
	a.Properties = map[string]string{}
	for _, name := range q.Want {
		v, err := stringOf(func(b, n uintptr) uintptr { rc, _, _ := getProperty.Call(pkg, text(name), b, n); return rc })
		if err != nil {
			return err
		}
		a.Properties[name] = v
	}
	return nil
}
