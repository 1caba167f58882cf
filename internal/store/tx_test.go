package store_test

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"

	"journeyman/internal/dbtest"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
)

// somebody adds a person and returns a command of theirs.
func somebody(t *testing.T, s *store.Store) store.Command {
	t.Helper()
	u := store.User{Login: "ana", Name: "Ana", Role: "coordinator", Active: true}
	if err := s.InTx(context.Background(), func(tx *store.Tx) error { return tx.Create(&u) }); err != nil {
		t.Fatal(err)
	}
	return store.Command{Key: uuid.NewString(), Verb: "drop", ActorID: u.ID, At: time.Now(), Asked: []byte("one")}
}

func commands(t *testing.T, s *store.Store) int {
	t.Helper()
	n := 0
	if err := s.Pool.QueryRow(context.Background(), "SELECT count(*) FROM command").Scan(&n); err != nil {
		t.Fatal(err)
	}
	return n
}

func TestACommandIsWrittenOnceAndItsRepeatIsToldWhatItWas(t *testing.T) {
	t.Parallel()
	s := dbtest.Store(t)
	ctx, c := context.Background(), somebody(t, s)
	var told int64
	first := func(tx *store.Tx) error {
		tx.Claim(c, func(id int64) { told = id })
		return tx.Commit(nil, nil, `{"sentence":"done"}`)
	}
	if err := s.InTx(ctx, first); err != nil {
		t.Fatal(err)
	}
	if told == 0 || commands(t, s) != 1 {
		t.Fatalf("its key is %d, %d commands are kept", told, commands(t, s))
	}
	var again *store.Repeat
	if err := s.InTx(ctx, first); !errors.As(err, &again) || again.Other || again.Before.ID != told ||
		again.Before.Outcome != `{"sentence": "done"}` {
		t.Errorf("the repeat is told %v: %+v", err, again)
	}
	c.Asked = []byte("another")
	if err := s.InTx(ctx, first); !errors.As(err, &again) || !again.Other {
		t.Errorf("the key for something else: %v", err)
	}
	if commands(t, s) != 1 {
		t.Errorf("%d commands are kept", commands(t, s))
	}
}

func TestRepeatsAtTheSameTimeWaitForTheFirst(t *testing.T) {
	t.Parallel()
	s := dbtest.Store(t)
	ctx, c := context.Background(), somebody(t, s)
	var did, repeated atomic.Int64
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			err := s.InTx(ctx, func(tx *store.Tx) error {
				tx.Claim(c, func(int64) {})
				if _, err := tx.CommandID(); err != nil {
					return err
				}
				return tx.Commit(nil, nil, `{}`)
			})
			var again *store.Repeat
			switch {
			case err == nil:
				did.Add(1)
			case errors.As(err, &again) && !again.Other:
				repeated.Add(1)
			default:
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if did.Load() != 1 || repeated.Load() != 7 {
		t.Errorf("%d did it and %d were told of it", did.Load(), repeated.Load())
	}
}

func TestWhatFailsLeavesNothingAndTheConnectionIsGoodAgain(t *testing.T) {
	t.Parallel()
	s := dbtest.Store(t)
	ctx, c := context.Background(), somebody(t, s)
	stop := errors.New("stop")
	claimed := func(then func(*store.Tx) error) error {
		return s.InTx(ctx, func(tx *store.Tx) error {
			tx.Claim(c, func(int64) {})
			if err := tx.Remember("half", "done"); err != nil {
				return err
			}
			return then(tx)
		})
	}
	if err := claimed(func(*store.Tx) error { return stop }); !errors.Is(err, stop) {
		t.Errorf("got %v", err)
	}
	func() {
		defer func() {
			if recover() == nil {
				t.Error("the panic was swallowed")
			}
		}()
		_ = claimed(func(*store.Tx) error { panic("stop") })
	}()
	// An entry that no rule allows: the whole packet is refused, with the end of the transaction in it.
	bad := store.Entry{Item: 1}
	bad.Move.Kind, bad.Move.Qty = "vanish", 1
	if err := claimed(func(tx *store.Tx) error { return tx.Commit([]store.Entry{bad}, nil, `{}`) }); err == nil ||
		postgres.Check(err) == "" {
		t.Errorf("a move that is none: %v", err)
	}
	cut, cancel := context.WithCancel(ctx)
	cancel()
	if err := s.InTx(cut, func(tx *store.Tx) error { return tx.Remember("half", "done") }); err == nil {
		t.Error("done for somebody who had gone")
	}
	if v, err := s.Read(ctx).Setting("half"); err != nil || v != "" || commands(t, s) != 0 {
		t.Errorf("half is %q, %d commands: %v", v, commands(t, s), err)
	}
	if err := claimed(func(tx *store.Tx) error { return tx.Commit(nil, nil, `{}`) }); err != nil {
		t.Errorf("after all that: %v", err)
	}
	if v, _ := s.Read(ctx).Setting("half"); v != "done" {
		t.Errorf("half is %q", v)
	}
}

func TestATransactionEndsOnce(t *testing.T) {
	t.Parallel()
	s := dbtest.Store(t)
	ctx, c := context.Background(), somebody(t, s)
	err := s.InTx(ctx, func(tx *store.Tx) error {
		if _, err := tx.CommandID(); err == nil {
			t.Error("a command that nobody claimed has a key")
		}
		tx.Claim(c, func(int64) {})
		if err := tx.Commit(nil, nil, `{}`); err != nil {
			return err
		}
		if _, err := tx.Lock([]int64{1}, nil); err == nil {
			t.Error("it goes on after its end")
		}
		return nil
	})
	if err != nil {
		t.Error(err)
	}
}

// Two transactions take two rows in two orders: the database makes one of them begin
// again, and both are done.
func TestADeadlockIsTriedAgain(t *testing.T) {
	t.Parallel()
	s := dbtest.Store(t)
	ctx := context.Background()
	for _, k := range []string{"a", "b"} {
		if err := s.InTx(ctx, func(tx *store.Tx) error { return tx.Remember(k, "0") }); err != nil {
			t.Fatal(err)
		}
	}
	var runs atomic.Int64
	var both sync.WaitGroup
	both.Add(2)
	var wg sync.WaitGroup
	for _, order := range [][2]string{{"a", "b"}, {"b", "a"}} {
		wg.Go(func() {
			first := true
			err := s.InTx(ctx, func(tx *store.Tx) error {
				runs.Add(1)
				if err := tx.Remember(order[0], "1"); err != nil {
					return err
				}
				if first { // meet the other one, each with a row
					first = false
					both.Done()
					both.Wait()
				}
				return tx.Remember(order[1], "1")
			})
			if err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if runs.Load() < 3 {
		t.Errorf("%d runs: there was no deadlock, the test shows nothing", runs.Load())
	}
}
