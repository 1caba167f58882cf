package api_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/dock"
	"journeyman/internal/query"
	"journeyman/internal/standin"
)

// ledger is a carrier that keeps what it was told of each shipment, takes its time, and refuses every tenth shipment.
type ledger struct {
	standin.Carrier
	mu    sync.Mutex
	took  map[string]dock.Consignment
	again map[string]int // how often it was told something else of the same shipment
}

func (l *ledger) Book(ctx context.Context, c dock.Consignment) (dock.Booking, error) {
	time.Sleep(time.Duration(rand.IntN(8)) * time.Millisecond)
	if strings.HasSuffix(c.Shipment, "7") {
		return dock.Booking{}, &dock.Refused{Sentence: "the van is full"}
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if was, known := l.took[c.Shipment]; known && (was.Packages != c.Packages || was.WeightG != c.WeightG) {
		l.again[c.Shipment]++
	}
	l.took[c.Shipment] = c
	return l.Carrier.Book(ctx, c)
}

// racing is one order that is cancelled while it is picked, packed and dispatched.
type racing struct {
	t     *testing.T
	b     *besieged
	order string
	pace  *atomic.Int64 // within how many milliseconds it is cancelled: so that some of it is in time, and some is not
	over  atomic.Bool
}

// keepPace has the next orders be cancelled later if nothing of this one has left, and sooner if all of it has, however fast the machine is.
func (r *racing) keepPace(gone, ordered int64) {
	now := r.pace.Load()
	switch {
	case gone == 0:
		r.pace.Store(min(now+now/20+1, 5000))
	case gone == ordered:
		r.pace.Store(max(now-now/20-1, 20))
	}
}

// ask sends a command and returns what was said; refusals are answers, faults are not.
func (r *racing) ask(p *person, path string, ask any, reason string) (int, string) {
	body, err := json.Marshal(map[string]any{"ask": ask, "reason": reason})
	if err != nil {
		r.t.Error(err)
	}
	code, said := p.send("POST", path, uuid.NewString(), string(body))
	if code >= 500 {
		r.t.Errorf("%s %s: %d %s", r.order, path, code, said)
	}
	return code, said
}

func fetched[T any](r *racing, p *person, path string) (out T) {
	code, body := p.get(path)
	if err := json.Unmarshal([]byte(body), &out); code != 200 || err != nil {
		r.t.Errorf("%s: %d %v", path, code, err)
	}
	return out
}

// pick picks what is left on a list, by the code of its sheet, in several goes.
func (r *racing) pick(flo *person, list string) (refused string) {
	for range 3 {
		l := fetched[query.PickListView](r, flo, "/api/pick-lists/"+list)
		for _, x := range l.Tasks {
			if x.Due == 0 {
				continue
			}
			q := 1 + rand.Int64N(x.Due)
			if code, said := r.ask(flo, "/api/pick", []map[string]any{{
				"task": x.ID, "qty": q, "later": q < x.Due, "seen": x.Due, "sheet": l.Papers[0].Code,
			}}, ""); code != 200 {
				refused = said
			}
		}
	}
	return refused
}

// pack packs what is picked of the order, and dispatches what is packed.
func (r *racing) pack(flo *person) {
	o := fetched[query.OrderView](r, flo, "/api/orders/"+r.order)
	var contents []map[string]any
	for _, l := range o.Lines {
		if l.At.Picked > 0 {
			contents = append(contents, map[string]any{"line": l.ID, "qty": 1 + rand.Int64N(l.At.Picked)})
		}
	}
	if len(contents) > 0 {
		r.ask(flo, "/api/pack", map[string]any{"order": r.order, "warehouse": "HL", "packages": []any{
			map[string]any{"kind": "carton", "contents": contents},
		}}, "")
	}
	r.dispatch(flo)
}

func (r *racing) dispatch(flo *person) {
	for _, d := range fetched[query.OrderView](r, flo, "/api/orders/"+r.order).Documents {
		if d.Kind == "shipment" {
			r.ask(flo, "/api/dispatch", []any{map[string]any{"number": d.Number, "seen": 0}}, "")
		}
	}
}

// outbox has the carrier asked about everything that waits, as several servers do.
func (r *racing) outbox() {
	for range 50 {
		_, err := r.b.desk.Dock.BookAll(context.Background())
		if err == nil {
			return
		}
		// What a job records may come between two other commands; it is tried again then.
		if no := (*command.Refusal)(nil); !errors.As(err, &no) || no.Kind != command.KindConflict {
			r.t.Error(err)
			return
		}
	}
	r.t.Error("what the carrier says cannot be recorded")
}

func (r *racing) cancel(who *person) (int, string) {
	return r.ask(who, "/api/recall-units", map[string]any{"order": r.order, "ends": "dropped"}, "cancelled by customer")
}

func (r *racing) run(ana, tom, flo, dan *person) {
	code, said := r.ask(ana, "/api/release", map[string]any{"orders": []any{map[string]any{"number": r.order, "seen": 0}}, "print": true}, "")
	if code != 200 {
		r.t.Fatal(code, said)
	}
	var out struct {
		Documents []struct{ Kind, Number string }
	}
	if err := json.Unmarshal([]byte(said), &out); err != nil {
		r.t.Fatal(err)
	}
	list := out.Documents[0].Number
	var wg sync.WaitGroup
	wg.Go(func() { r.pick(flo, list) })
	wg.Go(func() {
		for range 4 {
			r.pack(dan)
		}
	})
	for range 2 {
		wg.Go(func() {
			for !r.over.Load() {
				r.outbox()
				time.Sleep(time.Duration(rand.IntN(25)) * time.Millisecond)
			}
		})
	}
	var cancels sync.WaitGroup
	for _, who := range []*person{ana, tom} {
		cancels.Go(func() {
			time.Sleep(time.Duration(rand.Int64N(r.pace.Load())) * time.Millisecond)
			r.cancel(who)
		})
	}
	cancels.Wait()
	r.over.Store(true)
	wg.Wait()
	// The carrier has answered: what it did not take is cancelled, too. From here on nothing of it may leave.
	r.outbox()
	r.cancel(tom)
	gone := fetched[query.OrderView](r, ana, "/api/orders/"+r.order).At.Shipped
	refused := r.pick(flo, list)
	if refused != "" && !strings.Contains(refused, "is void") && !strings.Contains(refused, "has changed") {
		r.t.Errorf("%s, a stale sheet: %s", r.order, refused)
	}
	r.pack(dan)
	r.outbox()
	at := fetched[query.OrderView](r, ana, "/api/orders/"+r.order).At
	r.keepPace(at.Shipped, at.Ordered)
	if at.Shipped != gone || at.Dropped+at.Shipped != at.Ordered {
		r.t.Errorf("%s was cancelled with %d gone, and came to %+v", r.order, gone, at)
	}
}

// Orders are cancelled while they are picked by sheets, packed, dispatched, and the carrier is asked from two servers: whatever the order
// in which that comes about, nothing that was cancelled leaves, nothing that left is dropped, and the carrier took just what left.
func TestAttackCancellingRacesWithTheFloorAndTheCarrier(t *testing.T) {
	t.Parallel()
	races := 200
	if *full {
		races = 10_000
	}
	carrier := &ledger{took: map[string]dock.Consignment{}, again: map[string]int{}}
	b := besiegeWith(t, dbtest.Store(t), carrier).filled(t)
	ana := visit(t, b.Server, "ana")
	var orders strings.Builder
	orders.WriteString("order,customer,wanted,line,sku,warehouse,qty\n")
	for i := range races {
		fmt.Fprintf(&orders, "SO-%d,SPC,2099-03-02,1,RC-1,HL,%d\nSO-%d,SPC,2099-03-02,2,RC-2,HL,%d\n", 90000+i, 2+i%5, 90000+i, 1+i%3)
	}
	key := uuid.NewString()
	if code, body := ana.files(key, map[string]string{
		"items.csv":  "sku,name,price,cost,weight_kg\nRC-1,One,2.00,1.00,1.2\nRC-2,Two,2.00,1.00,0.7\n",
		"stock.csv":  fmt.Sprintf("warehouse,sku,bin,on_hand\nHL,RC-1,R-1-1,%d\nHL,RC-1,R-1-2,%[1]d\nHL,RC-2,R-2-1,%[1]d\n", 10*races),
		"orders.csv": orders.String(),
	}); code != 200 || !strings.Contains(body, `"faulty":0`) {
		t.Fatal(code, body)
	}
	if code, body := ana.send("POST", "/api/imports/apply", uuid.NewString(), `{"ask":{"import":"`+key+`"}}`); code != 200 {
		t.Fatal(code, body)
	}
	const most = 500
	for i := 0; i < races; i += most {
		var chosen []any
		for k := i; k < min(races, i+most); k++ {
			chosen = append(chosen, map[string]any{"number": fmt.Sprint("SO-", 90000+k), "seen": 0})
		}
		r := &racing{t: t, b: b}
		if code, said := r.ask(ana, "/api/allocate", map[string]any{"orders": chosen}, ""); code != 200 {
			t.Fatal(code, said)
		}
	}
	next, pace := atomic.Int64{}, atomic.Int64{}
	pace.Store(220)
	var wg sync.WaitGroup
	for range 3 {
		ana, tom, flo, dan := visit(t, b.Server, "ana"), visit(t, b.Server, "tom"), visit(t, b.Server, "flo"), visit(t, b.Server, "flo")
		wg.Go(func() {
			for {
				i := next.Add(1) - 1
				if i >= int64(races) || t.Failed() {
					return
				}
				(&racing{t: t, b: b, pace: &pace, order: fmt.Sprint("SO-", 90000+i)}).run(ana, tom, flo, dan)
			}
		})
	}
	wg.Wait()
	// Just what the carrier took has left, with the weight of which it was told.
	rows, err := b.store.Pool.Query(context.Background(), `SELECT s.number, count(*)::int, sum(p.weight_g)::bigint FROM shipment s
		JOIN package p ON p.shipment_id = s.id AND EXISTS (SELECT 1 FROM package_line c WHERE c.package_id = p.id AND c.qty > 0)
		WHERE s.dispatched_at IS NOT NULL GROUP BY s.number`)
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	var left []string
	for rows.Next() {
		var number string
		var packages int
		var weight int64
		if err := rows.Scan(&number, &packages, &weight); err != nil {
			t.Fatal(err)
		}
		left = append(left, number)
		if c, took := carrier.took[number]; !took || c.Packages != packages || c.WeightG != weight {
			t.Errorf("%s left with %d packages of %d g; the carrier was told %+v", number, packages, weight, c)
		}
	}
	for number, c := range carrier.took {
		if !slices.Contains(left, number) {
			t.Errorf("the carrier took %s, which has not left: %+v", number, c)
		}
	}
	if len(carrier.again) > 0 {
		t.Errorf("the carrier was told different things of the same shipments: %v", carrier.again)
	}
	var stopped, dropped int
	if err := b.store.Pool.QueryRow(context.Background(), `SELECT count(*) FILTER (WHERE refused LIKE 'Its dispatch was stopped%'),
		(SELECT count(*) FROM put_back) FROM shipment`).Scan(&stopped, &dropped); err != nil {
		t.Fatal(err)
	}
	t.Logf("of %d orders, %d shipments left, %d dispatches were stopped before the carrier was asked, %d tasks put something back", races,
		len(left), stopped, dropped)
	if len(left) == 0 || dropped == 0 {
		t.Error("the race shows nothing: either all or none of it was in time")
	}
	if faults := b.log.faults(); len(faults) > 0 {
		t.Error(strings.Join(faults, "\n"))
	}
	sound(t, b.store)
}
