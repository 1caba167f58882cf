package main

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/standin"
)

// held is a carrier that can be made to wait before it takes a shipment, or before it says that it has.
type held struct {
	*standin.Server
	before, after chan struct{} // nil: it does not wait; else closed when it goes on
	asked, taken  chan struct{} // told when it is asked, and when it has taken one
}

func (h *held) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.URL.Path != "/bookings" {
		h.Server.ServeHTTP(w, r)
		return
	}
	tell(h.asked)
	wait(r, h.before)
	rec := httptest.NewRecorder()
	h.Server.ServeHTTP(rec, r)
	tell(h.taken)
	wait(r, h.after)
	for k, v := range rec.Header() {
		w.Header()[k] = v
	}
	w.WriteHeader(rec.Code)
	_, _ = w.Write(rec.Body.Bytes())
}

func tell(c chan struct{}) {
	select {
	case c <- struct{}{}:
	default:
	}
}

func wait(r *http.Request, until chan struct{}) {
	if until != nil {
		select {
		case <-until:
		case <-r.Context().Done():
		}
	}
}

// A server is killed at each step of a dispatch, or all connections to the database are cut there. Once a server is back, the shipment
// has been booked with one key, has left once, and every count is right.
func TestAShipmentLeavesOnceWhereverTheServerIsKilled(t *testing.T) {
	for _, x := range []struct {
		name   string
		kill   bool // the server; else the database's connections are cut
		before bool // while the carrier is being asked; else after it has taken the shipment and before that is known
	}{
		{"the server while the carrier is asked", true, true},
		{"the server before the answer is recorded", true, false},
		{"the database while the carrier is asked", false, true},
		{"the database before the answer is recorded", false, false},
	} {
		t.Run(x.name, func(t *testing.T) {
			t.Parallel()
			o := desktest.New(t)
			ctx := context.Background()
			if _, err := o.Admin.AddUser(
				ctx, admin.NewUser{Login: "ana2", Name: "Ana Two", Role: command.Coordinator, Password: "correct horse"},
			); err != nil {
				t.Fatal(err)
			}
			desktest.Done(t)(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
			number := o.Pack("SO-1002", "HL")
			c := &held{Server: &standin.Server{}, asked: make(chan struct{}, 1), taken: make(chan struct{}, 1)}
			gate := make(chan struct{})
			if x.before {
				c.before = gate
			} else {
				c.after = gate
			}
			srv := httptest.NewServer(c)
			defer srv.Close()
			open := sync.OnceFunc(func() { close(gate) })
			defer open()
			url := dbtest.OwnerURL(o.Store)
			line := o.Line("SO-1002", 1).ID
			owner, err := pgx.Connect(ctx, url)
			if err != nil {
				t.Fatal(err)
			}
			defer func() { _ = owner.Close(ctx) }()
			count := func(q string, args ...any) (n int) {
				if err := owner.QueryRow(ctx, q, args...).Scan(&n); err != nil {
					t.Fatal(err)
				}
				return n
			}
			var ours []int32 // connections of the test itself, which stay
			if err := owner.QueryRow(
				ctx, `SELECT array_agg(pid) FROM pg_stat_activity WHERE datname = current_database()`,
			).Scan(&ours); err != nil {
				t.Fatal(err)
			}
			p := serveProcess(t, url, "ana2", "--carrier", srv.URL)
			if code, body := p.post(
				"/api/dispatch", uuid.NewString(), fmt.Sprintf(`{"ask":[{"number":%q,"seen":0}]}`, number),
			); code != 200 {
				t.Fatal(code, body)
			}
			if x.before {
				<-c.asked
			} else {
				<-c.taken
			}
			if x.kill {
				if err := p.cmd.Process.Signal(syscall.SIGKILL); err != nil {
					t.Fatal(err)
				}
				_ = p.cmd.Wait()
			} else if _, err := owner.Exec(
				ctx, `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> ALL ($1)`, ours,
			); err != nil {
				t.Fatal(err)
			}
			if n := count(`SELECT packed FROM line_count WHERE line_id = $1`, line); n != 24 {
				t.Errorf("%d are packed, want 24", n)
			}
			open()
			if x.kill {
				serveProcess(t, url, "ana2", "--carrier", srv.URL)
			}
			for deadline := time.Now().Add(2 * time.Minute); count(`SELECT shipped FROM line_count WHERE line_id = $1`, line) != 24; {
				if time.Now().After(deadline) {
					t.Fatal("it never left")
				}
				time.Sleep(50 * time.Millisecond)
			}
			if moves, commands := count(`SELECT count(*) FROM journal WHERE kind = 'dispatch'`),
				count(`SELECT count(DISTINCT command_id) FROM journal WHERE kind = 'dispatch'`); moves != 1 || commands != 1 {
				t.Errorf("%d moves of %d commands", moves, commands)
			}
			if times, _ := c.Booked(number); times < 1 {
				t.Error("the carrier took nothing")
			}
			o.Sound()
		})
	}
}
