// Package core holds nothing itself; this test keeps its rooms pure.
package core

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"strconv"
	"strings"
	"testing"
)

// forbidden are the parts of the standard library through which a computation
// could depend on anything but its arguments.
var forbidden = []string{"os", "net", "database/", "math/rand", "io/ioutil", "syscall", "embed", "log", "sync"}

// Neither is anything started here that could go on beside its caller, but by the one room that is for it.
func TestCoreImportsOnlyTheStandardLibraryAndItselfAndStartsNothing(t *testing.T) {
	files := 0
	err := fs.WalkDir(os.DirFS("."), ".", func(path string, _ fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.SkipObjectResolution)
		if err != nil {
			return err
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if strings.HasPrefix(path, "beside/") {
				return true
			}
			switch n.(type) {
			case *ast.GoStmt, *ast.SelectStmt, *ast.ChanType:
				t.Errorf("%s starts something, or waits for it", path)
			}
			return true
		})
		for _, imp := range f.Imports {
			name, err := strconv.Unquote(imp.Path.Value)
			if err != nil {
				return err
			}
			if strings.HasPrefix(name, "journeyman/core/") {
				continue
			}
			if strings.Contains(strings.SplitN(name, "/", 2)[0], ".") || strings.HasPrefix(name, "journeyman/") {
				t.Errorf("%s imports %s, which is not the standard library", path, name)
			}
			for _, bad := range forbidden {
				if name == "sync" && strings.HasPrefix(path, "beside/") {
					continue
				}
				if name == bad || strings.HasPrefix(name, strings.TrimSuffix(bad, "/")+"/") {
					t.Errorf("%s imports %s: core touches nothing outside", path, name)
				}
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if files < 5 {
		t.Fatalf("only %d files of core were read", files)
	}
}
