package demo

import (
	"context"
	"slices"
	"testing"
	"time"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/supply"
	"journeyman/internal/exchange"
	"journeyman/internal/query"
	"journeyman/internal/rooms"
	"journeyman/internal/standin"
	"journeyman/internal/store"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// play makes the demo as it would be made at that moment.
func play(t *testing.T, now time.Time) *rooms.Rooms {
	t.Helper()
	return playOn(t, dbtest.Store(t), now)
}

func playOn(t *testing.T, s *store.Store, now time.Time) *rooms.Rooms {
	t.Helper()
	people := []Person{
		{"ana", "Ana Ruiz", command.Coordinator},
		{"tom", "Tom Sedge", command.Sales},
		{"flo", "Flo Marsh", command.Floor},
		{"max", "Max Orme", command.Manager},
	}
	err := Run(context.Background(), func(clock func() time.Time) *rooms.Rooms {
		return rooms.Open(s, rooms.Options{WeakHash: true, Now: clock, Carrier: standin.Carrier{Now: clock}})
	}, people, now, func(string) {})
	if err != nil {
		t.Fatal(err)
	}
	if diff, n, err := s.Audit(context.Background()); err != nil || len(diff) > 0 || n < 10_000 {
		t.Fatalf("audit: %v, %d counts, %v", diff, n, err)
	}
	return rooms.Open(s, rooms.Options{WeakHash: true, Now: func() time.Time { return now }})
}

func TestTheDemoBookTellsItsStories(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	d := play(t, time.Date(2027, 3, 2, 15, 50, 0, 0, time.UTC)) // ten to four on a Tuesday
	strip, err := d.Query.Strip(ctx)
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range strip.Stations {
		if s.Units == 0 || s.Lines == 0 && s.Station != "delivered" {
			t.Errorf("nothing stands at %s", s.Station)
		}
		if s.Waiting == 0 && s.Station != "delivered" {
			t.Errorf("nothing waits at %s", s.Station)
		}
	}
	orders, err := d.Query.Sum(ctx, "orders", query.Ask{})
	if err != nil || orders.Rows < 380 || orders.Rows > 420 {
		t.Errorf("%d orders (%v)", orders.Rows, err)
	}
	// 1. Six orders compete for a glaze, 265 short, a tier-1 school among them.
	glaze, err := d.Query.Item(ctx, "GL-2040-1")
	if err != nil {
		t.Fatal(err)
	}
	if short := glaze.At.Open - glaze.Cells[0].Free; len(glaze.Lines) != 6 || short != 265 || glaze.Lines[0].Tier != 1 {
		t.Errorf("the glaze: %d lines, %d short", len(glaze.Lines), short)
	}
	// 4. An overdue arrival with nine orders resting on it.
	clay, err := d.Query.Item(ctx, "CB-118")
	if err != nil || len(clay.Inbound) == 0 || !clay.Inbound[0].Overdue || len(clay.Lines) < 9 {
		t.Errorf("the clay: %d lines, arrivals %+v (%v)", len(clay.Lines), clay.Inbound, err)
	}
	// 6 and 8. Two cancelled on the way, one on credit hold with everything allocated.
	held, err := d.Query.Orders(ctx, query.Ask{Scope: map[string]string{"state": "held"}})
	if err != nil {
		t.Fatal(err)
	}
	// One customer owes: each of its orders is on hold with it.
	withCustomer, customer := 0, ""
	at := map[string]supply.Counts{}
	for _, o := range held.Orders {
		if o.Holds[0] == "customer" {
			if withCustomer++; customer != "" && customer != o.Customer {
				t.Errorf("%s and %s are on hold", customer, o.Customer)
			}
			customer = o.Customer
			continue
		}
		at[o.Holds[0]] = o.At
		if o.Holds[0] == "credit" && o.At.Allocated != o.At.Ordered {
			t.Errorf("the credit hold: %+v", o.At)
		}
	}
	if len(at) != 2 || withCustomer == 0 || len(held.Orders)-withCustomer != 3 {
		t.Errorf("holds: %v of %d orders, %d with a customer", at, len(held.Orders), withCustomer)
	}
	// A line was cancelled when it was picked: its units are to be put back.
	if tasks, err := d.Query.PutBacks(ctx); err != nil || len(tasks) == 0 || tasks[0].Why != "cancelled by customer" || tasks[0].Bin == "" {
		t.Errorf("to be put back: %+v, %v", tasks, err)
	}
	// 5. Three shipments of one customer to one address, and a fourth to another.
	shipments, err := d.Query.Shipments(ctx, query.Ask{})
	if err != nil {
		t.Fatal(err)
	}
	addresses := map[string]int{}
	for _, s := range shipments.Shipments {
		if s.Customer == "Emberly Pottery Shop" {
			addresses[s.ShipTo.Name]++
		}
	}
	if addresses["Emberly Pottery Shop yard"] != 1 || addresses["Emberly Pottery Shop"] < 3 {
		t.Errorf("at the dock for Emberly: %v", addresses)
	}
	// 7. Sent long ago and never reported delivered; and no supply due.
	if shipments, err = d.Query.Shipments(ctx, query.InState("under way")); err != nil {
		t.Fatal(err)
	}
	if !slices.ContainsFunc(shipments.Shipments, func(s query.ShipmentView) bool { return s.Late }) {
		t.Error("no shipment is overdue")
	}
	kiln, err := d.Query.Item(ctx, "KL-070")
	if err != nil || kiln.Buyable || len(kiln.Inbound) != 0 || kiln.At.Open == 0 {
		t.Errorf("the kiln: %+v (%v)", kiln.At, err)
	}
	// 10. Sold with no cost on record.
	fault := false
	for ask, more := (query.Ask{}), true; more && !fault; more = ask.After != "" {
		p, err := d.Query.Orders(ctx, ask)
		if err != nil {
			t.Fatal(err)
		}
		fault, ask.After = slices.ContainsFunc(p.Orders, func(o supply.OrderRow) bool { return o.DataFault != "" }), p.Next.Next
	}
	if !fault {
		t.Error("no order has a fault in its data")
	}
	rel, err := d.Floor.Offer(ctx, floor.DueAsk{})
	if err != nil {
		t.Fatal(err)
	}
	why := map[string]bool{}
	for _, n := range rel.NotOffered {
		why[n.Reason] = n.Lines > 0
	}
	for _, r := range []string{"nothing_allocated", "on_hold", "not_due", "rule_order", "no_bin"} {
		if !why[r] {
			t.Errorf("no line is held back because of %s", r)
		}
	}
}

func TestTheDemoBookIsMadeOnASundayToo(t *testing.T) {
	t.Parallel()
	d := play(t, time.Date(2027, 3, 7, 3, 0, 0, 0, time.UTC))
	if strip, err := d.Query.Strip(context.Background()); err != nil || strip.Today != "2027-03-07" || strip.Stations[0].Units == 0 {
		t.Errorf("%+v %v", strip, err)
	}
}

func TestTheScenarioIsTheSameEveryTime(t *testing.T) {
	t.Parallel()
	today := workday(20_880)
	a, b := newScenario(today), newScenario(today)
	if string(a.stockFile().Data) != string(b.stockFile().Data) ||
		string(ordersFile("o", a.orders).Data) != string(ordersFile("o", b.orders).Data) {
		t.Error("two scenarios of one day differ")
	}
	if len(a.items) < 140 || len(a.items) > 170 || len(a.custs) != 80 {
		t.Errorf("%d items, %d customers", len(a.items), len(a.custs))
	}
	lines := 0
	for _, o := range a.orders {
		lines += len(o.lines)
	}
	if lines < 1000 || lines > 1400 {
		t.Errorf("%d lines", lines)
	}
}

func TestBulkFilesHaveNoFault(t *testing.T) {
	t.Parallel()
	b, rows := exchange.Scan(slices.Values(Bulk(3000)), exchange.Reading{}, func(int) {})
	for range rows {
	}
	if b.Faulty != 0 || b.Rows[exchange.Orders] != 3000 || b.Rows[exchange.Items] != 1000 {
		t.Errorf("%v, %v", b.Rows, b.Faults)
	}
}
