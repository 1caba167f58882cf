// Package dbtest gives each test a database of its own on a private PostgreSQL
// server: migrated once into a template, then copied in milliseconds.
package dbtest

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"journeyman/internal/cluster"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
)

var (
	running  *cluster.Cluster
	template string
	count    atomic.Int64
)

// Dir is where the tests' server lives. It waits for no disk, so it is never the one of the demo.
func Dir() string { return filepath.Join(os.TempDir(), "journeyman-test-"+strconv.Itoa(os.Getuid())) }

// Main runs the tests of a package with a server. Call it from TestMain.
func Main(m *testing.M) {
	os.Exit(func() int {
		ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
		defer cancel()
		c, err := cluster.Start(ctx, cluster.Options{Dir: Dir(), Fast: true})
		if err != nil {
			fmt.Fprintln(os.Stderr, err)
			return 1
		}
		defer func() { _ = c.Stop() }()
		running = c
		if err := makeTemplate(ctx); err != nil {
			fmt.Fprintln(os.Stderr, err)
			return 1
		}
		return m.Run()
	}())
}

// makeTemplate migrates a database named after the migrations, unless a package
// before us has.
func makeTemplate(ctx context.Context) error {
	h := sha256.New()
	err := fs.WalkDir(store.Migrations(), ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(store.Migrations(), path)
		h.Write(b)
		return err
	})
	if err != nil {
		return err
	}
	if info, ok := debug.ReadBuildInfo(); ok { // the job queue has migrations of its own
		for _, dep := range info.Deps {
			if dep.Path == "github.com/riverqueue/river" {
				h.Write([]byte(dep.Version))
			}
		}
	}
	template = "template_" + hex.EncodeToString(h.Sum(nil))[:16]
	conn, err := pgx.Connect(ctx, running.URL("postgres"))
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(ctx) }()
	if _, err := conn.Exec(ctx, "SELECT pg_advisory_lock(7201001)"); err != nil {
		return err
	}
	var there bool
	if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", template).Scan(&there); err != nil ||
		there {
		return err
	}
	making := template + "_making"
	for _, q := range []string{"DROP DATABASE IF EXISTS " + making + " WITH (FORCE)", "CREATE DATABASE " + making} {
		if _, err := conn.Exec(ctx, q); err != nil {
			return err
		}
	}
	if _, err := store.Migrate(ctx, running.URL(making)); err != nil {
		return err
	}
	_, err = conn.Exec(ctx, "ALTER DATABASE "+making+" RENAME TO "+template)
	return err
}

// URL returns a new database for the test, dropped when it ends.
func URL(t testing.TB) string { return makeDatabase(t, "TEMPLATE "+template) }

// EmptyURL is the same with nothing in it, not even tables.
func EmptyURL(t testing.TB) string { return makeDatabase(t, "") }

func makeDatabase(t testing.TB, from string) string {
	t.Helper()
	name := fmt.Sprintf("test_%d_%d", os.Getpid(), count.Add(1))
	do := func(q string) {
		ctx := context.Background()
		conn, err := pgx.Connect(ctx, running.URL("postgres"))
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = conn.Close(ctx) }()
		if _, err := conn.Exec(ctx, q); err != nil {
			t.Fatal(err)
		}
	}
	do("CREATE DATABASE " + name + " " + from)
	t.Cleanup(func() { do("DROP DATABASE IF EXISTS " + name + " WITH (FORCE)") })
	return running.URL(name)
}

// Store opens a new database for the test.
func Store(t testing.TB) *store.Store {
	t.Helper()
	return Open(t, URL(t))
}

// Open opens a database as the server does, until the test ends.
func Open(t testing.TB, url string) *store.Store {
	t.Helper()
	server, err := postgres.ServerURL(url)
	if err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(context.Background(), server)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	return s
}

// OwnerURL is the store's database as its owner connects to it.
func OwnerURL(s *store.Store) string { return running.URL(s.Pool.Config().ConnConfig.Database) }

// Again opens the store's database once more, as another server does, until the test ends.
func Again(t testing.TB, s *store.Store) *store.Store {
	t.Helper()
	return Open(t, OwnerURL(s))
}

// Owner connects as the owner of the store's database, until the test ends.
func Owner(t testing.TB, s *store.Store) *pgx.Conn {
	t.Helper()
	conn, err := pgx.Connect(context.Background(), running.URL(s.Pool.Config().ConnConfig.Database))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = conn.Close(context.Background()) })
	return conn
}

// AwaitLock returns once somebody in the store's database waits for a lock.
func AwaitLock(t testing.TB, s *store.Store) {
	t.Helper()
	for waiting := 0; waiting == 0; {
		if err := s.Pool.QueryRow(context.Background(), `SELECT count(*) FROM pg_locks WHERE NOT granted
			AND pid IN (SELECT pid FROM pg_locks WHERE database = (SELECT oid FROM pg_database
			WHERE datname = current_database()))`).Scan(&waiting); err != nil {
			t.Fatal(err)
		}
	}
}
