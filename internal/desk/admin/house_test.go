package admin_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
	"journeyman/internal/exchange"
)

// It is Monday, 1 March 2027, nine o'clock in the morning.
func TestCutOffAndHandlingDecideWhenAnOrderCanLeave(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	set := func(ask admin.HouseAsk) {
		t.Helper()
		ask.Warehouse = "HL"
		desktest.Done(t)(o.Admin.SetHouse(ctx, o.By(o.Max), ask))
	}
	week := []int{1, 2, 3, 4, 5}
	for _, c := range []struct {
		name  string
		ask   admin.HouseAsk
		hour  int
		ready string
	}{
		{"at once", admin.HouseAsk{Workdays: week}, 9, "2027-03-01"},
		{"before the cut-off", admin.HouseAsk{Workdays: week, CutOff: "15:30"}, 15, "2027-03-01"},
		{"after the cut-off", admin.HouseAsk{Workdays: week, CutOff: "15:30"}, 16, "2027-03-02"},
		{"a day of handling", admin.HouseAsk{Workdays: week, HandlingDays: 1}, 9, "2027-03-02"},
		{"both", admin.HouseAsk{Workdays: week, CutOff: "15:30", HandlingDays: 2}, 16, "2027-03-04"},
		{"closed on Mondays", admin.HouseAsk{Workdays: []int{2, 3, 4, 5, 6}}, 9, "2027-03-02"},
	} {
		set(c.ask)
		o.At = time.Date(2027, 3, 1, c.hour, 0, 0, 0, time.UTC)
		if got := o.House("HL"); got.Ready != c.ready || got.CutOff != c.ask.CutOff || got.HandlingDays != c.ask.HandlingDays ||
			len(got.Workdays) != len(c.ask.Workdays) {
			t.Errorf("%s: %+v, want ready on %s", c.name, got, c.ready)
		}
		// The promise page and order entry say the same.
		a := o.CanPromise(promising.PromiseQuestion{SKU: "TL-014", Qty: 1, Warehouse: "HL", Wished: "2027-03-02", Service: "overnight"})
		if want := max(c.ready, "2027-03-01"); a.ShipBy != want || a.TooSoon != (c.ready > "2027-03-01") {
			t.Errorf("%s: it leaves on %s (too soon: %t), want %s", c.name, a.ShipBy, a.TooSoon, want)
		}
		v := o.Draft(
			sales.Draft{Customer: "ALD", Wanted: "2027-03-02", Service: "overnight", Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 1}}},
		)
		if l := v.Lines[0]; l.Parts[0].Day != c.ready || l.Late != (c.ready > "2027-03-01") {
			t.Errorf("%s: an order entered leaves on %s, late: %t", c.name, l.Parts[0].Day, l.Late)
		}
	}
}

func TestAClosedDayIsPromisedToNobody(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	file := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//K//EN\r\n" +
		"BEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20260101T000000Z\r\nDTSTART;VALUE=DATE:20270310\r\nDTEND;VALUE=DATE:20270312\r\nSUMMARY:Stock-taking\r\nEND:VEVENT\r\n" +
		"BEGIN:VEVENT\r\nUID:2\r\nDTSTAMP:20260101T000000Z\r\nDTSTART:20270315T100000Z\r\nSUMMARY:Fire drill\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	out := desktest.Done(t)(o.Admin.CloseDays(ctx, o.By(o.Max), admin.ClosedAsk{Warehouse: "HL", File: file}))
	if out.Sentence != "HL is closed on 2 days of the file, the first Wed 10 Mar. Left out: 1 event with a time of day." {
		t.Error(out.Sentence)
	}
	// The hundred bottles that are due on the 10th count from the 12th on.
	if v := o.Draft(
		sales.Draft{Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 80}}},
	); desktest.Parts(v.Lines[0].Parts) != "68 HL 03-02, 12 HL 03-12" {
		t.Errorf("with the house closed: %s", desktest.Parts(v.Lines[0].Parts))
	}
	l := o.Line("SO-1001", 1)
	_, err := o.Promising.Promise(
		ctx, o.By(o.Ana),
		promising.PromiseAsk{
			Lines: []promising.LinePromise{{Line: l.ID, Parts: []supply.PromisePart{{Warehouse: "HL", Day: "2027-03-11", Qty: 1}}}},
		},
	)
	desktest.Refused(t, err, command.KindInvalid, "nothing leaves HL on that day", "The next one is Fri 12 Mar")
	desktest.Done(t)(o.Admin.CloseDays(ctx, o.By(o.Max), admin.ClosedAsk{Warehouse: "HL", Day: "2027-03-10", Open: true}))
	if h := o.House("HL"); len(h.Closed) != 1 || h.Closed[0] != (admin.ClosedView{Day: "2027-03-11", Name: "Stock-taking"}) {
		t.Errorf("closed on %+v", h.Closed)
	}
	if v := o.Draft(
		sales.Draft{Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 80}}},
	); desktest.Parts(v.Lines[0].Parts) != "68 HL 03-02, 12 HL 03-10" {
		t.Errorf("open again: %s", desktest.Parts(v.Lines[0].Parts))
	}
	// Elsewhere it is worked.
	if len(o.House("DQ").Closed) != 0 {
		t.Error("another warehouse was closed with it")
	}
}

func TestHouseRulesThatCannotBeAreRefused(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	for _, c := range []struct {
		name  string
		do    func(a command.Actor) (command.Outcome, error)
		who   command.Actor
		kind  command.Kind
		words string
	}{
		{"by a coordinator", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.SetHouse(ctx, o.By(a), admin.HouseAsk{Warehouse: "HL", Workdays: []int{1}})
		}, o.Ana, command.KindForbidden, "manager"},
		{"no warehouse", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.SetHouse(ctx, o.By(a), admin.HouseAsk{Warehouse: "XX", Workdays: []int{1}})
		}, o.Max, command.KindNotFound, "no warehouse XX"},
		{"never", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.SetHouse(ctx, o.By(a), admin.HouseAsk{Warehouse: "HL"})
		}, o.Max, command.KindInvalid, "at least one day"},
		{"an eighth day", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.SetHouse(ctx, o.By(a), admin.HouseAsk{Warehouse: "HL", Workdays: []int{7}})
		}, o.Max, command.KindInvalid, "not a day of the week"},
		{"no time", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.SetHouse(ctx, o.By(a), admin.HouseAsk{Warehouse: "HL", Workdays: []int{1}, CutOff: "four"})
		}, o.Max, command.KindInvalid, "not a time of the day"},
		{"too much handling", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.SetHouse(ctx, o.By(a), admin.HouseAsk{Warehouse: "HL", Workdays: []int{1}, HandlingDays: 31})
		}, o.Max, command.KindInvalid, "0 to 30"},
		{"neither file nor day", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.CloseDays(ctx, o.By(a), admin.ClosedAsk{Warehouse: "HL"})
		}, o.Max, command.KindInvalid, "a day"},
		{"another file", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.CloseDays(ctx, o.By(a), admin.ClosedAsk{Warehouse: "HL", File: "sku,name"})
		}, o.Max, command.KindInvalid, "not an iCalendar file"},
		{"only the past", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.CloseDays(
				ctx, o.By(a),
				admin.ClosedAsk{
					Warehouse: "HL",
					File:      "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART;VALUE=DATE:20200101\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n",
				},
			)
		}, o.Max, command.KindConflict, "no whole day from today on"},
		{"a day that has passed", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.CloseDays(ctx, o.By(a), admin.ClosedAsk{Warehouse: "HL", Day: "2027-02-01"})
		}, o.Max, command.KindInvalid, "has passed"},
		{"open anyway", func(a command.Actor) (command.Outcome, error) {
			return o.Admin.CloseDays(ctx, o.By(a), admin.ClosedAsk{Warehouse: "HL", Day: "2027-03-09", Open: true})
		}, o.Max, command.KindConflict, "is not closed"},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, err := c.do(c.who)
			desktest.Refused(t, err, c.kind, c.words)
		})
	}
}

func TestAServiceTakesLongerToAFarZone(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	zones := "zone,country,postcode,service,days\nfar coast,GB,SP,pallet,5\nfar coast,,,parcel,4\ninner,GB,SP3 2,,\nabroad,FR,,parcel,6\n"
	if r := o.Load("zones.csv", zones); r.Files[0].New != 4 {
		t.Errorf("imported %+v", r.Files[0])
	}
	if r := o.Load("zones.csv", zones); r.Does != 0 {
		t.Errorf("the second time it would do %d", r.Does)
	}
	// The longest beginning of the postcode decides: SP3 2AB lies inside, and no service is slower there.
	ask := sales.Draft{Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 1}}}
	if v := o.Draft(ask); v.Zone != "inner" || v.Lines[0].ShipBy != "2027-03-02" {
		t.Errorf("%q: leaves by %s", v.Zone, v.Lines[0].ShipBy)
	}
	ask.Address = &supply.Address{Street: "1 Point", City: "Saltpan", Postcode: "sp9 1aa", Country: "gb"}
	if v := o.Draft(ask); v.Zone != "far coast" || v.Lines[0].ShipBy != "2027-02-26" || !v.Lines[0].Late {
		t.Errorf("%q: leaves by %s, late: %t", v.Zone, v.Lines[0].ShipBy, v.Lines[0].Late)
	}
	a := o.CanPromise(promising.PromiseQuestion{SKU: "TL-014", Qty: 1, Customer: "SPC", Wished: "2027-03-12"})
	if a.Zone != "inner" || a.TransitDays != 3 {
		t.Errorf("the promise page says %q, %d days", a.Zone, a.TransitDays)
	}
	o.Load("zones.csv", "zone,country,postcode,service,days\nfar coast,GB,SP3 2,pallet,4\n")
	if a := o.CanPromise(
		promising.PromiseQuestion{SKU: "TL-014", Qty: 1, Customer: "SPC", Wished: "2027-03-12"},
	); a.Zone != "far coast" || a.TransitDays != 4 {
		t.Errorf("changed: %q, %d days", a.Zone, a.TransitDays)
	}
	s, err := o.Admin.Settings(context.Background())
	if err != nil || len(s.Zones) != 2 || s.Zones[1].Zone != "far coast" || s.Zones[1].Transit["pallet"] != 4 ||
		len(s.Zones[1].Places) != 2 {
		t.Errorf("the settings list %+v (%v)", s.Zones, err)
	}
	for _, c := range []struct{ row, column string }{
		{"far coast,,,,", "country"}, {"far coast,,,pigeon,3", "service"}, {"far coast,,,parcel,", "days"}, {"far coast,GB,SP,,3", "days"},
	} {
		_, report, err := o.Importing.Import(
			context.Background(), o.By(o.Ana),
			[]exchange.File{{Name: "zones.csv", Data: []byte("zone,country,postcode,service,days\n" + c.row + "\n")}},
		)
		if err == nil || len(report.Faults) != 1 || report.Faults[0].Column != c.column || report.Faults[0].Row != 2 {
			t.Errorf("%q: %v %+v", c.row, err, report.Faults)
		}
	}
}

func TestSubstitutesAreData(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	file := "sku,substitute,kind\nKL-070,KF-330,make\nKL-070,GL-1310-5,size\nKL-070,CB-110,\n"
	if r := o.Load("substitutes.csv", file); r.Files[0].New != 3 {
		t.Errorf("imported %+v", r.Files[0])
	}
	if r := o.Load("substitutes.csv", file); r.Does != 0 {
		t.Errorf("the second time it would do %d", r.Does)
	}
	v := o.Draft(sales.Draft{
		Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "KL-070", Qty: 9, Warehouse: "DQ"}, {SKU: "TL-014", Qty: 1}},
	})
	var said []string
	for _, x := range v.Lines[0].Instead {
		said = append(said, strings.Join([]string{x.SKU, x.Kind, x.Warehouse}, " "))
	}
	// At the line's own warehouse first, then elsewhere, the most first.
	if got := strings.Join(said, ", "); got != "CB-110 make DQ, GL-1310-5 size HL, KF-330 make HL" {
		t.Errorf("in place of the kiln: %s", got)
	}
	if len(v.Lines[1].Instead) != 0 {
		t.Errorf("what is in time needs nothing in its place: %+v", v.Lines[1].Instead)
	}
	it, err := o.Query.Item(ctx, "KL-070")
	if err != nil || len(it.Instead) != 3 {
		t.Errorf("its page lists %+v (%v)", it.Instead, err)
	}
	for _, c := range []struct{ row, column string }{
		{"XX,KL-070,size", "sku"},
		{"KL-070,XX,size", "substitute"},
		{"KL-070,KL-070,size", "substitute"},
		{"KL-070,KF-330,taste", "kind"},
		{"KL-070,KF-330,size\nKL-070,KF-330,make", "substitute"},
	} {
		_, report, err := o.Importing.Import(
			ctx, o.By(o.Ana), []exchange.File{{Name: "substitutes.csv", Data: []byte("sku,substitute,kind\n" + c.row + "\n")}},
		)
		if err == nil || len(report.Faults) != 1 || report.Faults[0].Column != c.column {
			t.Errorf("%q: %v %+v", c.row, err, report.Faults)
		}
	}
}

func TestACustomersDiscountIsImportedAndGiven(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	head := "customer,name,ship_to,discount\n"
	if r := o.Load("customers.csv", head+"ALD,Aldersyke College,MAIN,7.5\n"); r.Files[0].Changed != 1 ||
		!strings.Contains(r.Files[0].Effects[0].Notes, "discount: 0.00 → 7.50") {
		t.Errorf("imported %+v", r.Files[0])
	}
	if r := o.Load("customers.csv", head+"ALD,Aldersyke College,MAIN,\n"); r.Does != 0 {
		t.Error("a discount that is left out changes it")
	}
	if v := o.Draft(sales.Draft{Customer: "ALD", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 1}}}); v.Customer.DiscountBP != 750 ||
		v.Lines[0].PriceMinor != 1314 {
		t.Errorf("%d basis points, %d", v.Customer.DiscountBP, v.Lines[0].PriceMinor)
	}
	// Orders from a file without a price get it, too; a price in the file stands.
	o.Load(
		"orders.csv",
		"order,customer,wanted,line,sku,qty,price\nSO-7,ALD,2027-03-09,1,GL-2040-1,1,\nSO-7,ALD,2027-03-09,2,GL-2040-1,1,14.00\n",
	)
	if a, b := o.Line("SO-7", 1), o.Line("SO-7", 2); a.PriceMinor != 1314 || b.PriceMinor != 1400 {
		t.Errorf("prices %d and %d", a.PriceMinor, b.PriceMinor)
	}
	_, report, err := o.Importing.Import(
		context.Background(), o.By(o.Ana),
		[]exchange.File{{Name: "customers.csv", Data: []byte(head + "ALD,Aldersyke College,MAIN,101\n")}},
	)
	if err == nil || report.Faults[0].Column != "discount" {
		t.Errorf("101 per cent: %v %+v", err, report.Faults)
	}
}

// Of several addresses in a file the first one is the customer's default.
func TestTheFirstAddressOfAFileIsTheDefault(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	var b strings.Builder
	b.WriteString("customer,name,ship_to,warehouse,city\n")
	for _, c := range []string{"AA", "BB", "CC", "DD", "EE"} {
		for _, s := range []string{"YARD", "MAIN", "ANNEX", "ZOO"} {
			b.WriteString(c + ",Customer " + c + "," + c + s + ",HL," + s + "\n")
		}
	}
	o.Load("customers.csv", b.String())
	for _, c := range []string{"AA", "BB", "CC", "DD", "EE"} {
		if v := o.Draft(sales.Draft{Customer: c, Lines: []sales.DraftLine{{SKU: "TL-014", Qty: 1}}}); v.ShipTo != c+"YARD" {
			t.Errorf("%s goes to %s", c, v.ShipTo)
		}
	}
}

// New numbers begin as was said, what has a number keeps it, and no number is given twice.
func TestNumbersBeginAsTheHouseWants(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	set := func(who command.Actor, prefixes ...admin.PrefixView) error {
		_, err := o.Admin.SetPrefixes(ctx, o.By(who), admin.PrefixAsk{Prefixes: prefixes})
		return err
	}
	order := sales.Draft{Customer: "SPC", Wanted: "2027-03-05", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 1}}}
	before := o.Enter(order)
	if !strings.HasPrefix(before, "SO-") {
		t.Errorf("before it is %s", before)
	}
	desktest.Refused(t, set(o.Ana, admin.PrefixView{Kind: "order", Prefix: "A-"}), command.KindForbidden)
	for _, wrong := range []string{"", "a-", "-A", "ABCDEFG-", "A B", "A'", "Ä-"} {
		desktest.Refused(t, set(o.Max, admin.PrefixView{Kind: "order", Prefix: wrong}), command.KindInvalid, "cannot begin a number")
	}
	desktest.Refused(t, set(o.Max, admin.PrefixView{Kind: "order", Prefix: "Q-"}), command.KindInvalid, "both begin with Q-")
	desktest.Refused(t, set(o.Max, admin.PrefixView{Kind: "lorry", Prefix: "L-"}), command.KindInvalid, "no number from here")
	// Two may change places at once.
	if err := set(o.Max, admin.PrefixView{Kind: "order", Prefix: "Q-"}, admin.PrefixView{Kind: "quote", Prefix: "SO-"}); err != nil {
		t.Fatal(err)
	}
	after := o.Enter(order)
	if !strings.HasPrefix(after, "Q-") || o.Order(before).Number != before {
		t.Errorf("after it is %s", after)
	}
	if q := o.Quoted(o.Tom); !strings.HasPrefix(q, "SO-") {
		t.Errorf("a quote is %s", q)
	}
	// A number that a file brought already is passed over.
	n := 0
	if _, err := fmt.Sscanf(after, "Q-%d", &n); err != nil {
		t.Fatal(err)
	}
	o.Load("orders.csv", fmt.Sprintf("order,customer,wanted,line,sku,qty\nQ-%d,SPC,2027-03-05,1,GL-2040-1,1\n", n+1))
	if next := o.Enter(order); next != fmt.Sprintf("Q-%d", n+2) {
		t.Errorf("after %s and the one of the file comes %s", after, next)
	}
	s, err := o.Admin.Settings(ctx)
	if err != nil || len(s.Prefixes) != 6 || s.Prefixes[0].Prefix != "Q-" || s.Prefixes[3].Prefix != "PL-" {
		t.Errorf("%+v, %v", s.Prefixes, err)
	}
}
