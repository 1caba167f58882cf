// Command generate writes the migration that replaces the posting function. With -check it writes nothing and says whether it is fresh.
package main

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"

	"journeyman/internal/store/posting"
)

func main() {
	check := flag.Bool("check", false, "say whether the file is fresh")
	dir := flag.String("dir", filepath.Join("..", "migrations"), "the folder of the migrations")
	flag.Parse()
	if err := run(filepath.Join(*dir, posting.File), *check); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(file string, check bool) error {
	if !check {
		return os.WriteFile(file, []byte(posting.Migration()), 0o600)
	}
	is, err := os.ReadFile(file)
	if err != nil {
		return err
	}
	if string(is) != posting.Migration() {
		return fmt.Errorf("%s is not fresh: run `go generate ./internal/store/posting`", file)
	}
	return nil
}
