package allocation

import (
	"cmp"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// RunScope is which orders a run serves; all of them if nothing is said.
type RunScope struct {
	Orders   []string `json:"orders,omitempty" maxItems:"5000" doc:"Numbers"`
	Listed   bool     `json:"listed,omitempty" doc:"The orders are served in the order listed, whatever the policy's keys"`
	Channel  string   `json:"channel,omitempty" maxLength:"40"`
	Customer string   `json:"customer,omitempty" maxLength:"40" doc:"Code"`
}

// RunAsk is a run to be rehearsed.
type RunAsk struct {
	Policy  string       `json:"policy" maxLength:"60" doc:"Name; the default if empty"`
	Rules   *PolicyRules `json:"rules,omitempty" doc:"In place of those of the policy: to try what is not kept yet"`
	Compare string       `json:"compare,omitempty" maxLength:"60" doc:"A second policy to be rehearsed on the same book"`
	Scope   RunScope     `json:"scope"`
}

// TierEffect is what a plan does for a tier; tier 0 is all.
type TierEffect struct {
	Tier       int   `json:"tier"`
	Orders     int   `json:"orders" doc:"With open units, that the run may serve"`
	Complete   int   `json:"complete" doc:"Of these, whose open units are all allocated"`
	Lines      int   `json:"lines"`
	Units      int64 `json:"units" doc:"Allocated"`
	ValueMinor int64 `json:"value_minor" doc:"Of these, in the currency of the run"`
	LateLines  int   `json:"late_lines" doc:"Lines that leave after their ship-by day, or for which no supply is due"`
	LateDays   int64 `json:"late_days" doc:"By which they do, together"`
}

// GoalTier is what a goal reached in a tier.
type GoalTier struct {
	Tier    int   `json:"tier"`
	Reached int64 `json:"reached" doc:"Orders, or minor units of value"`
	Bound   int64 `json:"bound" doc:"What no choice could exceed"`
}

// BrokenPromise is a promise that can be kept now and could not any more.
type BrokenPromise struct {
	Line  int64  `json:"line"`
	Order string `json:"order"`
	No    int    `json:"no"`
	supply.Promised
}

// RunPlan is what one policy would do.
type RunPlan struct {
	Key    string          `json:"key" doc:"Names this plan when it is applied"`
	Policy string          `json:"policy"`
	Words  words.Message   `json:"words"`
	All    TierEffect      `json:"all"`
	Tiers  []TierEffect    `json:"tiers"`
	Goal   []GoalTier      `json:"goal"`
	Broken []BrokenPromise `json:"broken"`
	Takes  int             `json:"takes" doc:"Lines that take something"`
	Lacks  int             `json:"lacks" doc:"Lines that take less than they want"`
}

// RunLine is a line in the plans.
type RunLine struct {
	Line      int64        `json:"line" doc:"Key of the order line"`
	Order     string       `json:"order"`
	No        int          `json:"no"`
	Customer  string       `json:"customer"`
	Tier      int          `json:"tier"`
	SKU       string       `json:"sku"`
	Item      string       `json:"item"`
	Warehouse string       `json:"warehouse"`
	ShipBy    string       `json:"ship_by" format:"date"`
	Wanted    int64        `json:"wanted" doc:"Open units"`
	In        []LineInPlan `json:"in" doc:"By plan"`
	Differs   bool         `json:"differs" doc:"The plans give it different units"`
}

// LineInPlan is what a plan does for a line.
type LineInPlan struct {
	Takes  int64         `json:"takes"`
	From   string        `json:"from,omitempty" doc:"The warehouses, if another than its own is among them"`
	Leaves string        `json:"leaves,omitempty" format:"date" doc:"The day on which its last unit can leave; absent if no supply is due"`
	Late   bool          `json:"late"`
	Why    words.Message `json:"why"`
}

// RunView is a rehearsal.
type RunView struct {
	Scope    words.Message `json:"scope" doc:"Which orders are served"`
	Currency string        `json:"currency" doc:"Of all values"`
	Others   int           `json:"others" doc:"Lines that are sold in other currencies: they count for nothing where values are added up"`
	Before   TierEffect    `json:"before" doc:"All, without a run"`
	Plans    []RunPlan     `json:"plans"`
	Lines    []RunLine     `json:"lines" doc:"Those that differ first, then those that lack, then those that are covered; at most 500"`
	Count    int           `json:"count" doc:"Lines in all"`
	Differ   int           `json:"differ" doc:"Lines to which the plans give different units"`
}

// mostRunLines is how many lines of a rehearsal are shown one by one.
const mostRunLines = 500

// ComputedPlan is a plan that was computed.
type ComputedPlan struct {
	Book       *supply.WholeBook
	rules      PolicyRules
	Policy     string
	Allocation *plan.Allocation
}

// keptPlan is what a rehearsal keeps: line, warehouse, units.
type keptPlan [][3]int64

// packed is the plan as it is stored: its numbers one after another, as varints.
func (k keptPlan) packed() []byte {
	out := make([]byte, 0, 8*len(k))
	for _, t := range k {
		for _, n := range t {
			out = binary.AppendVarint(out, n)
		}
	}
	return out
}

func unpacked(stored []byte) (out keptPlan, err error) {
	for len(stored) > 0 {
		var t [3]int64
		for i := range t {
			n, size := binary.Varint(stored)
			if size <= 0 {
				return nil, errors.New("desk: a kept plan cannot be read")
			}
			t[i], stored = n, stored[size:]
		}
		out = append(out, t)
	}
	return out, nil
}

func (x *ComputedPlan) kept() keptPlan {
	out := make(keptPlan, 0, len(x.Allocation.Taken))
	for _, t := range x.Allocation.Taken {
		out = append(out, [3]int64{x.Book.Rows[t.Line].ID, x.Book.CellKey(t.Cell).Warehouse, t.Qty})
	}
	return out
}

// Rehearse says what a run would do, and what a second policy would do on the same book. It
// keeps both plans under keys of their own, to be applied, and tells its progress under call.Key; it changes nothing else.
func (d *Desk) Rehearse(ctx context.Context, call command.Call, ask RunAsk) (RunView, error) {
	if err := command.VerbRun.Allowed(call.Actor); err != nil {
		return RunView{}, err
	}
	p := d.NewProgress(ctx, call.Key)
	defer p.End()
	p.Begin("Reading the book", 0)
	rows, err := d.Store.ReadBook(ctx)
	if err != nil {
		return RunView{}, d.Explain(err)
	}
	p.Begin("Working it out", len(rows.Lines))
	r := d.Store.Read(ctx)
	var plans []*ComputedPlan
	asks := []RunAsk{ask}
	if ask.Compare != "" {
		second := ask
		second.Policy, second.Rules = ask.Compare, nil
		asks = append(asks, second)
	}
	for i := range asks {
		name, rules, err := d.rulesOf(r, asks[i])
		if err != nil {
			return RunView{}, err
		}
		asks[i].Policy, asks[i].Rules = name, &rules
		x, err := d.plan(r, rows, name, rules, ask.Scope)
		if err != nil {
			return RunView{}, err
		}
		plans = append(plans, x)
		if err := ctx.Err(); err != nil {
			return RunView{}, err // nobody waits for it any more
		}
	}
	view, err := d.runView(r, plans, ask.Scope)
	if err != nil {
		return view, err
	}
	err = d.Store.InTx(ctx, func(tx *store.Tx) error {
		for i, x := range plans {
			view.Plans[i].Key = command.NewKey()
			asked, err := json.Marshal(asks[i])
			if err != nil {
				return err
			}
			if err := tx.SaveRehearsal(store.Rehearsal{
				Key: view.Plans[i].Key, UserID: call.Actor.ID, At: d.Now(), Asked: string(asked), Journal: x.Book.Journal,
				Plan: x.kept().packed(),
			}); err != nil {
				return err
			}
		}
		return nil
	})
	return view, err
}

func (d *Desk) rulesOf(r *store.Reader, ask RunAsk) (string, PolicyRules, error) {
	row, found, err := r.PolicyByName(ask.Policy)
	switch {
	case err != nil:
		return "", PolicyRules{}, err
	case ask.Rules != nil:
		return cmp.Or(ask.Policy, "What is tried"), *ask.Rules, nil
	case !found:
		return "", PolicyRules{}, command.NotFound("There is no policy %s.", ask.Policy)
	}
	v, err := policyView(row)
	return v.Name, v.Rules, err
}

// plan computes one policy's plan of the book that was read.
func (d *Desk) plan(r *store.Reader, rows store.Book, name string, rules PolicyRules, scope RunScope) (*ComputedPlan, error) {
	how := supply.BookOptions{FirmCurrencyOnly: true, Elsewhere: rules.Elsewhere, Listed: scope.Listed && len(scope.Orders) > 0}
	if len(scope.Orders) > 0 || scope.Channel != "" || scope.Customer != "" {
		how.Rank = map[string]int{}
		for i, n := range scope.Orders {
			how.Rank[n] = i
		}
		customer := int64(0)
		if scope.Customer != "" {
			c, found, err := r.CustomerByCode(scope.Customer)
			if err != nil {
				return nil, err
			}
			if !found {
				return nil, command.NotFound("There is no customer %s.", scope.Customer)
			}
			customer = c.ID
		}
		if len(scope.Orders) == 0 {
			for i := range rows.Lines {
				l := &rows.Lines[i]
				if (scope.Channel == "" || l.Channel == scope.Channel) && (customer == 0 || l.Customer == customer) {
					how.Rank[l.Number] = i
				}
			}
		}
	}
	b, err := d.supply.MakeBook(r, rows, how)
	if err != nil {
		return nil, err
	}
	run, err := rules.allocateOptions(b)
	if err != nil {
		return nil, err
	}
	if how.Listed {
		run.Keys = []policy.Key{policy.Entered}
	}
	return &ComputedPlan{b, rules, name, plan.Allocate(b.Book, run)}, nil
}

func (s RunScope) words() words.Message {
	switch {
	case len(s.Orders) > 0 && s.Listed:
		return words.Say("%s, in the order listed", words.Count(len(s.Orders), "chosen order"))
	case len(s.Orders) > 0:
		return words.Say("%s", words.Count(len(s.Orders), "chosen order"))
	case s.Channel != "" && s.Customer != "":
		return words.Say("orders of customer %s through %s", s.Customer, s.Channel)
	case s.Channel != "":
		return words.Say("orders through %s", s.Channel)
	case s.Customer != "":
		return words.Say("orders of customer %s", s.Customer)
	}
	return words.Say("all open lines")
}

func tierEffect(tier int, e plan.Effect) TierEffect {
	return TierEffect{tier, e.Orders, e.Complete, e.Lines, e.Units, e.Value, e.LateLines, e.LateDays}
}

func (d *Desk) runView(r *store.Reader, plans []*ComputedPlan, scope RunScope) (RunView, error) {
	out := RunView{Scope: scope.words(), Currency: store.FirmCurrency, Plans: []RunPlan{}, Lines: []RunLine{}}
	b := plans[0].Book
	out.Before = tierEffect(0, plan.Untouched(b.Book, plans[0].Allocation.Keys).Judge(b.Book).All)
	var judged []*plan.Outcomes
	for _, x := range plans {
		o := x.Allocation.Judge(x.Book.Book)
		judged = append(judged, o)
		out.Plans = append(out.Plans, x.view(o))
	}
	differs := map[int32]bool{}
	if len(plans) > 1 {
		for _, l := range plan.Differ(b.Book, plans[0].Allocation, plans[1].Allocation) {
			differs[l] = true
		}
	}
	out.Differ = len(differs)
	shown := shownLines(plans[0], differs)
	for _, l := range shown {
		if b.Rows[l].Currency != store.FirmCurrency {
			out.Others++
		}
	}
	out.Count = len(shown)
	shown = shown[:min(len(shown), mostRunLines)]
	ids := make(store.IDs, len(shown))
	for i, l := range shown {
		ids[i] = b.Rows[l].ID
	}
	heads, err := r.LineHeads(ids)
	if err != nil {
		return out, err
	}
	head := map[int64]store.LineHead{}
	for _, h := range heads {
		head[h.ID] = h
	}
	for _, l := range shown {
		row := &b.Rows[l]
		h := head[row.ID]
		line := RunLine{
			Line: row.ID, Order: row.Number, No: int(row.No), Customer: h.Customer, Tier: int(row.Tier), SKU: h.SKU, Item: h.Item,
			Warehouse: h.Warehouse, ShipBy: b.Lines[l].ShipBy.String(), Wanted: row.Open, Differs: differs[l],
		}
		for i, x := range plans {
			v := LineInPlan{
				Takes: x.Allocation.Units(l), Why: x.Why(l).Sentence(row.Open), From: x.from(l), Late: judged[i].Late(b.Book, l),
			}
			if day, ok := judged[i].Leaves(l); ok {
				v.Leaves = day.String()
			}
			line.In = append(line.In, v)
		}
		out.Lines = append(out.Lines, line)
	}
	return out, nil
}

// view is what a plan does in all, and tier by tier.
func (x *ComputedPlan) view(o *plan.Outcomes) RunPlan {
	v := RunPlan{
		Policy: x.Policy, Words: x.rules.words(), All: tierEffect(0, o.All), Tiers: []TierEffect{}, Goal: []GoalTier{},
		Broken: []BrokenPromise{},
	}
	for t := 1; t <= 5; t++ {
		if o.Tiers[t].Lines > 0 {
			v.Tiers = append(v.Tiers, tierEffect(t, o.Tiers[t]))
		}
	}
	for _, g := range x.Allocation.Tiers {
		v.Goal = append(v.Goal, GoalTier{int(g.Tier), g.Reached, g.Bound})
	}
	for _, y := range x.Allocation.Broken {
		l := &x.Book.Rows[y.Line]
		v.Broken = append(v.Broken, BrokenPromise{l.ID, l.Number, int(l.No), supply.Promised{
			Day: y.Day.String(), Qty: y.Qty, Warehouse: x.Book.Warehouses[x.Book.Cells[y.Cell].Warehouse],
		}})
	}
	for i := range x.Book.Lines {
		l := int32(i)
		if !x.Book.Eligible(l) {
			continue
		}
		units := x.Allocation.Units(l)
		if units > 0 {
			v.Takes++
		}
		if units < x.Book.Lines[i].Open {
			v.Lacks++
		}
	}
	return v
}

// shownLines are the lines that a run serves: those that differ between two plans first, then those that go short, then the others;
// each by tier and day.
func shownLines(x *ComputedPlan, differs map[int32]bool) []int32 {
	var shown []int32
	groups := make([]int, len(x.Book.Lines))
	for i := range x.Book.Lines {
		l := int32(i)
		if !x.Book.Eligible(l) {
			continue
		}
		shown = append(shown, l)
		switch {
		case differs[l]:
			groups[l] = 0
		case x.Allocation.Units(l) < x.Book.Lines[l].Open:
			groups[l] = 1
		default:
			groups[l] = 2
		}
	}
	slices.SortStableFunc(shown, func(a, b int32) int {
		return cmp.Or(groups[a]-groups[b], policy.Compare(x.Book.Book, []policy.Key{policy.Tier, policy.ShipBy}, a, b))
	})
	return shown
}

// from names the warehouses from which a line takes, if another than its own is among them.
func (x *ComputedPlan) from(l int32) string {
	var parts []string
	other := false
	for _, t := range x.Allocation.TakenBy(l) {
		other = other || t.Cell != x.Book.Lines[l].Cell
		parts = append(parts, fmt.Sprintf("%d %s", t.Qty, x.Book.Warehouses[x.Book.Cells[t.Cell].Warehouse]))
	}
	if !other {
		return ""
	}
	return strings.Join(parts, " + ")
}

// ApplyAsk names the plan that was shown.
type ApplyAsk struct {
	Plan string `json:"plan" format:"uuid" doc:"Key of a plan of a rehearsal"`
}

// ApplyRun carries out exactly the plan that was shown. It computes the plan again from the book as
// it is now; if that is not the one that was shown, it does nothing and says what has changed.
//
// It locks the whole book that the plan rests on. It refuses a plan that was applied, or that is no longer kept.
func (d *Desk) ApplyRun(ctx context.Context, call command.Call, ask ApplyAsk) (command.Outcome, error) {
	shown, found, err := d.Store.Read(ctx).RehearsalByKey(ask.Plan)
	if err != nil {
		return command.Outcome{}, err
	}
	if !found {
		return command.Outcome{}, command.NotFound("That plan is no longer kept. Rehearse it again.")
	}
	var asked RunAsk
	if err := json.Unmarshal([]byte(shown.Asked), &asked); err != nil {
		return command.Outcome{}, err
	}
	kept, err := unpacked(shown.Plan)
	if err != nil {
		return command.Outcome{}, err
	}
	p := d.NewProgress(ctx, call.Key)
	defer p.End()
	return d.Run(ctx, call, command.VerbRun, ask, func(w *command.UnitOfWork) error {
		if len(kept) == 0 {
			return command.Conflict("That plan allocates nothing: there is nothing to apply.")
		}
		p.Begin("Looking again", 0)
		ids := make([]int64, 0, len(kept))
		for _, t := range kept {
			ids = append(ids, t[0])
		}
		if err := w.LockForBook(ids); err != nil {
			return err
		}
		if applied, err := w.Tx.RehearsalApplied(ask.Plan); err != nil || applied {
			return cmp.Or(err, command.Conflict("That plan was applied already."))
		}
		rows, err := w.Tx.ReadBook()
		if err != nil {
			return err
		}
		if err := w.FillFromBook(rows); err != nil {
			return err
		}
		x, err := d.plan(&w.Tx.Reader, rows, asked.Policy, *asked.Rules, asked.Scope)
		if err != nil {
			return err
		}
		if !slices.Equal(x.kept(), kept) {
			return d.changedSince(w, x, kept, shown.Journal)
		}
		return carryOut(w, x, p, ask.Plan)
	})
}

// carryOut makes the moves of the plan, and keeps the reasons of all lines that it looked at.
func carryOut(w *command.UnitOfWork, x *ComputedPlan, p *command.Progress, key string) error {
	p.Begin("Allocating", len(x.Allocation.Taken))
	if err := AllocatePlan(w, x); err != nil {
		return err
	}
	p.Begin("Writing", len(x.Book.Lines))
	if err := KeepReasons(w, x); err != nil {
		return err
	}
	if err := w.Tx.MarkApplied(key, w.ID); err != nil {
		return err
	}
	w.Say(
		"%s: allocated %s on %s of %s.", x.Policy, words.Count(w.Outcome.Units, "unit"), words.Count(int64(len(w.MovedLines())), "line"),
		words.Count(int64(len(w.Orders)), "order"),
	)
	return nil
}

// changedSince is the refusal of a plan that would be another one by now.
func (d *Desk) changedSince(w *command.UnitOfWork, x *ComputedPlan, kept keptPlan, journal int64) error {
	now := map[[3]int64]bool{}
	for _, t := range x.kept() {
		now[t] = true
	}
	items := map[int64]bool{}
	other := 0
	for _, t := range kept {
		if !now[t] {
			other++
			items[w.Lines[t[0]].ItemID] = true
		}
		delete(now, t)
	}
	for t := range now {
		other++
		if l, known := x.Book.LineOf[t[0]]; known {
			items[x.Book.Rows[l].Item] = true
		}
	}
	since, err := w.Tx.SinceOf(slices.Sorted(maps.Keys(items)), journal)
	if err != nil {
		return err
	}
	why := words.Say("the orders, promises or arrivals are not what they were")
	if len(since) > 0 {
		why = d.tellSince(since)
	}
	return command.Conflict(
		"The book has changed since you rehearsed: %s. %s would come out otherwise now. Nothing was done; look at the new plan.", why,
		words.Count(int64(other), "line"),
	)
}

// tellSince says what happened, with the order and the item of each.
func (d *Desk) tellSince(hs []store.Event) words.Message {
	var said []words.Message
	const most = 2
	for _, h := range hs[:min(len(hs), most)] {
		s := words.Say("%s %s %d of %s", h.Who, words.Past(h.Kind), h.Qty, h.SKU)
		if h.Document != "" {
			s = words.Say("%s for %s", s, h.Document)
		}
		said = append(said, words.Say("%s %s", s, d.Clock(h.At)))
	}
	if n := len(hs) - most; n > 0 {
		said = append(said, words.Say("and %d more", n))
	}
	return words.Say("%s", words.List(said, "; "))
}
