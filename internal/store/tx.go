package store

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"hash/fnv"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"gorm.io/gorm"

	"journeyman/internal/store/postgres"
)

// Tx is a Reader that may also write, in one transaction on one connection. A command's claim goes out together with the
// first thing it asks for, and its moves, its outcome and the end of the transaction go out together.
type Tx struct {
	Reader
	tx    *postgres.Tx
	claim *claim
	queue *postgres.Jobs
	lots  []LotEntry
}

// claim is a command that takes its key.
type claim struct {
	Command
	got func(id int64)
}

// Repeat is the error of a command whose key was used before, with what the first one was
// and was answered.
type Repeat struct {
	Before Command
	Other  bool // the key was used for something else
}

func (r *Repeat) Error() string { return fmt.Sprintf("command %d has this key", r.Before.ID) }

// longWork is what commands over thousands of lines may take instead.
var longWork = []string{"SET LOCAL statement_timeout = '15min'", "SET LOCAL lock_timeout = '2min'"}

// ErrUnknown is wrapped by the error of a transaction whose end was sent to the database, but not answered: it may have been
// done or not. CommandByKey finds out.
var ErrUnknown = postgres.ErrUnknown

// InTx runs fn in one transaction: all of it is done when InTx returns nil, and
// nothing of it otherwise, but for an error that wraps ErrUnknown. fn may run again from the start when the database
// asked for it, so it must not change anything outside its transaction.
func (s *Store) InTx(ctx context.Context, fn func(*Tx) error) error { return s.inTx(ctx, nil, fn) }

// InLongTx is InTx for work on thousands of rows, which may take minutes.
func (s *Store) InLongTx(ctx context.Context, fn func(*Tx) error) error {
	return s.inTx(ctx, longWork, fn)
}

func (s *Store) inTx(ctx context.Context, settings []string, fn func(*Tx) error) error {
	return postgres.Run(ctx, s.sql, settings, func(tx *postgres.Tx) error {
		g := s.g.Session(&gorm.Session{NewDB: true, Context: ctx})
		g.Statement.ConnPool = tx.ForGORM()
		return fn(&Tx{Reader: Reader{g}, tx: tx, queue: s.queue})
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
func (t *Tx) Claim(c Command, got func(id int64)) {
	t.claim = &claim{Command: c, got: got}
	t.tx.Ahead(func(b *pgx.Batch) func() error {
		c := &t.claim.Command
		b.Queue(
			`SELECT nextval('command_id_seq'), pg_advisory_xact_lock($1)`, lockOf(c.Key),
		).QueryRow(func(row pgx.Row) error { return row.Scan(&c.ID, nil) })
		// A statement of its own: it has to see what ended while we waited for the lock.
		var before []Command
		b.Queue(`SELECT id, key, verb, actor_id, at, reason, asked, undoes, outcome FROM command WHERE key = $1
			AND actor_id = $2`, c.Key, c.ActorID).Query(into(&before))
		return func() error {
			if len(before) > 0 {
				r := &Repeat{Before: before[0]}
				r.Other = r.Before.Verb != c.Verb || !bytes.Equal(r.Before.Asked, c.Asked)
				return r
			}
			t.claim.got(c.ID)
			return nil
		}
	})
}

// CommandID is the key of the command that was claimed.
func (t *Tx) CommandID() (int64, error) {
	err := t.tx.Begin()
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
	return t.tx.Raw(func(conn *pgx.Conn) error { return t.queue.Insert(t.tx.Context(), conn, args) })
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
	return t.tx.Commit(func(b *pgx.Batch) {
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
		if len(t.lots) > 0 {
			query, args := writeLots(id, t.lots)
			b.Queue(query, args...)
		}
	})
}
