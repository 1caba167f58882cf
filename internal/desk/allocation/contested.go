package allocation

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"journeyman/core/capped"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/core/policy"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// UnitsOf is how many units a line is to have allocated from the warehouse.
type UnitsOf struct {
	Line      int64 `json:"line"`
	Allocated int64 `json:"allocated" minimum:"0" maximum:"1000000000"`
	Seen      int64 `json:"seen,omitempty" doc:"Version of the line that was seen"`
}

// ContestAsk is what is tried on a contested item. It changes nothing.
type ContestAsk struct {
	SKU       string    `json:"sku" maxLength:"60"`
	Warehouse string    `json:"warehouse" maxLength:"12"`
	Units     []UnitsOf `json:"units,omitempty" maxItems:"500" doc:"Lines that are to have other units than they have"`
	Policy    string    `json:"policy,omitempty" maxLength:"60" doc:"Propose what this policy would do with all of it; in place of units"`
	Step      *Step     `json:"step,omitempty" doc:"What is tried besides, from there"`
}

// Step is one step with what is tried.
type Step struct {
	Do   string `json:"do" enum:"more,less,most,none,over,kept" doc:"A pack more or less, all, nothing; what another has; what holds keep"`
	Line int64  `json:"line,omitempty" doc:"Absent for what orders on hold keep"`
	From int64  `json:"from,omitempty" doc:"The other line"`
}

// Claim is a line that wants units of a contested item.
type Claim struct {
	Line         int64    `json:"line"`
	Order        string   `json:"order"`
	No           int      `json:"no"`
	Customer     string   `json:"customer"`
	Code         string   `json:"code" doc:"Of the customer"`
	Tier         int      `json:"tier"`
	Urgency      int      `json:"urgency"`
	ShipRule     string   `json:"ship_rule"`
	ShipBy       string   `json:"ship_by" format:"date"`
	Holds        []string `json:"holds"`
	Ordered      int64    `json:"ordered"`
	Wants        int64    `json:"wants" doc:"Units that have not been released: open and allocated"`
	Has          int64    `json:"has" doc:"Allocated from this warehouse, as it is"`
	Gets         int64    `json:"gets" doc:"Allocated from this warehouse, as it is tried"`
	Stays        int64    `json:"stays" doc:"Of what it has, what it keeps"`
	More         int64    `json:"more" doc:"Units that it would get"`
	Fewer        int64    `json:"fewer" doc:"Units that it would give back"`
	LacksBesides int64    `json:"lacks_besides" doc:"What it lacks besides what it would give back"`
	Lacks        int64    `json:"lacks" doc:"Open, as it is tried"`
	Most         int64    `json:"most" doc:"What it could have at most, as it is tried"`
	Fixed        int64    `json:"fixed" doc:"On a pick list or further on: it has to be recalled before it can be moved"`
	Lists        []string `json:"lists" doc:"Those pick lists"`
	Version      int64    `json:"version"`
	Ready        int      `json:"ready" doc:"Open lines of its order that could go in full now"`
	OpenLines    int      `json:"open_lines"`
	Whole        bool     `json:"whole" doc:"Nothing of its order is open, as it is tried"`
	WasWhole     bool     `json:"was_whole"`
	Leaves       string   `json:"leaves,omitempty" format:"date" doc:"When its last unit can leave, as tried; absent if no supply is due"`
	Left         string   `json:"left,omitempty" format:"date" doc:"The same as it is"`
	Late         bool     `json:"late"`
	WasLate      bool     `json:"was_late"`
	OtherLines   []Beside `json:"other_lines" doc:"What else is on its order and not finished"`
	ValueMinor   int64    `json:"value_minor" doc:"Of what it wants"`
	Currency     string   `json:"currency"`
	PromisedFor  string   `json:"promised_for,omitempty" format:"date" doc:"The day of its last promise"`
}

// Beside is another line of an order.
type Beside struct {
	No   int           `json:"no"`
	SKU  string        `json:"sku"`
	Item string        `json:"item"`
	Open int64         `json:"open"`
	Free int64         `json:"free" doc:"Where it wants it"`
	At   supply.Counts `json:"at"`
}

// ContestEffect is what was tried does, in sum.
type ContestEffect struct {
	Changes     int             `json:"changes" doc:"Lines that would have other units than they have"`
	Moves       int64           `json:"moves" doc:"Units that would be given back"`
	Late        int             `json:"late" doc:"Lines that leave after their ship-by day"`
	WasLate     int             `json:"was_late"`
	DaysLate    int64           `json:"days_late" doc:"By which they do, together"`
	WasDaysLate int64           `json:"was_days_late"`
	Whole       int             `json:"whole" doc:"Orders of which nothing is open"`
	WasWhole    int             `json:"was_whole"`
	Says        []words.Message `json:"says" doc:"What changes, a sentence each"`
	Not         words.Message   `json:"not,omitzero" doc:"Why it cannot be applied"`
}

// ContestView is one contested item: what there is, who wants it, and what is tried.
type ContestView struct {
	SKU       string           `json:"sku"`
	Item      string           `json:"item"`
	Unit      string           `json:"unit"`
	Multiple  int64            `json:"multiple"`
	Warehouse string           `json:"warehouse"`
	House     string           `json:"house" doc:"Name of the warehouse"`
	Today     string           `json:"today" format:"date"`
	OnHand    int64            `json:"on_hand"`
	Held      int64            `json:"held"`
	Floor     int64            `json:"floor" doc:"Released, picked and packed"`
	Allocated int64            `json:"allocated"`
	Free      int64            `json:"free" doc:"As it is"`
	Left      int64            `json:"left" doc:"Free, as it is tried"`
	Shelf     int64            `json:"shelf" doc:"Free and allocated: what is here to be shared out"`
	Wanted    int64            `json:"wanted" doc:"Open units"`
	Missing   int64            `json:"missing" doc:"By how much the open units of orders that may go exceed what is free, as it is tried"`
	Kept      int64            `json:"kept" doc:"Allocated to orders on hold, as it is tried: they keep it while they may not go"`
	KeptBy    int              `json:"kept_by" doc:"Those orders"`
	KeptFrom  int64            `json:"kept_from" doc:"Units that orders which may go lack meanwhile, as it is tried"`
	Coming    []supply.Arrival `json:"coming"`
	Claims    []Claim          `json:"claims" doc:"In the order of the default policy"`
	Effect    ContestEffect    `json:"effect"`
	Policies  []string         `json:"policies" doc:"By which it could be shared out"`
}

// Contest shows one contested item with what is tried on it.
func (d *Desk) Contest(ctx context.Context, ask ContestAsk) (ContestView, error) {
	r := d.Store.Read(ctx)
	it, found, err := r.ItemBySKU(ask.SKU)
	if err != nil {
		return ContestView{}, err
	}
	if !found {
		return ContestView{}, command.NotFound("There is no item %s.", ask.SKU)
	}
	house, found, err := r.WarehouseByCode(ask.Warehouse)
	if err != nil {
		return ContestView{}, err
	}
	if !found {
		return ContestView{}, command.NotFound("There is no warehouse %s.", ask.Warehouse)
	}
	rows, err := d.Store.ReadBookOf(ctx, store.IDs{it.ID})
	if err != nil {
		return ContestView{}, err
	}
	c := &contesting{d: d, r: r, rows: rows, item: it.ID, house: house.ID, set: map[int64]int64{}}
	if err := c.read(); err != nil {
		return ContestView{}, err
	}
	if ask.Policy != "" {
		err = c.byPolicy(ask.Policy)
	} else {
		err = c.try(ask.Units)
	}
	if err == nil && ask.Step != nil {
		err = c.step(*ask.Step, it.Multiple)
	}
	if err != nil {
		return ContestView{}, err
	}
	out := ContestView{
		SKU: it.SKU, Item: it.Name, Unit: it.Unit, Multiple: it.Multiple, Warehouse: house.Code, House: house.Name,
		Today:  d.Today().String(),
		Coming: []supply.Arrival{}, Claims: []Claim{}, Policies: []string{},
	}
	err = c.view(&out)
	return out, err
}

// contesting is one item at one warehouse with its lines, and what is tried.
type contesting struct {
	d           *Desk
	r           *store.Reader
	rows        store.Book
	item, house int64
	set         map[int64]int64 // units allocated to lines in all, as it is tried
	has         map[int64]int64 // allocated to each line from this warehouse
	lines       []store.LineRow // of the orders that have a claim
	claims      []int64         // lines of the item at the warehouse
	row         map[int64]*store.BookLine
}

func (c *contesting) read() error {
	c.has, c.row = map[int64]int64{}, map[int64]*store.BookLine{}
	var orders store.IDs
	for i := range c.rows.Lines {
		l := &c.rows.Lines[i]
		if l.Warehouse != c.house {
			continue
		}
		c.claims = append(c.claims, l.ID)
		c.row[l.ID] = l
		if !slices.Contains(orders, l.Order) {
			orders = append(orders, l.Order)
		}
	}
	places, err := c.r.AllocatedPlaces(store.IDs{c.item})
	if err != nil {
		return err
	}
	for _, p := range places {
		if p.WarehouseID == c.house {
			c.has[p.LineID] = p.Allocated
		}
	}
	c.lines, err = c.r.LinesOfOrders(orders)
	return err
}

func (c *contesting) try(units []UnitsOf) error {
	for _, u := range units {
		l := c.row[u.Line]
		if l == nil {
			return command.NotFound("A line that was tried wants nothing of this any more. Load the page again.")
		}
		c.set[u.Line] = l.Allocated - c.has[u.Line] + u.Allocated
	}
	return nil
}

// gets is how many units of the cell the line would have allocated, as it is tried.
func (c *contesting) gets(line int64) int64 {
	if units, changed := c.set[line]; changed {
		return c.has[line] + units - c.row[line].Allocated
	}
	return c.has[line]
}

// give tries so many units of the cell for the line.
func (c *contesting) give(line, units int64) {
	c.set[line] = c.row[line].Allocated - c.has[line] + units
}

// giveBackKept tries what there would be if no order on hold kept anything.
func (c *contesting) giveBackKept() {
	for _, l := range c.lines {
		if c.row[l.ID] != nil && l.Holds != "" && c.gets(l.ID) > 0 {
			c.give(l.ID, 0)
		}
	}
}

// step takes one step from what is tried (core/plan).
func (c *contesting) step(s Step, multiple int64) error {
	for _, line := range []int64{s.Line, s.From} {
		if line != 0 && c.row[line] == nil {
			return command.NotFound("A line that was tried wants nothing of this any more. Load the page again.")
		}
	}
	if s.Do == "kept" {
		c.giveBackKept()
		return nil
	}
	if s.Line == 0 || s.Do == "over" && (s.From == 0 || s.From == s.Line) {
		return command.Invalid("Name the line, and for units of another line that one.")
	}
	cells, err := c.r.CellsOf(c.item)
	if err != nil {
		return err
	}
	left := int64(0)
	for _, x := range cells {
		if x.WarehouseID == c.house {
			left = x.Free
		}
	}
	for id, units := range c.set {
		left += c.row[id].Allocated - units
	}
	gets, m := c.gets(s.Line), journey.Qty(multiple)
	wants := c.row[s.Line].Open + c.has[s.Line]
	switch s.Do {
	case "more":
		gets = int64(plan.More(journey.Qty(gets), journey.Qty(wants), journey.Qty(left), m))
	case "less":
		gets = int64(plan.Less(journey.Qty(gets), m))
	case "most":
		gets += int64(plan.Take(journey.Qty(wants-gets), journey.Qty(left), m))
	case "none":
		gets = 0
	case "over":
		n := int64(plan.Over(journey.Qty(c.gets(s.From)), journey.Qty(wants-gets), m))
		c.give(s.From, c.gets(s.From)-n)
		gets += n
	}
	c.give(s.Line, gets)
	return nil
}

// byPolicy proposes what a policy would do if all that is allocated here were given back. Only
// this item is looked at: orders that go only whole are served as if their other lines were ready.
func (c *contesting) byPolicy(name string) error {
	row, found, err := c.r.PolicyByName(name)
	if err != nil {
		return err
	}
	if !found {
		return command.NotFound("There is no policy %s.", name)
	}
	v, err := policyView(row)
	if err != nil {
		return err
	}
	for _, id := range c.claims {
		c.set[id] = c.row[id].Allocated - c.has[id]
	}
	b, err := c.d.supply.MakeBook(c.r, c.copied(), supply.BookOptions{Allocated: c.set})
	if err != nil {
		return err
	}
	how, err := v.Rules.allocateOptions(b)
	if err != nil {
		return err
	}
	a := plan.Allocate(b.Book, how)
	for _, id := range c.claims {
		c.set[id] += a.Units(b.LineOf[id])
	}
	return nil
}

// copied is the rows with lines of their own: making a book of them changes lines.
func (c *contesting) copied() store.Book {
	rows := c.rows
	rows.Lines = slices.Clone(c.rows.Lines)
	return rows
}

func (c *contesting) view(out *ContestView) error {
	was, err := c.d.supply.MakeBook(c.r, c.copied(), supply.BookOptions{})
	if err != nil {
		return err
	}
	keys, err := c.d.defaultKeys(c.r)
	if err != nil {
		return err
	}
	cells, err := c.r.CellsOf(c.item)
	if err != nil {
		return err
	}
	for _, x := range cells {
		if x.Warehouse == out.Warehouse {
			out.OnHand, out.Held, out.Allocated, out.Free, out.Floor = x.OnHand, x.Held, x.Allocated, x.Free, x.Released+x.Picked+x.Packed
		}
	}
	out.Left, out.Shelf = out.Free, out.Free+out.Allocated
	for id, units := range c.set {
		out.Left += c.row[id].Allocated - units
	}
	if out.Left < 0 {
		out.Effect.Not = words.Say("%d more are given than there are: take %d from another line first.", -out.Left, -out.Left)
	}
	tried := was
	if out.Left >= 0 {
		if tried, err = c.d.supply.MakeBook(c.r, c.copied(), supply.BookOptions{Allocated: c.set}); err != nil {
			return err
		}
	}
	before := plan.Untouched(was.Book, keys).Judge(was.Book)
	after := plan.Untouched(tried.Book, keys).Judge(tried.Book)
	coming, err := c.r.SupplyOf(store.IDs{c.item})
	if err != nil {
		return err
	}
	for _, s := range coming {
		if s.WarehouseID == c.house {
			out.Coming = append(out.Coming, supply.Arrival{Ref: s.Ref, Due: s.Due, Qty: s.Qty, Overdue: s.Due < out.Today})
		}
	}
	lists, err := c.r.ListsOf(c.claims)
	if err != nil {
		return err
	}
	byOrder, keep := map[int64][]store.LineRow{}, map[int64]bool{}
	for _, l := range c.lines {
		byOrder[l.OrderID] = append(byOrder[l.OrderID], l)
	}
	for _, l := range c.lines {
		if c.row[l.ID] == nil {
			continue
		}
		k := c.claim(out, l, byOrder[l.OrderID])
		k.Lists = append([]string{}, lists[l.ID]...)
		i := was.LineOf[l.ID]
		k.Left, k.WasLate = leaves(before, was, i)
		k.Leaves, k.Late = leaves(after, tried, i)
		if ps := was.PromisesOf(i); len(ps) > 0 {
			k.PromisedFor = ps[len(ps)-1].Day.String()
		}
		out.Claims = append(out.Claims, k)
		out.Wanted += k.Lacks
		switch {
		case len(k.Holds) == 0:
			out.KeptFrom += k.Lacks
		case k.Gets > 0:
			out.Kept += k.Gets
			keep[l.OrderID] = true
		}
	}
	out.KeptBy = len(keep)
	out.Missing = max(0, out.KeptFrom-out.Left)
	slices.SortStableFunc(out.Claims, func(x, y Claim) int {
		a, b := was.LineOf[x.Line], was.LineOf[y.Line]
		return cmp.Or(policy.Compare(was.Book, keys, a, b), int(a)-int(b))
	})
	c.effect(out)
	rows, err := c.r.Policies()
	for _, p := range rows {
		out.Policies = append(out.Policies, p.Name)
	}
	return err
}

// defaultKeys are the keys of the default policy.
func (d *Desk) defaultKeys(r *store.Reader) ([]policy.Key, error) {
	row, _, err := r.PolicyByName("")
	if err != nil {
		return nil, err
	}
	v, err := policyView(row)
	if err != nil {
		return nil, err
	}
	return v.Rules.keys()
}

// claim is what a line wants, has and would get, beside the other lines of its order. What cannot be is noted as the effect.
func (c *contesting) claim(out *ContestView, l store.LineRow, order []store.LineRow) Claim {
	x := c.row[l.ID]
	gets := c.gets(l.ID)
	wants := x.Open + c.has[l.ID]
	if gets > wants && out.Effect.Not.IsZero() {
		out.Effect.Not = words.Say("%s line %d wants %d; it cannot have %d.", l.OrderNumber, l.LineNo, wants, gets)
	}
	if out.Effect.Not.IsZero() && out.Multiple > 1 && gets != c.has[l.ID] && gets != wants && gets%out.Multiple != 0 {
		out.Effect.Not = words.Say(
			"%s goes in packs of %d: %s line %d can have a multiple of %d, or all %d.", out.SKU, out.Multiple, l.OrderNumber, l.LineNo,
			out.Multiple, wants,
		)
	}
	k := Claim{
		Line: l.ID, Order: l.OrderNumber, No: l.LineNo, Customer: l.CustomerName, Code: l.CustomerCode, Tier: l.Tier,
		Urgency: int(x.Urgency), ShipRule: l.ShipRule, ShipBy: l.ShipBy, Holds: strings.Fields(l.Holds), Ordered: l.Ordered, Wants: wants,
		Has: c.has[l.ID], Gets: gets, Lacks: wants - gets, Most: max(gets, min(wants, gets+out.Left)),
		Fixed: l.Released + l.Picked + l.Packed, Version: l.Version, OtherLines: []Beside{},
		ValueMinor: capped.Times(wants, l.PriceMinor), Currency: x.Currency,
	}
	k.Stays, k.More, k.Fewer = min(k.Has, k.Gets), max(0, k.Gets-k.Has), max(0, k.Has-k.Gets)
	k.LacksBesides = max(0, k.Lacks-k.Fewer)
	k.Ready, k.OpenLines = supply.ReadyShare(order)
	k.Whole, k.WasWhole = true, true
	for _, o := range order {
		open := o.Open
		if y := c.row[o.ID]; y != nil {
			if units, changed := c.set[o.ID]; changed {
				open += y.Allocated - units
			}
		}
		k.Whole = k.Whole && open == 0
		k.WasWhole = k.WasWhole && o.Open == 0
		if o.ID != l.ID && o.Delivered+o.Dropped < o.Ordered {
			k.OtherLines = append(k.OtherLines, Beside{o.LineNo, o.SKU, o.ItemName, o.Open, o.Free, o.StationCounts})
		}
	}
	return k
}

// leaves is when the last unit of a line can leave, and whether that is late.
func leaves(o *plan.Outcomes, b *supply.WholeBook, l int32) (day string, late bool) {
	line := &b.Lines[l]
	if line.Open == 0 {
		return b.Today.String(), b.Today > line.ShipBy
	}
	if !b.Eligible(l) {
		return "", true // its order is on hold
	}
	if d, ok := o.Leaves(l); ok {
		day = d.String()
	}
	return day, o.Late(b.Book, l)
}

// effect sums up what is tried and says it.
func (c *contesting) effect(out *ContestView) {
	e := &out.Effect
	e.Says = []words.Message{}
	whole, wasWhole := map[string]bool{}, map[string]bool{}
	for _, k := range out.Claims {
		e.Late, e.WasLate = e.Late+one(k.Late), e.WasLate+one(k.WasLate)
		e.DaysLate, e.WasDaysLate = e.DaysLate+lateBy(k.Leaves, k.ShipBy, out.Today), e.WasDaysLate+lateBy(k.Left, k.ShipBy, out.Today)
		if k.Whole {
			whole[k.Order] = true
		}
		if k.WasWhole {
			wasWhole[k.Order] = true
		}
		if k.Gets != k.Has {
			e.Changes++
			e.Moves += max(0, k.Has-k.Gets)
		}
		switch {
		case k.Gets == k.Has && k.Leaves == k.Left:
		case k.Late && !k.WasLate && k.Leaves == "":
			e.Says = append(e.Says, words.Say("%s, %s: late, no supply is due for %d", k.Customer, k.Order, k.Lacks))
		case k.Leaves == "" && k.Left != "":
			e.Says = append(e.Says, words.Say("%s, %s: no supply is due for %d", k.Customer, k.Order, k.Lacks))
		case k.Left == "" && k.Leaves != "":
			e.Says = append(e.Says, words.Say("%s, %s: can leave %s", k.Customer, k.Order, words.DayOf(k.Leaves)))
		case k.Leaves > k.Left && k.Late && !k.WasLate:
			e.Says = append(
				e.Says,
				words.Say("%s, %s: becomes late, %s in place of %s", k.Customer, k.Order, words.DayOf(k.Leaves), words.DayOf(k.Left)),
			)
		case k.Leaves > k.Left:
			e.Says = append(
				e.Says, words.Say("%s, %s: waits for %s in place of %s", k.Customer, k.Order, words.DayOf(k.Leaves), words.DayOf(k.Left)),
			)
		case k.Leaves < k.Left && k.WasLate && !k.Late:
			e.Says = append(
				e.Says, words.Say("%s, %s: in time, %s in place of %s", k.Customer, k.Order, words.DayOf(k.Leaves), words.DayOf(k.Left)),
			)
		case k.Leaves < k.Left:
			e.Says = append(
				e.Says, words.Say("%s, %s: can leave %s in place of %s", k.Customer, k.Order, words.DayOf(k.Leaves), words.DayOf(k.Left)),
			)
		}
		if k.Whole && !k.WasWhole {
			e.Says = append(e.Says, words.Say("%s becomes complete", k.Order))
		}
		if k.WasWhole && !k.Whole {
			e.Says = append(e.Says, words.Say("%s is no longer whole", k.Order))
		}
	}
	e.Whole, e.WasWhole = len(whole), len(wasWhole)
}

func one(is bool) int {
	if is {
		return 1
	}
	return 0
}

func lateBy(leaves, shipBy, today string) int64 {
	if leaves == "" {
		leaves = today
	}
	a, errA := days.Parse(leaves)
	b, errB := days.Parse(shipBy)
	if errA != nil || errB != nil {
		return 0
	}
	return max(0, int64(a-b))
}

// MoveAsk gives lines of an item at a warehouse the units that were tried.
type MoveAsk struct {
	SKU       string    `json:"sku" maxLength:"60"`
	Warehouse string    `json:"warehouse" maxLength:"12"`
	Units     []UnitsOf `json:"units" minItems:"1" maxItems:"500"`
}

// MoveUnits gives lines the allocated units that were tried, those given back first; all of it or
// nothing.
//
// It locks the lines with the stock of the item. It refuses lines that are not as they were seen, more than is free or open, and what
// would change nothing.
func (d *Desk) MoveUnits(ctx context.Context, call command.Call, ask MoveAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbMove, ask, func(w *command.UnitOfWork) error {
		house, err := w.WarehouseID(ask.Warehouse)
		if err != nil {
			return err
		}
		var ids []int64
		for _, u := range ask.Units {
			if slices.Contains(ids, u.Line) {
				return command.Invalid("A line was named twice.")
			}
			ids = append(ids, u.Line)
		}
		if err := w.Lock(ids); err != nil {
			return err
		}
		for _, u := range ask.Units {
			l := w.Lines[u.Line]
			if l.SKU != ask.SKU {
				return command.Invalid("%s line %d is not of %s.", l.OrderNumber, l.LineNo, ask.SKU)
			}
			if u.Seen != 0 {
				if err := w.CheckVersion(l, u.Seen); err != nil {
					return err
				}
			}
		}
		has := func(l *command.Line) journey.Qty {
			if p := l.At[house]; p != nil {
				return p[journey.Allocated]
			}
			return 0
		}
		for _, u := range ask.Units {
			l := w.Lines[u.Line]
			if back := has(l) - journey.Qty(u.Allocated); back > 0 {
				if err := w.Move(l, house, journey.Make(journey.GiveBack, back), command.Refs{}); err != nil {
					return err
				}
			}
		}
		gave := w.Outcome.Units
		for _, u := range ask.Units {
			l := w.Lines[u.Line]
			if more := journey.Qty(u.Allocated) - has(l); more > 0 {
				if err := allocateExactly(w, command.Chosen{Line: l, Warehouse: house, Asked: more}); err != nil {
					return err
				}
			}
		}
		if w.Outcome.Units == 0 {
			return command.Conflict("These lines have those units already.")
		}
		w.Say(
			"%s: gave back %s, allocated %s, on %s.", ask.SKU, words.Count(gave, "unit"), words.Count(w.Outcome.Units-gave, "unit"),
			words.Count(int64(len(w.MovedLines())), "line"),
		)
		return nil
	})
}
