package sales_test

import (
	"context"
	"slices"
	"strings"
	"sync"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
)

// parts says promises in few words: 68 HL 03-02.
func TestADraftAnswersBesideEachLine(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	v := o.Draft(sales.Draft{Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{
		{SKU: "GL-2040-1", Qty: 80},
		{SKU: "GL-2040-1", Qty: 5},
		{SKU: "CB-110", Qty: 110},
		{SKU: "CB-110", Qty: 12, Warehouse: "DQ", How: "none"},
	}})
	if v.Customer.Name != "Saltpan Ceramics" || v.ShipTo != "SHOP" || v.Address.City != "Saltpan" || v.Service != "pallet" ||
		v.Terms != "flat" || v.Warehouse != "HL" || v.Channel != "telephone" {
		t.Errorf("the customer brings %+v", v)
	}
	glaze, again, clay, bulk := v.Lines[0], v.Lines[1], v.Lines[2], v.Lines[3]
	if glaze.ShipBy != "2027-03-02" {
		t.Errorf("for Friday a pallet has to leave on %s", glaze.ShipBy)
	}
	// 68 of 72 are free; 100 come on the 10th; more can be bought from the 22nd on.
	for i, c := range []struct{ got, want string }{
		{desktest.Parts(glaze.Parts), "68 HL 03-02, 12 HL 03-10"},
		{strings.Join(glaze.Arrives, " "), "2027-03-05 2027-03-15"},
		{glaze.Earliest, "2027-03-15"},
		{desktest.Parts(again.Parts), "5 HL 03-10"}, // the line before has taken what there is
		{desktest.Parts(clay.Parts), "96 HL 03-02, 14 HL 03-15"},
		{desktest.Parts(bulk.Parts), ""},
		{bulk.Earliest, "2027-03-05"},
	} {
		if c.got != c.want {
			t.Errorf("answer %d is %q, want %q", i, c.got, c.want)
		}
	}
	if glaze.Free != 68 || glaze.OnHand != 72 || glaze.Spoken != 0 || clay.Elsewhere != 400 || glaze.Next == nil ||
		glaze.Next.Ref != "PO-733" {
		t.Errorf("free %d of %d, spoken for %d, elsewhere %d, next %+v", glaze.Free, glaze.OnHand, glaze.Spoken, clay.Elsewhere, glaze.Next)
	}
	if !glaze.Late || !again.Late || !clay.Late || bulk.Late || v.InTime != 1 || v.Late != 3 {
		t.Errorf("%d in time, %d late", v.InTime, v.Late)
	}
	if clay.Better == nil || *clay.Better != (sales.Better{Warehouse: "DQ", Arrives: "2027-03-05"}) || glaze.Better != nil {
		t.Errorf("better for the clay %+v, for the glaze %+v", clay.Better, glaze.Better)
	}
	if clay.Hint.String() != "goes in packs of 4: 108 or 112" || glaze.Hint.String() != "" {
		t.Errorf("hints %q, %q", clay.Hint, glaze.Hint)
	}
	if v.ValueMinor != 85*1420+122*980 || v.MarginBP == nil || v.DataFault != "" || len(v.Missing) != 0 {
		t.Errorf("worth %d with a margin of %v; missing %v", v.ValueMinor, v.MarginBP, v.Missing)
	}
}

func TestHowALineIsPromised(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	for _, c := range []struct {
		name, rule string
		how        [2]string
		want       [2]string
		short      [2]int64
	}{
		{"as it comes", "any", [2]string{}, [2]string{"68 HL 03-02, 12 HL 03-10", "2 DQ 03-02, 1 DQ 03-22"}, [2]int64{}},
		{"in one piece", "any", [2]string{"whole", "split"}, [2]string{"80 HL 03-10", "2 DQ 03-02, 1 DQ 03-22"}, [2]int64{}},
		{"not at all", "any", [2]string{"none", "whole"}, [2]string{"", "3 DQ 03-22"}, [2]int64{}},
		{"complete lines", "lines", [2]string{}, [2]string{"80 HL 03-10", "3 DQ 03-22"}, [2]int64{}},
		{"complete order", "whole", [2]string{}, [2]string{"80 HL 03-22", "3 DQ 03-22"}, [2]int64{}},
		{"whole order, not at all", "whole", [2]string{"", "none"}, [2]string{"", ""}, [2]int64{}},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := o.Draft(sales.Draft{Customer: "SPC", Wanted: "2027-03-05", ShipRule: c.rule, Lines: []sales.DraftLine{
				{SKU: "GL-2040-1", Qty: 80, How: c.how[0]}, {SKU: "KL-070", Qty: 3, Warehouse: "DQ", How: c.how[1]},
			}})
			for i, l := range v.Lines {
				if got := desktest.Parts(l.Parts); got != c.want[i] || l.Short != c.short[i] {
					t.Errorf("line %d: %q and %d short, want %q", i+1, got, l.Short, c.want[i])
				}
			}
		})
	}
	// Four kilns are expected and it cannot be bought: two are there, six at all.
	v := o.Draft(sales.Draft{Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "KL-070", Qty: 9, Warehouse: "DQ"}}})
	if l := v.Lines[0]; desktest.Parts(l.Parts) != "2 DQ 03-02, 4 DQ 03-22" || l.Short != 3 || l.Earliest != "" || !l.Late {
		t.Errorf("of 9: %q, %d short, all by %q", desktest.Parts(l.Parts), l.Short, l.Earliest)
	}
}

func TestWhatIsMissingIsSaid(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	good := sales.DraftLine{SKU: "TL-014", Qty: 1}
	for _, c := range []struct {
		name  string
		draft sales.Draft
		row   int
		field string
		says  string
	}{
		{"nothing", sales.Draft{}, -1, "customer", "Choose the customer"},
		{"an unknown customer", sales.Draft{Customer: "NOBODY", Lines: []sales.DraftLine{good}}, -1, "customer", "no customer NOBODY"},
		{"no line", sales.Draft{Customer: "ALD"}, -1, "lines", "needs a line"},
		{
			"no quantity",
			sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{good, {SKU: "TL-014"}}},
			1, "qty",
			"Line 2: how many of TL-014",
		},
		{"an unknown item", sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{{SKU: "XX", Qty: 1}, good}}, 0, "sku", "no item XX"},
		{
			"an unknown address",
			sales.Draft{Customer: "ALD", ShipTo: "MOON", Lines: []sales.DraftLine{good}},
			-1, "ship_to",
			"no address MOON",
		},
		{
			"half an address",
			sales.Draft{
				Customer: "ALD", Address: &supply.Address{Street: "1 High Street", City: "Aldersyke"}, Lines: []sales.DraftLine{good},
			},
			-1, "address", "lacks the postcode",
		},
		{
			"an unknown service",
			sales.Draft{Customer: "ALD", Service: "pigeon", Lines: []sales.DraftLine{good}},
			-1, "service",
			"no service pigeon",
		},
		{
			"an unknown warehouse",
			sales.Draft{Customer: "ALD", Warehouse: "XX", Lines: []sales.DraftLine{good}},
			-1, "warehouse",
			"no warehouse XX",
		},
		{"a day that is none", sales.Draft{Customer: "ALD", Wanted: "soon", Lines: []sales.DraftLine{good}}, -1, "wanted", "is not a day"},
	} {
		t.Run(c.name, func(t *testing.T) {
			v := o.Draft(c.draft)
			at := slices.IndexFunc(v.Missing, func(f sales.DraftFault) bool { return f.Row == c.row && f.Field == c.field })
			if at < 0 || !strings.Contains(v.Missing[at].Said.String(), c.says) {
				t.Errorf("missing %+v, want %s at row %d: %q", v.Missing, c.field, c.row, c.says)
			}
			_, err := o.Sales.Enter(context.Background(), o.By(o.Tom), c.draft)
			desktest.Refused(t, err, command.KindInvalid)
		})
	}
	_, err := o.Sales.Enter(context.Background(), o.By(o.Flo), sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{good}})
	desktest.Refused(t, err, command.KindForbidden, "enter an order", "sales")
}

func TestAnOrderIsEnteredWithThePromisesThatWereShown(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	ask := sales.Draft{
		Customer: "SPC", Wanted: "2027-03-05", CustomerRef: "K/77", Note: " Ring first ",
		Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 80}, {SKU: "TL-014", Qty: 2}},
	}
	for i, l := range o.Draft(ask).Lines {
		ask.Lines[i].Shown = l.Parts
	}
	call := o.By(o.Tom)
	out := desktest.Done(t)(o.Sales.Enter(ctx, call, ask))
	if out.Sentence != "Entered SO-20001 for Saltpan Ceramics: 2 lines, 1,159.00 GBP. 1 line in time, 1 line later than Fri 5 Mar." {
		t.Error(out.Sentence)
	}
	if again := desktest.Done(t)(o.Sales.Enter(ctx, call, ask)); again.Documents[0] != out.Documents[0] {
		t.Errorf("repeated, it entered %v", again.Documents)
	}
	v := o.Order("SO-20001")
	if v.ValueMinor != 115900 || v.CustomerRef != "K/77" || v.Note != "Ring first" || v.Tier != 3 || v.At.Open != 82 ||
		v.At.Promised != 82 || v.Wanted != "2027-03-05" {
		t.Errorf("entered %+v", v.OrderRow)
	}
	l := o.Line("SO-20001", 1)
	if len(l.Promises) != 2 || !l.Promises[1].Late || l.Promises[1].Day != "2027-03-10" || l.ShipBy != "2027-03-02" {
		t.Errorf("promised %+v, to leave by %s", l.Promises, l.ShipBy)
	}
	trail, err := o.Query.Trail(ctx, "SO-20001", o.Ana)
	if err != nil {
		t.Fatal(err)
	}
	if len(trail) != 4 || trail[0].Who != "Tom Sale" || !strings.Contains(trail[0].Text.String(), "entered 80 of GL-2040-1") ||
		!slices.ContainsFunc(trail, func(e supply.TrailEntry) bool {
			return strings.Contains(e.Text.String(), "promised 68 for Tue 2 Mar, 12 for Wed 10 Mar")
		}) {
		t.Errorf("trail %+v", trail)
	}
	// The same again: what was shown is spoken for by now.
	_, err = o.Sales.Enter(ctx, o.By(o.Ana), ask)
	desktest.Refused(t, err, command.KindConflict, "GL-2040-1 has changed since you saw it", "80 leaving Wed 10 Mar")
	again := o.Draft(ask)
	if got := again.Lines[0]; got.Free != 68 || got.Spoken != 68 || desktest.Parts(got.Parts) != "80 HL 03-10" {
		t.Errorf("asked again: free %d, spoken for %d, %q", got.Free, got.Spoken, desktest.Parts(got.Parts))
	}
	o.Sound()
}

func TestTwoOrdersEnteredAtOnceDoNotPromiseTheSameUnits(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ask := sales.Draft{
		Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 30}, {SKU: "GL-2040-1", Qty: 60}},
	}
	for i, l := range o.Draft(ask).Lines {
		ask.Lines[i].Shown = l.Parts
	}
	errs := make([]error, 6)
	var wg sync.WaitGroup
	for i := range errs {
		wg.Go(func() { _, errs[i] = o.Sales.Enter(context.Background(), o.By(o.Tom), ask) })
	}
	wg.Wait()
	entered := 0
	for _, err := range errs {
		if err == nil {
			entered++
			continue
		}
		desktest.Refused(t, err, command.KindConflict, "has changed since you saw it")
	}
	if entered != 1 {
		t.Errorf("%d of %d were entered with the same 60 of 68", entered, len(errs))
	}
	o.Sound()
}

func TestAnAddressForOneOrderOnly(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ask := sales.Draft{
		Customer: "ALD", Address: &supply.Address{Name: "Summer school", Street: "The Barn", City: "Fellside", Postcode: "FS1 1AA"},
		Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 1}},
	}
	number := o.Enter(ask)
	if got := o.Order(
		number,
	).ShipTo; got != (supply.Address{Name: "Summer school", Street: "The Barn", City: "Fellside", Postcode: "FS1 1AA", Country: "GB"}) {
		t.Errorf("it goes to %+v", got)
	}
	c, err := o.Query.Customer(context.Background(), "ALD")
	if err != nil || len(c.ShipTos) != 2 {
		t.Errorf("the customer has %d addresses (%v), want its own two", len(c.ShipTos), err)
	}
	d, err := o.Sales.DraftOf(context.Background(), number)
	if err != nil || d.ShipTo != "" || d.Lines[0].Qty != 1 {
		t.Errorf("to be changed: %+v, %v", d, err)
	}
	// It is the order's address, whatever else is changed; and the days are those to it.
	v := o.Draft(d)
	if v.Address.Street != "The Barn" || v.ShipTo != "" {
		t.Errorf("while it is changed it goes to %+v", v.Address)
	}
	d.Lines[0].Qty, d.Address = 2, &v.Address
	desktest.Done(t)(o.Sales.Change(context.Background(), o.By(o.Tom), d))
	if got := o.Order(number).ShipTo; got.Street != "The Barn" {
		t.Errorf("changed, it goes to %+v", got)
	}
	trail, err := o.Query.Trail(context.Background(), number, o.Ana)
	addressed := func(e supply.TrailEntry) bool { return strings.Contains(e.Text.String(), "changed address") }
	if err != nil || slices.ContainsFunc(trail, addressed) {
		t.Errorf("the address was not changed: %+v %v", trail, err)
	}
}

// Another of the customer's addresses may lie in another zone: the day on which the order has to leave follows.
func TestTheShipByDayFollowsTheAddress(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	o.Load("zones.csv", "zone,country,postcode,service,days\nnear,GB,NR,parcel,1\nfar,GB,FR,parcel,5\n")
	o.Load(
		"customers.csv",
		"customer,name,tier,warehouse,service,ship_to,street,city,postcode,country\nTWO,Two Places,3,HL,parcel,NEAR,1 Near,Nearby,NR1 1AA,GB\nTWO,Two Places,3,HL,parcel,FAR,1 Far,Faraway,FR1 1AA,GB\n",
	)
	number := o.Enter(sales.Draft{Customer: "TWO", Wanted: "2027-03-19", Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 1}}})
	if got := o.Line(number, 1).ShipBy; got != "2027-03-18" {
		t.Errorf("to the near address it leaves by %s", got)
	}
	d, err := o.Sales.DraftOf(ctx, number)
	if err != nil {
		t.Fatal(err)
	}
	d.ShipTo = "FAR"
	desktest.Done(t)(o.Sales.Change(ctx, o.By(o.Tom), d))
	if got := o.Line(number, 1).ShipBy; got != "2027-03-12" {
		t.Errorf("to the far address it leaves by %s", got)
	}
}

// What a manager has to approve as a quote is approved as an order, too.
func TestAnOrderAboveTheLimitWaitsForAManager(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	price := int64(100_000)
	dear := sales.Draft{Customer: "SPC", Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 2, ListMinor: &price}}}
	held := func(number string) string { return strings.Join(o.Order(number).OrderRow.Holds, " ") }
	number := o.Enter(dear)
	if got := held(number); got != "" {
		t.Errorf("2,000.00 is held: %s", got)
	}
	d, err := o.Sales.DraftOf(ctx, number)
	if err != nil {
		t.Fatal(err)
	}
	d.Lines[0].Qty = 3
	out := desktest.Done(t)(o.Sales.Change(ctx, o.By(o.Tom), d))
	if got := held(number); got != "approval" || !strings.Contains(out.Sentence, "on hold until a manager approves it") {
		t.Errorf("made 3,000.00 it is held for %q: %s", got, out.Sentence)
	}
	dear.Lines[0].Qty = 4
	out = desktest.Done(t)(o.Sales.Enter(ctx, o.By(o.Ana), dear))
	number = out.Documents[0].Number
	if got := held(number); got != "approval" || !strings.Contains(out.Sentence,
		"on hold until a manager approves it: it is worth more than 2,500.00 GBP.") {
		t.Errorf("entered at 4,000.00 it is held for %q: %s", got, out.Sentence)
	}
	_, err = o.Sales.Lift(ctx, o.By(o.Ana), sales.LiftAsk{Order: number, Kind: "approval"})
	desktest.Refused(t, err, command.KindForbidden, "manager")
	desktest.Done(t)(o.Sales.Lift(ctx, o.By(o.Max), sales.LiftAsk{Order: number, Kind: "approval"}))
	if got := held(desktest.Done(t)(o.Sales.Enter(ctx, o.By(o.Max), dear)).Documents[0].Number); got != "" {
		t.Errorf("a manager's own order is held: %s", got)
	}
}

func TestPricesDiscountsAndMargins(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	p := func(n int64) *int64 { return &n }
	r := func(n int) *int { return &n }
	v := o.Draft(sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{
		{SKU: "GL-2040-1", Qty: 10},
		{SKU: "GL-2040-1", Qty: 10, DiscountBP: r(1250)},
		{SKU: "GL-2040-1", Qty: 10, ListMinor: p(1300), DiscountBP: r(10_000)},
		{SKU: "GL-2040-1", Qty: 1, ListMinor: p(800)},
	}})
	for i, want := range []struct {
		price, margin int64
		fault         string
	}{{1420, 4295, ""}, {1243, 3483, ""}, {0, 0, "No price"}, {800, -125, ""}} {
		l := v.Lines[i]
		if l.PriceMinor != want.price || l.DataFault != want.fault || (l.MarginBP == nil) != (want.price == 0) || l.MarginBP != nil &&
			*l.MarginBP != want.margin {
			t.Errorf("line %d: %d, margin %v, %q; want %+v", i+1, l.PriceMinor, l.MarginBP, l.DataFault, want)
		}
	}
	if v.ValueMinor != 14200+12430+0+800 || v.DataFault == "" {
		t.Errorf("worth %d, fault %q", v.ValueMinor, v.DataFault)
	}
}

func TestAnOrderIsChanged(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	number := o.Enter(sales.Draft{
		Customer: "SPC", Wanted: "2027-03-05",
		Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 40}, {SKU: "TL-014", Qty: 6}, {SKU: "CB-110", Qty: 8}},
	})
	desktest.Done(t)(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty(number, 1, 30)))
	ask, err := o.Sales.DraftOf(ctx, number)
	if err != nil {
		t.Fatal(err)
	}
	if v := o.Draft(ask); v.Lines[0].Changed || v.Lines[0].At.Allocated != 30 || desktest.Parts(v.Lines[0].Parts) != "10 HL 03-02" ||
		v.Late != 0 {
		t.Errorf("unchanged, it comes to %+v", v.Lines[0])
	}
	_, err = o.Sales.Change(ctx, o.By(o.Tom), ask)
	desktest.Refused(t, err, command.KindConflict, "Nothing about "+number+" was changed")

	// Fewer than are allocated: ten go back; more tools; no clay; other prices; another line.
	price := int64(1000)
	ask.Lines[0].Qty, ask.Lines[1].Qty, ask.Lines[2].Qty, ask.Lines[1].ListMinor = 20, 9, 0, &price
	ask.Lines = append(ask.Lines, sales.DraftLine{SKU: "KF-330", Qty: 2})
	ask.CustomerRef, ask.Note = "NEW/1", "Two shelves more"
	_, err = o.Sales.Change(ctx, o.By(o.Tom), ask)
	desktest.Refused(t, err, command.KindForbidden, number+" line 1 has 30 units allocated, and 10 of them would be given back",
		"coordinator", "leave at least 30")
	out := desktest.Done(t)(o.Sales.Change(ctx, o.By(o.Ana), ask))
	if out.Units != 20+3+8+2 || !strings.Contains(out.Sentence, "Changed "+number) {
		t.Errorf("%d units: %s", out.Units, out.Sentence)
	}
	glaze, tools, clay, shelf := o.Line(number, 1), o.Line(number, 2), o.Line(number, 3), o.Line(number, 4)
	if glaze.At.Ordered != 20 || glaze.At.Allocated != 20 || glaze.At.Open != 0 || len(glaze.Promises) != 0 {
		t.Errorf("glaze %+v, promised %+v", glaze.At, glaze.Promises)
	}
	if tools.At.Ordered != 9 || tools.At.Promised != 9 || tools.PriceMinor != 1000 || clay.At.Ordered != 0 || len(clay.Promises) != 0 ||
		shelf.At.Open != 2 || shelf.At.Promised != 2 {
		t.Errorf("tools %+v at %d, clay %+v, shelf %+v", tools.At, tools.PriceMinor, clay.At, shelf.At)
	}
	if v := o.Order(number); v.ValueMinor != 20*1420+9*1000+2*6400 || v.CustomerRef != "NEW/1" {
		t.Errorf("worth %d, their number %s", v.ValueMinor, v.CustomerRef)
	}
	o.Sound()

	// A view from before is refused with what has happened.
	_, err = o.Sales.Change(ctx, o.By(o.Ana), ask)
	desktest.Refused(t, err, command.KindConflict, number+" has changed since you saw it", "Ana Ruiz")

	// What is on a pick list stays.
	desktest.Done(t)(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty(number, 1, 15)}))
	ask, err = o.Sales.DraftOf(ctx, number)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		name   string
		change func(*sales.Draft)
		words  []string
	}{
		{
			"fewer than are released", func(d *sales.Draft) { d.Lines[0].Qty = 14 },
			[]string{"cannot become 14", "15 are on a pick list", "Recall"},
		},
		{"a later day", func(d *sales.Draft) { d.Wanted = "2027-03-12" }, []string{"cannot be put off", "15 are on a pick list"}},
		{"another service", func(d *sales.Draft) { d.Service = "parcel" }, []string{"cannot be sent in another way"}},
		{"other terms", func(d *sales.Draft) { d.Terms = "collect" }, []string{"cannot be sent on other terms", "15 are on a pick list"}},
		{"an address of its own", func(d *sales.Draft) {
			d.Address = &supply.Address{Street: "1 Quay", City: "Saltby", Postcode: "SB1 1AA"}
		}, []string{"cannot be sent elsewhere", "of line 1 5 are allocated, 15 are on a pick list", "Recall"}},
		{"elsewhere, without the line that is on the floor", func(d *sales.Draft) {
			d.Address, d.Lines = &supply.Address{Street: "1 Quay", City: "Saltby", Postcode: "SB1 1AA"}, d.Lines[1:]
		}, []string{"cannot be sent elsewhere", "of line 1 5 are allocated, 15 are on a pick list"}},
		{"another warehouse", func(d *sales.Draft) { d.Lines[0].Warehouse = "DQ" }, []string{"stays at HL"}},
		{"another item", func(d *sales.Draft) { d.Lines[0].SKU = "KF-330" }, []string{"cannot become another item"}},
	} {
		bad := ask
		bad.Lines = slices.Clone(ask.Lines)
		c.change(&bad)
		_, err := o.Sales.Change(ctx, o.By(o.Tom), bad)
		desktest.Refused(t, err, command.KindInvalid, c.words...)
	}
	ask.Lines[0].Qty = 15
	desktest.Done(t)(o.Sales.Change(ctx, o.By(o.Ana), ask))
	if at := o.Line(number, 1).At; at.Ordered != 15 || at.Released != 15 {
		t.Errorf("made as few as are released: %+v", at)
	}
	o.Sound()
}

func TestAnotherDayPromisesAnOrderAnew(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	number := o.Enter(sales.Draft{
		Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 40}, {SKU: "TL-014", Qty: 6, How: "none"}},
	})
	ask, err := o.Sales.DraftOf(ctx, number)
	if err != nil {
		t.Fatal(err)
	}
	ask.Wanted, ask.Service = "2027-03-19", "parcel"
	v := o.Draft(ask)
	if desktest.Parts(v.Lines[0].Parts) != "40 HL 03-17" || v.Lines[1].How != "none" || desktest.Parts(v.Lines[1].Parts) != "" {
		t.Errorf("two weeks later: %q, %q", desktest.Parts(v.Lines[0].Parts), desktest.Parts(v.Lines[1].Parts))
	}
	ask.Lines[0].Shown = v.Lines[0].Parts
	desktest.Done(t)(o.Sales.Change(ctx, o.By(o.Tom), ask))
	l := o.Line(number, 1)
	if l.ShipBy != "2027-03-17" || len(l.Promises) != 1 || l.Promises[0].Day != "2027-03-17" || l.Promises[0].Late {
		t.Errorf("leaves by %s, promised %+v", l.ShipBy, l.Promises)
	}
	trail, err := o.Query.Trail(ctx, number, o.Ana)
	if err != nil {
		t.Fatal(err)
	}
	for _, words := range []string{
		"changed wanted from Fri 5 Mar to Fri 19 Mar", "changed service from pallet to parcel",
		"changed ship by from Tue 2 Mar to Wed 17 Mar on GL-2040-1, line 1",
		"promised 40 for Wed 17 Mar of GL-2040-1, line 1; it was 40 for Tue 2 Mar",
	} {
		if !slices.ContainsFunc(trail, func(e supply.TrailEntry) bool { return strings.Contains(e.Text.String(), words) }) {
			t.Errorf("the trail does not say %q: %+v", words, trail)
		}
	}
	o.Sound()
}

func TestAWholeOrderIsPromisedTogetherWhenOneLineChanges(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	number := o.Enter(
		sales.Draft{Customer: "TDW", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 6}, {SKU: "GL-2040-1", Qty: 10}}},
	)
	ask, err := o.Sales.DraftOf(ctx, number)
	if err != nil {
		t.Fatal(err)
	}
	ask.Lines[1].Qty = 100
	v := o.Draft(ask)
	if desktest.Parts(v.Lines[0].Parts) != "6 HL 03-10" || desktest.Parts(v.Lines[1].Parts) != "100 HL 03-10" {
		t.Errorf("with 100: %q and %q", desktest.Parts(v.Lines[0].Parts), desktest.Parts(v.Lines[1].Parts))
	}
	desktest.Done(t)(o.Sales.Change(ctx, o.By(o.Tom), ask))
	if l := o.Line(number, 1); l.Promises[0].Day != "2027-03-10" {
		t.Errorf("its other line is promised %+v", l.Promises)
	}
	o.Sound()
}

func TestANumberThatIsTakenIsPassedOver(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	o.Load("orders.csv", "order,customer,wanted,line,sku,qty\nSO-20001,ALD,2027-03-09,1,TL-014,1\nSO-20002,ALD,2027-03-09,1,TL-014,1\n")
	if number := o.Enter(sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 1}}}); number != "SO-20003" {
		t.Errorf("the next number is %s", number)
	}
}

// What the customer's own warehouse never has goes from where it lies, unless somebody says otherwise.
func TestALineGoesFromWhereItsItemLies(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	for _, c := range []struct {
		name string
		ask  sales.Draft
		want string
	}{
		{"the customer's own", sales.Draft{Customer: "SPC", Lines: []sales.DraftLine{{SKU: "CB-110", Qty: 4}}}, "HL"},
		{"where it lies", sales.Draft{Customer: "SPC", Lines: []sales.DraftLine{{SKU: "KL-070", Qty: 1}}}, "DQ"},
		{"as the order says", sales.Draft{Customer: "SPC", Warehouse: "HL", Lines: []sales.DraftLine{{SKU: "KL-070", Qty: 1}}}, "HL"},
		{"as the line says", sales.Draft{Customer: "SPC", Lines: []sales.DraftLine{{SKU: "CB-110", Qty: 4, Warehouse: "DQ"}}}, "DQ"},
		{"nobody in particular: where most of it is", sales.Draft{Lines: []sales.DraftLine{{SKU: "CB-110", Qty: 4}}}, "DQ"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := o.Draft(c.ask).Lines[0].Warehouse; got != c.want {
				t.Errorf("from %s, want %s", got, c.want)
			}
		})
	}
}

func TestTheExamplesImportTwice(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	files := desktest.SampleFiles(t, "items", "substitutes", "zones", "stock", "customers", "inbound", "orders")
	_, report, err := o.Importing.Import(context.Background(), o.By(o.Ana), files)
	if err != nil {
		t.Fatal(err, report.Faults)
	}
	if len(report.Files) != 7 || report.Does != 2+3 {
		t.Errorf("of seven files %d are told, and %d rows do something", len(report.Files), report.Does)
	}
	_, report, err = o.Importing.Import(context.Background(), o.By(o.Ana), files)
	if err != nil || report.Does != 0 {
		t.Errorf("a second time %d rows do something (%v)", report.Does, err)
	}
}

func TestADraftOfALiveOrderSaysHowFarItIs(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	_, err := o.Sales.DraftOf(ctx, "SO-1")
	desktest.Refused(t, err, command.KindNotFound, "no order SO-1")
	_, err = o.Sales.Draft(ctx, sales.Draft{Order: "SO-1"})
	desktest.Refused(t, err, command.KindNotFound, "no order SO-1")
	_, err = o.Sales.Draft(ctx, sales.Draft{Order: "SO-1001", Lines: []sales.DraftLine{{Line: 9, SKU: "TL-014", Qty: 1}}})
	desktest.Refused(t, err, command.KindNotFound, "SO-1001 has no line 9")
	_, err = o.Sales.Draft(ctx, sales.Draft{Lines: []sales.DraftLine{{Line: 1, SKU: "TL-014", Qty: 1}}})
	desktest.Refused(t, err, command.KindNotFound, "A new order has no line 1")
	_, err = o.Sales.Draft(ctx, sales.Draft{Quote: "Q-1"})
	desktest.Refused(t, err, command.KindNotFound, "no quote Q-1")
	_, err = o.Sales.Change(ctx, o.By(o.Ana), sales.Draft{Order: "SO-1"})
	desktest.Refused(t, err, command.KindNotFound, "no order SO-1")
	desktest.Done(t)(o.Allocation.Allocate(ctx, o.By(o.Ana), o.Qty("SO-1001", 2, 10)))
	desktest.Done(t)(o.Floor.Release(ctx, o.By(o.Ana), floor.ReleaseAsk{Selection: o.Qty("SO-1001", 2, 4)}))
	ask, err := o.Sales.DraftOf(ctx, "SO-1001")
	if err != nil {
		t.Fatal(err)
	}
	v := o.Draft(ask)
	glaze, tools := v.Lines[0], v.Lines[1]
	if tools.Least != 4 || tools.At.Released != 4 || tools.At.Allocated != 6 || tools.How != "split" || len(tools.Parts) != 0 ||
		tools.Late {
		t.Errorf("the tools: %+v", tools)
	}
	// Nothing is promised of the glaze, and nobody asks for it: it is only said when it could be there.
	if glaze.Least != 0 || glaze.How != "none" || glaze.Earliest == "" || len(glaze.Parts) != 0 || !glaze.Late {
		t.Errorf("the glaze: %+v", glaze)
	}
	ask.Lines[0].How = "split"
	if got := o.Draft(ask).Lines[0]; desktest.Parts(got.Parts) != "68 HL 03-02, 32 HL 03-10" {
		t.Errorf("asked for, it can be promised %q", desktest.Parts(got.Parts))
	}
}

// 2^62 × 4 is nothing where a product wraps: such a quote would have needed no approval.
func TestAnOrderIsWorthWhatCanBeCounted(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	list := int64(100_000_000_000)
	for _, qty := range []int64{1_000_000_000, 184_467_441} { // 10^20, and just over 2^64
		ask := sales.Draft{Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: qty, ListMinor: &list}}}
		_, err := o.Sales.Enter(context.Background(), o.By(o.Max), ask)
		desktest.Refused(t, err, command.KindInvalid, "more than an order may be worth")
		_, err = o.Sales.MakeQuote(context.Background(), o.By(o.Tom), sales.QuoteAsk{Draft: ask})
		desktest.Refused(t, err, command.KindInvalid, "more than an order may be worth")
	}
}
