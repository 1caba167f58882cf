package floor

import (
	"context"
	"math"
	"strings"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// ReleaseAsk is what goes to the floor, and on which lists.
type ReleaseAsk struct {
	command.Selection
	Until        string  `json:"until,omitempty" maxLength:"10" doc:"The look-ahead day: what must not leave before a later one stays"`
	Wave         WaveAsk `json:"wave,omitzero"`
	Print        bool    `json:"print,omitempty" doc:"The pick lists are printed, as one document"`
	PackingLists bool    `json:"packing_lists,omitempty" doc:"So are packing lists of what is released of each order"`
}

// Release hands allocated units to the floor on pick lists, whose rows are in walking order: one a warehouse, if nothing else is asked
// for. What a rule of core/release forbids is refused.
//
// It locks the lines with the stock of their items; for an order that goes only whole, all of its lines. It refuses lines and orders
// that are not as they were seen, and bins that hold fewer than are allocated. Of a line without a quantity all that is allocated goes; it
// stays behind if a rule forbids it.
func (d *Desk) Release(ctx context.Context, call command.Call, ask ReleaseAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbRelease, ask, func(w *command.UnitOfWork) error {
		lines, err := chooseForRelease(w, ask.Selection)
		if err != nil {
			return err
		}
		return d.releaseLines(w, lines, ask)
	})
}

// releaseLines writes the pick lists of the lines that may go.
func (d *Desk) releaseLines(w *command.UnitOfWork, lines []command.Chosen, ask ReleaseAsk) error {
	until, err := d.supply.DueUntil(&w.Tx.Reader, ask.Until, "")
	if err != nil {
		return err
	}
	lines, stays, err := allowedToRelease(w, lines, until)
	if err != nil {
		return err
	}
	tasks, err := pickTasks(w, lines)
	if err != nil {
		return err
	}
	if len(tasks) == 0 {
		return command.Conflict("Nothing is allocated on what was chosen, so nothing can be released. Allocate first.")
	}
	wave, err := makeWave(&w.Tx.Reader, tasks, ask.Wave)
	if err != nil {
		return err
	}
	lists, err := writeLists(w, wave)
	if err != nil {
		return err
	}
	if stays > 0 {
		w.Also(words.Say("Left behind: %s; each says why.", words.Count(int64(stays), "line")))
	}
	if !ask.Print {
		return nil
	}
	papers := papersOfLists(lists)
	if ask.PackingLists {
		papers = append(papers, papersOfOrders(wave)...)
	}
	return printPapers(w, papers)
}

// chooseForRelease chooses and, because a ship rule speaks of whole orders, holds
// all lines of the orders still.
func chooseForRelease(w *command.UnitOfWork, ask command.Selection) ([]command.Chosen, error) {
	if len(ask.Lines) == 0 {
		return w.Choose(ask)
	}
	ids := make(store.IDs, len(ask.Lines))
	for i, l := range ask.Lines {
		ids[i] = l.Line
	}
	all, err := wholeOrdersOf(w, ids)
	if err != nil {
		return nil, err
	}
	if len(all) == 0 {
		return nil, command.NotFound("There is no such order line any more. Load the page again.")
	}
	at := make(map[int64]int, len(all))
	for i, c := range all {
		at[c.Line.ID] = i
	}
	out, chosen := make([]command.Chosen, 0, len(ask.Lines)), make(map[int64]bool, len(ask.Lines))
	for _, q := range ask.Lines {
		i, there := at[q.Line]
		switch {
		case !there:
			return nil, command.NotFound("There is no such order line any more. Load the page again.")
		case q.Qty < 0:
			return nil, command.Invalid("The quantity must not be less than nothing.")
		case chosen[q.Line]:
			return nil, command.Invalid("A line was chosen twice. Choose it once, with the whole quantity.")
		}
		if q.Seen != 0 {
			if err := w.CheckVersion(all[i].Line, q.Seen); err != nil {
				return nil, err
			}
		}
		c := all[i]
		c.Asked, chosen[q.Line] = journey.Qty(q.Qty), true
		out = append(out, c)
	}
	return out, nil
}

// wholeOrdersOf holds all lines of the orders of some lines still.
func wholeOrdersOf(w *command.UnitOfWork, lines store.IDs) ([]command.Chosen, error) {
	numbers, err := w.Tx.OrdersOfLines(lines)
	if err != nil {
		return nil, err
	}
	orders := make([]command.OrderSeen, len(numbers))
	for i, n := range numbers {
		orders[i] = command.OrderSeen{Number: n}
	}
	return w.ChooseOrders(orders)
}

// whyNot refuses to release a line, for that reason. Its order may leave on that day first, if there is one.
func whyNot(why release.Reason, line words.Message, leaves days.Day) error {
	switch why {
	case release.Nothing:
		return command.Conflict("%s has nothing allocated. Allocate first.", line)
	case release.OnHold:
		return command.Conflict("%s is on hold. Lift the hold first.", line)
	case release.NotDue:
		return command.Conflict("%s is not due yet.", line)
	case release.Early:
		return command.Conflict(
			"%s must not leave before %s. Release it with a look-ahead to that day, or change its order.", line, words.Day(leaves),
		)
	case release.RuleLine:
		return command.Conflict("%s goes only as a whole line, and part of it is still open or was not chosen.", line)
	case release.RuleOrder:
		return command.Conflict("%s goes only with its whole order, and part of that is still open or was not chosen.", line)
	case release.Waiting:
		return command.Conflict("Units of %s were recalled and are still to be put back. Release it after that.", line)
	case release.NoBin:
		return command.Conflict("%s has no bin set for its item. Set one by receiving or counting it into a bin.", line)
	}
	return nil
}

// allowedToRelease returns the lines that go, with their quantities. A line that was
// chosen by itself and may not go is refused; one of a chosen order stays behind
// as long as another goes. What must not leave before a day after that one stays, too.
func allowedToRelease(w *command.UnitOfWork, lines []command.Chosen, until days.Day) (going []command.Chosen, stays int, err error) {
	byOrder := map[int64]*orderSum{}
	orderIDs := store.IDs{}
	for _, l := range w.Lines {
		s := byOrder[l.OrderID]
		if s == nil {
			s = &orderSum{}
			byOrder[l.OrderID] = s
			orderIDs = append(orderIDs, l.OrderID)
		}
		s.open += l.Now.At[journey.Open]
		s.allocated += l.Now.At[journey.Allocated]
	}
	holds, err := w.Tx.StandingHolds(orderIDs)
	if err != nil {
		return nil, 0, err
	}
	for _, h := range holds {
		byOrder[h.OrderID].holds++
	}
	leaves, err := w.Tx.NotBefore(orderIDs)
	if err != nil {
		return nil, 0, err
	}
	single := make([]bool, len(lines))
	for i := range lines {
		if single[i] = lines[i].Asked > 0; !single[i] {
			lines[i].Asked = lines[i].Line.Now.At[journey.Allocated]
		}
		byOrder[lines[i].Line.OrderID].chosen += lines[i].Asked
	}
	waiting, err := w.Tx.LinesToPutBack(w.LineOrder)
	if err != nil {
		return nil, 0, err
	}
	binned, err := binned(w)
	if err != nil {
		return nil, 0, err
	}
	var first error
	for i, c := range lines {
		l, s := c.Line, byOrder[c.Line.OrderID]
		if c.Asked == 0 {
			continue // a line of a chosen order with nothing allocated
		}
		if c.Asked > l.Now.At[journey.Allocated] {
			return nil, 0, command.Conflict(
				"%s line %d has %d allocated; %d cannot be released.", l.OrderNumber, l.LineNo, l.Now.At[journey.Allocated], c.Asked,
			)
		}
		hasBin := true
		for wh, p := range l.At {
			if p[journey.Allocated] > 0 && !binned[command.CellKey{Item: l.ItemID, Warehouse: wh}] {
				hasBin = false
			}
		}
		// What was allocated and not chosen counts as staying behind.
		cand := release.Candidate{
			Allocated: c.Asked, Open: l.Now.At[journey.Open] + l.Now.At[journey.Allocated] - c.Asked,
			OrderOpen: s.open + s.allocated - s.chosen, Holds: s.holds,
			Early: leaves[l.OrderID] > until, Rule: journey.ShipRule(l.ShipRule), Waiting: waiting[l.ID], HasBin: hasBin,
		}
		if why := release.Check(cand, days.Day(math.MaxInt32)); why != release.Offered {
			no := whyNot(why, words.Say("%s line %d", l.OrderNumber, l.LineNo), leaves[l.OrderID])
			if single[i] {
				return nil, 0, no
			}
			if first == nil {
				first = no
			}
			stays++
			continue
		}
		going = append(going, c)
	}
	if len(going) == 0 && first != nil {
		return nil, 0, first
	}
	return going, stays, nil
}

type orderSum struct {
	open, allocated, chosen journey.Qty
	holds                   int
}

// binned says where an item has a bin.
func binned(w *command.UnitOfWork) (map[command.CellKey]bool, error) {
	rooms, err := w.Tx.BinsOf(w.ItemIDs())
	if err != nil {
		return nil, err
	}
	out := map[command.CellKey]bool{}
	for _, r := range rooms {
		if r.Bin != "" {
			out[command.CellKey{Item: r.ItemID, Warehouse: r.WarehouseID}] = true
		}
	}
	return out, nil
}

// pickTasks spreads what is to be released over the bins; it refuses if they hold too few.
func pickTasks(w *command.UnitOfWork, lines []command.Chosen) ([]task, error) {
	rooms, err := w.Tx.BinsOf(w.ItemIDs())
	if err != nil {
		return nil, err
	}
	goes := make([]going, len(lines))
	for i, c := range lines {
		goes[i] = going{line: c.Line.ID, item: c.Line.ItemID}
		left := c.Asked
		for _, house := range w.Places(c.Line, c.Line.WarehouseID) {
			if q := min(left, c.Line.At[house][journey.Allocated]); q > 0 {
				goes[i].from = append(goes[i].from, part{house, q})
				left -= q
			}
		}
	}
	tasks, lacking := inBins(goes, rooms)
	for _, g := range lacking {
		l := w.Lines[g.line]
		return nil, command.Conflict(
			"The bins of %s at %s hold fewer than are allocated. Count the item and try again.", l.SKU,
			w.WarehouseCode(l, g.from[0].house),
		)
	}
	return tasks, nil
}

// mostNamed is how many pick lists are named in what is said.
const mostNamed = 6

// writeLists writes pick lists with their rows, and moves the units onto them.
func writeLists(w *command.UnitOfWork, wave *wave) ([]store.PickList, error) {
	numbers, err := w.Tx.NextNumbers(store.NumberedPickLists, len(wave.lists))
	if err != nil {
		return nil, err
	}
	lists := make([]store.PickList, len(wave.lists))
	for i, l := range wave.lists {
		lists[i] = store.PickList{Number: numbers[i], WarehouseID: l.Warehouse, CommandID: w.ID, Zone: l.Zone}
		lists[i].WalkCM, lists[i].WalkByOrderCM, lists[i].WorkS = wave.walk(l)
		w.AddDocument("pick list", numbers[i])
	}
	if err := store.CreateMany(w.Tx, lists); err != nil {
		return nil, err
	}
	rows := make([]store.PickTask, 0, len(wave.tasks))
	for i, l := range wave.lists {
		for seq, at := range l.Rows {
			t := wave.tasks[at]
			rows = append(rows, store.PickTask{PickListID: lists[i].ID, Seq: seq + 1, LineID: t.line, BinID: t.bin, Qty: int64(t.qty)})
		}
	}
	if err := store.CreateMany(w.Tx, rows); err != nil {
		return nil, err
	}
	n := 0
	for _, l := range wave.lists {
		for _, at := range l.Rows {
			t := wave.tasks[at]
			err := w.Move(
				w.Lines[t.line], t.warehouse, journey.Make(journey.Release, t.qty), command.Refs{Task: rows[n].ID, Bin: t.bin},
			)
			if err != nil {
				return nil, err
			}
			n++
		}
	}
	named := words.Say("%s", strings.Join(numbers[:min(len(numbers), mostNamed)], ", "))
	if len(numbers) > mostNamed {
		named = words.Say("%d pick lists, %s to %s", len(numbers), numbers[0], numbers[len(numbers)-1])
	}
	w.Say(
		"Released %s of %s on %s.", words.Count(w.Outcome.Units, "unit"), words.Count(int64(len(w.Orders)), "order"), named,
	)
	return lists, nil
}

// lockTasks holds the lines of the tasks still and returns the tasks as they then are.
func lockTasks(w *command.UnitOfWork, ids store.IDs) ([]store.TaskRow, error) {
	before, err := w.Tx.Tasks(ids)
	if err != nil {
		return nil, err
	}
	distinct := map[int64]bool{}
	for _, id := range ids {
		distinct[id] = true
	}
	if len(before) < len(distinct) {
		return nil, command.NotFound("There is no such task on a pick list any more. Load the page again.")
	}
	lines := make([]int64, len(before))
	for i, t := range before {
		lines[i] = t.LineID
	}
	if err := w.Lock(lines); err != nil {
		return nil, err
	}
	return w.Tx.Tasks(ids)
}

func taskChanged(w *command.UnitOfWork, t store.TaskRow) error {
	return command.Conflict("Line %d of %s has changed since you saw it: of %d, %d are picked, %d were short, %d were recalled. "+
		"Nothing was done; look at the list as it is now.",
		t.Seq, t.List, t.Qty, t.Picked, t.Short, t.Recalled)
}
