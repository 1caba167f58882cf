package plan

import (
	"encoding/json"
	"io"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/outlook"
	"journeyman/core/policy"
)

// Format is the first word of a plan file.
const Format = "journeyman-plan/1"

// Code says in a word why a line has what it has.
type Code string

// The reasons.
const (
	Covered    Code = "covered"     // so many units are provided for
	ShortStock Code = "short_stock" // there is and will be too little
	RuleLine   Code = "rule_line"   // the line goes only whole, and cannot be had whole
	RuleOrder  Code = "rule_order"  // the order goes only whole, and cannot be had whole
	OnHold     Code = "on_hold"     // its order is on hold: it was not served
	NotDue     Code = "not_due"     // it is to be shipped after the window
	Protects   Code = "protects_promise"
	Multiple   Code = "multiple" // what is left is less than a pack
	Reserved   Code = "reserved" // it is kept for others
)

// Reason is a code, for how many units it holds, and who came first: the lines that took, or
// to whom it is promised, by order and line number.
type Reason struct {
	Code  Code       `json:"code"`
	Qty   int64      `json:"qty"`
	After []string   `json:"after,omitempty"`
	By    policy.Key `json:"by,omitempty"` // the key by which the first of them came first
}

// Reasons says why line l has what the plan gives it.
func (p *Plan) Reasons(b *book.Book, l int32) []Reason {
	line, out := &b.Lines[l], []Reason{}
	if line.Open == 0 {
		return out
	}
	short := p.Lines[l].Short
	if q := line.Open - short; q > 0 {
		out = append(out, Reason{Code: Covered, Qty: q})
	}
	if short > 0 {
		code := ShortStock
		switch rule := b.Orders[line.Order].Rule; {
		case !b.Eligible(l):
			code = OnHold
		case rule == book.Lines:
			code = RuleLine
		case rule == book.Whole:
			code = RuleOrder
		}
		out = append(out, Reason{Code: code, Qty: short})
	}
	return out
}

// Totals sums up what a plan allocates and promises.
type Totals struct {
	Lines     int    `json:"lines"`               // with open units
	Open      int64  `json:"open"`                // units
	Allocated *int64 `json:"allocated,omitempty"` // units; absent if nothing was to be allocated
	Complete  *int   `json:"complete,omitempty"`  // orders with open units of which all are allocated
	Promised  int64  `json:"promised"`            // units
	Short     int64  `json:"short"`               // units promised to nobody
	LateLines int    `json:"late_lines"`          // with a promise later than their ship-by day
	LateDays  int64  `json:"late_days"`           // calendar days by which the last promise of each is late, together

	Goal    Goal             `json:"goal,omitempty"`    // of the run, if it had one
	Reached map[string]int64 `json:"reached,omitempty"` // by tier: orders, or minor units of value, before what was left was served in turn
	Bound   map[string]int64 `json:"bound,omitempty"`   // by tier: what no choice could exceed, on what the tiers before it left

	Proof map[string]*GoalProof `json:"proof,omitempty"` // of the bounds, by tier, if they were asked for
}

// Totals sums up the plan of the book, in which nothing is allocated.
func (p *Plan) Totals(b *book.Book) (t Totals) {
	for i := range b.Lines {
		l := &b.Lines[i]
		if l.Open == 0 {
			continue
		}
		t.Lines++
		t.Open += l.Open
		t.Short += p.Lines[i].Short
		t.Promised += l.Open - p.Lines[i].Short
		ps := p.PromisesOf(int32(i))
		if n := len(ps); n > 0 && ps[n-1].Day > l.ShipBy {
			t.LateLines++
			t.LateDays += int64(ps[n-1].Day - l.ShipBy)
		}
	}
	return t
}

type jsonPlan struct {
	Format string     `json:"format"`
	Today  string     `json:"today"`
	Lines  []jsonLine `json:"lines"`
	Broken []jsonTold `json:"broken,omitempty"`
	Totals Totals     `json:"totals"`
}

type jsonTold struct {
	Order string `json:"order"`
	Line  int32  `json:"line"`
	jsonPromise
}

type jsonTaken struct {
	Warehouse string `json:"warehouse"`
	Qty       int64  `json:"qty"`
}

type jsonLine struct {
	Order    string        `json:"order"`
	Line     int32         `json:"line"`
	Allocate []jsonTaken   `json:"allocate"`
	Promises []jsonPromise `json:"promises"`
	Short    int64         `json:"short"`
	Reasons  []Reason      `json:"reasons"`
}

type jsonPromise struct {
	Day       string `json:"day"`
	Warehouse string `json:"warehouse"`
	Qty       int64  `json:"qty"`
}

// Write writes the plan in its JSON form: every line with open units, by order number
// and line number, and the totals.
func (p *Plan) Write(w io.Writer, b *book.Book) error {
	out := jsonPlan{Format: Format, Today: b.Today.String(), Lines: []jsonLine{}, Totals: p.Totals(b)}
	for i := range b.Lines {
		l := &b.Lines[i]
		if l.Open == 0 {
			continue
		}
		line := jsonLine{
			Order: b.Orders[l.Order].Number, Line: l.No, Allocate: []jsonTaken{}, Promises: []jsonPromise{},
			Short: p.Lines[i].Short, Reasons: p.Reasons(b, int32(i)),
		}
		for _, x := range p.PromisesOf(int32(i)) {
			line.Promises = append(line.Promises, toldOf(b, x))
		}
		out.Lines = append(out.Lines, line)
	}
	return json.NewEncoder(w).Encode(out)
}

func toldOf(b *book.Book, x book.Promise) jsonPromise {
	return jsonPromise{x.Day.String(), b.Warehouses[b.Cells[x.Cell].Warehouse], x.Qty}
}

// Units is a number of units; Unlimited is written as the text "unlimited".
type Units int64

// MarshalJSON writes the number, or "unlimited".
func (u Units) MarshalJSON() ([]byte, error) {
	if int64(u) == outlook.Unlimited {
		return []byte(`"unlimited"`), nil
	}
	return json.Marshal(int64(u))
}

// Available answers what can be promised of an item at a warehouse, with its proof.
type Available struct {
	SKU       string         `json:"sku"`
	Warehouse string         `json:"warehouse"`
	Days      []AvailableDay `json:"days"`               // on which something happens, and today
	LeadDay   *string        `json:"lead_day"`           // from here on there is no limit; null: it cannot be bought
	By        *Units         `json:"by,omitempty"`       // how many by the day that was asked for
	Earliest  *EarliestDay   `json:"earliest,omitempty"` // the first day for the quantity that was asked for
}

// EarliestDay is a day, or null if there is none.
type EarliestDay struct{ Day *string }

// MarshalJSON writes the day, or null.
func (e EarliestDay) MarshalJSON() ([]byte, error) { return json.Marshal(e.Day) }

// AvailableDay is one day of the outlook.
type AvailableDay struct {
	Day         string `json:"day"`
	Receipts    int64  `json:"receipts"`
	Commitments int64  `json:"commitments"`
	Cumulative  int64  `json:"cumulative"`
	ATP         Units  `json:"atp"`
	Discrete    Units  `json:"discrete"`
}

// Ask is a question about one cell. Qty 0 and a By that is nil ask nothing.
type Ask struct {
	Qty  int64
	From days.Day // no earlier than today
	By   *days.Day
}

// Answer answers it. Cost: linear in all promises of the book, to find those of the cell.
func Answer(b *book.Book, cell int32, ask Ask) Available {
	c := &b.Cells[cell]
	it := &b.Items[c.Item]
	commitments := b.CommitmentsOf(cell)
	out := Available{SKU: it.SKU, Warehouse: b.Warehouses[c.Warehouse], Days: []AvailableDay{}}
	for _, r := range outlook.Picture(b.Today, it.Lead, c.Free(), b.ReceiptsOf(cell), commitments) {
		out.Days = append(out.Days, AvailableDay{r.Day.String(), r.Receipts, r.Commitments, r.Cumulative, Units(r.ATP), Units(r.Discrete)})
	}
	if it.Lead != outlook.Never {
		lead := it.Lead.String()
		out.LeadDay = &lead
	}
	o := outlook.New(b.CalendarOf(cell), b.Today, it.Lead, c.Free(), b.ReceiptsOf(cell))
	for _, e := range commitments {
		o.Take(e.Day, e.Qty)
	}
	if ask.By != nil {
		by := Units(o.ATP(*ask.By))
		out.By = &by
	}
	if ask.Qty > 0 {
		out.Earliest = &EarliestDay{}
		if d, ok := o.Earliest(ask.Qty, max(ask.From, b.Today)); ok {
			day := d.String()
			out.Earliest.Day = &day
		}
	}
	return out
}
