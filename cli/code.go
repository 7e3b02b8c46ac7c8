// This file explains a number in all that it can be: an exit code, an engine
// message, a system error. People have a number more often than a log.

package cli

import (
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/why/codes"
	"hollowkey/core/why/signs"
)

// newCode is the command that explains numbers. It needs no log and no machine,
// so it answers at once, over the telephone too.
func (a *app) newCode() *cobra.Command {
	var folder string
	c := &cobra.Command{
		Use:   "code VALUE...",
		Short: "explains an exit code, system error, HRESULT, NTSTATUS or installer message",
		Long: `Explains numbers: exit codes of setups, the installer engine's numbered messages,
system errors, HRESULTs and NTSTATUS values. Give them as they are written: decimal,
negative, or hexadecimal with or without 0x.

It reads and changes nothing. Exit status: 0 explained, 2 no number.`,
		Example: "  hollowkey code 1603\n  hollowkey code 0x80070643 -2147287035\n  hollowkey code c0000005",
		Args:    cobra.MinimumNArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			var all []codeAnswer
			for _, v := range args {
				entries, err := codes.Explain(v)
				if err != nil {
					return callError{err}
				}
				here, err := signs.ForNumberOf(folder, int(entries[0].Value))
				if err != nil {
					return err
				}
				all = append(all, codeAnswer{v, here, entries, knownCauses(entries)})
			}
			if a.json {
				return printJSON(a.out, struct {
					Schema string       `json:"schema"`
					Values []codeAnswer `json:"values"`
				}{"hollowkey.code/1", all})
			}
			return codeText(a.out, a.style, all)
		},
	}
	c.Flags().StringVar(&folder, "signs", "", "folder with the site's own signs and lists of numbers")
	return c
}

// negative is a number that looks like a row of flags.
var negative = lazy.MustCompile(`^-\d+$`)

// numbersApart puts the negative numbers of a call of code behind a "--", so
// that they are no flags.
func numbersApart(args []string) []string {
	at := slices.Index(args, "code")
	if at < 0 || !slices.ContainsFunc(args[at:], negative.MatchString) || slices.Contains(args, "--") {
		return args
	}
	var flags, numbers []string
	for _, arg := range args[at+1:] {
		if negative.MatchString(arg) {
			numbers = append(numbers, arg)
		} else {
			flags = append(flags, arg)
		}
	}
	return slices.Concat(args[:at+1], flags, []string{"--"}, numbers)
}

type codeAnswer struct {
	Asked    string        `json:"asked"`           // as it was typed
	Here     []signs.Known `json:"here,omitempty"`  // what the site says of it
	Readings []codes.Entry `json:"readings"`        // all that the number can be
	Signs    []signs.Known `json:"signs,omitempty"` // that ask for this number
}

// knownCauses are the signs behind an exit code or installer message.
func knownCauses(entries []codes.Entry) []signs.Known {
	if k := entries[0].Kind; k != codes.Exit && k != codes.Message {
		return nil
	}
	return signs.ForNumber(int(entries[0].Value))
}

// codeText writes all readings of each number, as one number can be several
// things: 5 is an exit code and a system error.
func codeText(w io.Writer, s Style, all []codeAnswer) error {
	var b strings.Builder
	for i, c := range all {
		if i > 0 {
			b.WriteString("\n")
		}
		// What the site says of its own programs comes first: it knows them.
		for _, k := range c.Here {
			codeHere(&b, s, clean(c.Asked), k)
		}
		for k, e := range c.Readings {
			if k > 0 {
				b.WriteString("\n")
			}
			codeEntry(&b, s, clean(c.Asked), e)
		}
		for k, known := range c.Signs {
			if k == 0 {
				fmt.Fprintf(&b, "\n%s\n", s.bold("Known causes behind it"))
			}
			if k == 6 {
				break
			}
			fmt.Fprintf(&b, "  %s%s\n", pad(known.Class, 18), s.fit(known.Title, s.Width-20))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// codeIndent is the longest name of a row and two blanks.
const codeIndent = 10

// codeHere writes what the site itself says of a number, which comes before
// what it means elsewhere.
func codeHere(b *strings.Builder, s Style, asked string, k signs.Known) {
	of := "known here"
	if k.Program != "" {
		of = "of " + k.Program
	}
	fmt.Fprintf(b, "%s  %s\n", s.bold(asked), clean(of))
	codeRow(b, s, "means", k.Title)
	if !strings.Contains(k.Explanation, strings.TrimRight(k.Title, ".")) {
		codeRow(b, s, "that is", k.Explanation)
	}
	codeRow(b, s, "cause", k.Class)
	for _, r := range k.Remedies {
		codeRow(b, s, "remedy", r)
	}
	b.WriteString("\n")
}

// codeRow is one thing that is said of a number; nothing when there is none.
func codeRow(b *strings.Builder, s Style, name, text string) {
	if text == "" {
		return
	}
	lines := wrap(clean(text), s.Width, codeIndent, true)
	fmt.Fprintf(b, "  %s%s\n", s.faint(pad(name, codeIndent-2)), strings.Join(lines, "\n"))
}

// field is the place of a message's field in its text.
var field = lazy.MustCompile(`\[\d\]`)

// codeEntry writes one reading: name, other ways of writing it, what it means,
// and what is usually behind it.
func codeEntry(b *strings.Builder, s Style, asked string, e codes.Entry) {
	head := s.bold(asked) + " as " + article(e.Kind)
	if e.Name != "" {
		head += "  " + s.key(e.Name)
	}
	if e.Hex != "" && !strings.EqualFold(e.Hex, asked) {
		head += "  " + e.Hex
	}
	// Programs print these as hexadecimal, as a negative number, or both.
	if e.Kind == codes.HResult || e.Kind == codes.NTStatus {
		if d := fmt.Sprint(e.Value); d != asked {
			head += "  " + d
		}
	}
	fmt.Fprintln(b, head)
	row := func(name, text string) { codeRow(b, s, name, text) }
	row("means", field.ReplaceAllString(e.Meaning, "…"))
	if p := e.Parts; p != nil {
		kind := "success"
		if p.Failure {
			kind = "failure"
		}
		facility := fmt.Sprintf("facility %d", p.Facility)
		if p.FacilityName != "" {
			facility += " (" + p.FacilityName + ")"
		}
		row("decoded", fmt.Sprintf("%s, %s, code %d", kind, facility, p.Code))
	}
	if e.Wraps != nil {
		row("wraps", strings.TrimSpace(fmt.Sprintf("%s %d %s", e.Wraps.Kind, e.Wraps.Value, e.Wraps.Name)))
	}
	row("causes", e.Causes)
	row("cause", e.Class)
	row("check", e.Next)
}

// article puts "a" or "an" before a kind of number.
func article(k codes.Kind) string {
	switch k {
	case codes.Exit, codes.Message:
		return "an " + string(k)
	case codes.HResult, codes.NTStatus, codes.HTTP:
		return "an " + string(k)
	}
	return "a " + string(k)
}
