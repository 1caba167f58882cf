package importing

import (
	"cmp"
	"encoding/json"
	"slices"
	"strings"

	"journeyman/internal/desk/command"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// comparing is one look at the rows of an import: at some thousands at a time, those that have to do with
// each other together. It finds what they would change, and the faults that only the database can show; or,
// if it writes, it also does it.
type comparing struct {
	d          *Desk
	tx         *store.Tx
	key        string // of the staged rows
	found      exchange.Found
	writing    *command.UnitOfWork // nil: nothing is written
	estimateAt int                 // after so many lines the database is to estimate again how many there are
	step       func(int)
	done       int

	files    []FileReport
	breaks   []StockBreak
	house    map[string]bool
	way      *ways             // how long services take
	barcodes map[string]string // the items that have them, as far as rows were looked at
	lines    int
	units    int64
}

// mostOfOne is how many rows may be about one thing: the lines of an order, the bins of an item.
const mostOfOne = 20_000

// compare looks at all rows. Kinds are compared in the order in which they are applied, so an order may name an item that
// comes in the same import.
func (c *comparing) compare() error {
	c.house = map[string]bool{}
	c.found = c.found.Clone()
	houses, err := c.tx.Warehouses()
	if err != nil {
		return err
	}
	for _, h := range houses {
		c.house[h.Code] = true
	}
	var fresh []store.Warehouse
	for _, h := range c.found.Houses {
		if !c.house[h.Code] && len(c.house) < mostHouses {
			c.house[h.Code] = true
			fresh = append(fresh, store.Warehouse{Code: h.Code, Name: cmp.Or(h.Name, h.Code)})
		}
	}
	if c.writing != nil {
		if err := c.tx.PutWarehouses(fresh); err != nil {
			return err
		}
	}
	for _, part := range []func() error{
		func() error { return eachOf(c, exchange.Items, c.compareItems) },
		func() error { return eachOf(c, exchange.Substitutes, c.compareSubstitutes) },
		func() error { return eachOf(c, exchange.Zones, c.compareZones()) },
		func() error { return eachOf(c, exchange.Stock, c.compareStock) },
		func() error { return eachOf(c, exchange.Customers, c.compareCustomers) },
		func() error { return eachOf(c, exchange.Inbound, c.compareInbound) },
		func() error { return eachOf(c, exchange.Orders, c.compareOrders) },
	} {
		if err := part(); err != nil {
			return err
		}
	}
	for i := range c.files {
		slices.SortFunc(c.files[i].Effects, func(a, b Effect) int { return a.Row - b.Row })
	}
	slices.SortStableFunc(c.found.Faults, func(a, b exchange.Fault) int {
		if n := strings.Compare(a.File, b.File); n != 0 {
			return n
		}
		return a.Row - b.Row
	})
	if c.writing != nil {
		return nil
	}
	return c.recount()
}

// eachOf compares the rows of a kind, some thousands at a time; what is about one thing comes together.
func eachOf[T any](c *comparing, kind exchange.Kind, compare func(*FileReport, []exchange.Row[T]) error) error {
	name, there := c.found.Names[kind]
	if !there {
		return nil
	}
	c.files = append(c.files, FileReport{File: name, Kind: kind, Rows: c.found.Rows[kind], Effects: []Effect{}})
	f := &c.files[len(c.files)-1]
	var rows []exchange.Row[T]
	var about []string
	some := func(n int) error {
		err := compare(f, rows[:n])
		c.done += n
		c.step(c.done)
		rows, about = append(rows[:0], rows[n:]...), append(about[:0], about[n:]...)
		return err
	}
	err := c.tx.Staged(c.key, string(kind), func(staged []store.StagedRow) error {
		for _, x := range staged {
			r := exchange.Row[T]{N: x.N}
			if err := json.Unmarshal([]byte(x.V), &r.V); err != nil {
				return err
			}
			rows, about = append(rows, r), append(about, x.A)
		}
		n := len(about)
		for n > 0 && about[n-1] == about[len(about)-1] {
			n--
		}
		if n == 0 && len(about) > mostOfOne {
			return command.Invalid("%s names %s in more than %s rows. Split the file.", name, about[0], words.Number(mostOfOne))
		}
		if n == 0 {
			return nil
		}
		return some(n)
	})
	if err == nil && len(rows) > 0 {
		err = some(len(rows))
	}
	return err
}

func (c *comparing) report(key string) ImportReport {
	r := ImportReport{Key: key, Files: c.files, Faults: c.found.Faults, Faulty: c.found.Faulty, Shapes: c.found.Shapes}
	if r.Files == nil {
		r.Files = []FileReport{}
	}
	if r.Breaks = c.breaks; r.Breaks == nil {
		r.Breaks = []StockBreak{}
	}
	if r.Faults == nil {
		r.Faults = []exchange.Fault{}
	}
	if r.Shapes == nil {
		r.Shapes = []exchange.Shape{}
	}
	for _, f := range c.files {
		r.Does += f.New + f.Changed
	}
	return r
}

func (c *comparing) wrong(f *FileReport, row int, column, got, pattern string, args ...any) {
	c.found.Fault(exchange.Fault{File: f.File, Row: row, Column: column, Got: got, Expected: words.Say(pattern, args...)})
}

// unknown is the fault that what a row names is not here, and in none of the files.
func (c *comparing) unknown(f *FileReport, row int, column, got, what, file string) {
	c.found.Fault(exchange.Fault{
		File: f.File, Row: row, Column: column, Got: got, Expected: words.Say("%s that exists or is in the %s file", what, file),
		Mend: words.Say("Choose the %s file together with this one, or correct what stands here.", file),
	})
}

// note counts a row and keeps it for the report, those that change something first.
func (f *FileReport) note(row int, what, does, notes string) {
	switch does {
	case "new":
		f.New++
	case "changed":
		f.Changed++
	case "kept":
		f.Kept++
	default:
		f.Unchanged++
	}
	e := Effect{row, what, does, notes}
	switch {
	case len(f.Effects) < mostEffects:
		f.Effects = append(f.Effects, e)
	case does != "unchanged":
		if i := slices.IndexFunc(f.Effects, func(x Effect) bool { return x.Does == "unchanged" }); i >= 0 {
			f.Effects[i] = e
		}
	}
}

// stated is what the file says, or what holds if it says nothing.
func stated[T any](v *T, fallback T) T {
	if v == nil {
		return fallback
	}
	return *v
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

// stagedRows are the rows of a kind that are about something. Once rows are written, the database says what they said.
func stagedRows[T any](c *comparing, kind exchange.Kind, about store.Texts) (map[string][]exchange.Row[T], error) {
	out := map[string][]exchange.Row[T]{}
	if _, there := c.found.Names[kind]; !there || c.writing != nil {
		return out, nil
	}
	staged, err := c.tx.StagedNamed(c.key, string(kind), about)
	for _, x := range staged {
		r := exchange.Row[T]{N: x.N}
		if err := json.Unmarshal([]byte(x.V), &r.V); err != nil {
			return nil, err
		}
		out[x.A] = append(out[x.A], r)
	}
	return out, err
}
