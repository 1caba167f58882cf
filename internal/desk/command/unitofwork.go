package command

import (
	"context"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/plan"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// UnitOfWork is one command while it is being carried out: what is held still, the
// moves made so far, and what will be answered.
type UnitOfWork struct {
	Ctx context.Context
	*Runner
	Tx      *store.Tx
	Call    Call
	At      time.Time
	ID      int64
	Outcome Outcome

	Lines          map[int64]*Line
	LineOrder      []int64 // of the lines, as they were locked
	Cells          map[CellKey]*Cell
	Entries        []store.Entry
	PromiseChanges map[int64]store.PromiseEntry     // what becomes of the promises of lines, by line
	standing       map[int64][]plan.StandingPromise // the promises that stand on the lines, if they are known
	SKUs           map[string]bool
	Orders         map[string]bool
	lots           lotBook
}

// CellKey names the stock of an item in a warehouse.
type CellKey struct{ Item, Warehouse int64 }

// Line is an order line that is held still: as it was locked, and as it is after the moves made so far.
type Line struct {
	store.LockedLine
	Now   journey.Line
	At    map[int64]*journey.Place // by warehouse
	Moved bool
	taken journey.Qty // of its open units, those allocated by this command
}

// Cell is the stock of an item in a warehouse that is held still.
type Cell struct {
	store.LockedCell
	Now journey.Cell
}

func newUnitOfWork(ctx context.Context, d *Runner, tx *store.Tx, call Call) *UnitOfWork {
	return &UnitOfWork{
		Ctx: ctx, Runner: d, Tx: tx, Call: call, At: d.Now(),
		Lines: map[int64]*Line{}, Cells: map[CellKey]*Cell{}, SKUs: map[string]bool{}, Orders: map[string]bool{},
		PromiseChanges: map[int64]store.PromiseEntry{}, lots: newLotBook(),
	}
}

// Lock holds the lines and all stock of their items still until the end of the
// command. It is called once in a command: two calls could lock in two orders.
func (w *UnitOfWork) Lock(ids []int64, alsoItems ...int64) error {
	if len(w.Lines)+len(w.Cells) > 0 {
		panic("desk: a command locks once")
	}
	return w.lockRows(ids, func(ids []int64) (store.Locked, error) { return w.Tx.Lock(ids, alsoItems) })
}

// lockRows locks and takes down what is held.
func (w *UnitOfWork) lockRows(ids []int64, lock func(ids []int64) (store.Locked, error)) error {
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
		w.Cells[CellKey{c.ItemID, c.WarehouseID}] = &Cell{c, journey.Cell{
			OnHand: journey.Qty(c.OnHand), Held: journey.Qty(c.Held), At: c.Counts(),
		}}
	}
	for _, l := range got.Lines {
		w.Lines[l.ID] = &Line{LockedLine: l, Now: l.Line(), At: map[int64]*journey.Place{}}
		w.LineOrder = append(w.LineOrder, l.ID)
	}
	for _, p := range got.Places {
		c := p.Counts()
		w.Lines[p.LineID].At[p.WarehouseID] = &c
	}
	return nil
}

// LockMany is Lock for what may be thousands of lines: those are read and written as sets, and of each no more is read than its counts,
// numbers and warehouse.
func (w *UnitOfWork) LockMany(ids []int64) error { return w.lockSet(ids, w.Tx.LockNamed) }

// lockSet is Lock for what may be thousands of lines.
func (w *UnitOfWork) lockSet(ids []int64, lock func([]int64) (store.Locked, error)) error {
	if len(ids) <= ManyRows {
		return w.Lock(ids)
	}
	if err := w.Tx.PreferSets(); err != nil {
		return err
	}
	return w.lockRows(ids, lock)
}

// LockForBook is Lock for the lines of a whole book, of which FillFromBook takes over the rest.
func (w *UnitOfWork) LockForBook(ids []int64) error { return w.lockSet(ids, w.Tx.LockCounts) }

// FillFromBook takes over what the book that was read after locking says of the lines that are held, and of
// the promises on them.
func (w *UnitOfWork) FillFromBook(rows store.Book) error {
	w.standing = map[int64][]plan.StandingPromise{}
	for _, p := range rows.Promises {
		if w.Lines[p.Line] != nil {
			w.standing[p.Line] = append(w.standing[p.Line], plan.StandingPromise{Warehouse: p.Warehouse, Day: days.Day(p.Day), Qty: p.Qty})
		}
	}
	sku := make(map[int64]string, len(rows.Items))
	for i := range rows.Items {
		sku[rows.Items[i].ID] = rows.Items[i].SKU
	}
	for i := range rows.Lines {
		row := &rows.Lines[i]
		if l := w.Lines[row.ID]; l != nil && l.OrderNumber == "" {
			l.OrderID, l.OrderNumber, l.LineNo = row.Order, row.Number, int(row.No)
			l.ItemID, l.SKU, l.WarehouseID = row.Item, sku[row.Item], row.Warehouse
		}
	}
	var gone []int64 // from the book, since nothing of them is open or allocated any more
	for _, id := range w.LineOrder {
		if w.Lines[id].OrderNumber == "" {
			gone = append(gone, id)
		}
	}
	if len(gone) == 0 {
		return nil
	}
	found, err := w.Tx.Lines(gone)
	for _, l := range found {
		w.Lines[l.ID].LockedLine = l
	}
	return err
}

// Refs is what a move names besides its line and warehouse.
type Refs struct {
	Bin, Task, Package, Inbound int64
	Lots                        []LotQty // of which lots the units are, if somebody read it off them
}

// Move carries out m for the line in the warehouse (0 where none is needed), by
// the core's rules, and notes it for the journal.
func (w *UnitOfWork) Move(l *Line, warehouse int64, m journey.Move, e Refs) error {
	var p *journey.Place
	var c *journey.Cell
	if warehouse != 0 {
		if p = l.At[warehouse]; p == nil {
			p = &journey.Place{}
		}
		if x := w.Cells[CellKey{l.ItemID, warehouse}]; x != nil {
			c = &x.Now
		} else {
			c = &journey.Cell{}
		}
	}
	if err := journey.Apply(&l.Now, p, c, m); err != nil {
		if errors.Is(err, journey.ErrTooMany) {
			return &Refusal{Kind: KindConflict, Cause: err, Message: words.Say(
				"%s line %d cannot %s %d: %s.", l.OrderNumber, l.LineNo, m.Kind, m.Qty, plain(err))}
		}
		return err
	}
	if warehouse != 0 {
		l.At[warehouse] = p
	}
	l.Moved = true
	if m.Kind == journey.Allocate {
		l.taken += m.Qty
	}
	entry := store.Entry{
		Move: m, Item: l.ItemID, Warehouse: warehouse, Line: l.ID, Order: l.OrderID,
		Bin: e.Bin, Task: e.Task, Package: e.Package, Inbound: e.Inbound,
	}
	w.Entries = append(w.Entries, entry)
	w.carried(entry, e.Lots)
	w.Outcome.Units += int64(m.Qty)
	w.SKUs[l.SKU], w.Orders[l.OrderNumber] = true, true
	return nil
}

// MoveStock notes an entry that changes stock without a line.
func (w *UnitOfWork) MoveStock(item, warehouse int64, m journey.Move, e Refs) error {
	key := CellKey{item, warehouse}
	if w.Cells[key] == nil {
		w.Cells[key] = &Cell{LockedCell: store.LockedCell{ItemID: item, WarehouseID: warehouse}}
	}
	if err := journey.Apply(nil, nil, &w.Cells[key].Now, m); err != nil {
		return &Refusal{Kind: KindConflict, Cause: err, Message: words.Say("The stock does not allow it: %s.", plain(err))}
	}
	entry := store.Entry{Move: m, Item: item, Warehouse: warehouse, Bin: e.Bin, Inbound: e.Inbound}
	w.Entries = append(w.Entries, entry)
	w.carried(entry, e.Lots)
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

// commit writes the moves and what is answered, and ends the transaction.
func (w *UnitOfWork) commit() error {
	for _, id := range w.LineOrder {
		if w.Lines[id].Moved {
			w.Outcome.Lines++
		}
	}
	if _, err := w.Tx.CommandID(); err != nil {
		return err
	}
	if _, err := w.Follow(); err != nil {
		return err
	}
	w.Outcome.Sentence = w.Outcome.Said.String()
	text, err := json.Marshal(w.Outcome)
	if err != nil {
		return err
	}
	promises, err := w.changedPromises()
	if err != nil {
		return err
	}
	if err := w.voidPapers(); err != nil {
		return err
	}
	return w.Tx.Commit(w.Entries, promises, string(text))
}

// voidPapers makes the papers void on which stands what this command recalls or unpacks.
func (w *UnitOfWork) voidPapers() error {
	var tasks, emptied, unpacked store.IDs
	for _, e := range w.Entries {
		switch k := e.Move.Kind; {
		case k == journey.Unpack:
			unpacked = append(unpacked, e.Package)
		case k == journey.PutBack && e.Package != 0:
			emptied = append(emptied, e.Package)
		}
		if e.Task != 0 && (e.Move.Kind == journey.Recall || e.Move.Kind == journey.PutBack) {
			tasks = append(tasks, e.Task)
		}
	}
	if len(tasks) > 0 {
		if err := w.Tx.VoidRecalled(tasks, w.ID); err != nil {
			return err
		}
	}
	if len(emptied) > 0 {
		if err := w.Tx.VoidLabels(emptied, w.ID, store.Recalled); err != nil {
			return err
		}
	}
	if len(unpacked) > 0 {
		return w.Tx.VoidLabels(unpacked, w.ID, store.Unpacked)
	}
	return nil
}

func (w *UnitOfWork) change() Change {
	c := Change{Command: w.ID, Who: w.Call.Actor.Name, Touches: Verb(w.Outcome.Verb).Touches()}
	if v := Verb(w.Outcome.Verb); v == VerbDepart || v == VerbNotTaken {
		c.News = w.Outcome.Said
	}
	const most = 60 // an announcement has at most 8,000 bytes
	if len(w.Orders)+len(w.SKUs) > most || len(w.Orders)+len(w.SKUs) == 0 {
		c.All = true
		return c
	}
	c.Orders, c.Skus = slices.Sorted(maps.Keys(w.Orders)), slices.Sorted(maps.Keys(w.SKUs))
	return c
}

// AddDocument notes something that was made or changed.
func (w *UnitOfWork) AddDocument(kind, number string) {
	w.Outcome.Documents = append(w.Outcome.Documents, Document{kind, number})
}

// Say sets what is said to the person who asked.
func (w *UnitOfWork) Say(pattern string, args ...any) { w.Outcome.Said = words.Say(pattern, args...) }

// Also adds a sentence to it.
func (w *UnitOfWork) Also(m words.Message) { w.Outcome.Said = w.Outcome.Said.And(m) }

// CheckVersion refuses if the line is not as it was seen.
func (w *UnitOfWork) CheckVersion(l *Line, seen int64) error {
	if l.Version == seen {
		return nil
	}
	since, err := w.Tx.ChangesOfLine(l.ID, seen)
	if err != nil {
		return err
	}
	return Conflict("%s line %d has changed since you saw it: %s. Nothing was done; look at it as it is now and decide again.",
		l.OrderNumber, l.LineNo, w.DescribeChanges(since))
}

// DescribeChanges says in words what happened, the last things if there are many.
func (d *Runner) DescribeChanges(hs []store.Event) words.Message {
	if len(hs) == 0 {
		return words.Say("it is newer than your view")
	}
	var said []words.Message
	const most = 3
	for _, h := range hs[max(0, len(hs)-most):] {
		if h.Kind == "change" {
			said = append(said, words.Say("%s changed the order %s", h.Who, d.Clock(h.At)))
			continue
		}
		said = append(said, words.Say("%s %s %d %s", h.Who, words.Past(h.Kind), h.Qty, d.Clock(h.At)))
	}
	if len(hs) > most {
		return words.Say("%d things happened, the last: %s", len(hs), words.List(said, "; "))
	}
	return words.Say("%s", words.List(said, "; "))
}

// Describe sets the sentence for moves of lines.
func (w *UnitOfWork) Describe(verb string) {
	switch {
	case len(w.SKUs) == 1 && len(w.Orders) == 1:
		w.Say("%s %d of %s for %s.", verb, w.Outcome.Units, slices.Sorted(maps.Keys(w.SKUs))[0], slices.Sorted(maps.Keys(w.Orders))[0])
	case len(w.Orders) == 1:
		w.Say(
			"%s %s of %s for %s.", verb, words.Count(w.Outcome.Units, "unit"), words.Count(int64(len(w.SKUs)), "item"),
			slices.Sorted(maps.Keys(w.Orders))[0],
		)
	default:
		w.Say("%s %s for %s.", verb, words.Count(w.Outcome.Units, "unit"), words.Count(int64(len(w.Orders)), "order"))
	}
}

// ItemIDs lists the items that are held still, and those of the lines that are: an item
// that never had stock has no row that could be held.
func (w *UnitOfWork) ItemIDs() store.IDs {
	seen := map[int64]bool{}
	for k := range w.Cells {
		seen[k.Item] = true
	}
	for _, l := range w.Lines {
		seen[l.ItemID] = true
	}
	out := make(store.IDs, 0, len(seen))
	for id := range seen {
		out = append(out, id)
	}
	slices.Sort(out)
	return out
}

// Stocked says whether a stock row of the item is held still.
func (w *UnitOfWork) Stocked(item int64) bool {
	for k := range w.Cells {
		if k.Item == item {
			return true
		}
	}
	return false
}

// AddDocumentOnce notes a document unless it was noted before.
func (w *UnitOfWork) AddDocumentOnce(kind, number string) {
	if !slices.Contains(w.Outcome.Documents, Document{kind, number}) {
		w.AddDocument(kind, number)
	}
}

// ManyRows is from how many rows on an import is written as sets.
const ManyRows = 2000

// MovedLines are the lines that were moved so far.
func (w *UnitOfWork) MovedLines() (out []int64) {
	for _, id := range w.LineOrder {
		if w.Lines[id].Moved {
			out = append(out, id)
		}
	}
	return out
}
