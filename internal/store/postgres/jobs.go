package postgres

import (
	"context"
	"errors"
	"log/slog"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
)

// quiet: what goes wrong is returned.
var quiet = slog.New(slog.DiscardHandler)

// JobSchema is where the tables of the job queue are. The library makes and changes them; nothing else writes to them.
const JobSchema = "jobs"

// migrateJobs brings the tables of the job queue to the library's newest version, and lets the application use them.
func migrateJobs(ctx context.Context, url string) error {
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		return err
	}
	defer pool.Close()
	conn, err := pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, `SELECT pg_advisory_lock(7201006)`); err != nil { // several servers may come up at once
		return err
	}
	defer func() { _, _ = conn.Exec(context.WithoutCancel(ctx), `SELECT pg_advisory_unlock(7201006)`) }()
	if _, err := conn.Exec(ctx, `CREATE SCHEMA IF NOT EXISTS `+JobSchema); err != nil {
		return err
	}
	m, err := rivermigrate.New(riverpgxv5.New(pool), &rivermigrate.Config{Schema: JobSchema, Logger: quiet})
	if err != nil {
		return err
	}
	if _, err := m.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return err
	}
	_, err = conn.Exec(ctx, `GRANT USAGE ON SCHEMA `+JobSchema+` TO journeyman_app;
		GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA `+JobSchema+` TO journeyman_app;
		GRANT USAGE ON ALL SEQUENCES IN SCHEMA `+JobSchema+` TO journeyman_app`)
	return err
}

// Jobs puts jobs into the queue.
type Jobs struct{ client *river.Client[pgx.Tx] }

// NewJobs returns a queue to put jobs into; what works them is elsewhere.
func NewJobs() (*Jobs, error) {
	c, err := river.NewClient(riverpgxv5.New(nil), &river.Config{Schema: JobSchema, Logger: quiet})
	return &Jobs{c}, err
}

// Insert puts a job into the queue in the transaction that is open on conn: it is worked if that commits, and never otherwise.
func (j *Jobs) Insert(ctx context.Context, conn *pgx.Conn, args river.JobArgs) error {
	_, err := j.client.InsertTx(ctx, connTx{conn}, args, nil)
	return err
}

// connTx is a transaction that somebody else began on the connection, and ends.
type connTx struct{ conn *pgx.Conn }

var errNotOurs = errors.New("postgres: the transaction is ended by who began it")

func (connTx) Begin(context.Context) (pgx.Tx, error) { return nil, errNotOurs }
func (connTx) Commit(context.Context) error          { return errNotOurs }
func (connTx) Rollback(context.Context) error        { return errNotOurs }
func (c connTx) Conn() *pgx.Conn                     { return c.conn }
func (connTx) LargeObjects() pgx.LargeObjects        { return pgx.LargeObjects{} }

func (c connTx) CopyFrom(ctx context.Context, table pgx.Identifier, columns []string, rows pgx.CopyFromSource) (int64, error) {
	return c.conn.CopyFrom(ctx, table, columns, rows)
}

func (c connTx) SendBatch(ctx context.Context, b *pgx.Batch) pgx.BatchResults {
	return c.conn.SendBatch(ctx, b)
}

func (c connTx) Prepare(ctx context.Context, name, sql string) (*pgconn.StatementDescription, error) {
	return c.conn.Prepare(ctx, name, sql)
}

func (c connTx) Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error) {
	return c.conn.Exec(ctx, sql, args...)
}

func (c connTx) Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error) {
	return c.conn.Query(ctx, sql, args...)
}

func (c connTx) QueryRow(ctx context.Context, sql string, args ...any) pgx.Row {
	return c.conn.QueryRow(ctx, sql, args...)
}
