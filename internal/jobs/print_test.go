package jobs

import (
	"context"
	"log/slog"
	"net/http/httptest"
	"testing"
	"time"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/query"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
)

// A printer that is slow, fails or does not say in time that it has printed still prints each document once.
func TestADocumentIsPrintedOnceHoweverThePrinterBehaves(t *testing.T) {
	t.Parallel()
	for _, mode := range standin.PrinterModes {
		t.Run(string(mode), func(t *testing.T) {
			t.Parallel()
			printer := &standin.Printer{Wait: 200 * time.Millisecond}
			printer.SetMode(mode)
			srv := httptest.NewServer(printer)
			t.Cleanup(srv.Close)
			o := desktest.New(t)
			d := rooms.Open(dbtest.Again(t, o.Store), rooms.Options{
				WeakHash: true, Printer: standin.PrinterClient{URL: srv.URL}, Log: slog.New(slog.DiscardHandler),
			})
			q, err := Start(context.WithoutCancel(t.Context()), d, slog.New(slog.DiscardHandler))
			if err != nil {
				t.Fatal(err)
			}
			t.Cleanup(func() {
				ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
				defer cancel()
				if err := q.Stop(ctx); err != nil {
					t.Error(err)
				}
			})
			desktest.Done(t)(o.Allocation.Allocate(t.Context(), o.By(o.Ana), o.Qty("SO-1002", 1, 24)))
			out := desktest.Done(t)(d.Floor.Release(t.Context(), o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1002", 1, 24), Print: true}))
			await := func(what string, is func(query.PaperView) bool) query.PaperView {
				t.Helper()
				for deadline := time.Now().Add(2 * time.Minute); ; time.Sleep(10 * time.Millisecond) {
					p, err := o.Query.Paper(context.Background(), out.Documents[0].Number+"-R1")
					if err != nil {
						t.Fatal(err)
					}
					if is(p) {
						return p
					}
					if time.Now().After(deadline) {
						t.Fatalf("%s was waited for in vain: %+v", what, p)
					}
				}
			}
			least := 1
			if mode == standin.Failing || mode == standin.Late {
				p := await("trouble", func(p query.PaperView) bool { return p.Trouble != "" })
				if want := map[standin.Mode]string{
					standin.Failing: "the printer cannot be reached", standin.Late: "the printer has not answered in time",
				}[mode]; p.Trouble != want || p.State != "printing" {
					t.Errorf("%+v", p)
				}
				if mode == standin.Late {
					least = 2
				}
				printer.SetMode(standin.Well)
			}
			p := await("the paper", func(p query.PaperView) bool { return p.State == "printed" })
			kept, err := o.Query.Document(t.Context(), p.Run)
			if err != nil {
				t.Fatal(err)
			}
			times, pdf := printer.Printed("run-1")
			if times < least || string(pdf) != string(kept) || p.Trouble != "" {
				t.Errorf("asked %d times, want at least %d; the printer has %d bytes, kept are %d; %+v", times, least, len(pdf), len(kept), p)
			}
		})
	}
}
