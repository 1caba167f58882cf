package postgres

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/gorm"
)

// Tx is one transaction on one connection. What it always does is sent in few packets: what it begins with goes out together with the first
// thing that is asked, and the last thing that is written together with its end. A round trip costs more than most
// statements. It is not safe for use by several goroutines.
type Tx struct {
	ctx      context.Context
	conn     *sql.Conn
	settings []string
	ahead    func(*pgx.Batch) (answered func() error)
	begun    bool
	ended    bool
}

// ErrUnknown is wrapped by the error of a transaction whose end was sent to the database, but not answered: it may have been
// done or not.
var ErrUnknown = errors.New("it is not known whether the transaction was committed")

// tries is how often a transaction is begun again when the database chose it as the victim of a deadlock or a serialisation failure.
const tries = 5

// Run runs fn in one transaction with the settings, which are statements. All of it is done when Run returns nil, and nothing
// of it otherwise, but for an error that wraps ErrUnknown. fn may run again from the start when the database asked for it, so it
// must not change anything outside its transaction.
func Run(ctx context.Context, db *sql.DB, settings []string, fn func(*Tx) error) (err error) {
	for try := range tries {
		if err = once(ctx, db, settings, fn); !retryable(err) {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(1<<try) * 5 * time.Millisecond):
		}
	}
	return err
}

func retryable(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && (pg.Code == "40P01" || pg.Code == "40001")
}

func once(ctx context.Context, db *sql.DB, settings []string, fn func(*Tx) error) (err error) {
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	t := &Tx{ctx: ctx, conn: conn, settings: settings}
	defer func() {
		if p := recover(); p != nil {
			t.rollBack()
			_ = conn.Close()
			panic(p)
		}
		if err != nil {
			t.rollBack()
		}
		if e := conn.Close(); err == nil && e != nil {
			err = e
		}
	}()
	if err := fn(t); err != nil {
		return err
	}
	if t.ended {
		return nil
	}
	return t.Commit(func(*pgx.Batch) {})
}

// rollBack takes back what was done. A connection that does not answer is thrown away by the pool, and the database rolls back by itself.
func (t *Tx) rollBack() {
	if t.begun {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(t.ctx), 5*time.Second)
		defer cancel()
		_, _ = t.conn.ExecContext(ctx, "rollback")
	}
}

// Context is that of the transaction.
func (t *Tx) Context() context.Context { return t.ctx }

// Ahead queues what is to be asked before anything else, with the first thing that is. When all of it is answered, what it returned is
// called; its error is that of the first thing.
func (t *Tx) Ahead(queue func(*pgx.Batch) (answered func() error)) { t.ahead = queue }

// Begin sends what has to come before anything else, if nothing was sent yet.
func (t *Tx) Begin() error {
	if t.begun && t.ahead == nil {
		return nil
	}
	return t.Send(func(*pgx.Batch) {})
}

// Send sends statements in one go, behind what has to come before them.
func (t *Tx) Send(queue func(*pgx.Batch)) error { return t.send(queue, false) }

// Commit sends statements and the end of the transaction in one go.
func (t *Tx) Commit(queue func(*pgx.Batch)) error {
	return t.send(func(b *pgx.Batch) {
		queue(b)
		b.Queue("commit")
	}, true)
}

func (t *Tx) send(queue func(*pgx.Batch), last bool) error {
	if t.ended {
		return errors.New("postgres: the transaction has ended")
	}
	return t.conn.Raw(func(driver any) error {
		b := &pgx.Batch{}
		if !t.begun {
			b.Queue("begin")
			for _, s := range t.settings {
				b.Queue(s)
			}
		}
		answered := func() error { return nil }
		if ahead := t.ahead; ahead != nil {
			t.ahead = nil
			answered = ahead(b)
		}
		queue(b)
		t.begun = true
		if err := driver.(*stdlib.Conn).Conn().SendBatch(t.ctx, b).Close(); err != nil {
			var refused *pgconn.PgError
			if last && !errors.As(err, &refused) && !pgconn.SafeToRetry(err) {
				return fmt.Errorf("%w: %w", ErrUnknown, err)
			}
			return err
		}
		if err := answered(); err != nil {
			return err
		}
		t.ended = last
		return nil
	})
}

// Raw hands over the driver's connection, in the transaction.
func (t *Tx) Raw(fn func(*pgx.Conn) error) error {
	if err := t.Begin(); err != nil {
		return err
	}
	return t.conn.Raw(func(driver any) error { return fn(driver.(*stdlib.Conn).Conn()) })
}

// Exec executes a statement and says how many rows it touched.
func (t *Tx) Exec(query string, args ...any) (int64, error) {
	if err := t.Begin(); err != nil {
		return 0, err
	}
	res, err := t.conn.ExecContext(t.ctx, query, args...)
	if err != nil {
		return 0, err
	}
	return res.RowsAffected()
}

// ForGORM is the connection as GORM uses it: the transaction begins with the first statement.
func (t *Tx) ForGORM() gorm.ConnPool { return lazy{t} }

type lazy struct{ t *Tx }

func (l lazy) PrepareContext(ctx context.Context, q string) (*sql.Stmt, error) {
	if err := l.t.Begin(); err != nil {
		return nil, err
	}
	return l.t.conn.PrepareContext(ctx, q)
}

func (l lazy) ExecContext(ctx context.Context, q string, args ...any) (sql.Result, error) {
	if err := l.t.Begin(); err != nil {
		return nil, err
	}
	return l.t.conn.ExecContext(ctx, q, args...)
}

func (l lazy) QueryContext(ctx context.Context, q string, args ...any) (*sql.Rows, error) {
	if err := l.t.Begin(); err != nil {
		return nil, err
	}
	return l.t.conn.QueryContext(ctx, q, args...)
}

func (l lazy) QueryRowContext(ctx context.Context, q string, args ...any) *sql.Row {
	if err := l.t.Begin(); err != nil {
		ended, cancel := context.WithCancelCause(ctx)
		cancel(err)
		return l.t.conn.QueryRowContext(ended, q, args...)
	}
	return l.t.conn.QueryRowContext(ctx, q, args...)
}
