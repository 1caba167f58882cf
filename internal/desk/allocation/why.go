package allocation

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"time"

	"journeyman/core/book"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// reasonPart is a reason as it is kept with a line.
type reasonPart struct {
	Code  plan.Code     `json:"code"`
	Qty   int64         `json:"qty"`
	Pack  int64         `json:"pack,omitempty"`
	Where string        `json:"where,omitempty"`
	After []reasonAfter `json:"after,omitempty"`
	More  int           `json:"more,omitempty"` // lines that came first beside those
}

// reasonAfter is a line that came first.
type reasonAfter struct {
	Line   int64  `json:"line"`
	Order  string `json:"order"`
	No     int    `json:"no"`
	Tier   int    `json:"tier"`
	ShipBy string `json:"ship_by"`
	Took   int64  `json:"took,omitempty"`
	By     string `json:"by,omitempty"` // the key; "goal" if the goal chose it
}

// Reasons are why a line has what it has, as a run keeps them.
type Reasons []reasonPart

// mostAfter is how many of those who came first are kept by name.
const mostAfter = 8

// Why is why line l has what it has.
func (x *ComputedPlan) Why(l int32) Reasons {
	var out Reasons
	b := x.Book
	for _, y := range x.Allocation.Why(b.Book, l, mostAfter) {
		p := reasonPart{Code: y.Code, Qty: y.Qty, Where: b.Warehouses[b.Cells[b.Lines[l].Cell].Warehouse]}
		if y.Code == plan.Multiple {
			p.Pack = b.Items[b.Cells[b.Lines[l].Cell].Item].Multiple
		}
		for _, o := range y.After {
			row := &b.Rows[o]
			after := reasonAfter{
				Line: row.ID, Order: row.Number, No: int(row.No), Tier: int(row.Tier), ShipBy: b.Lines[o].ShipBy.String(),
				Took: x.Allocation.Units(o),
			}
			if y.Code != plan.Protects {
				if after.By = string(x.Allocation.By(b.Book, o, l)); x.Allocation.Goal != plan.InOrder && row.Tier == b.Rows[l].Tier {
					after.By = "goal"
				}
			}
			p.After = append(p.After, after)
		}
		p.More = y.More
		out = append(out, p)
	}
	return out
}

// KeepReasons keeps that the plan's policy was run, and the reasons of the lines that it looked at.
func KeepReasons(w *command.UnitOfWork, x *ComputedPlan) error {
	id, err := w.Tx.CommandID()
	if err != nil {
		return err
	}
	var lacking []store.LineReason
	var covered store.IDs
	for i := range x.Book.Lines {
		l := int32(i)
		if !x.Book.Eligible(l) {
			continue
		}
		if line := &x.Book.Lines[i]; x.Allocation.Units(l) == line.Open {
			covered = append(covered, x.Book.Rows[l].ID)
			continue
		}
		text, err := json.Marshal(x.Why(l))
		if err != nil {
			return err
		}
		lacking = append(lacking, store.LineReason{Line: x.Book.Rows[l].ID, Wanted: x.Book.Lines[l].Open, Reasons: string(text)})
	}
	return w.Tx.PutRun(id, x.Policy, lacking, covered)
}

func (a reasonAfter) name() words.Message {
	return words.Say("%s line %d (tier %d, due %s)", a.Order, a.No, a.Tier, words.DayOf(a.ShipBy))
}

// first says who came first, and by what.
func (p reasonPart) first() (who, by words.Message) {
	if len(p.After) == 0 {
		return who, by
	}
	who = p.After[0].name()
	if n := len(p.After) - 1 + p.More; n > 0 {
		who = words.Say("%s and %s", who, words.Count(n, "other line"))
	}
	switch key := p.After[0].By; key {
	case "":
	case "goal":
		by = words.Say("which makes more complete")
	default:
		by = words.Say("by %s", keyWords[key])
	}
	return who, by
}

// came says who came first.
func (p reasonPart) came() words.Message {
	who, by := p.first()
	switch {
	case who.IsZero():
		return who
	case by.IsZero():
		return words.Say("%s came first", who)
	case p.After[0].By == "goal":
		return words.Say("%s came first, %s", who, by)
	}
	return words.Say("%s came first %s", who, by)
}

// promised says to whom it is promised.
func (p reasonPart) promised() words.Message {
	who, by := p.first()
	switch {
	case who.IsZero():
		return words.Say("promised to others")
	case by.IsZero():
		return words.Say("promised to %s", who)
	case p.After[0].By == "goal":
		return words.Say("promised to %s, %s", who, by)
	}
	return words.Say("promised to %s %s", who, by)
}

// words is the reason in words.
func (p reasonPart) words() words.Message {
	switch p.Code {
	case plan.Covered:
		return words.Say("covered")
	case plan.ShortStock:
		if s := p.came(); !s.IsZero() {
			return s
		}
		return words.Say("nothing more is free at %s", p.Where)
	case plan.Protects:
		return p.promised()
	case plan.RuleLine:
		return also(words.Say("the line goes only whole"), p.came())
	case plan.RuleOrder:
		return also(words.Say("the order goes only whole"), p.came())
	case plan.OnHold:
		return words.Say("the order is on hold")
	case plan.NotDue:
		return words.Say("not due within the policy's days")
	case plan.Multiple:
		return words.Say("what is left is less than a pack of %d", p.Pack)
	case plan.Reserved:
		return words.Say("kept for others by the policy")
	}
	return words.Plain(string(p.Code))
}

func also(a, b words.Message) words.Message {
	if b.IsZero() {
		return a
	}
	return words.Say("%s; %s", a, b)
}

// Sentence says in one sentence why a line that wanted so many has what it has.
func (ps Reasons) Sentence(wanted int64) words.Message {
	var said []words.Message
	for _, p := range ps {
		if p.Code == plan.Covered && p.Qty == wanted {
			return words.Say("All %d are covered.", wanted)
		}
		if p.Code != plan.Covered {
			said = append(said, words.Say("%d of %d: %s.", p.Qty, wanted, p.words()))
		}
	}
	if len(said) == 0 {
		return words.Say("Nothing is wanted.")
	}
	return words.Say("%s", words.List(said, " "))
}

// WhyReason is one reason in full.
type WhyReason struct {
	Qty   int64         `json:"qty"`
	Words words.Message `json:"words"`
	After []WhyBefore   `json:"after" doc:"Who came first"`
	More  int           `json:"more" doc:"How many came first besides"`
}

// WhyBefore is a line that came first.
type WhyBefore struct {
	Order  string        `json:"order"`
	No     int           `json:"no"`
	Tier   int           `json:"tier"`
	ShipBy string        `json:"ship_by" format:"date"`
	Took   int64         `json:"took"`
	By     words.Message `json:"by" doc:"What it came first by"`
}

// WhyHolder is a line that holds units of the item where the line wants them.
type WhyHolder struct {
	Order    string `json:"order"`
	No       int    `json:"no"`
	Customer string `json:"customer"`
	Tier     int    `json:"tier"`
	ShipBy   string `json:"ship_by" format:"date"`
	Qty      int64  `json:"qty"`
	Who      string `json:"who,omitempty" doc:"Who allocated it last"`
	At       string `json:"at" format:"date-time"`
}

// WhyView is why a line has what it has.
type WhyView struct {
	Order   string        `json:"order"`
	No      int           `json:"no"`
	SKU     string        `json:"sku"`
	Said    words.Message `json:"said"`
	Run     words.Message `json:"run,omitzero" doc:"Which run said so, and when"`
	Reasons []WhyReason   `json:"reasons"`
	Holders []WhyHolder   `json:"holders" doc:"Who holds units of the item at the warehouse now, the last allocated first"`
	Free    int64         `json:"free"`
	Where   string        `json:"where"`
}

// Why says why a line has what it has: what the last run that looked at it said, and who holds now
// what it wants.
func (d *Desk) Why(ctx context.Context, line int64) (WhyView, error) {
	r := d.Store.Read(ctx)
	heads, err := r.LineHeads(store.IDs{line})
	if err != nil {
		return WhyView{}, err
	}
	if len(heads) == 0 {
		return WhyView{}, command.NotFound("There is no such order line any more. Load the page again.")
	}
	h := heads[0]
	out := WhyView{
		Order: h.OrderNumber, No: h.LineNo, SKU: h.SKU, Free: h.Free, Where: h.Warehouse, Reasons: []WhyReason{}, Holders: []WhyHolder{},
	}
	x, found, err := r.ReasonOf(line)
	if err != nil {
		return out, err
	}
	held, err := r.HoldersOf(h.ItemID, h.WarehouseID)
	if err != nil {
		return out, err
	}
	for _, x := range held {
		if x.LineID != line {
			out.Holders = append(
				out.Holders,
				WhyHolder{x.OrderNumber, x.LineNo, x.Customer, x.Tier, x.ShipBy, x.Qty, x.Who, x.At.UTC().Format(time.RFC3339)},
			)
		}
	}
	switch {
	case h.Open == 0 && h.Allocated+h.Released+h.Picked+h.Packed > 0:
		out.Said = words.Say("Nothing is open: all that is left of it is allocated or further on.")
	case h.Open == 0:
		out.Said = words.Say("Nothing is open any more.")
	case h.Free >= h.Open:
		out.Said = words.Say("%d are open and %d are free at %s: allocate it, or run a policy.", h.Open, h.Free, h.Warehouse)
	default:
		out.Said = words.Say("%d are open; %d are free at %s.", h.Open, h.Free, h.Warehouse)
		if len(out.Holders) > 0 {
			x := out.Holders[0]
			has := words.Say("%s line %d (tier %d) has %d.", x.Order, x.No, x.Tier, x.Qty)
			if x.Who != "" {
				has = words.Say("%s line %d (tier %d) has %d, allocated by %s.", x.Order, x.No, x.Tier, x.Qty, x.Who)
			}
			out.Said = out.Said.And(has)
		}
	}
	if !found || x.Undone {
		return out, nil
	}
	parts := Reasons{{Code: plan.Covered, Qty: x.Wanted}}
	if x.Reasons != "" {
		if err := json.Unmarshal([]byte(x.Reasons), &parts); err != nil {
			return out, err
		}
	}
	out.Run = words.Say("%s, run by %s %s", x.Policy, x.Who, d.Clock(x.At))
	if h.Open > 0 && h.Free < h.Open {
		out.Said = parts.Sentence(x.Wanted)
	}
	for _, p := range parts {
		y := WhyReason{Qty: p.Qty, Words: p.words(), After: []WhyBefore{}, More: p.More}
		for _, a := range p.After {
			by := keyWords[a.By]
			if a.By == "goal" {
				by = words.Say("the policy's goal")
			}
			y.After = append(y.After, WhyBefore{a.Order, a.No, a.Tier, a.ShipBy, a.Took, by})
		}
		out.Reasons = append(out.Reasons, y)
	}
	return out, nil
}

// AllocatePlan makes the moves of a plan for lines that are held still.
func AllocatePlan(w *command.UnitOfWork, x *ComputedPlan) error {
	// Line after line, as they lie in the database: which comes first is all the same by now.
	taken := slices.Clone(x.Allocation.Taken)
	slices.SortStableFunc(taken, func(a, b book.Taken) int { return cmp.Compare(x.Book.Rows[a.Line].ID, x.Book.Rows[b.Line].ID) })
	for _, t := range taken {
		l := w.Lines[x.Book.Rows[t.Line].ID]
		if l == nil {
			return command.Conflict("The book has changed while the plan was carried out. Nothing was done; rehearse it again.")
		}
		if err := w.Move(
			l, x.Book.CellKey(t.Cell).Warehouse, journey.Make(journey.Allocate, journey.Qty(t.Qty)), command.Refs{},
		); err != nil {
			return err
		}
	}
	return nil
}
