package store

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"hash/fnv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/riverqueue/river"
	"gorm.io/gorm"

	"journeyman/internal/store/postgres"
)

// Tx is a Reader that may also write, in one transaction on one connection.
//
// What a command always does is sent in few packets: its claim goes out together with
// the first thing it asks for, and its moves, its outcome and the end of the transaction
// go out together. A round trip costs more than most of its statements.
type Tx struct {
	Reader
	ctx   context.Context
	conn  *sql.Conn
	begun bool
	ended bool
	claim *claim
	long  bool
	queue *postgres.Jobs
}

// claim is a command that takes its key.
type claim struct {
	Command
	sent bool
	got  func(id int64)
}

// Repeat is the error of a command whose key was used before, with what the first one was
// and was answered.
type Repeat struct {
	Before Command
	Other  bool // the key was used for something else
}

func (r *Repeat) Error() string { return fmt.Sprintf("command %d has this key", r.Before.ID) }

// longWork is what commands over thousands of lines may take instead.
const longWork = `SET LOCAL statement_timeout = '15min'; SET LOCAL lock_timeout = '2min'`

// tries is how often a transaction is begun again when the database chose it as
// the victim of a deadlock or a serialisation failure.
const tries = 5

// ErrUnknown is wrapped by the error of a transaction whose end was sent to the database, but not answered: it may have been
// done or not. CommandByKey finds out.
var ErrUnknown = errors.New("it is not known whether the transaction was committed")

// InTx runs fn in one transaction: all of it is done when InTx returns nil, and
// nothing of it otherwise, but for an error that wraps ErrUnknown. fn may run again from the start when the database
// asked for it, so it must not change anything outside its transaction.
func (s *Store) InTx(ctx context.Context, fn func(*Tx) error) error { return s.inTx(ctx, false, fn) }

// InLongTx is InTx for work on thousands of rows, which may take minutes.
func (s *Store) InLongTx(ctx context.Context, fn func(*Tx) error) error { return s.inTx(ctx, true, fn) }

func (s *Store) inTx(ctx context.Context, long bool, fn func(*Tx) error) error {
	var err error
	for try := range tries {
		if err = s.once(ctx, long, fn); !retryable(err) {
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

func (s *Store) once(ctx context.Context, long bool, fn func(*Tx) error) (err error) {
	conn, err := s.sql.Conn(ctx)
	if err != nil {
		return err
	}
	t := &Tx{ctx: ctx, conn: conn, long: long, queue: s.queue}
	defer func() {
		if p := recover(); p != nil {
			t.undo()
			_ = conn.Close()
			panic(p)
		}
		if err != nil {
			t.undo()
		}
		if e := conn.Close(); err == nil && e != nil {
			err = e
		}
	}()
	g := s.g.Session(&gorm.Session{NewDB: true, Context: ctx})
	g.Statement.ConnPool = lazy{t}
	t.g = g
	if err := fn(t); err != nil {
		return err
	}
	if t.ended {
		return nil
	}
	return t.pipe(func(b *pgx.Batch) { b.Queue("commit") }, true)
}

// undo rolls back. A connection that does not answer is thrown away by the pool, and the
// database rolls back by itself.
func (t *Tx) undo() {
	if t.begun {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(t.ctx), 5*time.Second)
		defer cancel()
		_, _ = t.conn.ExecContext(ctx, "rollback")
	}
}

// pipe sends statements in one go, behind what has to come before them.
func (t *Tx) pipe(queue func(*pgx.Batch), last bool) error {
	if t.ended {
		return errors.New("store: the transaction has ended")
	}
	return t.conn.Raw(func(driver any) error {
		b := &pgx.Batch{}
		if !t.begun {
			b.Queue("begin")
			if t.long {
				for setting := range strings.SplitSeq(longWork, "; ") {
					b.Queue(setting)
				}
			}
		}
		asked := t.claim != nil && !t.claim.sent
		var before []Command
		if asked {
			t.claim.sent = true
			c := &t.claim.Command
			b.Queue(
				`SELECT nextval('command_id_seq'), pg_advisory_xact_lock($1)`, lockOf(c.Key),
			).QueryRow(func(row pgx.Row) error { return row.Scan(&c.ID, nil) })
			// A statement of its own: it has to see what ended while we waited for the lock.
			b.Queue(`SELECT id, key, verb, actor_id, at, reason, asked, undoes, outcome FROM command WHERE key = $1
				AND actor_id = $2`, c.Key, c.ActorID).Query(into(&before))
		}
		queue(b)
		t.begun = true
		c := driver.(*stdlib.Conn).Conn()
		if err := c.SendBatch(t.ctx, b).Close(); err != nil {
			var refused *pgconn.PgError
			if last && !errors.As(err, &refused) && !pgconn.SafeToRetry(err) {
				return fmt.Errorf("%w: %w", ErrUnknown, err)
			}
			return err
		}
		if len(before) > 0 {
			r := &Repeat{Before: before[0]}
			r.Other = r.Before.Verb != t.claim.Verb || !bytes.Equal(r.Before.Asked, t.claim.Asked)
			return r
		}
		if asked {
			t.claim.got(t.claim.ID)
		}
		t.ended = last
		return nil
	})
}

// CommandByKey returns the command of that person and key, if there is one. It waits until a transaction that holds the key has
// ended, so that afterwards there is none for good unless the command is sent again.
func (s *Store) CommandByKey(ctx context.Context, key string, actor int64) (c Command, found bool, err error) {
	err = s.InTx(ctx, func(tx *Tx) error {
		if _, err := tx.exec(`SELECT pg_advisory_xact_lock($1)`, lockOf(key)); err != nil {
			return err
		}
		c, found, err = one[Command](&tx.Reader, `SELECT * FROM command WHERE key = ? AND actor_id = ?`, key, actor)
		return err
	})
	return c, found, err
}

// lockOf is the number by which the key of a command is locked. Keys that share one wait
// for each other and are not confused.
func lockOf(key string) int64 {
	h := fnv.New64a()
	_, _ = h.Write([]byte(key))
	return int64(h.Sum64())
}

// Claim takes the key for a command, with the next thing that the transaction asks of
// the database. If the key was used before, that waits until the command has ended and
// fails with a *Repeat; else got is told the command's key in the journal.
func (t *Tx) Claim(c Command, got func(id int64)) { t.claim = &claim{Command: c, got: got} }

// CommandID is the key of the command that was claimed.
func (t *Tx) CommandID() (int64, error) {
	err := t.begin()
	if err == nil && t.claim == nil {
		err = errors.New("store: no command was claimed")
	}
	if err != nil {
		return 0, err
	}
	return t.claim.ID, nil
}

// Enqueue puts a job into the queue: it is worked once the transaction is committed, and never if it is not.
func (t *Tx) Enqueue(args river.JobArgs) error {
	if err := t.begin(); err != nil {
		return err
	}
	return t.conn.Raw(func(driver any) error { return t.queue.Insert(t.ctx, driver.(*stdlib.Conn).Conn(), args) })
}

// Commit writes the command that was claimed, with what is answered to it, appends its
// entries to the journal and to the promises, and ends the transaction. The database carries the entries to the
// counts and refuses what cannot be; then nothing is done.
func (t *Tx) Commit(entries []Entry, promises []PromiseEntry, outcome string) error {
	id, err := t.CommandID()
	if err != nil {
		return err
	}
	// Never are more units promised than are open: fewer promises come before the moves, more after them. Of many moves
	// all come before, and the database counts them together with the moves.
	together := len(entries) >= manyEntries
	first, ofFirst, err := writePromises(id, promises, func(was, now int64) bool { return together || now <= was })
	if err != nil {
		return err
	}
	then, ofThen, err := writePromises(id, promises, func(was, now int64) bool { return !together && now > was })
	if err != nil {
		return err
	}
	return t.pipe(func(b *pgx.Batch) {
		c := &t.claim.Command
		b.Queue(`INSERT INTO command (id, key, verb, actor_id, at, reason, asked, undoes, outcome) OVERRIDING SYSTEM VALUE
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9::text::jsonb)`, id, c.Key, c.Verb, c.ActorID, c.At, c.Reason, c.Asked, c.Undoes, outcome)
		if first != "" {
			if together {
				b.Queue(`SELECT set_config('journeyman.moves_follow', 'yes', true)`)
			}
			b.Queue(first, ofFirst...)
		}
		if len(entries) > 0 {
			query, args := writeJournal(id, entries)
			b.Queue(query, args...)
		}
		if then != "" {
			b.Queue(then, ofThen...)
		}
		b.Queue("commit")
	}, true)
}

// begin sends what has to come before anything else.
func (t *Tx) begin() error {
	if t.begun && (t.claim == nil || t.claim.sent) {
		return nil
	}
	return t.pipe(func(*pgx.Batch) {}, false)
}

// lazy is the connection as GORM uses it.
type lazy struct{ t *Tx }

func (l lazy) PrepareContext(ctx context.Context, q string) (*sql.Stmt, error) {
	if err := l.t.begin(); err != nil {
		return nil, err
	}
	return l.t.conn.PrepareContext(ctx, q)
}

func (l lazy) ExecContext(ctx context.Context, q string, args ...any) (sql.Result, error) {
	if err := l.t.begin(); err != nil {
		return nil, err
	}
	return l.t.conn.ExecContext(ctx, q, args...)
}

func (l lazy) QueryContext(ctx context.Context, q string, args ...any) (*sql.Rows, error) {
	if err := l.t.begin(); err != nil {
		return nil, err
	}
	return l.t.conn.QueryContext(ctx, q, args...)
}

func (l lazy) QueryRowContext(ctx context.Context, q string, args ...any) *sql.Row {
	if err := l.t.begin(); err != nil {
		ended, cancel := context.WithCancelCause(ctx)
		cancel(err)
		return l.t.conn.QueryRowContext(ended, q, args...)
	}
	return l.t.conn.QueryRowContext(ctx, q, args...)
}
