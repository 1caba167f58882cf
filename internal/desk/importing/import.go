package importing

import (
	"bytes"
	"cmp"
	"context"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"iter"
	"slices"

	"journeyman/core/journey"
	"journeyman/internal/desk/allocation"
	"journeyman/internal/desk/command"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
	"journeyman/internal/words"
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
	Faulty int              `json:"faulty" doc:"In how many places something is wrong; of what is alike one is listed, and at most 200"`
	Shapes []exchange.Shape `json:"shapes" doc:"How each file was read; where something is asked, nothing was compared yet"`
	Does   int              `json:"does" doc:"Rows that would change something"`
	Breaks []StockBreak     `json:"breaks" doc:"Items of which the count leaves fewer than are allocated; some have to be given back"`
}

// mostEffects is how many rows of a file are reported one by one.
const mostEffects = 400

// CheckImport says row by row what applying the files would do, and keeps their rows
// under call.Key for ApplyImport. It changes nothing.
func (d *Desk) CheckImport(ctx context.Context, call command.Call, files []exchange.File) (ImportReport, error) {
	return d.CheckFiles(ctx, call, slices.Values(files))
}

// CheckFiles is CheckImport for files that come one after another, each read once: none of them is kept in memory.
func (d *Desk) CheckFiles(ctx context.Context, call command.Call, files iter.Seq[exchange.File]) (ImportReport, error) {
	if err := command.VerbImport.Allowed(call.Actor); err != nil {
		return ImportReport{}, err
	}
	err := d.Store.BeginImport(ctx, store.ImportRun{Key: call.Key, UserID: call.Actor.ID, At: d.Now(), Report: "{}"})
	if postgres.Check(err) == "import_run_pkey" {
		return ImportReport{}, command.Invalid("This import was checked already. Choose the files again.")
	}
	if err != nil {
		return ImportReport{}, d.Explain(err)
	}
	report, err := d.checkRows(ctx, call.Key, files)
	asks := slices.ContainsFunc(report.Shapes, func(s exchange.Shape) bool { return s.Asks != "" })
	if err != nil || report.Faulty > 0 || asks {
		if e := d.Store.ForgetImport(context.WithoutCancel(ctx), call.Key); e != nil && err == nil {
			err = e
		}
	}
	return report, d.Explain(err)
}

func (d *Desk) checkRows(ctx context.Context, key string, files iter.Seq[exchange.File]) (ImportReport, error) {
	p := d.NewProgress(ctx, key)
	defer p.End()
	found, err := d.stage(ctx, key, files, true, p)
	if err != nil {
		return ImportReport{}, err
	}
	if found.Asks() {
		c := &comparing{key: key, found: *found}
		return c.report(key), nil
	}
	if len(found.Shapes) == 0 && found.Faulty == 0 {
		return ImportReport{}, command.Invalid("Choose at least one CSV or XLSX file.")
	}
	var report ImportReport
	err = d.Store.InLongTx(ctx, func(tx *store.Tx) error {
		p.Begin("Comparing", found.All())
		c := &comparing{d: d, tx: tx, key: key, found: *found, step: p.At}
		if err := c.compare(); err != nil {
			return err
		}
		report = c.report(key)
		told, err := json.Marshal(keptReport{report, found.Names, found.Rows, found.Houses})
		if err != nil {
			return err
		}
		return tx.ReportImport(key, string(told))
	})
	return report, err
}

// keptReport is a report as it is kept, with what else is known of the files.
type keptReport struct {
	ImportReport
	Names  map[exchange.Kind]string
	Rows   map[exchange.Kind]int
	Houses []exchange.House
}

// stage reads files and keeps their rows, one by one. What cannot be known of a file is asked, or a fault.
func (d *Desk) stage(
	ctx context.Context, key string, files iter.Seq[exchange.File], ask bool, p *command.Progress,
) (*exchange.Found, error) {
	p.Begin("Reading", 0)
	var unread error
	kept := func(shape string) (m exchange.Mapping, known bool) {
		text, known, err := d.Store.Read(ctx).ImportShape(shape)
		if err == nil && known {
			err = json.Unmarshal([]byte(text), &m)
		}
		unread = cmp.Or(unread, err)
		return m, known && err == nil
	}
	found, rows := exchange.Scan(files, exchange.Reading{Kept: kept, Ask: ask}, p.At)
	next, stop := iter.Pull(rows)
	defer stop()
	var failed error
	err := d.Store.StageRows(ctx, key, func() (store.StagedRow, bool) {
		x, more := next()
		if !more {
			return store.StagedRow{}, false
		}
		text, err := json.Marshal(x.V)
		if err != nil {
			failed = err
			return store.StagedRow{}, false
		}
		return store.StagedRow{Kind: string(x.Kind), A: x.A, B: x.B, N: x.N, V: string(text)}, true
	})
	return found, cmp.Or(err, failed, unread, found.Err)
}

// ShapeAsk says how files of a shape are read.
type ShapeAsk struct {
	Header  []string         `json:"header" minItems:"1" maxItems:"200" doc:"The columns of the file"`
	Mapping exchange.Mapping `json:"mapping"`
}

// KeepShape keeps how files with such columns are read, in place of what was said before.
//
// It locks nothing. It refuses a mapping by which no file can be read.
func (d *Desk) KeepShape(ctx context.Context, call command.Call, ask ShapeAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbImport, ask, func(w *command.UnitOfWork) error {
		if err := ask.Mapping.Check(); err != nil {
			return command.Invalid("It cannot be read so: %s.", err)
		}
		kept, err := json.Marshal(ask.Mapping)
		if err != nil {
			return err
		}
		if bytes.Contains(kept, []byte(`\u0000`)) {
			return command.Invalid("Names of columns have no control characters.")
		}
		w.Say("Files with these columns are read as %s from now on.", ask.Mapping.Kind)
		return w.Tx.KeepImportShape(exchange.ShapeOf(ask.Header), string(kept), call.Actor.ID)
	})
}

// ApplyImport does what the report of that key said, all of it or nothing. Where a count breaks
// allocations it gives them back and allocates again by the default policy, as the report said, if
// again says so; else it is refused.
//
// Imports come one after another. It locks the stock that is counted or expected, with the lines that are given back or promised
// again. It refuses an import that was applied, or that would no longer do what its report said.
func (d *Desk) ApplyImport(ctx context.Context, call command.Call, key string, anew bool) (command.Outcome, error) {
	run, found, err := d.Store.Read(ctx).ImportByKey(key)
	if err != nil {
		return command.Outcome{}, err
	}
	if !found || run.Report == "{}" {
		return command.Outcome{}, command.NotFound("That import is no longer kept. Choose the files again.")
	}
	var told keptReport
	if err := json.Unmarshal([]byte(run.Report), &told); err != nil {
		return command.Outcome{}, err
	}
	if len(told.Breaks) > 0 && !anew {
		return command.Outcome{}, command.Conflict(
			"The count leaves fewer of %s than are allocated. Have them given back and allocated anew, or give some back yourself first.",
			told.Breaks[0].SKU,
		)
	}
	p := d.NewProgress(ctx, call.Key)
	defer p.End()
	return d.Run(ctx, call, command.VerbImport, struct {
		Import string `json:"import"`
		Anew   bool   `json:"anew"`
	}{key, anew}, func(w *command.UnitOfWork) error {
		if err := w.Tx.LockImports(); err != nil {
			return err
		}
		if run, found, err := w.Tx.ImportByKey(key); err != nil || !found || run.Applied != nil {
			return cmp.Or(err, command.Conflict("That import was applied already."))
		}
		known := exchange.Found{Names: told.Names, Rows: told.Rows, Houses: told.Houses}
		if _, err := d.importRows(w, key, known, p, &told.ImportReport); err != nil {
			return err
		}
		return w.Tx.MarkImported(key, w.ID)
	})
}

// Import reads and applies files in one go, for the command line and the demo.
// With any fault nothing is changed and the report lists the faults.
func (d *Desk) Import(ctx context.Context, call command.Call, files []exchange.File) (command.Outcome, ImportReport, error) {
	if err := command.VerbImport.Allowed(call.Actor); err != nil {
		return command.Outcome{}, ImportReport{}, err
	}
	p := d.NewProgress(ctx, call.Key)
	defer p.End()
	staged := command.NewKey()
	found, err := d.stage(ctx, staged, slices.Values(files), false, p)
	if err != nil {
		return command.Outcome{}, ImportReport{}, d.Explain(err)
	}
	var report ImportReport
	out, err := d.Run(ctx, call, command.VerbImport, hex.EncodeToString(found.Sum), func(w *command.UnitOfWork) error {
		if err := w.Tx.LockImports(); err != nil {
			return err
		}
		var err error
		report, err = d.importRows(w, staged, *found, p, nil)
		return err
	})
	return out, report, err
}

// ErrFaults is returned when files have faults and so nothing was imported.
var ErrFaults = command.Invalid("The files have faults, so nothing was changed.")

// importRows compares the rows of an import with what there is by now and, if that comes to what was told, writes them: all of them or
// none.
func (d *Desk) importRows(
	w *command.UnitOfWork, staged string, found exchange.Found, p *command.Progress, told *ImportReport,
) (ImportReport, error) {
	// Stock that the files count, and what is promised on arrivals that they change, is held still before anything is compared with it.
	var breaks []StockBreak
	if told != nil {
		breaks = told.Breaks
	}
	items, err := lockImported(w, staged, breaks)
	if err != nil {
		return ImportReport{}, err
	}
	p.Begin("Comparing", found.All())
	c := &comparing{d: d, tx: w.Tx, key: staged, found: found, step: p.At}
	if err := c.compare(); err != nil {
		return ImportReport{}, err
	}
	now := c.report("")
	switch {
	case now.Faulty > 0:
		return now, ErrFaults
	case told == nil && len(now.Breaks) > 0:
		return now, command.Conflict(
			"The count leaves fewer of %s at %s than are allocated: give some back first, or import it in the browser, where that "+
				"is done as one step.",
			now.Breaks[0].SKU, now.Breaks[0].Warehouse,
		)
	case told != nil && (!slices.EqualFunc(now.Files, told.Files, sameEffect) || !slices.EqualFunc(now.Breaks, told.Breaks, sameBreak)):
		return now, command.Conflict("What these files would do has changed since you looked. Choose them again to see it as it is now.")
	case now.Does == 0:
		w.Say("Everything in these files is here already; nothing was changed.")
		return now, nil
	}
	w.Say("Imported %s.", summary(now.Files))
	var anew *allocation.ComputedPlan
	if len(c.breaks) > 0 {
		if anew, err = d.giveBackBroken(w, c.breaks); err != nil {
			return now, err
		}
	}
	before, err := d.promising.SupplyOfArrivals(w, items)
	if err != nil {
		return now, err
	}
	if found.All() > command.ManyRows {
		if err := w.Tx.PreferSets(); err != nil {
			return now, err
		}
	}
	p.Begin("Writing", found.All())
	writing := &comparing{d: d, tx: w.Tx, key: staged, found: found, step: p.At, writing: w, estimateAt: 20_000}
	if err := writing.compare(); err != nil {
		return now, err
	}
	if writing.found.Faulty > 0 {
		return now, fmt.Errorf("rows that were right before they were written have faults: %v", writing.found.Faults)
	}
	w.Outcome.Units, w.Outcome.Lines = w.Outcome.Units+writing.units, writing.lines
	if err := d.promising.RepromiseArrivals(w, before); err != nil {
		return now, err
	}
	if anew != nil {
		return now, allocateBroken(w, anew, c.breaks)
	}
	return now, nil
}

func sameEffect(a, b FileReport) bool {
	return a.Kind == b.Kind && a.New == b.New && a.Changed == b.Changed && a.Unchanged == b.Unchanged && a.Kept == b.Kept
}

func sameBreak(a, b StockBreak) bool {
	return a.SKU == b.SKU && a.Warehouse == b.Warehouse && a.Left == b.Left && slices.EqualFunc(a.Lines, b.Lines, sameLine)
}

func sameLine(a, b BrokenLine) bool {
	return a.Order == b.Order && a.No == b.No && a.Has == b.Has && a.Gets == b.Gets && a.Why.String() == b.Why.String()
}

func summary(files []FileReport) words.Word {
	var said []words.Message
	for _, f := range files {
		if f.New+f.Changed > 0 {
			said = append(said, words.Say("%s: %d new, %d changed", f.Kind, f.New, f.Changed))
		}
	}
	return words.List(said, "; ")
}

// lockImported holds the stock that an import counts or expects still, with the lines that are given back and allocated again, or promised
// again. It returns the items of which something is expected.
func lockImported(w *command.UnitOfWork, staged string, breaks []StockBreak) (store.IDs, error) {
	items, err := w.Tx.StagedItems(staged)
	if err != nil || len(items) == 0 {
		return nil, err
	}
	var lines, broken store.IDs
	if len(breaks) > 0 {
		skus := make(store.Texts, len(breaks))
		for i, b := range breaks {
			skus[i] = b.SKU
		}
		known, err := w.Tx.ItemsBySKU(skus)
		if err != nil {
			return nil, err
		}
		for _, it := range known {
			broken = append(broken, it.ID)
		}
		if lines, err = w.Tx.WantingLineIDs(broken); err != nil {
			return nil, err
		}
	}
	expected, promised, err := w.Tx.PromisedOnArrivals(staged)
	if err != nil {
		return nil, err
	}
	for _, p := range promised {
		lines = append(lines, p.LineID)
		if !slices.Contains(items, p.ItemID) { // of an order that goes only whole
			items, expected = append(items, p.ItemID), append(expected, p.ItemID)
		}
	}
	slices.Sort(items)
	if err := w.Lock(lines, slices.Compact(items)...); err != nil {
		return nil, err
	}
	unstocked := slices.DeleteFunc(slices.Clone(expected), w.Stocked)
	if len(unstocked) > 0 { // nothing else keeps others from promising it meanwhile
		slices.Sort(unstocked)
		if err := w.Tx.HoldItems(unstocked); err != nil {
			return nil, err
		}
	}
	return expected, nil
}

// putCounts enters by how much counts differ. The bins are those of the rows.
func putCounts(w *command.UnitOfWork, counts []count, bins []store.BinSet) error {
	if len(counts) == 0 {
		return nil
	}
	keys, err := w.Tx.BinKeys(bins)
	if err != nil {
		return err
	}
	houses, err := w.Tx.Warehouses()
	if err != nil {
		return err
	}
	house := map[string]int64{}
	for _, h := range houses {
		house[h.Code] = h.ID
	}
	skus := store.Texts{}
	for _, c := range counts {
		skus = append(skus, c.sku)
	}
	items, err := w.Tx.ItemsBySKU(skus)
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
		for _, c := range counts {
			if q := k.units(c); q > 0 {
				bin := keys[[2]string{c.warehouse, c.bin}]
				if err := w.MoveStock(
					item[c.sku], house[c.warehouse], journey.Make(k.kind, journey.Qty(q)), command.Refs{Bin: bin},
				); err != nil {
					return err
				}
				w.SKUs[c.sku] = true
			}
		}
	}
	return nil
}
