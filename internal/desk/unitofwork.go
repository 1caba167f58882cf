package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/store"
)

// work is one command while it is being carried out: what is held still, the
// moves made so far, and what will be answered.
type work struct {
	ctx context.Context
	*Runner
	tx      *store.Tx
	call    Call
	at      time.Time
	command int64
	out     Outcome

	lines   map[int64]*line
	order   []int64 // of the lines, as they were locked
	cells   map[cellKey]*cell
	entries []store.Entry
	settled map[int64]store.PromiseEntry // what becomes of the promises of lines, by line
	given   map[int64][]plan.Given       // the promises that stand on the lines, if they are known
	skus    map[string]bool
	orders  map[string]bool
}

type cellKey struct{ item, warehouse int64 }

type line struct {
	store.LockedLine
	now   journey.Line
	at    map[int64]*journey.Place // by warehouse
	moved bool
	taken journey.Qty // of its open units, those allocated by this command
}

type cell struct {
	store.LockedCell
	now journey.Cell
}

func newWork(ctx context.Context, d *Runner, tx *store.Tx, call Call) *work {
	return &work{
		ctx: ctx, Runner: d, tx: tx, call: call, at: d.Now(),
		lines: map[int64]*line{}, cells: map[cellKey]*cell{}, skus: map[string]bool{}, orders: map[string]bool{}, settled: map[int64]store.PromiseEntry{},
	}
}

// lock holds the lines and all stock of their items still until the end of the
// command. It is called once in a command: two calls could lock in two orders.
func (w *work) lock(ids []int64, alsoItems ...int64) error {
	if len(w.lines)+len(w.cells) > 0 {
		panic("desk: a command locks once")
	}
	return w.hold(ids, func(ids []int64) (store.Locked, error) { return w.tx.Lock(ids, alsoItems) })
}

// hold locks and takes down what is held.
func (w *work) hold(ids []int64, lock func(ids []int64) (store.Locked, error)) error {
	ids = slices.Clone(ids)
	slices.Sort(ids)
	ids = slices.Compact(ids)
	got, err := lock(ids)
	if err != nil {
		return err
	}
	if len(got.Lines) < len(ids) {
		return NotFound("There is no such order line any more. Load the page again.")
	}
	for _, c := range got.Cells {
		w.cells[cellKey{c.ItemID, c.WarehouseID}] = &cell{c, journey.Cell{
			OnHand: journey.Qty(c.OnHand), Held: journey.Qty(c.Held), At: c.Counts(),
		}}
	}
	for _, l := range got.Lines {
		w.lines[l.ID] = &line{LockedLine: l, now: l.Line(), at: map[int64]*journey.Place{}}
		w.order = append(w.order, l.ID)
	}
	for _, p := range got.Places {
		c := p.Counts()
		w.lines[p.LineID].at[p.WarehouseID] = &c
	}
	return nil
}

// lockMany is lock for what may be thousands of lines: those are read and written as sets.
func (w *work) lockMany(ids []int64) error {
	if len(ids) > manyRows {
		if err := w.tx.PreferSets(); err != nil {
			return err
		}
	}
	return w.lock(ids)
}

// lockOfBook is lock for the lines of a whole book, of which know tells the rest.
func (w *work) lockOfBook(ids []int64) error {
	if len(ids) <= manyRows {
		return w.lock(ids)
	}
	if err := w.tx.PreferSets(); err != nil {
		return err
	}
	return w.hold(ids, w.tx.LockCounts)
}

// know takes over what the book that was read after locking says of the lines that are held, and of
// the promises on them.
func (w *work) know(rows store.Book) error {
	w.given = map[int64][]plan.Given{}
	for _, p := range rows.Promises {
		if w.lines[p.Line] != nil {
			w.given[p.Line] = append(w.given[p.Line], plan.Given{Warehouse: p.Warehouse, Day: days.Day(p.Day), Qty: p.Qty})
		}
	}
	sku := make(map[int64]string, len(rows.Items))
	for i := range rows.Items {
		sku[rows.Items[i].ID] = rows.Items[i].SKU
	}
	for i := range rows.Lines {
		row := &rows.Lines[i]
		if l := w.lines[row.ID]; l != nil && l.OrderNumber == "" {
			l.OrderID, l.OrderNumber, l.LineNo = row.Order, row.Number, int(row.No)
			l.ItemID, l.SKU, l.WarehouseID = row.Item, sku[row.Item], row.Warehouse
		}
	}
	var gone []int64 // from the book, since nothing of them is open or allocated any more
	for _, id := range w.order {
		if w.lines[id].OrderNumber == "" {
			gone = append(gone, id)
		}
	}
	if len(gone) == 0 {
		return nil
	}
	found, err := w.tx.Lines(gone)
	for _, l := range found {
		w.lines[l.ID].LockedLine = l
	}
	return err
}

// entry is what a move names besides its line and warehouse.
type entry struct {
	bin, task, pack, inbound int64
}

// move carries out m for the line in the warehouse (0 where none is needed), by
// the core's rules, and notes it for the journal.
func (w *work) move(l *line, warehouse int64, m journey.Move, e entry) error {
	var p *journey.Place
	var c *journey.Cell
	if warehouse != 0 {
		if p = l.at[warehouse]; p == nil {
			p = &journey.Place{}
		}
		if x := w.cells[cellKey{l.ItemID, warehouse}]; x != nil {
			c = &x.now
		} else {
			c = &journey.Cell{}
		}
	}
	if err := journey.Apply(&l.now, p, c, m); err != nil {
		if errors.Is(err, journey.ErrTooMany) {
			return &Refusal{Kind: KindConflict, cause: err, Sentence: fmt.Sprintf(
				"%s line %d cannot %s %d: %s.", l.OrderNumber, l.LineNo, m.Kind, m.Qty, plain(err))}
		}
		return err
	}
	if warehouse != 0 {
		l.at[warehouse] = p
	}
	l.moved = true
	if m.Kind == journey.Allocate {
		l.taken += m.Qty
	}
	w.entries = append(w.entries, store.Entry{
		Move: m, Item: l.ItemID, Warehouse: warehouse, Line: l.ID, Order: l.OrderID,
		Bin: e.bin, Task: e.task, Package: e.pack, Inbound: e.inbound,
	})
	w.out.Units += int64(m.Qty)
	w.skus[l.SKU], w.orders[l.OrderNumber] = true, true
	return nil
}

// stock notes an entry that changes stock without a line.
func (w *work) stock(item, warehouse int64, m journey.Move, e entry) error {
	key := cellKey{item, warehouse}
	if w.cells[key] == nil {
		w.cells[key] = &cell{LockedCell: store.LockedCell{ItemID: item, WarehouseID: warehouse}}
	}
	if err := journey.Apply(nil, nil, &w.cells[key].now, m); err != nil {
		return &Refusal{Kind: KindConflict, cause: err, Sentence: fmt.Sprintf("The stock does not allow it: %s.", plain(err))}
	}
	w.entries = append(w.entries, store.Entry{Move: m, Item: item, Warehouse: warehouse, Bin: e.bin, Inbound: e.inbound})
	return nil
}

// plain is the core's message without the sentinel that it wraps.
func plain(err error) string {
	s := err.Error()
	for _, sentinel := range []error{journey.ErrTooMany, journey.ErrIllegal} {
		s = strings.TrimSuffix(s, ": "+sentinel.Error())
	}
	return s
}

// finish writes the moves and what is answered, and ends the transaction.
func (w *work) finish() error {
	for _, id := range w.order {
		if w.lines[id].moved {
			w.out.Lines++
		}
	}
	if _, err := w.tx.CommandID(); err != nil {
		return err
	}
	text, err := json.Marshal(w.out)
	if err != nil {
		return err
	}
	promises, err := w.promises()
	if err != nil {
		return err
	}
	return w.tx.Finish(w.entries, promises, string(text))
}

func (w *work) change() Change {
	c := Change{Command: w.command, Who: w.call.Actor.Name}
	const most = 60 // an announcement has at most 8,000 bytes
	if len(w.orders)+len(w.skus) > most || len(w.orders)+len(w.skus) == 0 {
		c.All = true
		return c
	}
	c.Orders, c.Skus = sortedKeys(w.orders), sortedKeys(w.skus)
	return c
}

// document notes something that was made or changed.
func (w *work) document(kind, number string) {
	w.out.Documents = append(w.out.Documents, Document{kind, number})
}

// sentence sets what is said to the person who asked.
func (w *work) sentence(format string, args ...any) { w.out.Sentence = fmt.Sprintf(format, args...) }

// fresh refuses if the line is not as it was seen.
func (w *work) fresh(l *line, seen int64) error {
	if l.Version == seen {
		return nil
	}
	since, err := w.tx.ChangesOfLine(l.ID, seen)
	if err != nil {
		return err
	}
	return Conflict("%s line %d has changed since you saw it: %s. Nothing was done; look at it as it is now and decide again.",
		l.OrderNumber, l.LineNo, w.tellChanges(since))
}

// tellChanges says in words what happened, the last things if there are many.
func (d *Runner) tellChanges(hs []store.Happening) string {
	if len(hs) == 0 {
		return "it is newer than your view"
	}
	var said []string
	const most = 3
	for _, h := range hs[max(0, len(hs)-most):] {
		if h.Kind == "change" {
			said = append(said, fmt.Sprintf("%s changed the order %s", h.Who, d.Clock(h.At)))
			continue
		}
		said = append(said, fmt.Sprintf("%s %s %d %s", h.Who, past(h.Kind), h.Qty, d.Clock(h.At)))
	}
	s := strings.Join(said, "; ")
	if len(hs) > most {
		s = fmt.Sprintf("%d things happened, the last: %s", len(hs), s)
	}
	return s
}

var pastTense = map[journey.Kind]string{
	journey.Enter: "entered", journey.Reduce: "reduced it by", journey.Allocate: "allocated", journey.GiveBack: "gave back",
	journey.Release: "released", journey.Recall: "recalled", journey.Pick: "picked", journey.Short: "found missing",
	journey.Pack: "packed", journey.Unpack: "unpacked", journey.PutBack: "put back", journey.Dispatch: "dispatched",
	journey.Void: "voided", journey.Deliver: "saw delivered", journey.Lose: "reported lost", journey.Drop: "dropped", journey.Reopen: "reopened",
	"promise": "promised", journey.Receive: "received", journey.Gain: "counted more:", journey.Loss: "counted fewer:",
}

func past(kind string) string {
	if s, ok := pastTense[journey.Kind(kind)]; ok {
		return s
	}
	return kind
}

// describe sets the sentence for moves of lines.
func (w *work) describe(verb string) {
	switch {
	case len(w.skus) == 1 && len(w.orders) == 1:
		w.sentence("%s %d of %s for %s.", verb, w.out.Units, sortedKeys(w.skus)[0], sortedKeys(w.orders)[0])
	case len(w.orders) == 1:
		w.sentence("%s %s of %s for %s.", verb, some(w.out.Units, "unit"), some(int64(len(w.skus)), "item"), sortedKeys(w.orders)[0])
	default:
		w.sentence("%s %s for %s.", verb, some(w.out.Units, "unit"), some(int64(len(w.orders)), "order"))
	}
}

// itemIDs lists the items that are held still, and those of the lines that are: an item
// that never had stock has no row that could be held.
func (w *work) itemIDs() store.IDs {
	seen := map[int64]bool{}
	for k := range w.cells {
		seen[k.item] = true
	}
	for _, l := range w.lines {
		seen[l.ItemID] = true
	}
	out := make(store.IDs, 0, len(seen))
	for id := range seen {
		out = append(out, id)
	}
	slices.Sort(out)
	return out
}

// stocked says whether a stock row of the item is held still.
func (w *work) stocked(item int64) bool {
	for k := range w.cells {
		if k.item == item {
			return true
		}
	}
	return false
}

func (w *work) documentOnce(kind, number string) {
	if !slices.Contains(w.out.Documents, Document{kind, number}) {
		w.document(kind, number)
	}
}

// manyRows is from how many rows on an import is written as sets.
const manyRows = 2000
