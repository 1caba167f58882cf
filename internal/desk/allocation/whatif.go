package allocation

import (
	"context"
	"slices"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// WhatIfAsk is one thing that might be otherwise: so many more on hand of an item, a line that leaves on another day, or a customer's
// order of another tier.
type WhatIfAsk struct {
	SKU       string `json:"sku,omitempty" maxLength:"60"`
	Warehouse string `json:"warehouse,omitempty" maxLength:"12"`
	More      int64  `json:"more,omitempty" minimum:"-1000000000" maximum:"1000000000" doc:"Units on hand; fewer if negative"`
	Line      int64  `json:"line,omitempty" doc:"Key of the order line whose day, or whose order's tier, it is"`
	Sooner    int    `json:"sooner,omitempty" minimum:"-366" maximum:"366" doc:"Days by which it has to leave earlier; later if negative"`
	Tier      int    `json:"tier,omitempty" minimum:"1" maximum:"5"`
}

// WhatIfLine is a line that would be allocated otherwise.
type WhatIfLine struct {
	Line      int64  `json:"line"`
	Order     string `json:"order"`
	No        int    `json:"no"`
	Customer  string `json:"customer"`
	Tier      int    `json:"tier"`
	SKU       string `json:"sku"`
	Warehouse string `json:"warehouse"`
	Wanted    int64  `json:"wanted" doc:"Open units"`
	Before    int64  `json:"before" doc:"Units that a run would allocate as things are"`
	After     int64  `json:"after" doc:"Units that it would allocate then"`
}

// WhatIfView is what a run over the whole book would do otherwise.
type WhatIfView struct {
	Policy string          `json:"policy" doc:"The policy of the run: the default"`
	What   words.Message   `json:"what" doc:"What is otherwise, in words"`
	Says   []words.Message `json:"says" doc:"What it changes, in sentences"`
	Lines  []WhatIfLine    `json:"lines" doc:"Those that gain most, and those that lose most, first"`
	More   int             `json:"more" doc:"How many further lines there are"`
}

// mostWhatIf is how many lines are listed at once.
const mostWhatIf = 20

// WhatIf says what a run by the default policy over the whole book would do otherwise if one thing were. It changes nothing.
func (d *Desk) WhatIf(ctx context.Context, ask WhatIfAsk) (WhatIfView, error) {
	r := d.Store.Read(ctx)
	name, rules, err := d.rulesOf(r, RunAsk{})
	if err != nil {
		return WhatIfView{}, err
	}
	rows, err := d.Store.ReadBook(ctx)
	if err != nil {
		return WhatIfView{}, d.Explain(err)
	}
	before, err := d.plan(r, rows, name, rules, RunScope{})
	if err != nil {
		return WhatIfView{}, err
	}
	change, what, err := ask.change(before.Book)
	if err != nil {
		return WhatIfView{}, err
	}
	changed := *before.Book
	changed.Book = before.Book.With(change)
	options, err := rules.allocateOptions(&changed)
	if err != nil {
		return WhatIfView{}, err
	}
	after := plan.Allocate(changed.Book, options)
	out := WhatIfView{Policy: name, What: what, Lines: []WhatIfLine{}}
	differ := plan.Differ(before.Book.Book, before.Allocation, after)
	out.Says = whatIfSays(before.Allocation.Judge(before.Book.Book), after.Judge(changed.Book), before, after, differ)
	gain := func(l int32) int64 { return after.Units(l) - before.Allocation.Units(l) }
	slices.SortStableFunc(differ, func(x, y int32) int { return int(max(gain(y), -gain(y)) - max(gain(x), -gain(x))) })
	shown := differ[:min(len(differ), mostWhatIf)]
	out.More = len(differ) - len(shown)
	ids := make(store.IDs, len(shown))
	for i, l := range shown {
		ids[i] = before.Book.Rows[l].ID
	}
	heads, err := r.LineHeads(ids)
	if err != nil {
		return out, err
	}
	for i, l := range shown {
		row := &before.Book.Rows[l]
		h := heads[slices.IndexFunc(heads, func(h store.LineHead) bool { return h.ID == ids[i] })]
		out.Lines = append(out.Lines, WhatIfLine{
			Line: row.ID, Order: row.Number, No: int(row.No), Customer: h.Customer, Tier: int(row.Tier), SKU: h.SKU, Warehouse: h.Warehouse,
			Wanted: row.Open, Before: before.Allocation.Units(l), After: after.Units(l),
		})
	}
	return out, nil
}

// change is what is asked about, as the core knows it, and in words.
func (ask WhatIfAsk) change(b *supply.WholeBook) (c book.Change, what words.Message, err error) {
	asked := 0
	for _, is := range []bool{ask.More != 0, ask.Sooner != 0, ask.Tier != 0} {
		if is {
			asked++
		}
	}
	if asked != 1 {
		return c, words.Message{}, command.Invalid("Ask about one thing: units on hand, a line's day, or a tier.")
	}
	if ask.More != 0 {
		cell, known := b.CellOf(ask.SKU, ask.Warehouse)
		if !known {
			return c, words.Message{}, command.NotFound("There is no stock of %s at %s.", ask.SKU, ask.Warehouse)
		}
		x := &b.Cells[cell]
		onHand := x.OnHand + ask.More
		if onHand < x.Held+x.Used || onHand > book.MostUnits {
			return c, words.Message{}, command.Conflict(
				"Of %s at %s, %d are free: it cannot be changed by %d.", ask.SKU, ask.Warehouse, x.Free(), ask.More,
			)
		}
		c.Cell, c.OnHand = cell, &onHand
		if ask.More < 0 {
			return c, words.Say("%d fewer of %s on hand at %s", -ask.More, ask.SKU, ask.Warehouse), nil
		}
		return c, words.Say("%d more of %s on hand at %s", ask.More, ask.SKU, ask.Warehouse), nil
	}
	l, known := b.LineOf[ask.Line]
	if !known || b.Lines[l].Open == 0 {
		return c, words.Message{}, command.Conflict("That line has no open units any more: nothing would be otherwise.")
	}
	c.Line = l
	row := &b.Rows[l]
	if ask.Tier != 0 {
		tier := uint8(ask.Tier)
		c.Tier = &tier
		return c, words.Say("%s in tier %d instead of %d", row.Number, tier, row.Tier), nil
	}
	day := b.Lines[l].ShipBy - days.Day(ask.Sooner)
	c.ShipBy = &day
	return c, words.Say("%s line %d to ship by %s instead of %s", row.Number, row.No, words.Day(day), words.Day(b.Lines[l].ShipBy)), nil
}

// whatIfSays says in sentences what is otherwise.
func whatIfSays(was, now *plan.Outcomes, before *ComputedPlan, after *plan.Allocation, differ []int32) []words.Message {
	more, less := 0, 0
	for _, l := range differ {
		switch gain := after.Units(l) - before.Allocation.Units(l); {
		case gain > 0:
			more++
		case gain < 0:
			less++
		}
	}
	var out []words.Message
	if len(differ) > 0 {
		out = append(out, words.Say("%s would be allocated more, %d less.", words.Count(more, "line"), less))
	}
	say := func(by int64, more, fewer words.Message) {
		switch {
		case by > 0:
			out = append(out, more)
		case by < 0:
			out = append(out, fewer)
		}
	}
	units, orders, late := now.All.Units-was.All.Units, now.All.Complete-was.All.Complete, now.All.LateLines-was.All.LateLines
	say(
		units, words.Say("%s more would be allocated.", words.Count(units, "unit")),
		words.Say("%s fewer would be allocated.", words.Count(-units, "unit")),
	)
	say(
		int64(orders), words.Say("%s more would be complete.", words.Count(orders, "order")),
		words.Say("%s fewer would be complete.", words.Count(-orders, "order")),
	)
	say(
		int64(late), words.Say("%s more would be late.", words.Count(late, "line")),
		words.Say("%s fewer would be late.", words.Count(-late, "line")),
	)
	if len(out) == 0 {
		return []words.Message{words.Say("Every line would be allocated what it is now, and none be late that is not.")}
	}
	return out
}
