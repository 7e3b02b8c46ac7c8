// This file writes the page as HTML or text.

package report

import (
	_ "embed"
	"fmt"
	"html/template"
	"io"
	"strings"
	"sync"
)

//go:embed page.html
var pageText string

// page is parsed when one is written: most runs write none.
var page = sync.OnceValue(func() *template.Template { return template.Must(template.New("page").Parse(pageText)) })

// HTML writes the page as one file.
func HTML(w io.Writer, p Page) error { return page().Execute(w, p) }

// Markdown writes the page as text.
func Markdown(w io.Writer, p Page) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s\n\n%s\n", plain(p.Title), p.Made)
	head := func(t string) { fmt.Fprintf(&b, "\n## %s\n\n", t) }
	table := func(rows [][2]string) {
		b.WriteString("| | |\n| --- | --- |\n")
		for _, r := range rows {
			fmt.Fprintf(&b, "| %s | %s |\n", plain(r[0]), cell(r[1]))
		}
	}
	b.WriteString("\n")
	fmt.Fprintf(&b, "**%s.** %s\n\n", plain(p.Banner.Word), plain(p.Banner.Next))
	for _, s := range p.Plain {
		fmt.Fprintf(&b, "%s  \n", plain(s))
	}
	if len(p.Verdict) > 0 {
		head("The verdict")
		table(p.Verdict)
	}
	if len(p.Evidence) > 0 {
		b.WriteString("\nThe lines that prove it:\n\n```\n" + strings.ReplaceAll(strings.Join(p.Evidence, "\n"), "```", "'''") + "\n```\n")
	}
	if len(p.Attempts) > 0 {
		head("Attempts")
		b.WriteString("| | when | how | ended | broke at | compared with the one before |\n| --- | --- | --- | --- | --- | --- |\n")
		for _, a := range p.Attempts {
			fmt.Fprintf(&b, "| %d | %s | %s | %s | %s | %s |\n", a.Number, a.When, a.How, a.Ended, cell(a.Where), a.Compared)
		}
	}
	if len(p.Changes) > 0 {
		head("What was changed")
		for _, c := range p.Changes {
			fmt.Fprintf(&b, "%d. %s (%s, %s)\n", c.Number, plain(c.Words), c.When, c.State)
			fmt.Fprintf(&b, "   - before: %s\n   - after: %s\n", cell(strings.Join(c.Before, "; ")), cell(strings.Join(c.After, "; ")))
		}
	}
	if len(p.Holds) > 0 {
		head("Still in force, and meant to be temporary")
		for _, h := range p.Holds {
			fmt.Fprintf(&b, "- %s\n", plain(h))
		}
	}
	if len(p.Remedies) > 0 {
		head("Remedies")
		for i, r := range p.Remedies {
			fmt.Fprintf(&b, "%d. %s\n", i+1, plain(r.Text)+map[bool]string{true: " (applied)"}[r.Applied])
		}
	}
	if len(p.Notes) > 0 {
		head("Notes")
		table(p.Notes)
	}
	if len(p.Facts) > 0 {
		head("The machine")
		table(p.Facts)
	}
	if p.Masked != "" {
		fmt.Fprintf(&b, "\n%s\n", p.Masked)
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// plain keeps a text from being taken for Markdown.
func plain(t string) string {
	return strings.NewReplacer("\\", "\\\\", "`", "\\`", "*", "\\*", "_", "\\_", "<", "&lt;", "[", "\\[", "\n", " ", "#", "\\#").Replace(t)
}

// cell keeps a text within its cell of a Markdown table.
func cell(t string) string { return strings.ReplaceAll(plain(t), "|", "\\|") }
