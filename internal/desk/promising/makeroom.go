package promising

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/makeroom"
	"journeyman/core/plan"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// RoomMove is a promise that is put back.
type RoomMove struct {
	Line int64  `json:"line" doc:"Key of the order line"`
	From string `json:"from" format:"date" doc:"The day for which it is promised"`
	To   string `json:"to" format:"date"`
	Qty  int64  `json:"qty" minimum:"1" maximum:"1000000000"`
	Seen int64  `json:"seen,omitempty" doc:"Version of the line that was seen"`
}

// RoomAsk is a demand that does not fit: of a line, or of a customer who asks.
type RoomAsk struct {
	Line      int64      `json:"line,omitempty" doc:"Key of the order line that wants it; 0 for somebody who asks"`
	SKU       string     `json:"sku" maxLength:"60"`
	Warehouse string     `json:"warehouse" maxLength:"12"`
	Qty       int64      `json:"qty" minimum:"1" maximum:"1000000000"`
	By        string     `json:"by" format:"date" doc:"The day on which it has to leave"`
	Customer  string     `json:"customer,omitempty" maxLength:"40" doc:"Code of who asks"`
	Fixed     []int64    `json:"fixed,omitempty" maxItems:"500" doc:"Lines that are not postponed"`
	Chosen    []RoomMove `json:"chosen,omitempty" maxItems:"500" doc:"Promises chosen by hand"`
}

// StandingView is what a customer is worth and how well they were served.
type StandingView struct {
	Code       string `json:"code"`
	Name       string `json:"name"`
	Tier       int    `json:"tier"`
	ValueMinor int64  `json:"value_minor" doc:"Of the orders of the last 12 months in that currency"`
	Currency   string `json:"currency"`
	TrendBP    *int64 `json:"trend_bp,omitempty" doc:"Last 6 months over previous 6, hundredths of a per cent; absent without any"`
	Rank       int64  `json:"rank" doc:"By value, 1 is the first"`
	Of         int64  `json:"of" doc:"Customers"`
	Sent       int64  `json:"sent" doc:"Lines that were sent in full in the last 12 months"`
	InTime     int64  `json:"in_time" doc:"Of these, on or before their ship-by day"`
	LateLines  int64  `json:"late_lines" doc:"Unfinished lines whose ship-by day has passed"`
}

// RoomEntry is a promise that is, or could be, put back.
type RoomEntry struct {
	RoomMove
	Order    string   `json:"order"`
	No       int      `json:"no"`
	Customer string   `json:"customer"`
	Code     string   `json:"code"`
	Tier     int      `json:"tier"`
	ShipBy   string   `json:"ship_by" format:"date"`
	Days     int      `json:"days" doc:"By which it is postponed"`
	WasLate  bool     `json:"was_late"`
	Late     bool     `json:"late" doc:"Later than the line is to be shipped"`
	With     bool     `json:"with" doc:"Postponed because its order goes only whole"`
	ToDays   []string `json:"to_days" doc:"The days to which it is worth putting it back"`
}

// RoomWay is one way of making room.
type RoomWay struct {
	Kind      string      `json:"kind" enum:"number,days,customers,chosen"`
	Title     string      `json:"title"`
	Harm      int64       `json:"harm" doc:"In the unit of its kind: weights of lines; weight × days; customers"`
	Bound     int64       `json:"bound" doc:"No way does less harm of that kind"`
	Proved    bool        `json:"proved" doc:"It is the least"`
	Enough    bool        `json:"enough" doc:"The demand fits then"`
	Lacking   int64       `json:"lacking" doc:"Units that would still be lacking"`
	Lines     int         `json:"lines"`
	Customers int         `json:"customers"`
	Days      int         `json:"days" doc:"Calendar days by which promises are postponed, together"`
	MakesLate int         `json:"makes_late" doc:"Lines that become late"`
	Moves     []RoomEntry `json:"moves"`
}

// RoomView is how room can be made for a demand.
type RoomView struct {
	SKU        string        `json:"sku"`
	Item       string        `json:"item"`
	Unit       string        `json:"unit"`
	Warehouse  string        `json:"warehouse"`
	Qty        int64         `json:"qty"`
	By         string        `json:"by" format:"date"`
	For        string        `json:"for" doc:"Who wants it"`
	Order      string        `json:"order,omitempty"`
	Version    int64         `json:"version,omitempty" doc:"Of the line that wants it"`
	There      supply.Limit  `json:"there" doc:"What can be promised for that day as it is"`
	Fits       bool          `json:"fits"`
	Possible   bool          `json:"possible"`
	Why        words.Message `json:"why,omitzero" doc:"Why it is not possible"`
	Standing   *StandingView `json:"standing,omitempty"`
	Ways       []RoomWay     `json:"ways" doc:"The least harmful ways, and the one chosen by hand if there is one"`
	Candidates []RoomEntry   `json:"candidates" doc:"Promises that could make room"`
}

// roomTime is how long one search for the least harm may take.
const roomTime = 250 * time.Millisecond

// Standing returns what a customer is worth and how well they were served.
func (d *Desk) Standing(ctx context.Context, code string) (StandingView, error) {
	s, found, err := d.Store.Read(ctx).StandingOf(code, d.Today().String(), d.Zone.String())
	if err == nil && !found {
		err = command.NotFound("There is no customer %s.", code)
	}
	return standingView(s), err
}

func standingView(s store.Standing) StandingView {
	v := StandingView{
		Code: s.Code, Name: s.Name, Tier: s.Tier, ValueMinor: s.Value, Currency: store.FirmCurrency, Rank: s.Rank,
		Of: s.Customers, Sent: s.Sent, InTime: s.SentInTime, LateLines: s.LateLines,
	}
	if s.Before > 0 {
		bp := (s.Recent - s.Before) * 10_000 / s.Before
		v.TrendBP = &bp
	}
	return v
}

// rooming is a demand with the book in which it does not fit.
type rooming struct {
	r     *store.Reader
	b     *supply.WholeBook
	ask   makeroom.Ask
	house int64
}

// rooming reads the book of the item; in a command the item is held still.
func (d *Desk) rooming(r *store.Reader, rows store.Book, ask RoomAsk) (*rooming, error) {
	by, err := days.Parse(ask.By)
	if err != nil {
		return nil, command.Invalid("%s.", err)
	}
	b, err := d.supply.MakeBook(r, rows, supply.BookOptions{})
	if err != nil {
		return nil, err
	}
	cell, known := b.CellOf(ask.SKU, ask.Warehouse)
	if !known {
		return nil, command.Conflict("%s has neither stock nor arrivals at %s: there is nothing to make room in.", ask.SKU, ask.Warehouse)
	}
	// It leaves on a day on which the warehouse works.
	if by = max(by, b.Today); !b.CalendarOf(cell).Works(by) {
		if before := b.CalendarOf(cell).Prev(by); before >= b.Today {
			by = before
		} else {
			by = b.CalendarOf(cell).Next(by)
		}
	}
	x := &rooming{r: r, b: b, house: b.WarehouseID[ask.Warehouse]}
	x.ask = makeroom.Ask{
		Cell: cell, Qty: ask.Qty, By: by, Line: makeroom.NewLine,
		Fixed: func(l int32) bool { return slices.Contains(ask.Fixed, b.Rows[l].ID) },
	}
	if ask.Line != 0 {
		l, known := b.LineOf[ask.Line]
		if !known || b.Lines[l].Open < ask.Qty {
			return nil, command.Conflict("The line that wants it has fewer open units than that by now. Load the page again.")
		}
		x.ask.Line = l
	}
	return x, nil
}

// entries are the moves as they are told. Of an order that goes only whole the first that makes room is told as
// what is put back, and the others as what goes with it.
func (x *rooming) entries(moves []makeroom.Move) ([]RoomEntry, error) {
	var out []RoomEntry
	led := map[int32]bool{}
	for _, m := range moves {
		row, line := &x.b.Rows[m.Line], &x.b.Lines[m.Line]
		with := line.Rule == book.Whole && (led[line.Order] || m.Cell != x.ask.Cell)
		led[line.Order] = led[line.Order] || !with
		out = append(out, x.entry(row.ID, m.From, m.To, m.Qty, row.Version, with))
	}
	return out, x.name(out)
}

func (x *rooming) entry(line int64, from, to days.Day, qty, version int64, with bool) RoomEntry {
	return RoomEntry{
		RoomMove: RoomMove{Line: line, From: from.String(), To: to.String(), Qty: qty, Seen: version},
		Days:     int(to - max(from, x.b.Today)), With: with, ToDays: []string{},
	}
}

// name fills in whose the entries are.
func (x *rooming) name(es []RoomEntry) error {
	var ids store.IDs
	for _, e := range es {
		ids = append(ids, e.Line)
	}
	heads, err := x.r.LineHeads(ids)
	if err != nil {
		return err
	}
	for _, h := range heads {
		for i := range es {
			if e := &es[i]; e.Line == h.ID {
				e.Order, e.No, e.Customer, e.Code, e.Tier, e.ShipBy = h.OrderNumber, h.LineNo, h.Customer, h.CustomerCode, h.Tier, h.ShipBy
				e.WasLate, e.Late = e.From > e.ShipBy, e.To > e.ShipBy
			}
		}
	}
	return nil
}

func (x *rooming) way(kind, title string, a makeroom.Answer) (RoomWay, error) {
	w := RoomWay{Kind: kind, Title: title, Harm: a.Harm, Bound: a.Bound, Proved: a.Proved, Moves: []RoomEntry{}}
	w.Enough, w.Lacking = makeroom.Enough(x.b.Book, x.ask, a.PutBack)
	es, err := x.entries(a.PutBack)
	if err != nil {
		return w, err
	}
	lines, customers := map[int64]bool{}, map[string]bool{}
	for _, e := range es {
		lines[e.Line], customers[e.Code] = true, true
		w.Days += e.Days
		if e.Late && !e.WasLate {
			w.MakesLate++
		}
	}
	w.Lines, w.Customers = len(lines), len(customers)
	w.Moves = append(w.Moves, es...)
	return w, nil
}

// MakeRoomFor says which promises could be put back so that a demand fits. It changes nothing.
func (d *Desk) MakeRoomFor(ctx context.Context, ask RoomAsk) (RoomView, error) {
	r := d.Store.Read(ctx)
	it, found, err := r.ItemBySKU(ask.SKU)
	if err != nil {
		return RoomView{}, err
	}
	if !found {
		return RoomView{}, command.NotFound("There is no item %s.", ask.SKU)
	}
	items, err := r.ItemsPromisedWith(it.ID)
	if err != nil {
		return RoomView{}, err
	}
	rows, err := d.Store.ReadBookOf(ctx, items)
	if err != nil {
		return RoomView{}, err
	}
	x, err := d.rooming(r, rows, ask)
	if err != nil {
		return RoomView{}, err
	}
	out := RoomView{
		SKU: it.SKU, Item: it.Name, Unit: it.Unit, Warehouse: ask.Warehouse, Qty: ask.Qty, By: x.ask.By.String(), Ways: []RoomWay{},
		Candidates: []RoomEntry{},
	}
	code := ask.Customer
	if x.ask.Line != makeroom.NewLine {
		heads, err := r.LineHeads(store.IDs{ask.Line})
		if err != nil {
			return out, err
		}
		code = heads[0].CustomerCode
		out.Order, out.Version = heads[0].OrderNumber, x.b.Rows[x.ask.Line].Version
	}
	if code != "" {
		s, err := d.Standing(ctx, code)
		if err != nil {
			return out, err
		}
		out.Standing, out.For = &s, s.Name
	}
	own := func(l int32) bool { return l == x.ask.Line }
	out.There = supply.LimitOf(x.b.Outlooks(own)[x.ask.Cell].ATP(x.ask.By))
	if err := x.findWays(&out); err != nil {
		return out, err
	}
	if !out.Possible {
		out.Why = words.Say(
			"Even if all promises that may be postponed were, %d could not leave %s by %s.", ask.Qty, ask.Warehouse, words.Day(x.ask.By),
		)
		return out, nil
	}
	if out.Candidates, err = x.candidates(); err != nil {
		return out, err
	}
	if len(ask.Chosen) > 0 {
		moves, err := x.moves(ask.Chosen)
		if err != nil {
			return out, err
		}
		w, err := x.way("chosen", "Chosen by hand", makeroom.Answer{PutBack: moves})
		if err != nil {
			return out, err
		}
		out.Ways = append(out.Ways, w)
	}
	return out, nil
}

// findWays finds what does the least harm, in each way in which harm is counted, if there has to be any.
func (x *rooming) findWays(out *RoomView) error {
	var answers []makeroom.Answer
	for _, k := range []struct {
		harm  makeroom.Harm
		title string
	}{{makeroom.Number, "Least harm"}, {makeroom.Customers, "Fewest customers"}, {makeroom.Days, "Fewest days"}} {
		began := time.Now()
		ask := x.ask
		ask.Harm, ask.Stop = k.harm, func() bool { return time.Since(began) > roomTime }
		a := makeroom.Find(x.b.Book, ask)
		out.Fits, out.Possible = a.Fits, a.Possible
		if a.Fits || !a.Possible {
			return nil
		}
		same := slices.IndexFunc(
			answers, func(b makeroom.Answer) bool { return b.Proved && a.Proved && slices.Equal(a.PutBack, b.PutBack) },
		)
		if same >= 0 { // it is the least in more than one way
			out.Ways[same].Title += ", " + strings.ToLower(k.title)
			continue
		}
		w, err := x.way(string(k.harm), k.title, a)
		if err != nil {
			return err
		}
		out.Ways, answers = append(out.Ways, w), append(answers, a)
	}
	return nil
}

// candidates are the promises that may be put back, with the days to which they may.
func (x *rooming) candidates() ([]RoomEntry, error) {
	out := []RoomEntry{}
	for _, c := range makeroom.Candidates(x.b.Book, x.ask) {
		e := x.entry(x.b.Rows[c.Line].ID, c.Day, c.Day, c.Qty, x.b.Rows[c.Line].Version, false)
		for _, to := range c.To {
			e.ToDays = append(e.ToDays, to.String())
		}
		out = append(out, e)
	}
	if err := x.name(out); err != nil {
		return nil, err
	}
	slices.SortStableFunc(out, func(a, b RoomEntry) int {
		return cmp.Or(cmp.Compare(b.Tier, a.Tier), strings.Compare(a.From, b.From), strings.Compare(a.Order, b.Order))
	})
	return out, nil
}

// moves are those that were chosen, as the core reads them, with those that they bring with them. Each has to be
// a promise that stands.
func (x *rooming) moves(chosen []RoomMove) ([]makeroom.Move, error) {
	var out []makeroom.Move
	for _, c := range chosen {
		l, known := x.b.LineOf[c.Line]
		from, err := days.Parse(c.From)
		if err != nil {
			return nil, command.Invalid("%s.", err)
		}
		to, err := days.Parse(c.To)
		if err != nil {
			return nil, command.Invalid("%s.", err)
		}
		stands := false
		if known {
			for _, p := range x.b.PromisesOf(l) {
				stands = stands || p.Cell == x.ask.Cell && p.Day == from && p.Qty == c.Qty
			}
		}
		switch {
		case !stands:
			return nil, command.Conflict(
				"A promise of %s that was to be postponed is no longer what it was. Look at it as it is now.", words.Day(from),
			)
		case to <= from:
			return nil, command.Invalid("A promise is postponed to a later day than %s.", words.Day(from))
		case !x.b.CalendarOf(x.ask.Cell).Works(to):
			return nil, command.Invalid(
				"Nothing leaves on %s; the next day is %s.", words.Day(to), words.Day(x.b.CalendarOf(x.ask.Cell).Next(to)),
			)
		}
		out = append(out, makeroom.Move{Line: l, Cell: x.ask.Cell, Qty: c.Qty, From: from, To: to})
	}
	out = makeroom.Together(x.b.Book, out)
	for _, m := range out {
		if m.To <= m.From {
			return nil, command.Invalid("%s goes only whole, and something of it is promised for %s: it is postponed to a later day than that.",
				x.b.Rows[m.Line].Number, words.Day(m.From))
		}
	}
	return out, nil
}

// RoomApply makes the room that was shown.
type RoomApply struct {
	RoomAsk
	Seen  int64      `json:"seen,omitempty" doc:"Version of the line that wants it"`
	Order *RoomOrder `json:"order,omitempty" doc:"Enter what the customer asks for as an order, in the same step"`
}

// Room is what room was made for: units of an item that can leave a warehouse by a day.
type Room struct {
	SKU, Warehouse string
	WarehouseID    int64
	Qty            int64
	By             days.Day
}

// Enter enters the order for which room is made, in the command that makes it, from the supply in which the promises are put back. It
// returns what is said of it.
type Enter func(*command.UnitOfWork, *supply.Supply, Room) (said words.Message, err error)

// PutBack puts the chosen promises back, and promises what was asked for to the line that wants it, or to the order that enter
// enters for it: then nobody can take the room in between. Whoever is put back gets the reason in their trail, and a message that is
// ready to be sent. It locks the lines that are put back, the line that wants it, and the stock of their items; it is refused if one
// of them is not as it was seen, or if the demand still does not fit.
func (d *Desk) PutBack(ctx context.Context, call command.Call, ask RoomApply, enter Enter) (command.Outcome, error) {
	if len(ask.Chosen) == 0 {
		return command.Outcome{}, command.Invalid("Choose which promises are postponed.")
	}
	verb := command.VerbMakeRoom
	if enter != nil {
		verb = command.VerbEnter
	}
	r := d.Store.Read(ctx)
	it, found, err := r.ItemBySKU(ask.SKU)
	if err != nil || !found {
		return command.Outcome{}, cmp.Or(err, command.NotFound("There is no item %s.", ask.SKU))
	}
	items, err := r.ItemsPromisedWith(it.ID)
	if err != nil {
		return command.Outcome{}, err
	}
	rows, err := d.Store.ReadBookOf(ctx, items)
	if err != nil {
		return command.Outcome{}, err
	}
	// Who is touched says which lines have to be held still.
	seen, err := d.rooming(r, rows, ask.RoomAsk)
	if err != nil {
		return command.Outcome{}, err
	}
	moves, err := seen.moves(ask.Chosen)
	if err != nil {
		return command.Outcome{}, err
	}
	shown, err := seen.entries(moves)
	if err != nil {
		return command.Outcome{}, err
	}
	whom, err := roomFor(r, ask.RoomAsk)
	if err != nil {
		return command.Outcome{}, err
	}
	reason := "to make room for " + whom
	if enter != nil {
		reason = "room was made for " + whom // it is the reason of the order, too
	}
	call.Reason = cmp.Or(call.Reason, reason)
	return d.Run(ctx, call, verb, ask, func(w *command.UnitOfWork) error {
		if err := lockRoom(w, ask, shown, it.ID); err != nil {
			return err
		}
		s, err := d.supply.LockSupply(w, it.ID)
		if err != nil {
			return err
		}
		x, moves, err := d.enoughRoom(w, ask, it.ID)
		if err != nil {
			return err
		}
		es, err := x.entries(moves)
		if err != nil {
			return err
		}
		return putBack(w, s, x, es, ask, whom, enter)
	})
}

// lockRoom holds the lines still that make room, and the one for which it is made, and checks that they are as they were seen.
func lockRoom(w *command.UnitOfWork, ask RoomApply, shown []RoomEntry, item int64) error {
	var ids []int64
	for _, m := range shown {
		ids = append(ids, m.Line)
	}
	if ask.Line != 0 {
		ids = append(ids, ask.Line)
	}
	if err := w.Lock(ids, item); err != nil {
		return err
	}
	for _, m := range append(slices.Clone(ask.Chosen), RoomMove{Line: ask.Line, Seen: ask.Seen}) {
		if m.Line != 0 && m.Seen != 0 {
			if err := w.CheckVersion(w.Lines[m.Line], m.Seen); err != nil {
				return err
			}
		}
	}
	return nil
}

// enoughRoom reads the book again now that it is held still, and refuses a choice that does not make enough room by it.
func (d *Desk) enoughRoom(w *command.UnitOfWork, ask RoomApply, item int64) (*rooming, []makeroom.Move, error) {
	items, err := w.Tx.ItemsPromisedWith(item)
	if err != nil {
		return nil, nil, err
	}
	rows, err := w.Tx.ReadBookOf(items)
	if err != nil {
		return nil, nil, err
	}
	x, err := d.rooming(&w.Tx.Reader, rows, ask.RoomAsk)
	if err != nil {
		return nil, nil, err
	}
	moves, err := x.moves(ask.Chosen)
	if err != nil {
		return nil, nil, err
	}
	if ok, lacking := makeroom.Enough(x.b.Book, x.ask, moves); !ok {
		return nil, nil, command.Conflict(
			"With these promises postponed %d are still short. Nothing was done; choose more of them.", lacking,
		)
	}
	return x, moves, nil
}

// roomFor is for whom room is made, in words.
func roomFor(r *store.Reader, ask RoomAsk) (string, error) {
	if ask.Line != 0 {
		heads, err := r.LineHeads(store.IDs{ask.Line})
		if err != nil || len(heads) == 0 {
			return "", cmp.Or(err, command.NotFound("There is no such order line any more. Load the page again."))
		}
		return heads[0].Customer + ", " + heads[0].OrderNumber, nil
	}
	if ask.Customer == "" {
		return "somebody who asked", nil
	}
	c, found, err := r.CustomerByCode(ask.Customer)
	if err == nil && !found {
		err = command.NotFound("There is no customer %s.", ask.Customer)
	}
	return c.Name, err
}

func putBack(w *command.UnitOfWork, s *supply.Supply, x *rooming, es []RoomEntry, ask RoomApply, whom string, enter Enter) error {
	now := map[int64][]plan.StandingPromise{}
	var order store.IDs
	for _, e := range es {
		l := w.Lines[e.Line]
		if l == nil {
			return command.Conflict("Another line of a complete order would be postponed by now. Nothing was done; look again.")
		}
		if _, known := now[e.Line]; !known {
			now[e.Line] = slices.Clone(s.Standing[e.Line])
			order = append(order, e.Line)
		}
		for i := range now[e.Line] {
			g := &now[e.Line][i]
			if g.Day.String() == e.From && g.Qty == e.Qty {
				to, err := days.Parse(e.To)
				if err != nil {
					return err
				}
				g.Day = s.Docks[g.Warehouse].Calendar.Next(to)
				break
			}
		}
	}
	id, err := w.Tx.CommandID()
	if err != nil {
		return err
	}
	heads, err := w.Tx.LineHeads(order)
	if err != nil {
		return err
	}
	var messages []store.Message
	for _, h := range heads {
		l, was, given := w.Lines[h.ID], s.Standing[h.ID], merged(now[h.ID])
		w.SetPromises(l, was, given, command.CauseRoom)
		messages = append(messages, roomMessage(w, h, was, given))
	}
	if err := w.Tx.AddMessages(id, messages); err != nil {
		return err
	}
	orders := len(w.Orders)
	w.Say("Postponed the promises of %s.", words.Count(orders, "order"))
	switch {
	case enter != nil:
		for _, id := range order {
			s.Repromise(id, w.Lines[id].ItemID, merged(now[id]))
		}
		entered, err := enter(w, s, Room{SKU: ask.SKU, Warehouse: ask.Warehouse, WarehouseID: x.house, Qty: ask.Qty, By: x.ask.By})
		if err != nil {
			return err
		}
		w.Also(entered)
	case ask.Line != 0:
		l := w.Lines[ask.Line]
		var given []plan.StandingPromise
		left := int64(l.Now.At[journey.Open]) - ask.Qty
		for _, g := range s.Standing[ask.Line] { // what is beyond the quantity asked for keeps its latest promises
			if q := min(g.Qty, left); q > 0 {
				g.Qty = q
				left -= q
				given = append(given, g)
			}
		}
		day := x.ask.By
		given = merged(append(given, plan.StandingPromise{Warehouse: x.house, Day: day, Qty: ask.Qty}))
		w.SetPromises(l, s.Standing[ask.Line], given, command.CausePromised)
		w.Also(words.Say("Promised %d of %s on %s line %d for %s.", ask.Qty, ask.SKU, l.OrderNumber, l.LineNo, words.Day(day)))
	default:
		w.Also(words.Say("%d of %s can be promised to %s for %s now.", ask.Qty, ask.SKU, whom, words.Day(x.ask.By)))
	}
	return nil
}

// merged is promises by day, those of one day and warehouse as one.
func merged(gs []plan.StandingPromise) []plan.StandingPromise {
	slices.SortStableFunc(gs, func(a, b plan.StandingPromise) int {
		return cmp.Or(cmp.Compare(a.Day, b.Day), cmp.Compare(a.Warehouse, b.Warehouse))
	})
	var out []plan.StandingPromise
	for _, g := range gs {
		if n := len(out); n > 0 && out[n-1].Day == g.Day && out[n-1].Warehouse == g.Warehouse {
			out[n-1].Qty += g.Qty
			continue
		}
		out = append(out, g)
	}
	return out
}

// roomMessage tells a customer what became of their promise, from the facts.
func roomMessage(w *command.UnitOfWork, h store.LineHead, was, now []plan.StandingPromise) store.Message {
	list := func(gs []plan.StandingPromise) string {
		var said []string
		for _, g := range gs {
			said = append(said, fmt.Sprintf("%d on %s", g.Qty, words.Day(g.Day)))
		}
		return strings.Join(said, ", ")
	}
	return store.Message{
		OrderID: h.OrderID, Address: h.Email, Subject: fmt.Sprintf("Your order %s: another day for %s", h.OrderNumber, h.Item),
		Body: fmt.Sprintf("Dear %s,\n\nof your order %s we promised you %s (%s): %s.\n\nWe are sorry that it will leave us later "+
			"than that: %s.\n\nAll else stays as it was promised. If that day does not suit you, please tell us, and we will look "+
			"for another way.\n\n%s\n",
			h.Customer, h.OrderNumber, h.Item, h.SKU, list(was), list(now), w.Call.Actor.Name),
	}
}

// RoomOrder is the order for which room is made; all else is the customer's.
type RoomOrder struct {
	Wanted  string `json:"wanted" format:"date" doc:"The day on which it should be there"`
	Service string `json:"service,omitempty" maxLength:"60"`
}
