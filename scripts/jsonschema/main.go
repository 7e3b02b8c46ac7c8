// Command jsonschema writes docs/json from the sources: for each object that a
// command prints as JSON a schema, and a page that tells it field by field. The
// words are the comments of the fields.
//
//	go run ./scripts/jsonschema
package main

import (
	"cmp"
	"encoding/json"
	"fmt"
	"go/ast"
	"go/constant"
	"go/token"
	"go/types"
	"maps"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/tools/go/packages"
)

const out = "docs/json"

// A node is a part of a schema. Source: JSON Schema, draft 2020-12.
type node struct {
	Schema      string           `json:"$schema,omitempty"`
	ID          string           `json:"$id,omitempty"`
	Title       string           `json:"title,omitempty"`
	Description string           `json:"description,omitempty"`
	Ref         string           `json:"$ref,omitempty"`
	AnyOf       []*node          `json:"anyOf,omitempty"`
	Type        any              `json:"type,omitempty"` // a name, or several
	Format      string           `json:"format,omitempty"`
	Const       string           `json:"const,omitempty"`
	Enum        []string         `json:"enum,omitempty"`
	Items       *node            `json:"items,omitempty"`
	Properties  map[string]*node `json:"properties,omitempty"`
	Required    []string         `json:"required,omitempty"`
	Values      *node            `json:"additionalProperties,omitempty"`
	Defs        map[string]*node `json:"$defs,omitempty"`
}

// A maker makes one schema.
type maker struct {
	comments map[token.Pos]string // of fields, by the place of their names
	defs     map[string]*node     // of types that have a name
	order    map[*node][]string   // of properties
}

var schemaName = regexp.MustCompile(`^hollowkey\.[a-z.]+/\d+$`)

// main writes docs/json from the types that the program prints.
func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "jsonschema:", err)
		os.Exit(1)
	}
}

// run loads the program's own source: the fields' comments become the
// descriptions.
func run() error {
	list, err := packages.Load(&packages.Config{Mode: packages.LoadAllSyntax}, "./cli")
	if err != nil {
		return err
	}
	comments := map[token.Pos]string{}
	packages.Visit(list, nil, func(p *packages.Package) {
		if strings.HasPrefix(p.PkgPath, "hollowkey") {
			for _, f := range p.Syntax {
				fieldComments(f, comments)
			}
		}
	})
	cli := list[0]
	found := map[string]types.Type{}
	for _, f := range cli.Syntax {
		printed(cli, f, found)
	}
	if err := os.RemoveAll(out); err != nil {
		return err
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	var page strings.Builder
	page.WriteString("# JSON\n\nEvery command prints one object with `--json`; `schema` names its shape, and its number rises when\n" +
		"a field changes its meaning. Empty lists are `[]`; what is not known is `null` or left out as the\nschema says. " +
		"Beside each page lies the schema. Both are made from the sources by `go run ./scripts/jsonschema`.\n\n" +
		"| schema | what it is about |\n| --- | --- |\n")
	for _, name := range slices.Sorted(maps.Keys(found)) {
		m := &maker{comments: comments, defs: map[string]*node{}, order: map[*node][]string{}}
		n := m.of(found[name], true)
		n.Schema, n.ID = "https://json-schema.org/draft/2020-12/schema", name
		if s := n.Properties["schema"]; s != nil {
			s.Const = name
		}
		n.Defs = m.defs
		file := strings.ReplaceAll(strings.TrimPrefix(name, "hollowkey."), "/", "-")
		b, err := json.MarshalIndent(n, "", "  ")
		if err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(out, file+".schema.json"), append(b, '\n'), 0o644); err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(out, file+".md"), []byte(m.page(name, n)), 0o644); err != nil {
			return err
		}
		fmt.Fprintf(&page, "| [%s](%s.md) | %s |\n", name, file, strings.Join(first(m.order[n]), ", "))
	}
	return os.WriteFile(filepath.Join(out, "README.md"), []byte(page.String()), 0o644)
}

// first are the fields by which one sees what an object is about.
func first(names []string) []string {
	names = slices.DeleteFunc(slices.Clone(names), func(n string) bool { return n == "schema" })
	return names[:min(len(names), 6)]
}

// fieldComments notes what stands beside or above each field.
func fieldComments(f *ast.File, into map[token.Pos]string) {
	ast.Inspect(f, func(n ast.Node) bool {
		if field, ok := n.(*ast.Field); ok {
			text := cmp.Or(strings.TrimSpace(field.Comment.Text()), strings.TrimSpace(field.Doc.Text()))
			for _, name := range field.Names {
				into[name.Pos()] = strings.Join(strings.Fields(text), " ")
			}
		}
		return true
	})
}

// printed finds what is handed to printJSON, and the schema's name that it
// carries.
func printed(p *packages.Package, f *ast.File, into map[string]types.Type) {
	for _, d := range f.Decls {
		fn, ok := d.(*ast.FuncDecl)
		if !ok {
			continue
		}
		ast.Inspect(fn, func(n ast.Node) bool {
			lit, ok := n.(*ast.CompositeLit)
			if !ok {
				return true
			}
			for _, e := range lit.Elts {
				if kv, ok := e.(*ast.KeyValueExpr); ok {
					e = kv.Value
				}
				v := p.TypesInfo.Types[e].Value
				if v == nil || v.Kind() != constant.String || !schemaName.MatchString(constant.StringVal(v)) {
					continue
				}
				if t := p.TypesInfo.Types[lit].Type; t != nil {
					into[constant.StringVal(v)] = t
				}
			}
			return true
		})
	}
	for name, c := range map[string]string{"why": "core/why/verdict", "trail": "core/logs/trail",
		"ladder": "core/prove/ladder", "gather": "core/record/gather"} {
		of(p, name, c, into)
	}
}

// of finds the types that carry their schema in a room of their own.
func of(p *packages.Package, name, room string, into map[string]types.Type) {
	for path, q := range p.Imports {
		if path != "hollowkey/"+room {
			continue
		}
		for _, f := range q.Syntax {
			ast.Inspect(f, func(n ast.Node) bool {
				lit, ok := n.(*ast.BasicLit)
				if !ok || lit.Kind != token.STRING {
					return true
				}
				if text, err := strconv.Unquote(lit.Value); err == nil && schemaName.MatchString(text) {
					for _, typeName := range []string{"Verdict", "Trail", "Ladder", "Report"} {
						if o := q.Types.Scope().Lookup(typeName); o != nil {
							into[text] = o.Type()
						}
					}
				}
				return true
			})
		}
	}
}

// of is the schema of a type; top is the whole object.
func (m *maker) of(t types.Type, top bool) *node {
	switch t := t.(type) {
	case *types.Pointer:
		n := m.of(t.Elem(), top)
		if !top {
			return nullable(n)
		}
		return n
	case *types.Alias:
		return m.of(types.Unalias(t), top)
	case *types.Named:
		return m.named(t, top)
	case *types.Slice, *types.Array:
		elem := t.(interface{ Elem() types.Type }).Elem()
		if b, ok := elem.Underlying().(*types.Basic); ok && b.Kind() == types.Byte {
			return &node{Type: "string"} // base64, as the standard library writes bytes
		}
		return &node{Type: "array", Items: m.of(elem, false)}
	case *types.Map:
		return &node{Type: "object", Values: m.of(t.Elem(), false)}
	case *types.Struct:
		return m.object(t)
	case *types.Basic:
		switch {
		case t.Info()&types.IsBoolean != 0:
			return &node{Type: "boolean"}
		case t.Info()&types.IsInteger != 0:
			return &node{Type: "integer"}
		case t.Info()&types.IsFloat != 0:
			return &node{Type: "number"}
		case t.Info()&types.IsString != 0:
			return &node{Type: "string"}
		}
	}
	return &node{} // anything
}

// nullable is a schema that allows null too.
func nullable(n *node) *node {
	if t, ok := n.Type.(string); ok {
		n.Type = []string{t, "null"}
	}
	if n.Ref != "" {
		return &node{AnyOf: []*node{n, {Type: "null"}}}
	}
	return n
}

// named is the schema of a type with a name: what writes itself as text is a
// string, what writes itself as it likes anything, and structs go into the
// definitions.
func (m *maker) named(t *types.Named, top bool) *node {
	full := t.Obj().Name()
	if t.Obj().Pkg() != nil && t.Obj().Pkg().Path() == "time" && full == "Time" {
		return &node{Type: "string", Format: "date-time"}
	}
	for _, method := range []struct {
		name string
		node node
	}{{"MarshalText", node{Type: "string"}}, {"MarshalJSON", node{}}} {
		if o, _, _ := types.LookupFieldOrMethod(types.NewPointer(t), true, t.Obj().Pkg(), method.name); o != nil {
			if _, isFunc := o.(*types.Func); isFunc {
				n := method.node
				return &n
			}
		}
	}
	s, ok := t.Underlying().(*types.Struct)
	if !ok {
		return m.of(t.Underlying(), false)
	}
	if top {
		return m.object(s)
	}
	if t.Obj().Pkg() != nil {
		full = t.Obj().Pkg().Name() + "." + full
	}
	if m.defs[full] == nil {
		m.defs[full] = &node{} // it may hold itself
		*m.defs[full] = *m.object(s)
		m.order[m.defs[full]] = keys(s)
	}
	return &node{Ref: "#/$defs/" + full}
}

// keys are a type's JSON names in the order of its fields; those of embedded
// types stand among them.
func keys(s *types.Struct) (names []string) {
	for i := range s.NumFields() {
		name, _, _ := strings.Cut(reflect.StructTag(s.Tag(i)).Get("json"), ",")
		if name == "-" || !s.Field(i).Exported() {
			continue
		}
		if s.Field(i).Embedded() && name == "" {
			if in, ok := deref(s.Field(i).Type()).Underlying().(*types.Struct); ok {
				names = append(names, keys(in)...)
				continue
			}
		}
		names = append(names, cmp.Or(name, s.Field(i).Name()))
	}
	return names
}

// deref is what a pointer points to, else the type itself.
func deref(t types.Type) types.Type {
	if p, ok := types.Unalias(t).(*types.Pointer); ok {
		return p.Elem()
	}
	return t
}

// object is the schema of a struct; what is embedded without a name is part of
// it.
func (m *maker) object(s *types.Struct) *node {
	n := &node{Type: "object", Properties: map[string]*node{}}
	for i := range s.NumFields() {
		f := s.Field(i)
		name, options, _ := strings.Cut(reflect.StructTag(s.Tag(i)).Get("json"), ",")
		if name == "-" || !f.Exported() {
			continue
		}
		if f.Embedded() && name == "" {
			if in, ok := deref(f.Type()).Underlying().(*types.Struct); ok {
				inner := m.object(in)
				maps.Copy(n.Properties, inner.Properties)
				if _, isPointer := types.Unalias(f.Type()).(*types.Pointer); !isPointer {
					n.Required = append(n.Required, inner.Required...)
				}
				continue
			}
		}
		name = cmp.Or(name, f.Name())
		p := m.of(f.Type(), false)
		if text := m.comments[f.Pos()]; text != "" {
			described := *p
			described.Description = text
			p = &described
		}
		n.Properties[name] = p
		if !strings.Contains(options, "omitempty") && !strings.Contains(options, "omitzero") {
			n.Required = append(n.Required, name)
		}
	}
	m.order[n] = keys(s)
	return n
}

// page tells a schema field by field.
func (m *maker) page(name string, n *node) string {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s\n", name)
	m.table(&b, n)
	for _, def := range slices.Sorted(maps.Keys(m.defs)) {
		fmt.Fprintf(&b, "\n## %s\n", def)
		m.table(&b, m.defs[def])
	}
	return b.String()
}

// table writes a page's table of fields, in the order of the source, which goes
// from what matters most.
func (m *maker) table(b *strings.Builder, n *node) {
	order := m.order[n]
	if len(order) == 0 {
		order = slices.Sorted(maps.Keys(n.Properties))
	}
	b.WriteString("\n| field | type | is |\n| --- | --- | --- |\n")
	for _, name := range order {
		p := n.Properties[name]
		if p == nil {
			continue
		}
		kind := kindOf(p)
		if !slices.Contains(n.Required, name) {
			kind += ", may be left out"
		}
		fmt.Fprintf(b, "| `%s` | %s | %s |\n", name, kind, strings.NewReplacer("|", `\|`).Replace(cmp.Or(p.Description, p.Const)))
	}
}

// kindOf says a schema's type in a word or two.
func kindOf(p *node) string {
	switch {
	case len(p.AnyOf) > 0:
		return kindOf(p.AnyOf[0]) + " or null"
	case p.Ref != "":
		return strings.TrimPrefix(p.Ref, "#/$defs/")
	case p.Items != nil:
		return "list of " + kindOf(p.Items)
	case p.Values != nil:
		return "object, by name"
	}
	switch t := p.Type.(type) {
	case string:
		return t
	case []string:
		return strings.Join(t, " or ")
	}
	return "any"
}
