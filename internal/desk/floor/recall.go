package floor

import (
	"context"
	"slices"
	"strings"

	"journeyman/core/capped"
	"journeyman/core/journey"
	"journeyman/core/order"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// RecallTask asks for the return of what is still to be picked of a task.
type RecallTask struct {
	Task int64 `json:"task"`
	Seen int64 `json:"seen" doc:"Units that were still to be picked when it was seen"`
}

// Recall takes tasks that nobody has picked yet off their lists; the units are allocated again.
//
// It locks the lines of the tasks with their stock. It refuses tasks that are not as they were seen, or of which nothing is to be
// picked.
func (d *Desk) Recall(ctx context.Context, call command.Call, tasks []RecallTask) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbRecall, tasks, func(w *command.UnitOfWork) error {
		if len(tasks) == 0 {
			return command.Invalid("Choose what is to be recalled.")
		}
		ids := make(store.IDs, len(tasks))
		seen := map[int64]int64{}
		for i, t := range tasks {
			ids[i] = t.Task
			seen[t.Task] = t.Seen
		}
		rows, err := lockTasks(w, ids)
		if err != nil {
			return err
		}
		for _, t := range rows {
			if t.Due == 0 || (seen[t.ID] != 0 && t.Due != seen[t.ID]) {
				return taskChanged(w, t)
			}
			if err := recall(w, t); err != nil {
				return err
			}
		}
		w.Describe("Recalled")
		return nil
	})
}

// recall takes what is still to be picked of a row off its list.
func recall(w *command.UnitOfWork, t store.TaskRow) error {
	w.AddDocumentOnce("pick list", t.List)
	return w.Move(
		w.Lines[t.LineID], t.WarehouseID, journey.Make(journey.Recall, journey.Qty(t.Due)), command.Refs{Task: t.ID, Bin: t.BinID},
	)
}

// RecallAsk says which units are stopped before they leave, and what becomes of them.
type RecallAsk struct {
	Order string      `json:"order" minLength:"1" maxLength:"40"`
	Lines []RecallQty `json:"lines,omitempty" maxItems:"2000" doc:"Lines of the order; all of it if there are none"`
	Ends  string      `json:"ends" enum:"dropped,open,allocated" doc:"What becomes of the units"`
}

// RecallQty is so many units of a line.
type RecallQty struct {
	Line int64 `json:"line" doc:"Key of the order line"`
	Qty  int64 `json:"qty,omitempty" minimum:"0" maximum:"1000000000" doc:"Units; 0 for all that can be stopped"`
}

// RecallUnits stops units of an order wherever they are in the house: what is allocated is given back, what is on pick lists is taken off
// them, what is picked or packed is to be put back, and the papers on which it stands are void. They end as dropped, as open, or stay
// allocated for the order.
//
// A dispatch is stopped of which the carrier has not been asked yet. Once it is being asked, it is too late for what lies in that shipment:
// that is said, and left as it is.
//
// It locks the lines of the order with their stock, then the pick lists, then the shipments. It refuses no reason, more than can be
// stopped, and orders of which nothing can be.
func (d *Desk) RecallUnits(ctx context.Context, call command.Call, ask RecallAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbRecall, ask, func(w *command.UnitOfWork) error {
		if strings.TrimSpace(call.Reason) == "" {
			return command.Invalid("Say why it is recalled: it stands with every paper that becomes void.")
		}
		ends, err := endOf(ask.Ends)
		if err != nil {
			return err
		}
		chosen, err := w.ChooseOrders([]command.OrderSeen{{Number: ask.Order}})
		if err != nil {
			return err
		}
		lines := make([]stopLine, len(chosen))
		for i, c := range chosen {
			lines[i] = stopLine{c.Line.ID, c.Line.LineNo, c.Line.WeightG, c.Line.Now.At}
		}
		parts, err := lockParts(w, lines)
		if err != nil {
			return err
		}
		stop, err := whichStop(ask, ends, lines, parts)
		if err != nil {
			return err
		}
		if err := stopParts(w, stop.parts, ends); err != nil {
			return err
		}
		return stop.tell(w, ask.Order, ends)
	})
}

// endOf is the station at which recalled units end.
func endOf(name string) (journey.Station, error) {
	ends, err := journey.ParseStation(name)
	if err != nil || ends != journey.Dropped && ends != journey.Open && ends != journey.Allocated {
		return 0, command.Invalid("Say what becomes of the units: dropped, open or allocated.")
	}
	return ends, nil
}

// stopLine is a line of which units are to be stopped, as it stands.
type stopLine struct {
	id      int64
	no      int
	weightG int64
	at      journey.Counts
}

// stopPart is so many units of a line that are alike in what has to be done to stop them.
type stopPart struct {
	line    int64
	station journey.Station
	qty     journey.Qty
	house   int64
	weightG int64

	task, bin   int64  // the row of a pick list, and its bin
	list        string // on which they are, or were
	picker      string // who has that list
	printed     bool
	pack, ship  int64
	box         string // the package's number
	shipment    string
	asked, late bool // the carrier is to be asked; and is being asked
	houseCode   string
	takes       journey.Qty // of them, those that are stopped
	lot         int64       // of which those are, if they are stopped for that
}

// lockParts reads where the units of the lines are, and holds still what says so: the pick lists, then the shipments.
func lockParts(w *command.UnitOfWork, lines []stopLine) ([]stopPart, error) {
	before, err := partsOf(&w.Tx.Reader, lines)
	if err != nil {
		return nil, err
	}
	var tasks, ships store.IDs
	for _, p := range before {
		if p.task != 0 {
			tasks = append(tasks, p.task)
		}
		if p.ship != 0 {
			ships = append(ships, p.ship)
		}
	}
	if err := w.Tx.HoldListsOf(tasks); err != nil {
		return nil, err
	}
	if err := w.Tx.LockShipments(ships); err != nil {
		return nil, err
	}
	return partsOf(&w.Tx.Reader, lines)
}

// partsOf reads where the units of the lines are that have not left, of each line those first that have come least far.
func partsOf(r *store.Reader, lines []stopLine) ([]stopPart, error) {
	ids := make(store.IDs, len(lines))
	for i, l := range lines {
		ids[i] = l.id
	}
	places, err := r.PlacesOf(ids)
	if err != nil {
		return nil, err
	}
	due, err := r.DueOf(ids)
	if err != nil {
		return nil, err
	}
	picked, err := r.PickedFromOf(ids)
	if err != nil {
		return nil, err
	}
	packed, err := r.PackedInOf(ids)
	if err != nil {
		return nil, err
	}
	var out []stopPart
	for _, l := range lines {
		add := func(p stopPart) {
			if p.qty > 0 {
				p.line, p.weightG = l.id, l.weightG
				out = append(out, p)
			}
		}
		// pickedFrom spreads units over the rows from which they were picked, the latest first.
		pickedFrom := func(p stopPart) {
			for i := range picked {
				f := &picked[i]
				if q := min(p.qty, journey.Qty(f.Left)); f.Line == l.id && f.WarehouseID == p.house && q > 0 {
					row := p
					row.qty, row.task, row.list = q, f.Task, f.List
					add(row)
					f.Left -= int64(q)
					p.qty -= q
				}
			}
			add(p)
		}
		add(stopPart{station: journey.Open, qty: l.at[journey.Open]})
		code := map[int64]string{}
		for _, p := range places {
			if p.Line == l.id {
				code[p.WarehouseID] = p.Warehouse
				add(stopPart{station: journey.Allocated, qty: journey.Qty(p.Allocated), house: p.WarehouseID, houseCode: p.Warehouse})
			}
		}
		for _, t := range due {
			if t.Line == l.id {
				add(stopPart{
					station: journey.Released, qty: journey.Qty(t.Due), house: t.WarehouseID, houseCode: code[t.WarehouseID], task: t.Task,
					bin: t.BinID, list: t.List, picker: t.Picker, printed: t.Printed,
				})
			}
		}
		for _, p := range places {
			if p.Line == l.id {
				pickedFrom(stopPart{station: journey.Picked, qty: journey.Qty(p.Picked), house: p.WarehouseID, houseCode: p.Warehouse})
			}
		}
		for _, c := range packed {
			if c.Line == l.id {
				pickedFrom(stopPart{
					station: journey.Packed, qty: journey.Qty(c.Qty), house: c.WarehouseID, houseCode: code[c.WarehouseID], pack: c.PackageID,
					box: c.Package, ship: c.ShipmentID, shipment: c.Shipment, asked: c.Asked, late: c.Asking,
				})
			}
		}
	}
	return out, nil
}

// stopping is which units are stopped.
type stopping struct {
	parts []stopPart // all units that have not left; each says how many of it are taken
	units journey.Qty
	late  journey.Qty // for which it is too late
	ships []string    // of these
}

// whichStop chooses the units that are stopped: of each line those that have come least far first.
func whichStop(ask RecallAsk, ends journey.Station, lines []stopLine, parts []stopPart) (stopping, error) {
	out := stopping{parts: parts}
	wanted := map[int64]journey.Qty{}
	for _, q := range ask.Lines {
		if _, twice := wanted[q.Line]; twice {
			return out, command.Invalid("A line was chosen twice. Choose it once, with the whole quantity.")
		}
		if !slices.ContainsFunc(lines, func(l stopLine) bool { return l.id == q.Line }) {
			return out, command.Invalid("A line was chosen that is not of order %s. Load the page again.", ask.Order)
		}
		wanted[q.Line] = journey.Qty(q.Qty)
	}
	for _, l := range lines {
		units, chosen := wanted[l.id]
		if len(wanted) > 0 && !chosen {
			continue
		}
		var late journey.Qty
		for _, p := range parts {
			if p.line == l.id && p.late {
				late += p.qty
				if !slices.Contains(out.ships, p.shipment) {
					out.ships = append(out.ships, p.shipment)
				}
			}
		}
		most := order.Stoppable(l.at, ends) - late
		switch {
		case units == 0:
			units = most
			out.late += late
		case units > most && late > 0:
			return out, command.Conflict(
				"%s line %d: the carrier is being asked to take %s just now, with %d of it. It is too late for these unless the carrier "+
					"refuses; %d can be recalled.", ask.Order, l.no, strings.Join(out.ships, ", "), late, most,
			)
		case units > most:
			return out, command.Conflict(
				"%s line %d has %d that can still be recalled; %d were asked for. Look at where they are now.", ask.Order, l.no, most, units,
			)
		}
		from := order.Stop(l.at, ends, units)
		for i := range parts {
			if p := &parts[i]; p.line == l.id && !p.late {
				p.takes = min(p.qty, from[p.station])
				from[p.station] -= p.takes
				out.units += p.takes
			}
		}
	}
	return out, nil
}

// stopParts moves the units that are stopped, and asks for those to be put back that were picked.
func stopParts(w *command.UnitOfWork, parts []stopPart, ends journey.Station) error {
	places, lighter := map[int64]int64{}, map[int64]int64{}
	var back []store.PutBack
	stopped := map[int64]bool{}
	for _, p := range parts {
		if p.takes == 0 {
			continue
		}
		l := w.Lines[p.line]
		if p.list != "" {
			w.AddDocumentOnce("pick list", p.list)
		}
		if p.station == journey.Picked || p.station == journey.Packed {
			place, err := placeIn(w, places, p.house)
			if err != nil {
				return err
			}
			err = w.Move(l, p.house, journey.MakePutBack(p.station, ends, p.takes), command.Refs{Task: p.task, Package: p.pack, Bin: place})
			if err != nil {
				return err
			}
			back = append(back, store.PutBack{
				LineID: l.ID, ItemID: l.ItemID, WarehouseID: p.house, BinID: place, TaskID: unlessZero(p.task), PackageID: unlessZero(p.pack),
				Ends: ends.String(), Qty: int64(p.takes), LotID: unlessZero(p.lot), AskedBy: w.ID,
			})
			if p.pack != 0 {
				w.AddDocumentOnce("shipment", p.shipment)
				lighter[p.pack] = capped.Plus(lighter[p.pack], capped.Times(int64(p.takes), p.weightG))
			}
			if p.asked && !stopped[p.ship] {
				stopped[p.ship] = true
				why := words.Say(
					"Its dispatch was stopped before the carrier was asked: units of %s were recalled by %s.", l.OrderNumber, w.Call.Actor.Name,
				)
				if err := w.Tx.MarkRefused(p.ship, why.String(), w.At); err != nil {
					return err
				}
			}
			continue
		}
		// Those that nobody has picked go back the way they came, as far as they are to.
		for _, step := range []struct {
			from journey.Station
			kind journey.Kind
			e    command.Refs
		}{
			{journey.Released, journey.Recall, command.Refs{Task: p.task, Bin: p.bin}},
			{journey.Allocated, journey.GiveBack, command.Refs{}},
			{journey.Open, journey.Drop, command.Refs{}},
		} {
			if step.from == ends {
				break
			}
			if step.from > p.station {
				continue
			}
			house := p.house
			if step.kind == journey.Drop {
				house = 0
			}
			if err := w.Move(l, house, journey.Make(step.kind, p.takes), step.e); err != nil {
				return err
			}
		}
	}
	if err := w.Tx.Lighten(lighter); err != nil {
		return err
	}
	return store.CreateMany(w.Tx, back)
}

// placeIn is where units of a warehouse wait to be put back.
func placeIn(w *command.UnitOfWork, places map[int64]int64, house int64) (int64, error) {
	if places[house] == 0 {
		id, _, err := w.Tx.PutBackPlace(house)
		if err != nil {
			return 0, err
		}
		places[house] = id
	}
	return places[house], nil
}

func unlessZero(id int64) *int64 {
	if id == 0 {
		return nil
	}
	return &id
}

// tell says what was done, or refuses if that was nothing.
func (s stopping) tell(w *command.UnitOfWork, number string, ends journey.Station) error {
	if s.units == 0 && s.late > 0 {
		return command.Conflict(
			"It is too late for %s: the carrier is being asked to take %s just now. Try again once it has answered.", number,
			strings.Join(s.ships, ", "),
		)
	}
	if s.units == 0 {
		return command.Conflict(
			"Nothing of %s can be recalled: what is left of it has left the house, or stands where it would end already.", number,
		)
	}
	w.Outcome.Units = int64(s.units)
	units := words.Count(int64(s.units), "unit")
	switch ends {
	case journey.Dropped:
		w.Say("Recalled and dropped %s of %s.", units, number)
	case journey.Open:
		w.Say("Recalled %s of %s: open again.", units, number)
	default:
		w.Say("Recalled %s of %s: allocated, and on no list.", units, number)
	}
	for _, m := range s.effects(ends) {
		w.Also(m)
	}
	return nil
}

// effects says what stopping them brings with it, a sentence each.
func (s stopping) effects(ends journey.Station) (out []words.Message) {
	var back, freed journey.Qty
	var lists, sheets, ships []string
	for _, p := range s.parts {
		if p.takes == 0 {
			continue
		}
		if p.station == journey.Released && !slices.Contains(lists, p.list) {
			lists = append(lists, p.list)
		}
		if p.printed && !slices.Contains(sheets, p.list) {
			sheets = append(sheets, p.list)
		}
		if p.asked && !slices.Contains(ships, p.shipment) {
			ships = append(ships, p.shipment)
		}
		switch {
		case p.station >= journey.Picked:
			back += p.takes
		case p.station >= journey.Allocated && ends != journey.Allocated:
			freed += p.takes
		}
	}
	if freed > 0 {
		out = append(out, words.Say("Free at once: %s.", words.Count(int64(freed), "unit")))
	}
	if len(lists) > 0 {
		out = append(out, words.Say("Taken off %s.", strings.Join(lists, ", ")))
	}
	if len(sheets) > 0 {
		out = append(out, words.Say("The printed sheets of %s are void.", strings.Join(sheets, ", ")))
	}
	if back > 0 && ends == journey.Allocated {
		out = append(out, words.Say("To be put back: %s; the line can go again after that.", words.Count(int64(back), "unit")))
	} else if back > 0 {
		out = append(out, words.Say("To be put back: %s, free after that.", words.Count(int64(back), "unit")))
	}
	if len(ships) > 0 {
		out = append(out, stoppedDispatch(ships))
	}
	if s.late > 0 {
		out = append(out, tooLate(s.late, s.ships))
	}
	return out
}

func stoppedDispatch(ships []string) words.Message {
	return words.Say("The dispatch of %s is stopped: the carrier has not been asked yet.", strings.Join(ships, ", "))
}

func tooLate(units journey.Qty, ships []string) words.Message {
	return words.Say(
		"Too late for %s: the carrier is being asked to take %s just now.", words.Count(int64(units), "unit"), strings.Join(ships, ", "),
	)
}
