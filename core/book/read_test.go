package book

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"journeyman/core/days"
)

func example(t testing.TB) string {
	t.Helper()
	text, err := os.ReadFile(filepath.Join("..", "..", "examples", "book-1.json"))
	if err != nil {
		t.Fatal(err)
	}
	return string(text)
}

func TestTheExampleIsReadWhole(t *testing.T) {
	b, err := Read(strings.NewReader(example(t)))
	if err != nil {
		t.Fatal(err)
	}
	if len(b.Items) != 3 || len(b.Orders) != 4 || len(b.Lines) != 6 || len(b.Cells) != 4 || len(b.Promises) != 1 {
		t.Errorf(
			"%d items, %d orders, %d lines, %d cells, %d promises", len(b.Items), len(b.Orders), len(b.Lines), len(b.Cells),
			len(b.Promises),
		)
	}
	g1, ok := b.CellOf("G1", "HL")
	if !ok || b.Cells[g1].Free() != 76 { // CORE's worked answers: 100 − 4 − 20
		t.Errorf("G1 at HL has %d free", b.Cells[g1].Free())
	}
	// P1 is due on a Saturday and counts on Monday; P0 is overdue.
	rs := b.ReceiptsOf(g1)
	if len(rs) != 2 || rs[0].Day.String() != "2027-03-08" || rs[1].Qty != 80 {
		t.Errorf("receipts %v", rs)
	}
	if late := b.OverdueOf(g1); len(late) != 1 || late[0].Qty != 500 {
		t.Errorf("overdue %v", late)
	}
	if l := b.Lines[0]; l.Open != 50 || b.Orders[l.Order].Number != "S1" || l.Weight != 4 {
		t.Errorf("S1/1 has %d open and weight %d", l.Open, l.Weight)
	}
	if it := b.Items[1]; it.SKU != "G1" || it.Lead.String() != "2027-03-30" {
		t.Errorf("%s has its lead day on %s", it.SKU, it.Lead)
	}
	if o := b.Orders[3]; o.Rule != Whole || o.Tier != 1 || o.Urgency != 3 {
		t.Errorf("S4: %+v", o)
	}
}

// TestFaultsAreNamedWithTheirPath changes the example in one place at a time.
func TestFaultsAreNamedWithTheirPath(t *testing.T) {
	text := example(t)
	for _, c := range []struct{ from, to, path, what string }{
		{`"journeyman-book/1"`, `"journeyman-book/2"`, "format", "not a format"},
		{`"today": "2027-03-01"`, `"today": "2027-02-30"`, "today", "not a day"},
		{`"today": "2027-03-01",`, ``, "today", "is missing"},
		{`"calendar"`, `"kalendar"`, "kalendar", "no such field; there are format, today"},
		{`"mon", "tue"`, `"mon", "thi"`, "calendar.workdays[1]", "not a day of the week"},
		{`["mon", "tue", "wed", "thu", "fri"]`, `[]`, "calendar.workdays", "at least one"},
		{`"closed": ["2027-03-26"]`, `"closed": "2027-03-26"`, "calendar.closed", "a list is expected"},
		{`"lead_days": 20`, `"lead_days": -20`, "items[0].lead_days", "must not be negative"},
		{`"lead_days": 20`, `"lead_days": 2.5`, "items[0].lead_days", "a whole number is expected, not 2.5"},
		{`"lead_days": 20`, `"lead_days": 20, "colour": "red"`, "items[0].colour", "no such field"},
		{`"lead_days": 20`, `"lead_days": 20, "sku": "G2"`, "items[0].sku", "twice"},
		{`{"sku": "C2", "multiple": 10`, `{"sku": "G1", "multiple": 10`, "items[1].sku", "stands there twice"},
		{`"multiple": 10`, `"multiple": 0`, "items[1].multiple", "between 1 and"},
		{`"buyable": false`, `"buyable": 0`, "items[2].buyable", "true or false"},
		{`"on_hand": 100, "held": 4`, `"on_hand": 100, "held": 104`, "stock[0].held", "104 are held"},
		{`"on_hand": 100, "held": 4`, `"on_hand": 23, "held": 4`, "stock[0].on_hand", "the lines have 20 there"},
		{`{"sku": "C2", "warehouse": "DQ"`, `{"sku": "C2", "warehouse": "HL"`, "stock[2]", "twice"},
		{`{"sku": "C2", "warehouse": "DQ"`, `{"sku": "C9", "warehouse": "DQ"`, "stock[2].sku", `no item "C9"`},
		{`"due": "2027-03-06"`, `"due": "6 March"`, "inbound[0].due", "not a day"},
		{`"qty": 60`, `"qty": "60"`, "inbound[0].qty", "a whole number is expected"},
		{`"order": "S2"`, `"order": "S1"`, "orders[1].order", "twice"},
		{`"order": "S2"`, `"order": ""`, "orders[1].order", "must not be empty"},
		{`"tier": 2`, `"tier": 6`, "orders[0].tier", "between 1 and 5"},
		{`"entered": "2027-02-20T09:00:00Z"`, `"entered": "yesterday"`, "orders[0].entered", "not a time"},
		{`"ship_rule": "whole"`, `"ship_rule": "hole"`, "orders[3].ship_rule", "not a ship rule"},
		{`"ordered": 70`, `"ordered": 10`, "orders[0].lines[0].at", "20 stand at stations, and only 10 were ordered"},
		{`"ordered": 70, `, ``, "orders[0].lines[0].ordered", "is missing"},
		{`"ordered": 70`, `"ordered": 70, "price": 900000000000000000000`, "orders[0].lines[0].price", "too large"},
		{`"ordered": 70`, `"ordered": 1000000000, "price": 1000001`, "orders[0].lines[0]", "more than a line may be worth"},
		{`"at": {"allocated": 20}`, `"at": {"alocated": 20}`, "orders[0].lines[0].at.alocated", "no such field"},
		{`"promises": [{"qty": 50, "day": "2027-03-03"}]`, `"promises": [{"qty": 50}]`, "orders[0].lines[0].promises[0]", "both needed"},
		{`"also": ["DQ"]`, `"also": ["DQ", "HL"]`, "orders[2].lines[0].also[1]", "already"},
		{`{"line": 2, "sku": "K9"`, `{"line": 1, "sku": "K9"`, "orders[2].lines[1].line", "twice"},
		{`{"line": 2, "sku": "K9"`, `{"line": 2, "sku": "K8"`, "orders[2].lines[1].sku", `no item "K8"`},
		{`"orders": [`, `"orders": [null, `, "orders[0]", "an object is expected, not null"},
		{`"format"`, `"format": "journeyman-book/1", "format"`, "format", "twice"},
		{`"ordered": 70`, `"ordered": 1000000001`, "orders[0].lines[0].ordered", "between 0 and 1000000000"},
		{`"ordered": 70`, `"ordered": 70, "price": 1000000000001`, "orders[0].lines[0].price", "between 0 and 1000000000000"},
		{`"order": "S2"`, "\"order\": \"S\xff\"", "orders[1].order", "not text in UTF-8"},
		{`"order": "S2"`, `"order": "S\ud800"`, "orders[1].order", "not text in UTF-8"},
		{`"order": "S2"`, `"order": "S\u0000"`, "orders[1].order", "control characters"},
		{`"also": ["DQ"]`, "\"also\": [\"D\xc3\"]", "orders[2].lines[0].also[0]", "not text in UTF-8"},
		{`"format"`, `"warehouses": ["HL"], "format"`, "stock[2].warehouse", `"DQ" is not among the warehouses`},
		{`"format"`, `"warehouses": ["HL", "DQ", "HL"], "format"`, "warehouses[2]", "twice"},
		{`"format"`, `"warehouses": [{"calendar": {}}], "format"`, "warehouses[0].warehouse", "is missing"},
		{`"also": ["DQ"]`, `"also": ["DX"]`, "", ""}, // without a list every name is a warehouse
	} {
		if !strings.Contains(text, c.from) {
			t.Errorf("the example has no %s", c.from)
			continue
		}
		_, err := Read(strings.NewReader(strings.Replace(text, c.from, c.to, 1)))
		var f *Fault
		if c.path == "" && err == nil {
			continue
		}
		if !errors.As(err, &f) {
			t.Errorf("%s: not refused: %v", c.to, err)
			continue
		}
		if f.Path != c.path || !strings.Contains(f.What, c.what) {
			t.Errorf("%s: %s, want %s: … %s …", c.to, f, c.path, c.what)
		}
	}
	for _, c := range []struct{ text, what string }{
		{"", "ends in the middle"},
		{"[]", "an object is expected, not a list"},
		{text[:200], "ends in the middle"},
		{"{oops}", "not JSON"},
		{text + "{}", "follows after the end"},
	} {
		var f *Fault
		if _, err := Read(strings.NewReader(c.text)); !errors.As(err, &f) || !strings.Contains(f.Error(), c.what) {
			t.Errorf("%.20q: %v, want %s", c.text, err, c.what)
		}
	}
}

func TestWhatIsLeftOutHasItsDefault(t *testing.T) {
	b, err := Read(strings.NewReader(`{"format":"journeyman-book/1","today":"2027-03-06","items":[{"sku":"A"}],
		"orders":[{"order":"1","lines":[{"line":1,"sku":"A","warehouse":"W","ordered":3}]}]}`))
	if err != nil {
		t.Fatal(err)
	}
	o, l := b.Orders[0], b.Lines[0]
	if o.Tier != 5 || o.Urgency != 3 || o.Rule != Any || l.Open != 3 || l.Weight != 1 || l.ShipBy != b.Today {
		t.Errorf("%+v %+v", o, l)
	}
	if b.Calendar.Works(b.Today) || b.Items[0].Lead.String() != "2027-03-08" || !b.Items[0].Buyable {
		t.Errorf("without a calendar it works on %s; lead %s", b.Today, b.Items[0].Lead)
	}
	if got := b.From(0); got.String() != "2027-03-08" {
		t.Errorf("it can be promised from %s on", got)
	}
}

func TestPromisesBeyondWhatIsOpenAreCutTheLatestFirst(t *testing.T) {
	b, err := Read(strings.NewReader(`{"format":"journeyman-book/1","today":"2027-03-01","items":[{"sku":"A"}],"orders":[{"order":"1","lines":[
		{"line":1,"sku":"A","warehouse":"W","ordered":10,"at":{"delivered":4},"promises":[
			{"qty":5,"day":"2027-03-20"},{"qty":4,"day":"2027-03-02"},{"qty":3,"day":"2027-03-09","warehouse":"V"}]}]}]}`))
	if err != nil {
		t.Fatal(err)
	}
	ps := b.PromisesOf(0)
	if len(ps) != 2 || ps[0].Qty != 4 || ps[1].Qty != 2 || ps[1].Day != days.Date(2027, 3, 9) ||
		b.Warehouses[b.Cells[ps[1].Cell].Warehouse] != "V" {
		t.Errorf("%+v", ps)
	}
}

func TestRowsStandInTheOrderInWhichTiesEnd(t *testing.T) {
	b, err := Read(strings.NewReader(`{"orders":[
		{"order":"B","lines":[{"line":2,"sku":"Z","warehouse":"W","ordered":1},{"line":1,"sku":"A","warehouse":"V","ordered":2}]},
		{"order":"A","lines":[{"line":7,"sku":"A","warehouse":"W","also":["V"],"ordered":3,"promises":[{"qty":1,"day":"2027-03-02","warehouse":"V"}]}]}],
		"items":[{"sku":"Z"},{"sku":"A"}],"stock":[{"sku":"Z","warehouse":"W","on_hand":9},{"sku":"A","warehouse":"V","on_hand":8}],
		"today":"2027-03-01","format":"journeyman-book/1"}`))
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []struct {
		order string
		no    int32
		sku   string
		house string
	}{{"A", 7, "A", "W"}, {"B", 1, "A", "V"}, {"B", 2, "Z", "W"}} {
		l := b.Lines[i]
		c := b.Cells[l.Cell]
		if b.Orders[l.Order].Number != want.order || l.No != want.no || b.Items[c.Item].SKU != want.sku ||
			b.Warehouses[c.Warehouse] != want.house {
			t.Errorf("line %d is %s/%d of %s at %s", i, b.Orders[l.Order].Number, l.No, b.Items[c.Item].SKU, b.Warehouses[c.Warehouse])
		}
	}
	v, _ := b.CellOf("A", "V")
	if o := b.OthersOf(0); len(o) != 1 || o[0] != v || b.PromisesOf(0)[0].Cell != v || b.Cells[v].OnHand != 8 {
		t.Errorf("others %v, promise %v, V is %d", o, b.PromisesOf(0), v)
	}
}

// FuzzRead: whatever it is given, Read returns a book whose rows refer to rows that are
// there, or a fault.
func FuzzRead(f *testing.F) {
	f.Add(example(f))
	f.Add(`{"format":"journeyman-book/1","today":"2027-03-01"}`)
	f.Add(`{"format":"journeyman-book/1","today":"0001-01-01","calendar":{"closed":["9999-12-31"]},"items":[{"sku":"a","lead_days":3650}]}`)
	f.Fuzz(func(t *testing.T, text string) {
		b, err := Read(strings.NewReader(text))
		if err != nil {
			var fault *Fault
			if !errors.As(err, &fault) || fault.What == "" {
				t.Fatalf("not a fault: %v", err)
			}
			return
		}
		for i := range b.Lines {
			l := &b.Lines[i]
			left := l.Open
			for _, p := range b.PromisesOf(int32(i)) {
				if left -= p.Qty; p.Qty <= 0 || b.Cells[p.Cell].Item != b.Cells[l.Cell].Item {
					t.Fatalf("line %d: promise %+v", i, p)
				}
			}
			if left < 0 || l.Open > l.Ordered || l.Open < 0 {
				t.Fatalf("line %d: %+v", i, l)
			}
			from, to := b.LinesOf(l.Order)
			if int32(i) < from || int32(i) >= to {
				t.Fatalf("line %d is not among its order's", i)
			}
		}
		b.Outlooks(nil)
	})
}
