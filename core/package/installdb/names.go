// This file packs and unpacks names of streams.

package installdb

import "strings"

// Stream names carry two characters of a 64-letter alphabet in one UTF-16 unit,
// and begin with a mark when they belong to a table.
//
// Source: docs/packages.md, "Stream names".
const (
	alphabet  = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz._"
	pairBase  = 0x3800 // two letters: base + first + 64*second
	oneBase   = 0x4800 // one letter
	tableMark = 0x4840
)

// encodeName packs a table's or stream's name into a stream name.
func encodeName(name string, table bool) string {
	var b strings.Builder
	if table {
		b.WriteRune(tableMark)
	}
	letters := []rune(name)
	for i := 0; i < len(letters); i++ {
		first := letterAt(letters, i)
		if first < 0 {
			b.WriteRune(letters[i])
			continue
		}
		if second := letterAt(letters, i+1); second >= 0 {
			b.WriteRune(rune(pairBase + first + second<<6))
			i++
			continue
		}
		b.WriteRune(rune(oneBase + first))
	}
	return b.String()
}

// letterAt is a letter's place in the alphabet of stream names, -1 for others.
func letterAt(letters []rune, i int) int {
	if i >= len(letters) || letters[i] >= 0x80 {
		return -1
	}
	return strings.IndexByte(alphabet, byte(letters[i]))
}

// decodeName unpacks a stream name; table says whether it is a table's.
func decodeName(stream string) (name string, table bool) {
	var b strings.Builder
	for i, r := range stream {
		switch {
		case r == tableMark && i == 0:
			table = true
		case r >= pairBase && r < oneBase:
			b.WriteByte(alphabet[(r-pairBase)&63])
			b.WriteByte(alphabet[(r-pairBase)>>6])
		case r >= oneBase && r < tableMark:
			b.WriteByte(alphabet[r-oneBase])
		default:
			b.WriteRune(r)
		}
	}
	return b.String(), table
}
