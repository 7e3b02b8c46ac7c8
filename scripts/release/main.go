// Command release builds what is handed out: archives for Windows and Linux
// with the licences of what is inside, man pages, completions, checksums, and a
// list of the parts. Two runs on one commit give the same bytes.
//
//	go run ./scripts/release -version 1.2.3 -out dist
package main

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra/doc"

	"hollowkey/cli"
)

// targets are the systems that it is built for.
var targets = []struct{ os, arch string }{{"windows", "amd64"}, {"windows", "arm64"}, {"linux", "amd64"}, {"linux", "arm64"}}

// main makes the archives of a release.
func main() {
	version := flag.String("version", "0.0.0", "of the release, three numbers")
	out := flag.String("out", "dist", "folder for the archives; it is made anew")
	flag.Parse()
	if err := release(*version, *out); err != nil {
		fmt.Fprintln(os.Stderr, "release:", err)
		os.Exit(1)
	}
}

// An entry is one file of an archive.
type entry struct {
	name     string // with strokes
	contents []byte
	program  bool // it may be run
}

// release builds for each system and packs what was built. Times in the
// archives are the commit's, so that two builds of one commit are the same,
// byte for byte.
func release(version, out string) error {
	when, err := commitTime()
	if err != nil {
		return err
	}
	if err := os.RemoveAll(out); err != nil {
		return err
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	common, err := papers(when)
	if err != nil {
		return err
	}
	var sums bytes.Buffer
	keep := func(name string, b []byte) error {
		fmt.Fprintf(&sums, "%x  %s\n", sha256.Sum256(b), name)
		return os.WriteFile(filepath.Join(out, name), b, 0o644)
	}
	for _, t := range targets {
		program, err := build(version, t.os, t.arch)
		if err != nil {
			return err
		}
		name := fmt.Sprintf("hollowkey-%s-%s-%s", version, t.os, t.arch)
		files := append([]entry{{name + "/hollowkey" + map[bool]string{true: ".exe"}[t.os == "windows"], program, true}}, within(name, common)...)
		pack, ending := tarball, ".tar.gz"
		if t.os == "windows" {
			pack, ending = zipped, ".zip"
		}
		b, err := pack(files, when)
		if err != nil {
			return err
		}
		if err := keep(name+ending, b); err != nil {
			return err
		}
	}
	parts, err := partsList(version, when)
	if err != nil {
		return err
	}
	if err := keep("hollowkey-"+version+".cdx.json", parts); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(out, "SHA256SUMS"), sums.Bytes(), 0o644)
}

// commitTime is the time that all files get: that of the commit, or of the
// variable that builders set. Source: reproducible-builds.org,
// SOURCE_DATE_EPOCH.
func commitTime() (time.Time, error) {
	text := os.Getenv("SOURCE_DATE_EPOCH")
	if text == "" {
		b, err := exec.Command("git", "log", "-1", "--format=%ct").Output()
		if err != nil {
			return time.Time{}, fmt.Errorf("git log: %w", err)
		}
		text = strings.TrimSpace(string(b))
	}
	n, err := strconv.ParseInt(text, 10, 64)
	return time.Unix(n, 0).UTC(), err
}

// build builds the program for one system; for Windows with its resources.
func build(version, system, arch string) (program []byte, err error) {
	const package_ = "cmd/hollowkey"
	if system == "windows" {
		syso := filepath.Join(package_, "resources_windows_"+arch+".syso")
		if err := resources(syso, version, arch); err != nil {
			return nil, err
		}
		defer func() { err = errors.Join(err, os.Remove(syso)) }()
	}
	dir, err := os.MkdirTemp("", "hollowkey-release-*")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	at := filepath.Join(dir, "program")
	c := exec.Command("go", "build", "-trimpath", "-buildvcs=false", "-ldflags",
		"-s -w -buildid= -X hollowkey/cli.release="+version, "-o", at, "./"+package_)
	c.Env = append(os.Environ(), "CGO_ENABLED=0", "GOOS="+system, "GOARCH="+arch)
	if b, err := c.CombinedOutput(); err != nil {
		return nil, fmt.Errorf("go build for %s/%s: %w\n%s", system, arch, err, b)
	}
	return os.ReadFile(at)
}

// papers are what goes with the program: how to use it, and whose work is
// inside.
func papers(when time.Time) (files []entry, err error) {
	for _, name := range []string{"README.md"} {
		b, err := os.ReadFile(name)
		if err != nil {
			return nil, err
		}
		files = append(files, entry{name, b, false})
	}
	err = filepath.WalkDir("docs", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(name)
		files = append(files, entry{filepath.ToSlash(name), b, false})
		return err
	})
	if err != nil {
		return nil, err
	}
	root := cli.Commands()
	dir, err := os.MkdirTemp("", "hollowkey-man-*")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	if err := doc.GenManTree(root, &doc.GenManHeader{Title: "HOLLOWKEY", Section: "1", Date: &when, Source: "Hollow Key"}, dir); err != nil {
		return nil, err
	}
	pages, err := filepath.Glob(filepath.Join(dir, "*.1"))
	if err != nil {
		return nil, err
	}
	slices.Sort(pages)
	for _, p := range pages {
		b, err := os.ReadFile(p)
		if err != nil {
			return nil, err
		}
		files = append(files, entry{"man/" + filepath.Base(p), b, false})
	}
	for name, write := range map[string]func(io.Writer) error{
		"hollowkey.bash": func(w io.Writer) error { return root.GenBashCompletionV2(w, true) },
		"_hollowkey":     root.GenZshCompletion,
		"hollowkey.fish": func(w io.Writer) error { return root.GenFishCompletion(w, true) },
		"hollowkey.ps1":  root.GenPowerShellCompletionWithDesc,
	} {
		var b bytes.Buffer
		if err := write(&b); err != nil {
			return nil, err
		}
		files = append(files, entry{"completions/" + name, b.Bytes(), false})
	}
	licences, err := licences()
	files = append(files, entry{"LICENCES.txt", licences, false})
	slices.SortFunc(files, func(a, b entry) int { return strings.Compare(a.name, b.name) })
	return files, err
}

// within puts files into a folder of the archive.
func within(folder string, files []entry) (out []entry) {
	for _, f := range files {
		out = append(out, entry{folder + "/" + f.name, f.contents, f.program})
	}
	return out
}

// A module is a part of the program.
type module struct {
	Path, Version, Dir string
	Main               bool
}

// modules are the parts that are really built in, for any of the systems.
func modules() (list []module, err error) {
	seen := map[string]bool{}
	for _, t := range targets {
		c := exec.Command("go", "list", "-deps", "-json=Module", "./cmd/hollowkey")
		c.Env = append(os.Environ(), "CGO_ENABLED=0", "GOOS="+t.os, "GOARCH="+t.arch)
		b, err := c.Output()
		if err != nil {
			return nil, fmt.Errorf("go list: %w", err)
		}
		d := json.NewDecoder(bytes.NewReader(b))
		for {
			var p struct{ Module *module }
			if err := d.Decode(&p); err == io.EOF {
				break
			} else if err != nil {
				return nil, err
			}
			if m := p.Module; m != nil && !m.Main && !seen[m.Path] { // the standard library is of no module
				seen[m.Path] = true
				list = append(list, *m)
			}
		}
	}
	slices.SortFunc(list, func(a, b module) int { return strings.Compare(a.Path, b.Path) })
	return list, nil
}

// licences are the texts of all that is built in. A part without one is an
// error.
func licences() ([]byte, error) {
	list, err := modules()
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	b.WriteString("Hollow Key has these parts of others inside.\n")
	goroot, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return nil, err
	}
	list = append(list, module{Path: "the Go standard library", Dir: strings.TrimSpace(string(goroot))})
	for _, m := range list {
		text := ""
		for _, name := range []string{"LICENSE", "LICENSE.txt", "LICENSE.md", "LICENCE", "COPYING"} {
			if t, err := os.ReadFile(filepath.Join(m.Dir, name)); err == nil {
				text = string(t)
				break
			}
		}
		if text == "" && m.Path != "the Go standard library" { // a Go without its sources has none beside it
			return nil, fmt.Errorf("%s %s has no licence beside it", m.Path, m.Version)
		}
		fmt.Fprintf(&b, "\n%s\n%s %s\n\n%s\n", strings.Repeat("=", 78), m.Path, m.Version, strings.TrimSpace(text))
	}
	return b.Bytes(), nil
}

// partsList lists what is built in. Source: CycloneDX 1.5, JSON.
func partsList(version string, when time.Time) ([]byte, error) {
	list, err := modules()
	if err != nil {
		return nil, err
	}
	type component struct {
		Type    string `json:"type"`
		Name    string `json:"name"`
		Version string `json:"version"`
		PURL    string `json:"purl"`
	}
	out := struct {
		Format      string `json:"bomFormat"`
		SpecVersion string `json:"specVersion"`
		Version     int    `json:"version"`
		Metadata    struct {
			Timestamp string    `json:"timestamp"`
			Component component `json:"component"`
		} `json:"metadata"`
		Components []component `json:"components"`
	}{Format: "CycloneDX", SpecVersion: "1.5", Version: 1}
	out.Metadata.Timestamp = when.Format(time.RFC3339)
	out.Metadata.Component = component{"application", "hollowkey", version, "pkg:golang/hollowkey@" + version}
	for _, m := range list {
		out.Components = append(out.Components, component{"library", m.Path, m.Version, "pkg:golang/" + m.Path + "@" + m.Version})
	}
	b, err := json.MarshalIndent(out, "", "  ")
	return append(b, '\n'), err
}

// zipped is the archive for Windows.
func zipped(files []entry, when time.Time) ([]byte, error) {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, f := range files {
		h := &zip.FileHeader{Name: f.name, Method: zip.Deflate, Modified: when}
		h.SetMode(mode(f))
		out, err := w.CreateHeader(h)
		if err == nil {
			_, err = out.Write(f.contents)
		}
		if err != nil {
			return nil, err
		}
	}
	if err := w.Close(); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

// tarball is the archive for the others.
func tarball(files []entry, when time.Time) ([]byte, error) {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	w := tar.NewWriter(z)
	for _, f := range files {
		h := &tar.Header{Name: f.name, Size: int64(len(f.contents)), Mode: int64(mode(f).Perm()), ModTime: when, Format: tar.FormatPAX}
		err := w.WriteHeader(h)
		if err == nil {
			_, err = w.Write(f.contents)
		}
		if err != nil {
			return nil, err
		}
	}
	err := errors.Join(w.Close(), z.Close())
	return b.Bytes(), err
}

// mode is a file's mode in the archive: only the program may be run.
func mode(f entry) fs.FileMode {
	if f.program {
		return 0o755
	}
	return 0o644
}
