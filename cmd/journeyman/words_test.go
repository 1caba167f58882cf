package main

import (
	"bytes"
	"context"
	"net"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"journeyman/internal/cluster"
	"journeyman/internal/dbtest"
)

func TestATakenPortSaysWhatToDo(t *testing.T) {
	t.Parallel()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = l.Close() }()
	_, err = listen(l.Addr().String())
	if err == nil || !strings.Contains(err.Error(), "is taken") || !strings.Contains(err.Error(), "--addr") {
		t.Error(err)
	}
}

func TestAPathTooLongForASocketSaysWhatToDo(t *testing.T) {
	t.Parallel()
	_, err := cluster.Start(context.Background(), cluster.Options{Dir: "/tmp/" + strings.Repeat("long", 30)})
	if err == nil || !strings.Contains(err.Error(), "--data") {
		t.Error(err)
	}
}

// say runs the program in this process and returns what it ended with.
func say(t *testing.T, args ...string) error {
	t.Helper()
	cmd := root()
	cmd.SetArgs(args)
	cmd.SetOut(&bytes.Buffer{})
	cmd.SetErr(&bytes.Buffer{})
	return cmd.ExecuteContext(context.Background())
}

func TestADatabaseThatDoesNotAnswerEndsTheProgramWithASentence(t *testing.T) {
	err := say(t, "audit", "--database", "postgres://nobody:x@127.0.0.1:1/none", "--log", "error")
	if err == nil || !strings.Contains(err.Error(), "does not answer") {
		t.Error(err)
	}
	if err := say(t, "audit", "--log", "loud"); err == nil || !strings.Contains(err.Error(), "debug, info, warn or error") {
		t.Error(err)
	}
}

func TestPeopleFilesAndAuditOnTheCommandLine(t *testing.T) {
	url := dbtest.URL(t)
	typed := filepath.Join(t.TempDir(), "typed")
	if err := os.WriteFile(typed, []byte("correct horse\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	in, err := os.Open(typed)
	if err != nil {
		t.Fatal(err)
	}
	before := os.Stdin
	os.Stdin = in
	t.Cleanup(func() { os.Stdin = before; _ = in.Close() })
	if err := say(t, "user", "add", "ana", "--name", "Ana Ruiz", "--role", "coordinator", "--database", url, "--log", "error"); err != nil {
		t.Fatal(err)
	}
	examples, err := filepath.Glob("../../examples/*.csv")
	if err != nil || len(examples) != 7 {
		t.Fatal(examples, err)
	}
	load := append([]string{"import", "--as", "ana", "--database", url, "--log", "error"}, examples...)
	for range 2 { // the second time changes nothing, and is no error
		if err := say(t, load...); err != nil {
			t.Fatal(err)
		}
	}
	if err := say(t, "import", "--as", "nobody", "--database", url, "--log", "error", examples[0]); err == nil ||
		!strings.Contains(err.Error(), "user add") {
		t.Error(err)
	}
	bad := filepath.Join(t.TempDir(), "bad.csv")
	if err := os.WriteFile(bad, []byte("sku,name,price\nA,B,dear\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := say(t, "import", "--as", "ana", "--database", url, "--log", "error", bad); err != exitCode(1) {
		t.Errorf("a file with a fault ends with %v", err)
	}
	if err := say(t, "audit", "--database", url, "--log", "error"); err != nil {
		t.Errorf("the audit of a sound book ends with %v", err)
	}
}
