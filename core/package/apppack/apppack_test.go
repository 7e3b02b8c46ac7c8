package apppack

import (
	"archive/zip"
	"bytes"
	"crypto/rand"
	"crypto/rsa"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/asn1"
	"math/big"
	"testing"

	"hollowkey/core/machine"
)

func zipped(t testing.TB, pairs ...string) []byte {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for i := 0; i < len(pairs); i += 2 {
		f, err := w.Create(pairs[i])
		if err != nil {
			t.Fatal(err)
		}
		f.Write([]byte(pairs[i+1]))
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

const small = `<Package><Identity Name="A" Version="1.0.0.0" Publisher="CN=P"/><Dependencies><TargetDeviceFamily Name="Windows.Desktop" MinVersion="10.0.19041.0"/></Dependencies></Package>`

func TestOlder(t *testing.T) {
	for _, c := range []struct {
		a, b string
		less bool
	}{{"1.0", "1.0.0.0", false}, {"1.9.0.0", "1.10.0.0", true}, {"2", "1.99", false},
		{"10.0.19045.65535", "10.0.22000.0", true}, {"", "0.0.0.1", true}} {
		if Less(c.a, c.b) != c.less {
			t.Errorf("%q, %q", c.a, c.b)
		}
	}
}

func TestWhereItRuns(t *testing.T) {
	b := zipped(t, manifestName, small)
	p, err := Open(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	if p.Architecture != "neutral" || !p.RunsOn(machine.OS{Architecture: "ARM64"}) || p.TakesBuild(18363) || !p.TakesBuild(19045) || p.Signed {
		t.Errorf("%+v", p)
	}
	for _, c := range []struct {
		of, on string
		runs   bool
	}{{"x64", "x64", true}, {"x64", "x86", false}, {"arm64", "x64", false}, {"x86, arm64", "x64", true},
		{"arm", "ARM64", true}, {"x64", "ARM64", true}} {
		p.Architecture = c.of
		if p.RunsOn(machine.OS{Architecture: c.on}) != c.runs {
			t.Errorf("%s on %s", c.of, c.on)
		}
	}
}

// The signer is the one at the end of the row, in whatever order the
// certificates stand.
func TestSigner(t *testing.T) {
	key, err := rsa.GenerateKey(rand.Reader, 1024)
	if err != nil {
		t.Fatal(err)
	}
	certificate := func(subject, issuer string) []byte {
		about := func(name string) *x509.Certificate {
			return &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: name, Organization: []string{"Port Ellery"}}}
		}
		b, err := x509.CreateCertificate(rand.Reader, about(subject), about(issuer), &key.PublicKey, key)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	wrap := func(b []byte) asn1.RawValue {
		return asn1.RawValue{Class: asn1.ClassContextSpecific, Tag: 0, IsCompound: true, Bytes: b}
	}
	marshal := func(v any) []byte {
		b, err := asn1.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	root, vendor := certificate("Root", "Root"), certificate("Nine Fathom Systems", "Root")
	data := marshal(struct {
		Version      int
		Digests      asn1.RawValue
		Content      asn1.RawValue
		Certificates asn1.RawValue
	}{1, asn1.RawValue{Tag: asn1.TagSet, IsCompound: true},
		asn1.RawValue{FullBytes: marshal([]asn1.ObjectIdentifier{{1, 2, 3}})}, wrap(append(root, vendor...))})
	sign := signMark + string(marshal(struct {
		Type    asn1.ObjectIdentifier
		Content asn1.RawValue
	}{asn1.ObjectIdentifier{1, 2, 840, 113549, 1, 7, 2}, wrap(data)}))
	b := zipped(t, manifestName, small, signName, sign)
	p, err := Open(bytes.NewReader(b), int64(len(b)))
	if err != nil || !p.Signed || p.Signer != "CN=Nine Fathom Systems,O=Port Ellery" {
		t.Errorf("%+v %v", p, err)
	}
}

// What is no app package is said to be none, and nothing of a strange one is
// believed.
func FuzzOpen(f *testing.F) {
	f.Add(zipped(f, manifestName, small, signName, signMark+"0\x80"))
	f.Add(zipped(f, bundleName,
		`<Bundle><Identity Name="A"/><Packages><Package Type="application" FileName="a.msix"/></Packages></Bundle>`, "a.msix", "PK"))
	f.Fuzz(func(t *testing.T, b []byte) {
		if len(b) > 1<<16 {
			return
		}
		p, err := Open(bytes.NewReader(b), int64(len(b)))
		if (p == nil) == (err == nil) {
			t.Error(p, err)
		}
	})
}
