// This file reads who signed a package.

package apppack

import (
	"crypto/x509"
	"encoding/asn1"
	"strings"
)

// signMark begins a package's signature.
const signMark = "PKCX"

// signer is the subject of the certificate that signed a package: the one of
// the row in the signature that issued no other of it. Empty where it cannot be
// read.
func signer(b []byte) string {
	b = []byte(strings.TrimPrefix(string(b), signMark))
	var outer struct {
		Type    asn1.ObjectIdentifier
		Content asn1.RawValue `asn1:"explicit,tag:0"`
	}
	if _, err := asn1.Unmarshal(b, &outer); err != nil {
		return ""
	}
	var data struct {
		Version      int
		Digests      asn1.RawValue `asn1:"set"`
		Content      asn1.RawValue
		Certificates asn1.RawValue `asn1:"optional,tag:0"`
	}
	if _, err := asn1.Unmarshal(outer.Content.FullBytes, &data); err != nil {
		if _, err = asn1.Unmarshal(outer.Content.Bytes, &data); err != nil {
			return ""
		}
	}
	all, err := x509.ParseCertificates(data.Certificates.Bytes)
	if err != nil {
		return ""
	}
	issuers := map[string]bool{}
	for _, c := range all {
		if c.Issuer.String() != c.Subject.String() {
			issuers[c.Issuer.String()] = true
		}
	}
	for _, c := range all {
		if !issuers[c.Subject.String()] {
			return c.Subject.String()
		}
	}
	return ""
}
