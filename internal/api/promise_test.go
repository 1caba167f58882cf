package api_test

import (
	"encoding/json"
	"net/url"
	"strings"
	"testing"

	"github.com/google/uuid"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/supply"
	"journeyman/internal/query"
)

// stocked is two people at a server with the example files imported.
func stocked(t *testing.T) (sales, floor *person) {
	t.Helper()
	srv := besiege(t, dbtest.Store(t)).filled(t).Server
	return visit(t, srv, "tom"), visit(t, srv, "flo")
}

func read[T any](t *testing.T, p *person, path string) T {
	t.Helper()
	code, body := p.send("GET", path, "", "")
	var out T
	if code != 200 {
		t.Fatalf("%s: %d %s", path, code, body)
	}
	if err := json.Unmarshal([]byte(body), &out); err != nil {
		t.Fatal(err)
	}
	return out
}

func TestPromisingOverHTTP(t *testing.T) {
	t.Parallel()
	tom, flo := stocked(t)
	a := read[promising.PromiseAnswer](t, tom, "/api/promise?sku=GL-2040-1&qty=80&customer=ALD&wished=2099-03-06")
	if a.Customer != "ALD" || a.Warehouse != "HL" || len(a.Ways) == 0 || len(a.Houses) == 0 || len(a.Lines) == 0 {
		t.Fatalf("%+v", a)
	}
	if a.Lines[0].Order != "SO-1001" { // the customer's own order comes first
		t.Errorf("first is offered %s", a.Lines[0].Order)
	}
	line := a.Lines[0]
	ask, err := json.Marshal(map[string]any{"ask": promising.PromiseAsk{Lines: []promising.LinePromise{{
		Line: line.ID, Seen: line.Version, Parts: []supply.PromisePart{{Warehouse: "HL", Day: "2099-03-02", Qty: 60}},
	}}}})
	if err != nil {
		t.Fatal(err)
	}
	key := uuid.NewString()
	for range 2 { // a repeat is answered the same and done once
		code, body := tom.send("POST", "/api/promise", key, string(ask))
		if code != 200 || !strings.Contains(body, "Promised on SO-1001 line 1: 60 for ") {
			t.Fatal(code, body)
		}
	}
	if code, body := tom.send("POST", "/api/promise", uuid.NewString(), string(ask)); code != 409 ||
		!strings.Contains(body, "promised 60") {
		t.Errorf("a stale screen: %d %s", code, body)
	}
	if code, body := flo.send("POST", "/api/promise", uuid.NewString(), string(ask)); code != 403 {
		t.Errorf("the floor: %d %s", code, body)
	}
	order := read[query.OrderView](t, tom, "/api/orders/SO-1001")
	if order.Lines[0].At.Promised != 60 || len(order.Lines[0].Promises) != 1 {
		t.Errorf("the order says %+v", order.Lines[0].Promises)
	}
	if page := read[query.PromisedPage](t, tom, "/api/promised?q=SO-1001"); len(page.Promises) != 1 || page.Promises[0].Customer == "" {
		t.Errorf("the list says %+v", page)
	}
	strip := read[query.StripView](t, tom, "/api/strip")
	names := ""
	for _, s := range strip.Stations {
		names += s.Station + " "
		if s.Station == "promised" && (s.Units != 60 || s.Lines != 1) {
			t.Errorf("the strip says %+v", s)
		}
	}
	if names != "open promised allocated released picked packed shipped delivered " {
		t.Errorf("the strip is %s", names)
	}
	// Its own promise stands aside when the line is asked for again.
	again := read[promising.PromiseAnswer](t, tom, "/api/promise?sku=GL-2040-1&qty=68&wished=2099-03-04&line="+jsonOf(line.ID))
	if again.Houses[0].Promised != 0 {
		t.Errorf("%d are promised beside its own", again.Houses[0].Promised)
	}
}

func TestQuestionsThatMakeNoSenseAreAnsweredWithASentence(t *testing.T) {
	t.Parallel()
	tom, _ := stocked(t)
	for query, want := range map[string]struct {
		code int
		says string
	}{
		"sku=NONE":                        {404, "There is no item NONE"},
		"sku=GL-2040-1&customer=NOBODY":   {404, "There is no customer NOBODY"},
		"sku=GL-2040-1&wished=yesterday":  {422, "not a day"},
		"sku=GL-2040-1&qty=0":             {422, "qty"},
		"sku=GL-2040-1&service=balloon":   {404, "There is no service balloon"},
		"sku=GL-2040-1&warehouse=NOWHERE": {404, "There is no warehouse NOWHERE"},
	} {
		if code, body := tom.send("GET", "/api/promise?"+query, "", ""); code != want.code || !strings.Contains(body, want.says) {
			t.Errorf("%s: %d %s", query, code, body)
		}
	}
	inbound := read[query.InboundPage](t, tom, "/api/inbound?q="+url.QueryEscape("PO-733")).Inbound
	effect := read[promising.ArrivalEffect](t, tom, "/api/inbound/"+jsonOf(inbound[0].ID)+"/moved?due=2099-04-01")
	if effect.Ref != "PO-733" || effect.Due != "2099-04-01" || len(effect.Slips) != 0 {
		t.Errorf("%+v", effect)
	}
}

func jsonOf(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		return err.Error()
	}
	return string(b)
}

// Every list hears what it is asked: words, sorting, page and filters.
func TestListsHearWhatTheyAreAsked(t *testing.T) {
	t.Parallel()
	tom, _ := stocked(t)
	numbers := func(path string) string {
		var s []string
		for _, o := range read[query.OrdersPage](t, tom, path).Orders {
			s = append(s, o.Number)
		}
		return strings.Join(s, " ")
	}
	for path, want := range map[string]string{
		"/api/orders?q=celadon&sort=number":           "SO-1001 SO-1002",
		"/api/orders?sort=number&down=true":           "SO-1005 SO-1004 SO-1003 SO-1002 SO-1001",
		"/api/orders?sort=value&down=true":            "SO-1003 SO-1001 SO-1002 SO-1004 SO-1005",
		"/api/orders?state=held":                      "SO-1004",
		"/api/orders?only=channel%3Dweb&sort=number":  "SO-1002 SO-1004",
		"/api/orders?only=customer%3DALD&sort=number": "SO-1001 SO-1005",
		"/api/orders?q=celadon+tool&sort=value":       "SO-1001",
	} {
		if got := numbers(path); got != want {
			t.Errorf("%s: %s, want %s", path, got, want)
		}
	}
	if p := read[query.OpenPage](t, tom, "/api/open?q=kiln+shelf"); len(p.Lines) != 1 {
		t.Errorf("the open lines: %d", len(p.Lines))
	}
	if p := read[query.ItemsPage](t, tom, "/api/items?q=glaze&sort=free&down=true"); len(p.Items) != 2 || p.Items[0].SKU != "GL-2040-1" {
		t.Errorf("the items: %+v", p.Items)
	}
	if p := read[query.CustomersPage](t, tom, "/api/customers?q=ald"); len(p.Customers) != 1 {
		t.Errorf("the customers: %d", len(p.Customers))
	}
	if in := read[query.InboundPage](t, tom, "/api/inbound?q=PO-734"); len(in.Inbound) != 1 {
		t.Errorf("inbound: %+v", in)
	}
	if p := read[query.ReleasePage](t, tom, "/api/release?q=nothing-of-that-name"); len(p.Lines) != 0 {
		t.Errorf("release: %d", len(p.Lines))
	}
}
