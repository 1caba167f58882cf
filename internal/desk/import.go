package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"journeyman/core/journey"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

// Effect is what applying would do with a row of a file.
type Effect struct {
	Row   int    `json:"row"`
	What  string `json:"what" doc:"The thing the row speaks of"`
	Does  string `json:"does" enum:"new,changed,unchanged,kept"`
	Notes string `json:"notes,omitempty" doc:"What would change, or why it is kept"`
}

// FileReport is what applying would do with a file.
type FileReport struct {
	File      string        `json:"file"`
	Kind      exchange.Kind `json:"kind"`
	Rows      int           `json:"rows"`
	New       int           `json:"new"`
	Changed   int           `json:"changed"`
	Unchanged int           `json:"unchanged"`
	Kept      int           `json:"kept" doc:"Rows that differ from what is here and are left as they are here"`
	Effects   []Effect      `json:"effects" doc:"Row by row, those that change something first, at most 400"`
}

// ImportReport is what applying the files would do.
type ImportReport struct {
	Key    string           `json:"key" doc:"Names this import when it is applied"`
	Files  []FileReport     `json:"files"`
	Faults []exchange.Fault `json:"faults" doc:"What is wrong; with any fault nothing can be applied"`
	Faulty int              `json:"faulty" doc:"Number of faults, of which at most 500 are listed"`
	Does   int              `json:"does" doc:"Rows that would change something"`
	Breaks []StockBreak     `json:"breaks" doc:"Items of which the count leaves fewer than are allocated; they have to be given back and allocated anew"`
}

// mostEffects is how many rows of a file are reported one by one.
const mostEffects = 400

// CheckImport says row by row what applying the files would do, and keeps them
// under call.Key for ApplyImport. It changes nothing.
func (d *Desk) CheckImport(ctx context.Context, call Call, files []exchange.File) (ImportReport, error) {
	if err := VerbImport.allowed(call.Actor); err != nil {
		return ImportReport{}, err
	}
	if len(files) == 0 {
		return ImportReport{}, Invalid("Choose at least one CSV file.")
	}
	size := 0
	for _, f := range files {
		size += len(f.Data)
	}
	p := d.progress(ctx, call.Key)
	defer p.end()
	p.begin("Reading", size)
	batch := exchange.Read(files, p.at)
	p.begin("Comparing", batch.Rows())
	im, err := compare(d.store.Read(ctx), d, batch, func(items store.IDs) (store.Book, error) { return d.store.ReadBook(ctx, items) }, p.at)
	if err != nil {
		return ImportReport{}, err
	}
	report := im.report(call.Key)
	kept, err := json.Marshal(files)
	if err != nil {
		return ImportReport{}, err
	}
	told, err := json.Marshal(report)
	if err != nil {
		return ImportReport{}, err
	}
	err = d.store.InTx(ctx, func(tx *store.Tx) error {
		return d.store.SaveImport(tx, store.ImportRun{Key: call.Key, UserID: call.Actor.ID, At: d.now(), Files: string(kept), Report: string(told)})
	})
	if store.Check(err) == "import_run_pkey" {
		return ImportReport{}, Invalid("This import was checked already. Choose the files again.")
	}
	return report, err
}

// ApplyImport does what the report of that key said, all of it or nothing. Where a count breaks
// allocations it gives them back and allocates anew by the default policy, as the report said, if
// anew says so; else it is refused.
func (d *Desk) ApplyImport(ctx context.Context, call Call, key string, anew bool) (Outcome, error) {
	run, found, err := d.store.Read(ctx).ImportByKey(key)
	if err != nil {
		return Outcome{}, err
	}
	if !found {
		return Outcome{}, NotFound("That import is no longer kept. Choose the files again.")
	}
	var files []exchange.File
	if err := json.Unmarshal([]byte(run.Files), &files); err != nil {
		return Outcome{}, err
	}
	var told ImportReport
	if err := json.Unmarshal([]byte(run.Report), &told); err != nil {
		return Outcome{}, err
	}
	if len(told.Breaks) > 0 && !anew {
		return Outcome{}, Conflict("The count leaves fewer of %s than are allocated. Have them given back and allocated anew, or give some back yourself first.", told.Breaks[0].SKU)
	}
	if run.Applied != nil {
		if cmd, ok, err := d.store.Read(ctx).CommandByID(*run.Applied); err != nil || !ok || cmd.Key != call.Key {
			return Outcome{}, Conflict("That import was applied already.")
		}
	}
	return d.importFiles(ctx, call, files, &told, key)
}

// Import reads and applies files in one go, for the command line and the demo.
// With any fault nothing is changed and the report lists the faults.
func (d *Desk) Import(ctx context.Context, call Call, files []exchange.File) (Outcome, ImportReport, error) {
	var report ImportReport
	out, err := d.importFiles(ctx, call, files, &report, "")
	return out, report, err
}

// ErrFaults is returned when files have faults and so nothing was imported.
var ErrFaults = Invalid("The files have faults, so nothing was changed.")

func (d *Desk) importFiles(ctx context.Context, call Call, files []exchange.File, told *ImportReport, key string) (Outcome, error) {
	p := d.progress(ctx, call.Key)
	defer p.end()
	p.begin("Reading", 0)
	batch := exchange.Read(files, func(int) {})
	return d.run(ctx, call, VerbImport, files, func(w *work) error {
		if err := w.tx.LockImports(); err != nil {
			return err
		}
		// Stock that the files count is held still before anything is compared with it.
		if err := w.lockStock(batch, told.Breaks); err != nil {
			return err
		}
		p.begin("Comparing", batch.Rows())
		im, err := compare(&w.tx.Reader, d, batch, w.tx.ReadBook, p.at)
		if err != nil {
			return err
		}
		now := im.report(key)
		if key == "" {
			*told = now
		}
		switch {
		case now.Faulty > 0:
			return ErrFaults
		case key == "" && len(now.Breaks) > 0:
			return Conflict("The count leaves fewer of %s at %s than are allocated: give some back first, or import it in the browser, where that is done as one step.", now.Breaks[0].SKU, now.Breaks[0].Warehouse)
		case !slices.EqualFunc(now.Files, told.Files, sameEffect) || !slices.EqualFunc(now.Breaks, told.Breaks, sameBreak):
			return Conflict("What these files would do has changed since you looked. Choose them again to see it as it is now.")
		case now.Does == 0:
			w.sentence("Everything in these files is here already; nothing was changed.")
		default:
			w.sentence("Imported %s.", summary(now.Files))
		}
		p.begin("Writing", im.work())
		var anew *ran
		if len(im.breaks) > 0 {
			if anew, err = w.givenBack(im.breaks); err != nil {
				return err
			}
		}
		if err := im.write(w, p.at); err != nil {
			return err
		}
		if anew != nil {
			if err := w.allocateBroken(anew, im.breaks); err != nil {
				return err
			}
		}
		if key != "" {
			return w.tx.MarkImported(key, w.command)
		}
		return nil
	})
}

func sameEffect(a, b FileReport) bool {
	return a.Kind == b.Kind && a.New == b.New && a.Changed == b.Changed && a.Unchanged == b.Unchanged && a.Kept == b.Kept
}

func sameBreak(a, b StockBreak) bool {
	return a.SKU == b.SKU && a.Warehouse == b.Warehouse && a.Left == b.Left && slices.Equal(a.Lines, b.Lines)
}

func summary(files []FileReport) string {
	s := ""
	for _, f := range files {
		if f.New+f.Changed == 0 {
			continue
		}
		if s != "" {
			s += "; "
		}
		s += fmt.Sprintf("%s: %d new, %d changed", f.Kind, f.New, f.Changed)
	}
	return s
}

func (w *work) lockStock(b *exchange.Batch, breaks []StockBreak) error {
	skus := skusOfStock(b)
	if len(skus) == 0 {
		return nil
	}
	items, err := w.tx.ItemsBySKU(skus)
	if err != nil {
		return err
	}
	ids := make([]int64, len(items))
	var broken store.IDs
	for i, it := range items {
		ids[i] = it.ID
		if slices.ContainsFunc(breaks, func(b StockBreak) bool { return b.SKU == it.SKU }) {
			broken = append(broken, it.ID)
		}
	}
	var lines store.IDs
	if len(broken) > 0 { // what is given back and allocated anew is held still, too
		if lines, err = w.tx.WantingLineIDs(broken); err != nil {
			return err
		}
	}
	return w.lock(lines, ids...)
}

func skusOfStock(b *exchange.Batch) store.Texts {
	return distinct(b.Stock, func(r exchange.StockRow) string { return r.SKU })
}

func distinct[T any](rows []exchange.Row[T], of func(T) string) store.Texts {
	seen := map[string]bool{}
	out := store.Texts{}
	for _, r := range rows {
		if s := of(r.V); s != "" && !seen[s] {
			seen[s] = true
			out = append(out, s)
		}
	}
	return out
}

// work is how many rows will be written.
func (im *importing) work() int {
	return len(im.items) + len(im.instead) + len(im.zones) + len(im.transit) + len(im.customers) + len(im.shipTos) + len(im.inbound) + len(im.orders) + len(im.lines) + len(im.counts)
}

// manyRows is from how many rows on an import is written as sets.
const manyRows = 2000

// write does what compare found.
func (im *importing) write(w *work, step func(int)) error {
	done := 0
	tick := func(n int) { done += n; step(done) }
	tx := w.tx
	if im.work() > manyRows {
		if err := tx.PreferSets(); err != nil {
			return err
		}
	}
	if err := tx.PutWarehouses(im.houses); err != nil {
		return err
	}
	for _, put := range []func() error{
		func() error { return tx.PutItems(im.items, tick) },
		func() error { return tx.PutSubstitutes(im.instead, tick) },
		func() error { return tx.PutZones(im.zones, im.transit, tick) },
		func() error { return tx.PutCustomers(im.customers, tick) },
		func() error { return tx.PutShipTos(im.shipTos, tick) },
		func() error { return tx.PutInbound(im.inbound, tick) },
		func() error { return tx.PutOrders(im.orders, tick) },
		func() error { return tx.PutLines(im.lines, w.command, tick) },
		func() error { return tx.PutHolds(im.orders, w.command) },
		func() error { return im.writeCounts(w, tick) },
	} {
		if err := put(); err != nil {
			return err
		}
	}
	for _, l := range im.lines {
		w.out.Units += l.Qty
	}
	w.out.Lines = len(im.lines)
	return nil
}

func (im *importing) writeCounts(w *work, tick func(int)) error {
	if len(im.counts) == 0 && len(im.bins) == 0 {
		return nil
	}
	if err := w.tx.PutBins(im.bins); err != nil {
		return err
	}
	keys, err := w.tx.BinKeys()
	if err != nil {
		return err
	}
	houses, err := w.tx.Warehouses()
	if err != nil {
		return err
	}
	house := map[string]int64{}
	for _, h := range houses {
		house[h.Code] = h.ID
	}
	items, err := w.tx.ItemsBySKU(skusOfStock(im.batch))
	if err != nil {
		return err
	}
	item := map[string]int64{}
	for _, it := range items {
		item[it.SKU] = it.ID
	}
	// What adds comes first, so that no step on the way is short of what the end has.
	for _, k := range []struct {
		kind  journey.Kind
		units func(count) int64
	}{
		{journey.Gain, func(c count) int64 { return c.onHand }},
		{journey.Unset, func(c count) int64 { return -c.held }},
		{journey.Loss, func(c count) int64 { return -c.onHand }},
		{journey.Set, func(c count) int64 { return c.held }},
	} {
		for _, c := range im.counts {
			if q := k.units(c); q > 0 {
				bin := keys[[2]string{c.warehouse, c.bin}]
				if err := w.stock(item[c.sku], house[c.warehouse], journey.Make(k.kind, journey.Qty(q)), entry{bin: bin}); err != nil {
					return err
				}
				w.skus[c.sku] = true
			}
		}
	}
	tick(len(im.counts))
	return nil
}

// progress reports how far a long command is, a few times a second at most.
type progress struct {
	d     *Desk
	ctx   context.Context
	key   string
	step  string
	total int
	last  time.Time
}

func (d *Desk) progress(ctx context.Context, key string) *progress {
	return &progress{d: d, ctx: ctx, key: key}
}

func (p *progress) begin(step string, total int) {
	p.step, p.total, p.last = step, total, time.Time{}
	p.at(0)
}

func (p *progress) at(done int) {
	if time.Since(p.last) < 100*time.Millisecond {
		return
	}
	p.last = time.Now()
	err := p.d.store.SetProgress(p.ctx, store.Progress{Key: p.key, Step: p.step, Done: int64(done), Total: int64(p.total)})
	if err != nil && p.ctx.Err() == nil && !errors.Is(err, context.DeadlineExceeded) {
		p.d.log.Warn("progress could not be told", "error", err)
	}
}

func (p *progress) end() {
	if p.step == "" {
		return // nothing was told
	}
	if err := p.d.store.EndProgress(context.WithoutCancel(p.ctx), p.key); err != nil {
		p.d.log.Warn("progress could not be ended", "error", err)
	}
}
