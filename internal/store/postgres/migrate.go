package postgres

import (
	"context"
	"fmt"
	"io/fs"
	neturl "net/url"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
)

// Migrate brings the database at url to the newest version, with the rights of
// the user in the URL, who becomes the owner of everything, and makes the server's login role. It returns how many
// migrations were applied. Several servers may call it at once.
func Migrate(ctx context.Context, url string, files fs.FS) (int, error) {
	applied := 0
	err := withProvider(ctx, url, files, func(p *goose.Provider) error {
		res, err := p.Up(ctx)
		applied = len(res)
		return err
	})
	if err != nil {
		return applied, err
	}
	if err := migrateJobs(ctx, url); err != nil {
		return applied, err
	}
	return applied, makeServerRole(ctx, url)
}

// MigrateTo applies migrations up to and including version; for tests that
// need a database of an earlier time.
func MigrateTo(ctx context.Context, url string, files fs.FS, version int64) error {
	return withProvider(ctx, url, files, func(p *goose.Provider) error {
		_, err := p.UpTo(ctx, version)
		return err
	})
}

func withProvider(ctx context.Context, url string, files fs.FS, fn func(*goose.Provider) error) error {
	cfg, err := pgx.ParseConfig(url)
	if err != nil {
		return fmt.Errorf("DATABASE_URL is not a PostgreSQL URL: %w", err)
	}
	db := stdlib.OpenDB(*cfg)
	defer func() { _ = db.Close() }()
	if err := db.PingContext(ctx); err != nil {
		return fmt.Errorf("%w at %s (is it running, and is DATABASE_URL right?): %w", ErrNoDatabase, cfg.Host, err)
	}
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectPostgres, db, files, goose.WithSessionLocker(locker))
	if err != nil {
		return err
	}
	return fn(p)
}

// EnsureDatabase creates the database that url names if its server has none of
// that name. The user in the URL must have the right to create databases.
func EnsureDatabase(ctx context.Context, url string) error {
	return asAdmin(ctx, url, func(conn *pgx.Conn, name string) error {
		var there bool
		if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT 1 FROM pg_database WHERE datname = $1)", name).Scan(&there); err != nil ||
			there {
			return err
		}
		_, err := conn.Exec(ctx, "CREATE DATABASE "+pgx.Identifier{name}.Sanitize())
		return err
	})
}

// CopyDatabase makes a database of that name like the one that url names, and returns its URL. Nobody may be connected to the
// original.
func CopyDatabase(ctx context.Context, url, name string) (string, error) {
	err := asAdmin(ctx, url, func(conn *pgx.Conn, original string) error {
		_, err := conn.Exec(ctx, "CREATE DATABASE "+pgx.Identifier{name}.Sanitize()+" TEMPLATE "+pgx.Identifier{original}.Sanitize())
		return err
	})
	if err != nil {
		return "", err
	}
	u, err := neturl.Parse(url)
	if err != nil {
		return "", err
	}
	u.Path = "/" + name
	return u.String(), nil
}

// DropDatabase removes the database that url names, whoever is connected to it.
func DropDatabase(ctx context.Context, url string) error {
	return asAdmin(ctx, url, func(conn *pgx.Conn, name string) error {
		_, err := conn.Exec(ctx, "DROP DATABASE IF EXISTS "+pgx.Identifier{name}.Sanitize()+" WITH (FORCE)")
		return err
	})
}

// asAdmin calls fn with a connection to another database of the server than the one that url names, and with the name of that one.
func asAdmin(ctx context.Context, url string, fn func(conn *pgx.Conn, name string) error) error {
	cfg, err := pgx.ParseConfig(url)
	if err != nil {
		return err
	}
	name := cfg.Database
	cfg.Database = "postgres"
	conn, err := pgx.ConnectConfig(ctx, cfg)
	if err != nil {
		return fmt.Errorf("%w at %s: %w", ErrNoDatabase, cfg.Host, err)
	}
	defer func() { _ = conn.Close(ctx) }()
	return fn(conn, name)
}
