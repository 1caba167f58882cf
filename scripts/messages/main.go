// Command messages collects what the server says to people: the patterns of its messages, from the source. It writes them to
// ui/src/locales/server/en.po, the catalogue from which others are translated. With -check it writes nothing and says whether the
// catalogue is fresh.
//
// A pattern is what is handed to a parameter named “pattern”, and has to stand there as a literal or a constant; of what is handed to
// a parameter named “noun” it is the pattern of so many of them.
package main

import (
	"bytes"
	"errors"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"journeyman/internal/words"
)

const file = "ui/src/locales/server/en.po"

func main() {
	check := flag.Bool("check", false, "say whether the catalogue is fresh")
	flag.Parse()
	if err := run(*check); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(check bool) error {
	c := collector{files: token.NewFileSet(), takes: map[string]parameter{}, constants: map[string]ast.Expr{}, found: map[string][]string{}}
	for _, root := range []string{"internal", "cmd"} {
		if err := filepath.WalkDir(root, c.parse); err != nil {
			return err
		}
	}
	for _, f := range c.parsed {
		c.learn(f)
	}
	for _, f := range c.parsed {
		c.collect(f)
	}
	if len(c.faults) > 0 {
		return errors.New(strings.Join(c.faults, "\n"))
	}
	text := c.catalogue()
	if !check {
		return os.WriteFile(file, text, 0o644)
	}
	if old, err := os.ReadFile(file); err != nil || !bytes.Equal(old, text) {
		return fmt.Errorf("%s is stale: run make messages and commit it", file)
	}
	return nil
}

// parameter is which argument of a function is a pattern, or the noun of one.
type parameter struct {
	at   int
	noun bool
}

type collector struct {
	files     *token.FileSet
	parsed    []*ast.File
	takes     map[string]parameter // by what the function is called: “package.Name”, “.Name” of a method, “file Name” of a closure
	constants map[string]ast.Expr  // by name
	found     map[string][]string  // the files in which a pattern stands
	faults    []string
}

func (c *collector) parse(path string, d fs.DirEntry, err error) error {
	if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
		return err
	}
	f, err := parser.ParseFile(c.files, path, nil, 0)
	c.parsed = append(c.parsed, f)
	return err
}

// learn notes the functions that take a pattern, and the constants.
func (c *collector) learn(f *ast.File) {
	ast.Inspect(f, func(n ast.Node) bool {
		switch x := n.(type) {
		case *ast.FuncDecl:
			if x.Recv != nil {
				c.signature("."+x.Name.Name, x.Type)
			} else {
				c.signature(f.Name.Name+"."+x.Name.Name, x.Type)
			}
		case *ast.AssignStmt:
			if fn, ok := x.Rhs[0].(*ast.FuncLit); ok && len(x.Lhs) == 1 {
				if name, ok := x.Lhs[0].(*ast.Ident); ok {
					c.signature(c.within(f)+name.Name, fn.Type)
				}
			}
		case *ast.GenDecl:
			if x.Tok != token.CONST {
				return true
			}
			for _, s := range x.Specs {
				if v, ok := s.(*ast.ValueSpec); ok && len(v.Names) == len(v.Values) {
					for i, name := range v.Names {
						c.constants[f.Name.Name+"."+name.Name] = v.Values[i]
					}
				}
			}
		}
		return true
	})
}

func (c *collector) within(f *ast.File) string { return c.files.Position(f.Pos()).Filename + " " }

// called is the name under which a function that is called was learnt.
func (c *collector) called(f *ast.File, fn ast.Expr) string {
	switch x := fn.(type) {
	case *ast.Ident:
		if _, closure := c.takes[c.within(f)+x.Name]; closure {
			return c.within(f) + x.Name
		}
		return f.Name.Name + "." + x.Name
	case *ast.SelectorExpr:
		if of, ok := x.X.(*ast.Ident); ok && imports(f, of.Name) {
			return of.Name + "." + x.Sel.Name
		}
		return "." + x.Sel.Name
	}
	return ""
}

func imports(f *ast.File, name string) bool {
	return slices.ContainsFunc(f.Imports, func(i *ast.ImportSpec) bool { return strings.HasSuffix(i.Path.Value, "/"+name+`"`) })
}

func (c *collector) signature(name string, t *ast.FuncType) {
	at := 0
	for _, field := range t.Params.List {
		for _, p := range field.Names {
			if p.Name == "pattern" || p.Name == "noun" {
				c.takes[name] = parameter{at, p.Name == "noun"}
			}
			at++
		}
	}
}

// collect notes the patterns that are handed over.
func (c *collector) collect(f *ast.File) {
	ast.Inspect(f, func(n ast.Node) bool {
		call, ok := n.(*ast.CallExpr)
		if !ok {
			return true
		}
		name := c.called(f, call.Fun)
		p, takes := c.takes[name]
		if !takes || p.at >= len(call.Args) {
			return true
		}
		arg := call.Args[p.at]
		if id, ok := arg.(*ast.Ident); ok && (id.Name == "pattern" || id.Name == "noun") {
			return true // handed on
		}
		where := c.files.Position(arg.Pos())
		text, known := c.text(f, arg)
		if !known {
			c.faults = append(c.faults, fmt.Sprintf("%s: the pattern for %s is no literal, so no catalogue can hold it", where, name))
			return true
		}
		pattern := words.Pattern(text)
		if strings.Count(pattern, "%") > strings.Count(text, "%%") {
			c.faults = append(c.faults, fmt.Sprintf("%s: the pattern has a verb of fmt that a catalogue cannot hold", where))
			return true
		}
		if p.noun {
			pattern = words.Plural(text)
		}
		c.found[pattern] = append(c.found[pattern], where.Filename)
		return true
	})
}

func (c *collector) text(f *ast.File, e ast.Expr) (string, bool) {
	switch x := e.(type) {
	case *ast.BasicLit:
		s, err := strconv.Unquote(x.Value)
		return s, err == nil && x.Kind == token.STRING
	case *ast.Ident:
		if v, known := c.constants[f.Name.Name+"."+x.Name]; known {
			return c.text(f, v)
		}
	case *ast.BinaryExpr:
		a, known := c.text(f, x.X)
		b, also := c.text(f, x.Y)
		return a + b, known && also && x.Op == token.ADD
	}
	return "", false
}

// catalogue writes the patterns as a catalogue of gettext.
func (c *collector) catalogue() []byte {
	var b bytes.Buffer
	b.WriteString("msgid \"\"\nmsgstr \"\"\n\"MIME-Version: 1.0\\n\"\n\"Content-Type: text/plain; charset=utf-8\\n\"\n\"Language: en\\n\"\n")
	for _, pattern := range slices.Sorted(maps.Keys(c.found)) {
		from := slices.Compact(slices.Sorted(slices.Values(c.found[pattern])))
		fmt.Fprintf(&b, "\n#: %s\nmsgid %s\nmsgstr %s\n", strings.Join(from, " "), strconv.Quote(pattern), strconv.Quote(pattern))
	}
	return b.Bytes()
}
