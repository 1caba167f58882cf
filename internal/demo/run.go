package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/google/uuid"

	"journeyman/core/days"
	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/dock"
	"journeyman/internal/desk/floor"
	"journeyman/internal/desk/promising"
	"journeyman/internal/desk/sales"
	"journeyman/internal/desk/supply"
	"journeyman/internal/exchange"
	"journeyman/internal/query"
	"journeyman/internal/rooms"
)

// Person is somebody who works in the demo.
type Person struct {
	Login, Name string
	Role        command.Role
}

// player carries the scenario forward by ordinary commands, dated as they would have been.
type player struct {
	*scenario
	ctx  context.Context
	d    *rooms.Rooms
	now  time.Time
	last time.Time // nothing is dated after it
	who  map[command.Role]command.Actor
	step func(string)
	n    int
	fair string // the number of the quote that was made at the fair
}

// Run fills an empty database with the demo around `now`. open makes a desk that
// lives by the clock it is given. step is told what is being done. A failed run
// leaves what it had done; start afresh then.
func Run(ctx context.Context, open func(clock func() time.Time) *rooms.Rooms, people []Person, now time.Time, step func(string)) error {
	p := &player{ctx: ctx, who: map[command.Role]command.Actor{}, step: step}
	p.d = open(func() time.Time { return p.now })
	p.now = now
	p.scenario = newScenario(workday(p.d.Today()))
	if back := p.d.Today(); back != p.today { // a weekend: the book is that of the Friday before
		p.scenario = newScenario(lastWorkday(back))
	}
	for _, x := range people {
		a, err := p.d.Admin.AddUser(ctx, admin.NewUser{Login: x.Login, Name: x.Name, Role: x.Role})
		if err != nil {
			return err
		}
		p.who[x.Role] = a
	}
	p.last = now
	return p.play()
}

func lastWorkday(d days.Day) days.Day {
	for d.Weekday() == time.Saturday || d.Weekday() == time.Sunday {
		d--
	}
	return d
}

func (p *player) at(d days.Day, hour, minute int) {
	p.now = d.Time().Add(time.Duration(hour)*time.Hour + time.Duration(minute)*time.Minute)
	if p.now.After(p.last) {
		p.now = p.last
	}
}

func (p *player) call(r command.Role, reason string) command.Call {
	p.n++
	return command.Call{Key: keyOf(fmt.Sprintf("demo %d %d", p.today, p.n)), Actor: p.who[r], Reason: reason}
}

func (p *player) play() error {
	first := back(p.today, 24)
	p.at(first, 6, 0)
	p.step("items, stock, customers and arrivals")
	if err := p.load(
		itemsFile(p.items), substitutesFile(p.items), zonesFile(), p.stockFile(), customersFile(p.custs), p.inboundFile(),
	); err != nil {
		return err
	}
	if err := p.houseRules(); err != nil {
		return err
	}
	for day := first; day <= p.today; day = workday(day + 1) {
		p.step("the work of " + day.Time().Format("Mon 2 January"))
		if err := p.day(day); err != nil {
			return fmt.Errorf("%s: %w", day, err)
		}
	}
	return p.d.Floor.PutAll(p.ctx)
}

func (p *player) load(files ...exchange.File) error {
	_, report, err := p.d.Importing.Import(p.ctx, p.call(command.Manager, ""), files)
	if err != nil && len(report.Faults) > 0 {
		return fmt.Errorf("%w %w", err, report.Faults[0])
	}
	return err
}

// step after which an order rests, and the day of each step: entered, then the
// next working day allocated and released, picked and packed the day after, sent,
// delivered two days later. Orders that have not come as far stop on the way.
func (p *player) day(day days.Day) error {
	var came, allocate, release, pick, arrive []*order
	for _, o := range p.orders {
		last := o.fate == delivered || o.fate == shipped
		switch {
		case o.entered == day:
			came = append(came, o)
		}
		if p.allocatedOn(o) == day && o.fate >= partly {
			allocate = append(allocate, o)
		}
		if p.releasedOn(o) == day && o.fate >= released {
			release = append(release, o)
			if o.fate >= picked {
				pick = append(pick, o)
			}
		}
		if last && o.fate == delivered && forth(p.releasedOn(o), 2) == day {
			arrive = append(arrive, o)
		}
	}
	p.at(day, 6, 30)
	if len(came) > 0 {
		if err := p.load(ordersFile("orders.csv", came)); err != nil {
			return err
		}
	}
	p.at(day, 7, 10)
	for _, n := range p.inbound {
		if n.comes == day {
			if err := p.receive(n); err != nil {
				return err
			}
		}
	}
	for _, part := range []func() error{
		func() error { return p.allocate(day, allocate) },
		func() error { return p.promise(day) },
		func() error { return p.release(day, release) },
		func() error { return p.pick(day, pick) },
		func() error { return p.packAndSend(day, pick) },
		func() error { return p.arrive(day, arrive) },
		func() error { return p.cancel(day) },
		func() error { return p.quotes(day) },
	} {
		if err := part(); err != nil {
			return err
		}
	}
	return nil
}

func (p *player) allocatedOn(o *order) days.Day { return min(p.today, forth(o.entered, 1)) }

func (p *player) releasedOn(o *order) days.Day {
	return min(p.today, forth(o.entered, 1+int(o.entered)%2))
}

func (p *player) receive(n inbound) error {
	page, err := p.d.Query.Inbound(p.ctx, query.Ask{Query: n.ref})
	if err != nil {
		return err
	}
	i := slices.IndexFunc(page.Inbound, func(v query.InboundView) bool { return v.SKU == n.item.sku })
	r := floor.Receipt{Inbound: page.Inbound[i].ID, Qty: n.qty}
	if n.item.lots {
		r.Lots = []command.LotQty{{Lot: "N" + n.ref[len(n.ref)-3:], Qty: n.qty}}
	}
	_, err = p.d.Floor.Receive(p.ctx, p.call(command.Floor, ""), r)
	return err
}

// read is of which lots units of a row are, as a picker reads it off them: those of the lot that came first first, then what was here
// before lots were noted. Rows of one list can have the same bin: taken is what those before took.
func read(t query.TaskView, qty int64, taken map[string]int64) (out []command.LotQty) {
	if !t.ByLots || t.Lot != "" {
		return nil
	}
	for _, l := range t.Lots {
		if n := min(l.Qty-taken[t.SKU+t.Bin+l.Lot], qty); n > 0 && !l.Stop {
			out = append(out, command.LotQty{Lot: l.Lot, Qty: n})
			taken[t.SKU+t.Bin+l.Lot] += n
			qty -= n
		}
	}
	if before := "M" + t.SKU[3:6]; qty > 0 && len(out) > 0 && out[0].Lot == before {
		out[0].Qty += qty
	} else if qty > 0 {
		out = append(out, command.LotQty{Lot: before, Qty: qty})
	}
	return out
}

func (p *player) allocate(day days.Day, orders []*order) error {
	p.at(day, 7, 30)
	for _, o := range orders {
		v, err := p.d.Query.Order(p.ctx, o.number)
		if err != nil {
			return err
		}
		var sel command.Selection
		for i, l := range v.Lines {
			if give := o.lines[i].give; give > 0 {
				sel.Lines = append(sel.Lines, command.LineQty{Line: l.ID, Qty: give, Seen: l.Version})
			}
		}
		if len(sel.Lines) == 0 {
			continue
		}
		p.now = p.now.Add(20 * time.Second)
		if _, err := p.d.Allocation.Allocate(p.ctx, p.call(command.Coordinator, ""), sel); err != nil {
			return fmt.Errorf("%s: %w", o.number, err)
		}
	}
	return nil
}

// promise answers the customers whose orders could not be filled when they were allocated from.
func (p *player) promise(day days.Day) error {
	p.at(day, 7, 40)
	for _, o := range p.orders {
		if !o.promise || p.allocatedOn(o) != day {
			continue
		}
		p.now = p.now.Add(10 * time.Second)
		_, err := p.d.Promising.Promise(
			p.ctx, p.call(command.Sales, ""), promising.PromiseAsk{Orders: []command.OrderSeen{{Number: o.number}}},
		)
		if _, no := command.AsRefusal(err); err != nil && !no {
			return fmt.Errorf("%s: %w", o.number, err)
		}
	}
	return nil
}

// release makes a pick list for every dozen orders, those that are picked apart
// from those that are not.
func (p *player) release(day days.Day, orders []*order) error {
	p.at(day, 7, 50)
	for _, done := range []bool{true, false} {
		var sel []command.OrderSeen
		for _, o := range orders {
			if (o.fate >= picked) == done {
				sel = append(sel, command.OrderSeen{Number: o.number})
			}
		}
		for len(sel) > 0 {
			n := min(8, len(sel))
			p.now = p.now.Add(2 * time.Minute)
			if _, err := p.d.Floor.Release(p.ctx, p.call(command.Coordinator, ""), floor.ReleaseAsk{
				Selection: command.Selection{Orders: sel[:n]}, Print: day == p.today, PackingLists: day == p.today && !done,
			}); err != nil {
				return err
			}
			sel = sel[n:]
		}
	}
	return nil
}

func (p *player) pick(day days.Day, orders []*order) error {
	p.at(day, 8, 15)
	lists, err := p.d.Query.PickLists(p.ctx, query.Ask{})
	if err != nil {
		return err
	}
	for _, l := range lists.Lists {
		list, err := p.d.Query.PickList(p.ctx, l.Number)
		if err != nil {
			return err
		}
		var found []floor.Found
		taken := map[string]int64{}
		for _, t := range list.Tasks {
			if t.Due > 0 && slices.ContainsFunc(orders, func(o *order) bool { return o.number == t.Order }) {
				found = append(found, floor.Found{Task: t.ID, Qty: t.Due, Lots: read(t, t.Due, taken)})
			}
		}
		if day == p.today {
			if err := p.pickShort(list); err != nil {
				return err
			}
		}
		if len(found) == 0 {
			continue
		}
		p.now = p.now.Add(4 * time.Minute)
		if _, err := p.d.Floor.Pick(p.ctx, p.call(command.Floor, ""), found); err != nil {
			return err
		}
	}
	return nil
}

// pickShort picks what is not all there: four are taken, one is broken, and the rest is missing.
func (p *player) pickShort(list query.PickListView) error {
	for _, t := range list.Tasks {
		short := slices.ContainsFunc(p.orders, func(o *order) bool { return o.number == t.Order && o.short })
		if !short || t.Due < 6 {
			continue
		}
		for _, f := range []floor.Found{
			{Task: t.ID, Qty: 4, Later: true, Cause: "damaged", Short: 1, Lots: read(t, 4, map[string]int64{})}, {Task: t.ID, Cause: "missing"},
		} {
			p.now = p.now.Add(time.Minute)
			if _, err := p.d.Floor.Pick(p.ctx, p.call(command.Floor, ""), []floor.Found{f}); err != nil {
				return err
			}
		}
	}
	return nil
}

func (p *player) packAndSend(day days.Day, orders []*order) error {
	p.at(day, 9, 0)
	jobs, err := p.d.Query.Packing(p.ctx, query.Ask{})
	if err != nil {
		return err
	}
	var send []dock.ShipmentSeen
	for _, j := range jobs.Jobs {
		i := slices.IndexFunc(orders, func(o *order) bool { return o.number == j.Order })
		if i < 0 || orders[i].fate < packed {
			continue
		}
		packages, err := p.proposed(j)
		if err != nil {
			return err
		}
		p.now = p.now.Add(30 * time.Second)
		out, err := p.d.Floor.Pack(
			p.ctx, p.call(command.Floor, ""), floor.Packing{Order: j.Order, Warehouse: j.Warehouse, Packages: packages},
		)
		if err != nil {
			return err
		}
		if orders[i].fate >= shipped {
			send = append(send, dock.ShipmentSeen{Number: out.Documents[0].Number})
		}
	}
	if len(send) == 0 {
		return nil
	}
	p.at(day, 9, 40)
	if _, err = p.d.Dock.Dispatch(p.ctx, p.call(command.Floor, ""), send); err != nil {
		return err
	}
	_, err = p.d.Dock.BookAll(p.ctx)
	return err
}

// proposed are the packages that are proposed for an order.
func (p *player) proposed(j query.PackingJob) ([]floor.PackageToBe, error) {
	v, err := p.d.Floor.Propose(p.ctx, floor.ProposeAsk{Order: j.Order, Warehouse: j.Warehouse})
	out := make([]floor.PackageToBe, len(v.Packages))
	for i, x := range v.Packages {
		out[i] = floor.PackageToBe{Kind: "carton", Of: x.Of, Contents: x.Contents}
		if k := slices.IndexFunc(v.Kinds, func(k supply.PackageKind) bool { return k.Code == x.Of }); k >= 0 && v.Kinds[k].Pallet {
			out[i].Kind = "pallet"
		}
	}
	return out, err
}

func (p *player) arrive(day days.Day, orders []*order) error {
	p.at(day, 9, 50)
	shipments, err := p.d.Query.Shipments(p.ctx, query.InState("under way"))
	if err != nil {
		return err
	}
	var there []dock.ShipmentSeen
	for _, s := range shipments.Shipments {
		if slices.ContainsFunc(orders, func(o *order) bool { return slices.Contains(s.Orders, o.number) }) {
			there = append(there, dock.ShipmentSeen{Number: s.Number})
		}
	}
	if len(there) == 0 {
		return nil
	}
	_, err = p.d.Dock.Deliver(p.ctx, p.call(command.Floor, "news from the carrier"), there)
	return err
}

// cancel places the holds of customers who called this morning, and takes back what one of them wants no more.
func (p *player) cancel(day days.Day) error {
	if day != p.today {
		return nil
	}
	p.at(day, 9, 55)
	for _, o := range p.orders {
		if o.hold == "late coordinator" {
			if _, err := p.d.Sales.Hold(
				p.ctx, p.call(command.Sales, ""), sales.HoldAsk{Order: o.number, Kind: "coordinator", Note: o.holdNote},
			); err != nil {
				return err
			}
		}
	}
	if _, err := p.d.Sales.HoldCustomer(p.ctx, p.call(command.Manager, ""), sales.CustomerHoldAsk{
		Customer: p.owes.code, Kind: "credit", Note: "Two invoices are three weeks overdue.",
	}); err != nil {
		return err
	}
	if err := p.recall(); err != nil {
		return err
	}
	return p.pause()
}

// recall takes back a line that was picked this morning and that its customer wants no more: its units are to be put back.
func (p *player) recall() error {
	p.at(p.today, 10, 5)
	for _, o := range p.orders {
		if o.fate != picked || o.hold != "" || len(o.lines) < 2 {
			continue
		}
		v, err := p.d.Query.Order(p.ctx, o.number)
		if err != nil {
			return err
		}
		if l := v.Lines[0]; l.At.Picked > 0 {
			call := p.call(command.Coordinator, "cancelled by customer")
			_, err := p.d.Floor.RecallUnits(p.ctx, call, floor.RecallAsk{
				Order: o.number, Lines: []floor.RecallQty{{Line: l.ID}}, Ends: "dropped",
			})
			return err
		}
	}
	return nil
}

// pause has somebody take a list, pick half of it, and go on a break.
func (p *player) pause() error {
	p.at(p.today, 10, 15)
	lists, err := p.d.Query.PickLists(p.ctx, query.Ask{})
	if err != nil {
		return err
	}
	for _, l := range lists.Lists {
		if l.RowsDue < 4 || l.Short > 0 {
			continue
		}
		list, err := p.d.Query.PickList(p.ctx, l.Number)
		if err != nil {
			return err
		}
		if _, err := p.d.Floor.Hand(p.ctx, p.call(command.Floor, ""), floor.HandAsk{List: l.Number}); err != nil {
			return err
		}
		var found []floor.Found
		taken := map[string]int64{}
		for _, t := range list.Tasks {
			if t.Due > 0 && !t.Held && len(found) < int(l.RowsDue)/2 {
				found = append(found, floor.Found{Task: t.ID, Qty: t.Due, Lots: read(t, t.Due, taken)})
			}
		}
		p.now = p.now.Add(9 * time.Minute)
		if _, err := p.d.Floor.Pick(p.ctx, p.call(command.Floor, ""), found); err != nil {
			return err
		}
		p.now = p.now.Add(time.Minute)
		_, err = p.d.Floor.Break(p.ctx, p.call(command.Floor, ""), floor.BreakAsk{})
		return err
	}
	return nil
}

// keyOf is the same key for the same text, so that the demo is the same each time it is made.
func keyOf(text string) string {
	return uuid.NewSHA1(uuid.MustParse("6f0f2a52-6d0e-4f54-9c1e-6a6f75726e65"), []byte(text)).String()
}
