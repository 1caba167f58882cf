package api_test

import (
	"context"
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"github.com/google/uuid"

	"journeyman/internal/dbtest"
	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/promising"
)

// rehearsed asks what a run would do, under a key for its progress.
func rehearsed(t *testing.T, p *person, ask any) allocation.RunView {
	t.Helper()
	req, err := http.NewRequest("POST", p.url+"/api/rehearse-run", strings.NewReader(jsonOf(ask)))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Progress-Key", uuid.NewString())
	res, err := p.c.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = res.Body.Close() }()
	var v allocation.RunView
	if res.StatusCode != http.StatusOK {
		t.Fatalf("rehearsing: %d", res.StatusCode)
	}
	if err := json.NewDecoder(res.Body).Decode(&v); err != nil {
		t.Fatal(err)
	}
	return v
}

func TestAPolicyIsComposedRehearsedAndAppliedOverHTTP(t *testing.T) {
	t.Parallel()
	tom, _ := stocked(t)
	ana, max := &person{t, tom.url, &http.Client{Jar: newJar(t)}}, &person{t, tom.url, &http.Client{Jar: newJar(t)}}
	ana.signIn("ana")
	max.signIn("max")

	ps := read[allocation.PoliciesView](t, tom, "/api/policies")
	if len(ps.Policies) != 6 || !ps.Policies[0].Default || ps.Policies[0].Name != "By tier and date" || len(ps.Trail) != 0 {
		t.Fatalf("%+v", ps)
	}
	rules := allocation.PolicyRules{
		Keys: []string{"value", "tier"}, Sharing: "fair", Goal: "orders", Protect: true, ShipRules: "respect",
		Reserves: []allocation.Reserve{},
	}
	ask := map[string]any{"ask": allocation.PolicyAsk{Name: "Of the test", Rules: rules}}
	if code, body := ana.send("POST", "/api/set-policy", uuid.NewString(), jsonOf(ask)); code != http.StatusForbidden ||
		!strings.Contains(body, "manager") {
		t.Errorf("a coordinator: %d %s", code, body)
	}
	bad := rules
	bad.Keys = []string{"colour"}
	if code, _ := max.send(
		"POST", "/api/set-policy", uuid.NewString(), jsonOf(map[string]any{"ask": allocation.PolicyAsk{Name: "Bad", Rules: bad}}),
	); code != http.StatusUnprocessableEntity {
		t.Errorf("an unknown key: %d", code)
	}
	does(t, max, "/api/set-policy", ask["ask"], "")

	v := rehearsed(t, ana, allocation.RunAsk{Policy: "Of the test", Compare: "First come"})
	if len(v.Plans) != 2 || v.Plans[0].Policy != "Of the test" || len(v.Plans[0].Goal) == 0 || v.Plans[1].Takes == 0 || v.Count == 0 ||
		v.Scope.String() != "all open lines" {
		t.Fatalf("%+v", v)
	}
	if code, body := tom.send("POST", "/api/rehearse-run", "", jsonOf(allocation.RunAsk{})); code != http.StatusUnprocessableEntity &&
		code != http.StatusForbidden {
		t.Errorf("without a key: %d %s", code, body)
	}
	out := does(t, ana, "/api/apply-run", allocation.ApplyAsk{Plan: v.Plans[0].Key}, "")
	if out.Units != v.Plans[0].All.Units || !out.Undoable || out.Verb != string(command.VerbRun) {
		t.Errorf("applied %+v, shown were %d", out, v.Plans[0].All.Units)
	}
	code, body := ana.send(
		"POST", "/api/apply-run", uuid.NewString(), jsonOf(map[string]any{"ask": allocation.ApplyAsk{Plan: v.Plans[1].Key}}),
	)
	if code != http.StatusConflict || !strings.Contains(body, "has changed since you rehearsed") {
		t.Errorf("the other plan: %d %s", code, body)
	}
	var line allocation.RunLine
	for _, l := range v.Lines {
		if l.In[0].Takes > 0 {
			line = l
		}
	}
	w := read[allocation.WhyView](t, tom, "/api/lines/"+jsonOf(line.Line)+"/why")
	if w.Order != line.Order || !strings.HasPrefix(w.Run.String(), "Of the test, run by Ana Ruiz") {
		t.Errorf("why %+v", w)
	}
	if code, _ := tom.send("GET", "/api/lines/99999/why", "", ""); code != http.StatusNotFound {
		t.Errorf("why a line that is none: %d", code)
	}

	// All of it comes back.
	at := read[allocation.PoliciesView](t, ana, "/api/policies").Allocated
	units, parts := at[0].Units, int64(0)
	for _, a := range at[1:] {
		parts += a.Units
	}
	if at[0].Warehouse != "" || units != out.Units || parts != units {
		t.Errorf("%d allocated, %+v", out.Units, at)
	}
	back := does(t, ana, "/api/give-back-all", allocation.GiveBackAllAsk{Units: units}, "")
	if back.Units != units {
		t.Errorf("%d of %d came back", back.Units, units)
	}
	p := read[allocation.PoliciesView](t, max, "/api/policies")
	for _, x := range p.Policies {
		if x.Name == "Of the test" {
			does(t, max, "/api/default-policy", allocation.PolicySeen{ID: x.ID, Seen: x.Version}, "")
		}
	}
	if p = read[allocation.PoliciesView](t, max, "/api/policies"); p.Policies[0].Name != "Of the test" || len(p.Trail) != 2 {
		t.Errorf("the default is %+v", p.Policies[0])
	}
}

func TestContestedItemsAndRoomOverHTTP(t *testing.T) {
	t.Parallel()
	tom, _ := stocked(t)
	ana := &person{t, tom.url, &http.Client{Jar: newJar(t)}}
	ana.signIn("ana")
	page := read[allocation.ContestedPage](t, tom, "/api/contested")
	if len(page.Items) == 0 || page.Policy != "By tier and date" || page.ValueMinor == 0 {
		t.Fatalf("%+v", page)
	}
	x := page.Items[0]
	v := asks[allocation.ContestView](t, tom, "/api/contest", allocation.ContestAsk{SKU: x.SKU, Warehouse: x.Warehouse})
	if v.Missing != x.Missing || len(v.Claims) < 1 || len(v.Policies) != 6 || v.Effect.Changes != 0 {
		t.Errorf("%+v of %+v", v, x)
	}
	first := v.Claims[0]
	units := []allocation.UnitsOf{{Line: first.Line, Allocated: first.Most, Seen: first.Version}}
	tried := asks[allocation.ContestView](t, tom, "/api/contest", allocation.ContestAsk{SKU: x.SKU, Warehouse: x.Warehouse, Units: units})
	if first.Most > first.Has && (tried.Effect.Changes != 1 || !tried.Effect.Not.IsZero() || tried.Claims[0].Gets != first.Most) {
		t.Errorf("tried %+v", tried.Effect)
	}
	move := allocation.MoveAsk{SKU: x.SKU, Warehouse: x.Warehouse, Units: units}
	if code, _ := tom.send("POST", "/api/move-units", uuid.NewString(), jsonOf(map[string]any{"ask": move})); code != http.StatusForbidden {
		t.Errorf("sales may not move units: %d", code)
	}
	if out := does(t, ana, "/api/move-units", move, ""); out.Units != first.Most-first.Has {
		t.Errorf("moved %+v, %d was to come", out, first.Most-first.Has)
	}
	if code, body := ana.send(
		"POST", "/api/move-units", uuid.NewString(), jsonOf(map[string]any{"ask": move}),
	); code != http.StatusConflict || !strings.Contains(body, "has changed since you saw it") {
		t.Errorf("again: %d %s", code, body)
	}
	s := read[promising.StandingView](t, tom, "/api/customers/ALD/standing")
	if s.Name != "Aldersyke College" || s.Of == 0 || s.Rank == 0 {
		t.Errorf("%+v", s)
	}
	room := asks[promising.RoomView](
		t, tom, "/api/room", promising.RoomAsk{SKU: x.SKU, Warehouse: x.Warehouse, Qty: 1_000_000, By: "2099-01-05", Customer: "ALD"},
	)
	if !room.Fits && room.Possible && len(room.Ways) == 0 || room.Standing == nil {
		t.Errorf("%+v", room)
	}
	if code, _ := tom.send(
		"POST", "/api/room", "", jsonOf(promising.RoomAsk{SKU: "NONE", Warehouse: "HL", Qty: 1, By: "2099-01-05"}),
	); code != http.StatusNotFound {
		t.Errorf("an unknown item: %d", code)
	}
	if code, body := tom.send(
		"POST", "/api/make-room", uuid.NewString(),
		jsonOf(map[string]any{
			"ask": promising.RoomApply{RoomAsk: promising.RoomAsk{SKU: x.SKU, Warehouse: x.Warehouse, Qty: 1, By: "2099-01-05"}},
		}),
	); code == http.StatusOK {
		t.Errorf("nothing chosen, and by sales: %d %s", code, body)
	}
}

// A request that is cut off while it waits lets go of everything; asking with its key says so.
func TestARequestThatIsCutOffIsStopped(t *testing.T) {
	t.Parallel()
	s, ctx := dbtest.Store(t), context.Background()
	ana := visit(t, startOn(t, s), "ana")
	ana.importSmall()
	v := rehearsed(t, ana, allocation.RunAsk{})
	colleague, err := s.Pool.Begin(ctx)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = colleague.Rollback(ctx) }()
	if _, err := colleague.Exec(ctx, "SELECT 1 FROM stock_cell FOR NO KEY UPDATE"); err != nil {
		t.Fatal(err)
	}
	key := uuid.NewString()
	impatient, cutOff := context.WithCancel(ctx)
	req, err := http.NewRequestWithContext(
		impatient, "POST", ana.url+"/api/apply-run",
		strings.NewReader(jsonOf(map[string]any{"ask": allocation.ApplyAsk{Plan: v.Plans[0].Key}})),
	)
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Idempotency-Key", key)
	ended := make(chan error)
	go func() {
		res, err := ana.c.Do(req)
		if err == nil {
			_ = res.Body.Close()
		}
		ended <- err
	}()
	dbtest.AwaitLock(t, s)
	cutOff()
	if err := <-ended; err == nil {
		t.Error("the request was answered although it was cut off")
	}
	// The colleague still holds the stock: only if the run was let go can its key be taken.
	code, body := ana.send("POST", "/api/stop", key, `{"ask":{}}`)
	if code != http.StatusOK || !strings.Contains(body, "Stopped. Nothing was changed.") {
		t.Fatalf("%d %s", code, body)
	}
	if err := colleague.Rollback(ctx); err != nil {
		t.Fatal(err)
	}
	if out := does(t, ana, "/api/apply-run", allocation.ApplyAsk{Plan: v.Plans[0].Key}, ""); out.Units != 10 {
		t.Errorf("applied afterwards: %+v", out)
	}
}
