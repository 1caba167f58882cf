package api_test

import (
	"encoding/csv"
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"github.com/google/uuid"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
	"journeyman/internal/query"
)

// does carries out a command and returns what was answered.
func does(t *testing.T, p *person, path string, ask any, reason string) command.Outcome {
	t.Helper()
	code, body := p.send("POST", path, uuid.NewString(), jsonOf(map[string]any{"ask": ask, "reason": reason}))
	var out command.Outcome
	if code != http.StatusOK {
		t.Fatalf("%s: %d %s", path, code, body)
	}
	if err := json.Unmarshal([]byte(body), &out); err != nil {
		t.Fatal(err)
	}
	return out
}

func asks[T any](t *testing.T, p *person, path string, question any) T {
	t.Helper()
	code, body := p.send("POST", path, "", jsonOf(question))
	var out T
	if code != http.StatusOK {
		t.Fatalf("%s: %d %s", path, code, body)
	}
	if err := json.Unmarshal([]byte(body), &out); err != nil {
		t.Fatal(err)
	}
	return out
}

func TestAnOrderIsEnteredAndChangedOverHTTP(t *testing.T) {
	t.Parallel()
	tom, flo := stocked(t)
	found := read[[]query.ItemHit](t, tom, "/api/find-items?q=celadon&warehouse=HL")
	if len(found) != 1 || found[0].SKU != "GL-2040-1" || found[0].Free != 68 {
		t.Fatalf("found %+v", found)
	}
	pasted := asks[[]sales.Pasted](t, tom, "/api/paste", map[string]string{"text": "GL-2040-1\t5\nloop tool\t2\n"})
	if len(pasted) != 2 || pasted[1].SKU != "TL-014" {
		t.Fatalf("pasted %+v", pasted)
	}
	ask := sales.Draft{Customer: "ALD", Wanted: "2099-03-20", Lines: []sales.DraftLine{{SKU: "GL-2040-1", Qty: 5}, {SKU: "TL-014", Qty: 2}}}
	v := asks[sales.DraftView](t, tom, "/api/draft", ask)
	if v.Customer == nil || v.Customer.Name != "Aldersyke College" || len(v.Lines) != 2 || len(v.Lines[0].Parts) != 1 ||
		len(v.Missing) != 0 {
		t.Fatalf("it comes to %+v", v)
	}
	for i := range ask.Lines {
		ask.Lines[i].Shown = v.Lines[i].Parts
	}
	out := does(t, tom, "/api/enter-order", ask, "")
	if out.Verb != string(command.VerbEnter) || len(out.Documents) != 1 || out.Undoable {
		t.Fatalf("%+v", out)
	}
	number := out.Documents[0].Number
	if o := read[query.OrderView](t, tom, "/api/orders/"+number); o.At.Promised != 7 || o.Lines[1].SKU != "TL-014" {
		t.Errorf("entered %+v", o.OrderRow)
	}
	change := read[sales.Draft](t, tom, "/api/orders/"+number+"/draft")
	change.Lines[0].Qty = 9
	does(t, tom, "/api/change-order", change, "they rang")
	trail := read[[]supply.TrailEntry](t, tom, "/api/orders/"+number+"/trail")
	if len(trail) < 5 || !strings.Contains(jsonOf(trail), "entered 4 of GL-2040-1") {
		t.Errorf("the trail is %+v", trail)
	}
	if code, body := tom.send("POST", "/api/change-order", uuid.NewString(), jsonOf(map[string]any{"ask": change})); code != 409 ||
		!strings.Contains(body, "has changed since you saw it") {
		t.Errorf("a stale screen: %d %s", code, body)
	}
	if code, body := flo.send("POST", "/api/enter-order", uuid.NewString(), jsonOf(map[string]any{"ask": ask})); code != 403 {
		t.Errorf("the floor: %d %s", code, body)
	}
	if code, body := tom.send("POST", "/api/enter-order", "", jsonOf(map[string]any{"ask": ask})); code != 422 {
		t.Errorf("without a key: %d %s", code, body)
	}
}

func TestQuotesAndRequestsOverHTTP(t *testing.T) {
	t.Parallel()
	tom, _ := stocked(t)
	ana, max := &person{t, tom.url, &http.Client{Jar: newJar(t)}}, &person{t, tom.url, &http.Client{Jar: newJar(t)}}
	ana.signIn("ana")
	max.signIn("max")
	ask := sales.QuoteAsk{
		Expires: "2099-02-20",
		Draft:   sales.Draft{Customer: "SPC", Wanted: "2099-03-20", Lines: []sales.DraftLine{{SKU: "KL-070", Qty: 2, Warehouse: "DQ"}}},
	}
	number := does(t, tom, "/api/make-quote", ask, "").Documents[0].Number
	list := read[query.QuotesPage](t, tom, "/api/quotes?state=to+approve").Quotes
	if len(list) != 1 || list[0].Number != number {
		t.Fatalf("to approve: %+v", list)
	}
	q := read[sales.QuoteView](t, tom, "/api/quotes/"+number)
	if code, body := tom.send("POST", "/api/accept-quote", uuid.NewString(), jsonOf(map[string]any{"ask": q.Rest})); code != 409 {
		t.Errorf("accepted before it was approved: %d %s", code, body)
	}
	named := sales.QuoteNamed{Number: number, Seen: q.Version}
	if code, _ := ana.send("POST", "/api/approve-quote", uuid.NewString(), jsonOf(map[string]any{"ask": named})); code != 403 {
		t.Errorf("a coordinator approves: %d", code)
	}
	does(t, max, "/api/approve-quote", named, "")
	out := does(t, tom, "/api/accept-quote", read[sales.QuoteView](t, tom, "/api/quotes/"+number).Rest, "")
	if len(out.Documents) != 2 || out.Documents[1].Kind != "quote" {
		t.Errorf("accepted: %+v", out)
	}
	if code, body := tom.send(
		"POST", "/api/withdraw-quote", uuid.NewString(), jsonOf(map[string]any{"ask": sales.QuoteNamed{Number: number}, "reason": "no"}),
	); code != 409 || !strings.Contains(body, "it is accepted") {
		t.Errorf("withdrawn although accepted: %d %s", code, body)
	}
	if code, _ := tom.send("GET", "/api/quotes/Q-1", "", ""); code != 404 {
		t.Errorf("a quote that is none: %d", code)
	}

	p := read[promising.BuyProposal](t, tom, "/api/items/CB-110/buy?warehouse=HL")
	if p.Free != 96 || p.Qty != 0 {
		t.Errorf("proposed %+v", p)
	}
	request := does(
		t, tom, "/api/request-buy", promising.BuyAsk{SKU: "CB-110", Warehouse: "HL", Qty: 8, Wanted: p.Wanted, Note: `for the "fair"`}, "",
	).Documents[0].Number
	code, body := tom.send("GET", "/api/buy-requests.csv", "", "")
	rows, err := csv.NewReader(strings.NewReader(body)).ReadAll()
	if code != 200 || err != nil || len(rows) != 2 || rows[1][0] != request || rows[1][4] != "8" || rows[1][7] != `for the "fair"` {
		t.Errorf("%d %v %q", code, err, rows)
	}
	does(t, ana, "/api/confirm-buy", promising.BuyConfirm{Number: request, Ref: "PO-9", Due: p.Wanted, Qty: 8}, "")
	if list := read[[]query.BuyView](t, tom, "/api/buy-requests?sku=CB-110"); len(list) != 1 || list[0].State != "confirmed" {
		t.Errorf("confirmed: %+v", list)
	}

	settings := read[admin.SettingsView](t, tom, "/api/settings")
	if len(settings.Houses) != 2 || settings.QuoteLimit != 250_000 || len(settings.Services) != 4 {
		t.Errorf("settings %+v", settings)
	}
	does(t, max, "/api/set-house", admin.HouseAsk{Warehouse: "HL", Workdays: []int{1, 2, 3}, CutOff: "12:00", HandlingDays: 1}, "")
	does(t, max, "/api/close-days", admin.ClosedAsk{Warehouse: "HL", Day: "2099-12-25", Name: "Christmas"}, "")
	does(t, max, "/api/set-quote-limit", admin.LimitAsk{Minor: 7}, "")
	settings = read[admin.SettingsView](t, tom, "/api/settings")
	hl := settings.Houses[0]
	if hl.Code != "HL" || len(hl.Workdays) != 3 || hl.CutOff != "12:00" || hl.HandlingDays != 1 || len(hl.Closed) != 1 ||
		hl.Closed[0].Name != "Christmas" || settings.QuoteLimit != 7 {
		t.Errorf("changed: %+v", settings)
	}
	if code, _ := tom.send(
		"POST", "/api/set-house", uuid.NewString(), jsonOf(map[string]any{"ask": admin.HouseAsk{Warehouse: "HL", Workdays: []int{1}}}),
	); code != 403 {
		t.Errorf("sales change the settings: %d", code)
	}
}

// Nobody who is not signed in learns or does anything.
func TestEntryIsForThoseWhoAreSignedIn(t *testing.T) {
	t.Parallel()
	stranger := visit(t, start(t), "")
	for _, path := range []string{
		"/api/quotes", "/api/quotes/Q-1", "/api/find-items?q=x", "/api/orders/SO-1/draft", "/api/items/X/buy", "/api/buy-requests",
		"/api/buy-requests.csv", "/api/settings",
	} {
		if code, body := stranger.send("GET", path, "", ""); code != 401 {
			t.Errorf("%s: %d %s", path, code, body)
		}
	}
	for _, path := range []string{
		"/api/draft", "/api/paste", "/api/enter-order", "/api/change-order", "/api/make-quote", "/api/approve-quote", "/api/withdraw-quote",
		"/api/accept-quote",
		"/api/request-buy", "/api/confirm-buy", "/api/withdraw-buy", "/api/set-house", "/api/close-days", "/api/set-quote-limit",
	} {
		if code, body := stranger.send("POST", path, uuid.NewString(), `{}`); code != 401 {
			t.Errorf("%s: %d %s", path, code, body)
		}
	}
}
