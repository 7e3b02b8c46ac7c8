//go:build unix

// Package pgtest starts a real PostgreSQL for tests, on loopback, as an
// unprivileged user.
package pgtest

import (
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"
)

// A Server is one that runs for a test.
type Server struct {
	t    testing.TB
	dir  string
	bin  string
	port int
}

// nobody is the user that no file belongs to; the server refuses to run as
// root.
const nobody = 65534

// binaries finds where the server's programs lie.
func binaries() string {
	if at, err := exec.LookPath("initdb"); err == nil {
		if at, err = filepath.EvalSymlinks(at); err == nil {
			return filepath.Dir(at)
		}
	}
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/initdb") // Debian's place
	slices.Sort(found)
	if len(found) == 0 {
		return ""
	}
	return filepath.Dir(found[len(found)-1])
}

// Start starts a server; it ends with the test. Without one on this machine the
// test skips, unless HOLLOWKEY_SERVER is "required".
func Start(t testing.TB) *Server {
	t.Helper()
	bin := binaries()
	if bin == "" {
		if os.Getenv("HOLLOWKEY_SERVER") == "required" {
			t.Fatal("PostgreSQL is required here and is not installed")
		}
		t.Skip("PostgreSQL is not installed")
	}
	dir, err := os.MkdirTemp("", "hollowkey-pg-")
	if err != nil {
		t.Fatal(err)
	}
	if os.Getuid() == 0 {
		if err := os.Chown(dir, nobody, nobody); err != nil {
			t.Fatal(err)
		}
	}
	s := &Server{t: t, dir: dir, bin: bin, port: freePort(t)}
	t.Cleanup(func() {
		s.pgctl("stop", "-m", "immediate")
		os.RemoveAll(dir)
	})
	s.must("initdb", "-D", filepath.Join(dir, "data"), "-U", "hollowkey", "-A", "trust", "--no-sync", "-E", "UTF8", "--locale=C")
	s.Up()
	return s
}

// freePort is a port of loopback on which nobody listens. Another program may
// take it before the server does; that has not been seen.
func freePort(t testing.TB) int {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port
}

// command is a call of one of the server's programs. As root it is made as
// nobody: the server refuses to run as root.
func (s *Server) command(name string, args ...string) *exec.Cmd {
	c := exec.Command(filepath.Join(s.bin, name), args...)
	c.Dir = s.dir
	if os.Getuid() == 0 {
		c.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: nobody, Gid: nobody}}
	}
	return c
}

// must runs one of the server's programs, and ends the test where that fails.
func (s *Server) must(name string, args ...string) {
	s.t.Helper()
	if out, err := s.command(name, args...).CombinedOutput(); err != nil {
		s.t.Fatalf("%s %s: %v\n%s", name, strings.Join(args, " "), err, out)
	}
}

// pgctl starts or stops the server and waits until that is done.
func (s *Server) pgctl(args ...string) error {
	c := s.command("pg_ctl", append([]string{"-D", filepath.Join(s.dir, "data"), "-w", "-t", "60", "-l",
		filepath.Join(s.dir, "log")}, args...)...)
	return c.Run() // no pipe: the server would hold it open
}

// Up starts the server, where it is down.
func (s *Server) Up() {
	s.t.Helper()
	if err := s.pgctl("start", "-o", fmt.Sprintf("-p %d -k %s -c listen_addresses=127.0.0.1 -c fsync=off", s.port, s.dir)); err != nil {
		text, _ := os.ReadFile(filepath.Join(s.dir, "log"))
		s.t.Fatalf("the server does not start: %v\n%s", err, text)
	}
}

// Down stops the server at once, as where its machine loses power: what was not
// committed is lost.
func (s *Server) Down() {
	s.t.Helper()
	if err := s.pgctl("stop", "-m", "immediate"); err != nil {
		s.t.Fatal(err)
	}
	time.Sleep(50 * time.Millisecond)
}

// URL is the store's name, in a database of the server's own.
func (s *Server) URL() string {
	return fmt.Sprintf("postgres://hollowkey@127.0.0.1:%d/postgres?sslmode=disable", s.port)
}
