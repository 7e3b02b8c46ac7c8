// This file looks for what a log does not name but lies beside it: the package,
// mostly.

package why

import (
	"os"
	"path/filepath"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/why/inquiry"
	"hollowkey/core/why/verdict"
)

// mostBeside is how many packages beside a log are opened to see whether they
// are the one that it is about: a share of packages holds thousands.
const mostBeside = 50

// findBeside looks for the package that a log does not name in the log's own
// folder, by the product code that the log tells, and lets the verdict have it.
// Logs that stop in the middle name none.
func findBeside(v *verdict.Verdict, m machine.Machine) {
	if v.Product.Code == nil || *v.Product.Code == "" || len(v.Logs) == 0 {
		return
	}
	looked := 0
	for _, path := range packagesBeside(m, v.Logs[0].File) {
		if looked++; looked > mostBeside {
			return
		}
		p, err := inquiry.Find(m, path)
		if err != nil {
			continue
		}
		props, err := p.DB.Properties()
		p.Close()
		if err == nil && strings.EqualFold(props["ProductCode"], *v.Product.Code) {
			v.Package = path
			v.Remarks = append(v.Remarks, path+" lies beside the log and is the package of this product; it was asked, too")
			return
		}
	}
}

// packagesBeside are the packages in the folder of a log, which lies on the
// machine or on this computer.
func packagesBeside(m machine.Machine, log string) (paths []string) {
	isPackage := func(name string) bool { return strings.EqualFold(filepath.Ext(name), ".msi") }
	if _, _, err := machine.SplitPath(log); err == nil {
		list, err := m.ReadDir(log[:strings.LastIndexByte(log, '\\')])
		if err != nil {
			return nil
		}
		for _, i := range list {
			if !i.Folder && isPackage(i.Path) {
				paths = append(paths, i.Path)
			}
		}
		return paths
	}
	list, err := os.ReadDir(filepath.Dir(log))
	if err != nil {
		return nil
	}
	for _, e := range list {
		if e.Type().IsRegular() && isPackage(e.Name()) {
			paths = append(paths, filepath.Join(filepath.Dir(log), e.Name()))
		}
	}
	return paths
}
