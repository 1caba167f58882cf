package store

import (
	"context"
	"embed"
	"io/fs"

	"journeyman/internal/store/postgres"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Migrations are the SQL files, numbered.
func Migrations() fs.FS {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		panic(err) // the folder is embedded
	}
	return files
}

// Migrate brings the database at url to the newest version, with the rights of the user in the URL, who becomes the owner of everything,
// and makes the server's login role. It returns how many migrations were applied. Several servers may call it at once.
func Migrate(ctx context.Context, url string) (int, error) {
	return postgres.Migrate(ctx, url, Migrations())
}

// MigrateTo applies migrations up to and including version; for tests that need a database of an earlier time.
func MigrateTo(ctx context.Context, url string, version int64) error {
	return postgres.MigrateTo(ctx, url, Migrations(), version)
}
