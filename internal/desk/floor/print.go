package floor

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/papers"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// Printer is whatever puts documents on paper.
type Printer interface {
	// Print has a document printed. It must print the same key once, however often it is asked. After an error it is not known whether it
	// has, and Print is asked again.
	Print(context.Context, Document) error
}

// Document is what a printer is given.
type Document struct {
	Key   string
	Title string
	PDF   []byte
}

// PrintAsk says what is printed again.
type PrintAsk struct {
	Lists        []string `json:"lists" minItems:"1" maxItems:"500" doc:"Numbers of pick lists"`
	PackingLists bool     `json:"packing_lists,omitempty" doc:"Packing lists of the orders on them, too"`
}

// Print has pick lists printed, as one document, with packing lists of their orders if that is asked for. Every sheet gets a code with a
// new revision; what was printed of the same before is void from then on.
//
// It locks the pick lists, then the orders on them. It refuses lists that there are not.
func (d *Desk) Print(ctx context.Context, call command.Call, ask PrintAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbPrint, ask, func(w *command.UnitOfWork) error {
		if len(ask.Lists) == 0 {
			return command.Invalid("Choose pick lists to print.")
		}
		lists, err := w.Tx.LockPickLists(ask.Lists)
		if err != nil {
			return err
		}
		var wanted []paper
		ids := store.IDs{}
		for _, number := range ask.Lists {
			at := slices.IndexFunc(lists, func(l store.PickListRef) bool { return l.Number == number })
			if at < 0 {
				return command.NotFound("There is no pick list %s.", number)
			}
			if slices.Contains(ids, lists[at].ID) {
				return command.Invalid("Pick list %s was chosen twice.", number)
			}
			ids = append(ids, lists[at].ID)
			wanted = append(wanted, paper{list: lists[at].ID, number: number, warehouse: lists[at].WarehouseID})
			w.AddDocument("pick list", number)
		}
		if ask.PackingLists {
			orders, err := w.Tx.LockOrdersOfLists(ids)
			if err != nil {
				return err
			}
			for _, o := range orders {
				wanted = append(wanted, paper{order: o.OrderID, number: o.Number, warehouse: o.WarehouseID})
			}
		}
		w.Say("Printing %s.", words.Count(int64(len(wanted)), "sheet"))
		return printPapers(w, wanted)
	})
}

// paper is a sheet to be: of a pick list, or of what goes to an order from a warehouse.
type paper struct {
	list, order int64
	number      string
	warehouse   int64
}

func papersOfLists(lists []store.PickList) []paper {
	out := make([]paper, len(lists))
	for i, l := range lists {
		out[i] = paper{list: l.ID, number: l.Number, warehouse: l.WarehouseID}
	}
	return out
}

// papersOfOrders are the packing lists of what is released, in the order of the lists.
func papersOfOrders(w *wave) []paper {
	var out []paper
	seen := map[[2]int64]bool{}
	for _, l := range w.lists {
		for _, at := range l.OrderWise {
			f := w.facts[w.tasks[at].line]
			if k := [2]int64{f.OrderID, l.Warehouse}; !seen[k] {
				seen[k] = true
				out = append(out, paper{order: f.OrderID, number: f.Order, warehouse: l.Warehouse})
			}
		}
	}
	return out
}

// printPapers gives every sheet its code, makes what stands in its place void, and has them printed.
func printPapers(w *command.UnitOfWork, wanted []paper) error {
	lists, orders := store.IDs{}, store.IDs{}
	var at []store.OrderAt
	for _, p := range wanted {
		if p.order != 0 {
			orders = append(orders, p.order)
			at = append(at, store.OrderAt{OrderID: p.order, WarehouseID: p.warehouse})
		} else {
			lists = append(lists, p.list)
		}
	}
	if err := w.Tx.LockOrders(orders); err != nil {
		return err
	}
	id, err := w.Tx.CommandID()
	if err != nil {
		return err
	}
	ofList, ofOrder, err := w.Tx.Revisions(lists, orders)
	if err != nil {
		return err
	}
	if err := w.Tx.VoidPapers(lists, at, id, store.PrintedAgain); err != nil {
		return err
	}
	run := store.PrintRun{CommandID: id}
	if err := w.Tx.Create(&run); err != nil {
		return err
	}
	rows := make([]store.Paper, len(wanted))
	for i, p := range wanted {
		row := store.Paper{PrintRunID: run.ID, Place: i + 1, WarehouseID: p.warehouse}
		if p.order != 0 {
			ofOrder[p.order]++
			row.Kind, row.OrderID, row.Revision = store.PackingListPaper, &p.order, ofOrder[p.order]
			row.Code = fmt.Sprintf("%s-P%d", p.number, row.Revision)
		} else {
			ofList[p.list]++
			row.Kind, row.PickListID, row.Revision = store.PickListPaper, &p.list, ofList[p.list]
			row.Code = fmt.Sprintf("%s-R%d", p.number, row.Revision)
		}
		rows[i] = row
	}
	if err := store.CreateMany(w.Tx, rows); err != nil {
		return err
	}
	w.AddDocument("print run", fmt.Sprint(run.ID))
	return w.Tx.Enqueue(PrintDocument{Run: run.ID})
}

// PrintDocument is the job that draws a document and has it printed.
type PrintDocument struct {
	Run int64 `json:"run"`
}

// Kind names the job in the queue.
func (PrintDocument) Kind() string { return "print_document" }

// printWithin is how long a printer may take to answer.
const printWithin = 10 * time.Second

// Put carries a PrintDocument out: it draws the document, keeps it, and gives it to the printer while no transaction is open. What is kept
// is not drawn again, so that a second try prints the same. An error means that it is tried again.
func (d *Desk) Put(ctx context.Context, job PrintDocument) error {
	run, found, err := d.Store.Read(ctx).PrintRunByID(job.Run)
	if err != nil || !found || run.PrintedAt != nil {
		return err
	}
	title := fmt.Sprintf("Journeyman %d", run.ID)
	if run.PDF == nil {
		pdf, pages, err := d.draw(ctx, run.ID, title)
		if err != nil {
			return err
		}
		if err := d.Store.InTx(ctx, func(tx *store.Tx) error {
			run, err = tx.KeepPDF(run.ID, pdf, pages)
			return err
		}); err != nil {
			return err
		}
		d.papersChanged()
	}
	if d.printer == nil {
		return nil // it is there to be looked at
	}
	within, cancel := context.WithTimeout(ctx, printWithin)
	defer cancel()
	if err := d.printer.Print(within, Document{Key: fmt.Sprintf("run-%d", run.ID), Title: title, PDF: run.PDF}); err != nil {
		if ctx.Err() != nil { // the server stops
			return ctx.Err()
		}
		return d.noteNotPrinted(ctx, run.ID, err)
	}
	err = d.Store.InTx(ctx, func(tx *store.Tx) error { return tx.MarkPrinted(run.ID, d.Now()) })
	d.papersChanged()
	return err
}

// PutAll carries out every PrintDocument that waits: for where no queue is worked, as when the demo is made.
func (d *Desk) PutAll(ctx context.Context) error {
	waiting, err := d.Store.Read(ctx).PrintRunsWaiting()
	for _, run := range waiting {
		if err := d.Put(ctx, PrintDocument{Run: run.ID}); err != nil {
			return err
		}
	}
	return err
}

func (d *Desk) noteNotPrinted(ctx context.Context, run int64, trouble error) error {
	d.Log.WarnContext(ctx, "the printer could not be asked", "run", run, "error", trouble)
	note := "the printer cannot be reached"
	if errors.Is(trouble, context.DeadlineExceeded) {
		note = "the printer has not answered in time"
	}
	err := d.Store.InTx(ctx, func(tx *store.Tx) error { return tx.NotePrintTrouble(run, note) })
	d.papersChanged()
	return errors.Join(trouble, err)
}

func (d *Desk) papersChanged() {
	d.Announce(command.Change{All: true, Touches: []command.Touched{command.TouchedPapers}})
}

// draw draws a document: of labels, or of sheets.
func (d *Desk) draw(ctx context.Context, run int64, title string) (pdf []byte, pages int, err error) {
	pdf, pages, labels, err := d.drawLabels(ctx, run, title)
	if labels || err != nil {
		return pdf, pages, err
	}
	sheets, err := d.sheets(ctx, run)
	if err != nil {
		return nil, 0, err
	}
	return papers.Draw(title, d.Now(), sheets)
}
