package realengine

import (
	"os"
	"path/filepath"
	"testing"
)

func TestProbe(t *testing.T) {
	b := newBench(t)
	try := func(name string, edit packageEdit, brk func(), after func()) {
		p := b.edited(name+".msi", edit)
		if brk != nil { brk() }
		code := b.install(windowsPath(filepath.Join(b.dir, name+".log")), "/i", windowsPath(p))
		t.Logf("#### %s: exit %d", name, code)
		log, _ := os.ReadFile(filepath.Join(b.dir, name+".log"))
		os.WriteFile("/tmp/probe-"+name+".log", log, 0o644)
		_, out := b.run(b.program, "why", windowsPath(filepath.Join(b.dir, name+".log")), "--machine", "live", "--no-color", "--width", "120")
		t.Log(out)
		if after != nil { after() }
		b.install("x.log", "/x", windowsPath(p))
	}
	try("good", nil, nil, nil)
	pf := b.on(`C:\Program Files\Saltmarsh Quay`)
	try("folder", nil, func() { os.MkdirAll(pf, 0o755); os.Chown(pf, nobody, nobody); os.Chmod(pf, 0o555) }, func() { os.Chmod(pf, 0o755); os.RemoveAll(pf) })
	try("fileforfolder", nil, func() { os.WriteFile(pf, nil, 0o644) }, func() { os.RemoveAll(pf) })
}
