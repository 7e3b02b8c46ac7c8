// This file writes the steps on values for shells.

package kinds

import (
	"encoding/hex"
	"fmt"
	"strings"

	"hollowkey/core/machine/regfile"
)

// psTypes and regTypes are PowerShell's and reg.exe's names of value types.
var (
	psTypes = map[regfile.Type]string{
		regfile.String: "String", regfile.Expand: "ExpandString", regfile.DWord: "DWord", regfile.QWord: "QWord",
		regfile.MultiStr: "MultiString", regfile.Binary: "Binary",
	}
	regTypes = map[regfile.Type]string{
		regfile.String: "REG_SZ", regfile.Expand: "REG_EXPAND_SZ", regfile.DWord: "REG_DWORD", regfile.QWord: "REG_QWORD",
		regfile.MultiStr: "REG_MULTI_SZ", regfile.Binary: "REG_BINARY",
	}
)

// powerShell sets or takes a value away. Its key is made first where it is
// missing, and what was made is undone.
func (st *ValueState) powerShell(s Step, _ Fact) ([]string, error) {
	key, err := psKey(s.Args["key"])
	if err != nil {
		return nil, err
	}
	name := PS(s.Args["name"])
	if s.Args["name"] == "" {
		name = "'(default)'"
	}
	if !st.There {
		lines := []string{"Remove-ItemProperty -LiteralPath " + key + " -Name " + name}
		// Keys that were made for the value go with it, while nothing else is
		// in them.
		for i := len(st.Made) - 1; i >= 0; i-- {
			made, err := psKey(st.Made[i])
			if err != nil {
				return nil, err
			}
			lines = append(lines, "if (-not (Get-ChildItem -LiteralPath "+made+") -and -not (Get-Item -LiteralPath "+made+
				").Property) { Remove-Item -LiteralPath "+made+" }")
		}
		return lines, nil
	}
	kind, ok := psTypes[st.Value.Type]
	if !ok {
		return nil, fmt.Errorf("PowerShell has no value type %s", st.Value.Type)
	}
	words := PS(st.Value.Words())
	switch st.Value.Type {
	case regfile.DWord, regfile.QWord:
		words = st.Value.Words()
	case regfile.MultiStr:
		var parts []string
		for part := range strings.SplitSeq(st.Value.Words(), "\n") {
			parts = append(parts, PS(part))
		}
		words = "@(" + strings.Join(parts, ", ") + ")"
	case regfile.Binary:
		var parts []string
		for _, b := range st.Value.Data {
			parts = append(parts, fmt.Sprintf("0x%02x", b))
		}
		words = "([byte[]]@(" + strings.Join(parts, ", ") + "))"
	}
	return []string{"if (-not (Test-Path -LiteralPath " + key + ")) { [void](New-Item -Path " + key + " -Force) }",
		"[void](New-ItemProperty -LiteralPath " + key + " -Name " + name + " -PropertyType " + kind + " -Value " + words + " -Force)"}, nil
}

// command writes a call of reg.exe. Binary data are its hexadecimal digits,
// lists are parted by \0, as that program reads them.
func (st *ValueState) command(s Step, _ Fact) ([]string, error) {
	key, err := CommandArgument(s.Args["key"])
	if err != nil {
		return nil, err
	}
	name := "/ve"
	if n := s.Args["name"]; n != "" {
		quoted, err := CommandArgument(n)
		if err != nil {
			return nil, err
		}
		name = "/v " + quoted
	}
	if !st.There {
		return []string{"reg.exe delete " + key + " " + name + " /f" + orEnd}, nil
	}
	kind, ok := regTypes[st.Value.Type]
	if !ok {
		return nil, fmt.Errorf("reg.exe has no value type %s", st.Value.Type)
	}
	words := strings.ReplaceAll(st.Value.Words(), "\n", `\0`)
	if st.Value.Type == regfile.Binary {
		words = hex.EncodeToString(st.Value.Data)
	}
	data, err := CommandArgument(words)
	if err != nil {
		return nil, err
	}
	return []string{"reg.exe add " + key + " " + name + " /t " + kind + " /d " + data + " /f" + orEnd}, nil
}
