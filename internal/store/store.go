// Package store is the only room that knows the database: its connection, its
// migrations, its tables and its queries. What it returns are plain records; what
// they mean is decided above it.
package store

import (
	"context"
	"database/sql"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	driver "gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	"gorm.io/gorm/schema"

	"journeyman/internal/store/postgres"
)

// Store is the database as the application uses it, with its own rights. What pages read, what commands do and what has to
// be answered whatever else goes on have connections of their own, so that none of them waits for another.
type Store struct {
	Pool     *pgxpool.Pool // what pages read
	commands *pgxpool.Pool
	aside    *pgxpool.Pool // sessions, progress, announcements, health
	Jobs     *pgxpool.Pool // what works the job queue
	queue    *postgres.Jobs
	sql      *sql.DB // the commands' connections
	g        *gorm.DB
	dbs      []*sql.DB
}

// Open connects to the database at url, as the server's login role (see ServerURL) or another that has the rights of the role
// journeyman_app and owns nothing. The error wraps postgres.ErrNoDatabase if nobody answers there.
func Open(ctx context.Context, url string) (*Store, error) {
	s := &Store{}
	for _, x := range []struct {
		pool **pgxpool.Pool
		how  postgres.Pool
	}{{&s.Pool, postgres.ForPages}, {&s.commands, postgres.ForCommands}, {&s.aside, postgres.ForAside}, {&s.Jobs, postgres.ForJobs}} {
		pool, err := x.how.Open(ctx, url)
		if err != nil {
			s.Close()
			return nil, err
		}
		*x.pool = pool
	}
	ping, cancel := context.WithTimeout(ctx, 10*time.Second)
	defer cancel()
	if err := s.aside.Ping(ping); err != nil {
		s.Close()
		return nil, fmt.Errorf(
			"%w at %s (is it running, and is DATABASE_URL right?): %w", postgres.ErrNoDatabase, s.aside.Config().ConnConfig.Host, err,
		)
	}
	queue, err := postgres.NewJobs()
	if err != nil {
		s.Close()
		return nil, err
	}
	s.queue = queue
	s.sql = stdlib.OpenDBFromPool(s.commands)
	reads := stdlib.OpenDBFromPool(s.Pool)
	s.dbs = []*sql.DB{s.sql, reads}
	g, err := gorm.Open(driver.New(driver.Config{Conn: reads}), &gorm.Config{
		TranslateError:         true,
		SkipDefaultTransaction: true,
		CreateBatchSize:        5000, // a statement has at most 65,535 values
		NamingStrategy:         schema.NamingStrategy{SingularTable: true},
		Logger:                 logger.Discard, // every error is returned; whoever gets it decides what is worth a line
	})
	if err != nil {
		s.Close()
		return nil, err
	}
	s.g = g
	return s, nil
}

// Close gives back all connections.
func (s *Store) Close() {
	for _, db := range s.dbs {
		_ = db.Close()
	}
	for _, p := range []*pgxpool.Pool{s.Pool, s.commands, s.aside, s.Jobs} {
		if p != nil {
			p.Close()
		}
	}
}

// Announce tells every server on the database something, in at most 8,000 bytes.
func (s *Store) Announce(ctx context.Context, payload string) error {
	return postgres.Notices{Pool: s.aside}.Announce(ctx, payload)
}

// Listen calls heard for everything announced, until ctx ends. After the
// connection was lost and made again it calls missed, for what may not have been heard.
func (s *Store) Listen(ctx context.Context, heard func(payload string), missed func(error)) {
	postgres.Notices{Pool: s.aside}.Listen(ctx, heard, missed)
}

// Healthy says whether the database answers.
func (s *Store) Healthy(ctx context.Context) error { return s.aside.Ping(ctx) }

// Read returns a reader that sees committed data.
func (s *Store) Read(ctx context.Context) *Reader { return &Reader{g: s.g.WithContext(ctx)} }

// Reader runs queries, inside a transaction or outside.
type Reader struct{ g *gorm.DB }

// exec runs plain SQL with $1 placeholders in the transaction: for sets of rows.
func (t *Tx) exec(query string, args ...any) (int64, error) { return t.tx.Exec(query, args...) }

// all runs a query with ? placeholders and returns its rows.
func all[T any](r *Reader, query string, args ...any) ([]T, error) {
	rows := []T{}
	if err := r.g.Raw(query, used(query, args)...).Scan(&rows).Error; err != nil {
		return nil, err
	}
	return rows, nil
}

// one runs a query that has at most one row; found says whether there is one.
func one[T any](r *Reader, query string, args ...any) (row T, found bool, err error) {
	res := r.g.Raw(query, used(query, args)...).Scan(&row)
	return row, res.RowsAffected > 0, res.Error
}

// used are the arguments as GORM takes them; named ones are left out where the query names none.
func used(query string, args []any) []any {
	if len(args) == 1 && !strings.Contains(query, "@") {
		if _, named := args[0].(map[string]any); named {
			return nil
		}
	}
	out := make([]any, len(args))
	for i, arg := range args {
		out[i] = asArray(arg)
	}
	return out
}

// IDs is a list of keys handed to the database as one array.
type IDs []int64

// Texts is a list of texts handed to the database as one array.
type Texts []string

// asArray is an argument as GORM hands it on unchanged: it writes out a list as so many placeholders, but not what a pointer points to.
func asArray(arg any) any {
	switch x := arg.(type) {
	case IDs:
		return arrayOf(x)
	case Texts:
		return arrayOf(x)
	case map[string]any:
		named := make(map[string]any, len(x))
		for name, value := range x {
			named[name] = asArray(value)
		}
		return named
	}
	return arg
}

func arrayOf[T any](list []T) *[]T {
	if list == nil {
		list = []T{} // no array is not an empty one
	}
	return &list
}
