package cluster

import (
	"context"
	"errors"
	"log/slog"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
)

// place is a short path that the user postgres may enter: t.TempDir() is neither.
func place(t *testing.T) string {
	t.Helper()
	dir := filepath.Join(os.TempDir(), "jm-cluster-"+strconv.Itoa(os.Getpid()))
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	return dir
}

func answers(t *testing.T, c *Cluster) {
	t.Helper()
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, c.URL("postgres"))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(ctx) }()
	var dir string
	if err := conn.QueryRow(ctx, "SHOW data_directory").Scan(&dir); err != nil || dir != filepath.Join(c.dir, "data") {
		t.Fatalf("it answers from %q: %v", dir, err)
	}
}

func TestManyStartOneServerAndTheLastStopsIt(t *testing.T) {
	dir, ctx := place(t), context.Background()
	var wg sync.WaitGroup
	var users [6]*Cluster
	for i := range users {
		wg.Go(func() {
			c, err := Start(ctx, Options{Dir: dir, Fast: true})
			if err != nil {
				t.Error(err)
				return
			}
			users[i] = c
		})
	}
	wg.Wait()
	if t.Failed() {
		return
	}
	for i, c := range users {
		answers(t, c)
		if c.port != users[0].port {
			t.Errorf("user %d has a server of its own", i)
		}
	}
	for _, c := range users[1:] {
		if err := c.Stop(); err != nil {
			t.Error(err)
		}
	}
	answers(t, users[0])
	if err := users[0].Stop(); err != nil {
		t.Error(err)
	}
	if users[0].running(ctx) {
		t.Error("the last one went and it still runs")
	}
	// What it held is there when it is started again, and gone when it is removed.
	again, err := Start(ctx, Options{Dir: dir, Fast: true})
	if err != nil {
		t.Fatal(err)
	}
	answers(t, again)
	other, err := Start(ctx, Options{Dir: dir, Fast: true})
	if err != nil {
		t.Fatal(err)
	}
	if err := again.Remove(); err == nil || !strings.Contains(err.Error(), "in use by another") {
		t.Errorf("removed while somebody uses it: %v", err)
	}
	if err := other.Remove(); err != nil {
		t.Error(err)
	}
	if _, err := os.Stat(dir); !os.IsNotExist(err) {
		t.Errorf("something is left in %s: %v", dir, err)
	}
}

func TestAPlaceThatCannotBeSaysWhatToDo(t *testing.T) {
	ctx := context.Background()
	if _, err := Start(ctx, Options{Dir: "/tmp/" + strings.Repeat("long", 30)}); err == nil ||
		!strings.Contains(err.Error(), "choose a shorter one with --data") {
		t.Errorf("a long path: %v", err)
	}
	if _, err := Start(ctx, Options{Dir: "/proc/nowhere"}); err == nil ||
		!strings.Contains(err.Error(), "choose another place with --data") {
		t.Errorf("a place where nothing can be made: %v", err)
	}
	lost := place(t) + "-lost"
	t.Cleanup(func() { _ = os.RemoveAll(lost) })
	if err := os.MkdirAll(filepath.Join(lost, "data"), 0o700); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(lost, "data", "PG_VERSION"), []byte("15\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := Start(ctx, Options{Dir: lost}); err == nil || !strings.Contains(err.Error(), "has lost its password file") {
		t.Errorf("without its password: %v", err)
	}
}

// A server that was killed is started again where it was, and what was written is there.
func TestAServerThatDiesIsStartedAgainOnItsPort(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	c, err := Start(ctx, Options{Dir: place(t) + "-dies"})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = os.RemoveAll(c.dir) })
	watched := make(chan struct{})
	go func() { c.Watch(ctx, slog.New(slog.DiscardHandler)); close(watched) }()
	do := func(q string) error {
		conn, err := pgx.Connect(ctx, c.URL("postgres"))
		if err != nil {
			return err
		}
		defer func() { _ = conn.Close(ctx) }()
		_, err = conn.Exec(ctx, q)
		return err
	}
	if err := do("CREATE TABLE kept (n integer)"); err != nil {
		t.Fatal(err)
	}
	pid, err := os.ReadFile(filepath.Join(c.dir, "data", "postmaster.pid"))
	if err != nil {
		t.Fatal(err)
	}
	n, err := strconv.Atoi(strings.SplitN(string(pid), "\n", 2)[0])
	if err != nil {
		t.Fatal(err)
	}
	if err := syscall.Kill(n, syscall.SIGKILL); err != nil {
		t.Fatal(err)
	}
	err = errors.New("not tried")
	for range 600 {
		time.Sleep(100 * time.Millisecond)
		if now, _ := os.ReadFile(filepath.Join(c.dir, "data", "postmaster.pid")); strings.HasPrefix(string(now), strconv.Itoa(n)+"\n") {
			continue
		}
		if err = do("INSERT INTO kept VALUES (1)"); err == nil {
			break
		}
	}
	if err != nil {
		t.Error("it is not there again:", err)
	}
	cancel()
	<-watched
	if err := c.Stop(); err != nil {
		t.Error(err)
	}
}
