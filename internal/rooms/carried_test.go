package rooms_test

import (
	"compress/gzip"
	"context"
	"io"
	"os"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/dock"
	"journeyman/internal/query"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
	"journeyman/internal/store"
)

// dumped is a day on which the demo's book was made and dumped by a version whose last migration was 00008: before shipments were
// booked by jobs, and before the sums of the strip and the lists were kept. Made with
//
//	pg_dump --no-comments -O --inserts --rows-per-insert=1000 --exclude-table-data='*session*' | grep -v '^\\\|^--\|^$' | gzip -9n
var dumped = time.Date(2026, 11, 27, 14, 0, 0, 0, time.UTC)

// restored is an office on a database as an earlier version left it, brought to the newest version.
func restored(t *testing.T, file string) *desktest.Office {
	t.Helper()
	f, err := os.Open(file)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = f.Close() }()
	z, err := gzip.NewReader(f)
	if err != nil {
		t.Fatal(err)
	}
	sql, err := io.ReadAll(z)
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	url := dbtest.EmptyURL(t)
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		t.Fatal(err)
	}
	_, err = conn.PgConn().Exec(ctx, string(sql)).ReadAll()
	if err := conn.Close(ctx); err != nil {
		t.Fatal(err)
	}
	if err != nil {
		t.Fatal(err)
	}
	if n, err := store.Migrate(ctx, url); err != nil || n < 3 {
		t.Fatalf("%d migrations were applied, %v", n, err)
	}
	o := &desktest.Office{T: t, At: dumped}
	clock := func() time.Time { return o.At }
	o.Rooms = rooms.Open(
		dbtest.Open(t, url), rooms.Options{WeakHash: true, Now: clock, Carrier: standin.Carrier{After: time.Hour, Now: clock}},
	)
	users, err := o.Store.Read(ctx).Users()
	if err != nil {
		t.Fatal(err)
	}
	for _, u := range users {
		a := command.Actor{ID: u.ID, Name: u.Name, Role: command.Role(u.Role), Login: u.Login}
		switch a.Role {
		case command.Coordinator:
			o.Ana = a
		case command.Sales:
			o.Tom = a
		case command.Floor:
			o.Flo = a
		case command.Manager:
			o.Max = a
		}
	}
	return o
}

func TestADatabaseOfAnEarlierVersionIsCarriedOverAndWorkedOn(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	o := restored(t, "testdata/before_the_outbox.sql.gz")
	o.Sound()

	strip, err := o.Query.Strip(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range strip.Stations {
		if s.Station == "open" && (s.Units < 500 || s.Lines < 20) {
			t.Errorf("of the open units, the strip knows %d on %d lines", s.Units, s.Lines)
		}
	}
	docks, err := o.Query.Shipments(ctx, query.Ask{})
	if err != nil {
		t.Fatal(err)
	}
	sent := 0
	for _, s := range docks.Shipments {
		if s.Waits.IsZero() && sent < 3 {
			o.Leave(dock.ShipmentSeen{Number: s.Number, Seen: s.Units})
			sent++
		}
	}
	if sent == 0 {
		t.Error("nothing at the dock may leave")
	}
	plan := o.Rehearse(allocation.RunAsk{}).Plans[0]
	out := desktest.Done(t)(o.Allocation.ApplyRun(ctx, o.By(o.Ana), allocation.ApplyAsk{Plan: plan.Key}))
	if out.Units == 0 || out.Units != plan.All.Units {
		t.Errorf("%d units were allocated, %d shown", out.Units, plan.All.Units)
	}
	o.Sound()
}
