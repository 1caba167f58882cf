package rooms_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// directions are the rooms of internal/, top to bottom: a room imports only rooms below it.
var directions = []string{
	"api", "jobs", "desk/desktest", "demo", "standin", "rooms", "query",
	"desk/admin", "desk/importing", "desk/dock", "desk/floor", "desk/sales", "desk/allocation", "desk/undo", "desk/promising",
	"desk/supply", "desk/command", "papers", "exchange", "words", "dbtest", "store", "store/postgres", "store/posting/generate",
	"store/posting", "cluster", "web", "reference",
}

// narrow are rooms that import fewer of those below them than they could.
var narrow = map[string][]string{
	"query": {"desk/supply", "desk/command", "words", "exchange", "store"}, // what is only read needs no room that carries something out
	"store": {"store/postgres"},
}

func TestARoomImportsOnlyRoomsBelowIt(t *testing.T) {
	t.Parallel()
	seen := map[string]bool{}
	err := fs.WalkDir(os.DirFS(".."), ".", func(file string, _ fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(file, ".go") || strings.HasSuffix(file, "_test.go") {
			return err
		}
		room := path.Dir(file)
		at := slices.Index(directions, room)
		if at < 0 {
			t.Errorf("internal/%s is no room of the plan: give it its place in directions and in docs/architecture.md", room)
			return nil
		}
		seen[room] = true
		f, err := parser.ParseFile(token.NewFileSet(), path.Join("..", file), nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, imp := range f.Imports {
			name, err := strconv.Unquote(imp.Path.Value)
			if err != nil {
				return err
			}
			below, ours := strings.CutPrefix(name, "journeyman/internal/")
			if !ours {
				continue
			}
			if slices.Index(directions, below) <= at {
				t.Errorf("internal/%s imports internal/%s, which is not below %s", file, below, room)
			}
			if few, is := narrow[room]; is && !slices.Contains(few, below) {
				t.Errorf("internal/%s imports internal/%s; %s does with %v", file, below, room, few)
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if len(seen) < 20 {
		t.Errorf("only %d rooms were looked at", len(seen))
	}
}
