// Package exchange reads and writes open formats. This half reads the CSV files
// of docs/import.md: it knows their columns and says exactly what is wrong with
// a row; whether a row fits what is in the database is decided at the desk.
package exchange

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"iter"
	"slices"
	"strings"
	"unicode/utf8"
)

// File is a CSV file as it is handed over.
type File struct {
	Name string
	Data []byte
	Text io.Reader // in place of Data: it is read once
}

func (f File) open() io.Reader {
	if f.Text != nil {
		return f.Text
	}
	return bytes.NewReader(f.Data)
}

// Kind is what a file holds.
type Kind string

// The kinds of files, in the order in which they are applied.
const (
	Items       Kind = "items"
	Substitutes Kind = "substitutes"
	Zones       Kind = "zones"
	Stock       Kind = "stock"
	Customers   Kind = "customers"
	Inbound     Kind = "inbound"
	Orders      Kind = "orders"
)

// Fault is what is wrong with a file, and where.
type Fault struct {
	File     string `json:"file"`
	Row      int    `json:"row" doc:"Line in the file, the header being 1; 0 if the whole file is meant"`
	Column   string `json:"column"`
	Got      string `json:"got"`
	Expected string `json:"expected"`
}

// Error is the fault in a sentence.
func (f Fault) Error() string {
	where := f.File
	if f.Row > 0 {
		where += fmt.Sprintf(", row %d", f.Row)
	}
	if f.Column != "" {
		where += ", column " + f.Column
	}
	if f.Got == "" {
		return fmt.Sprintf("%s: expected %s", where, f.Expected)
	}
	return fmt.Sprintf("%s: %q, expected %s", where, f.Got, f.Expected)
}

// Row is a row of a file with its line number.
type Row[T any] struct {
	N int
	V T
}

// Staged is a row as it was read. Rows that have to do with each other have the same A, and sort by B and N.
type Staged struct {
	Kind Kind
	N    int
	A, B string
	V    any // an ItemRow, a StockRow …, by the kind
}

// Found is what is known of the files of an import besides their rows.
type Found struct {
	Names  map[Kind]string // the file in which each kind was found
	Rows   map[Kind]int
	Houses []House // that a stock file names, in its order; a few more than there may be
	Sum    []byte  // SHA-256 of all that was read
	Faults []Fault
	Faulty int   // faults in all; Faults lists the first MostFaults of them
	Err    error // why reading had to be given up, if it is not the files' fault
}

// House is a warehouse as a stock file names it.
type House struct{ Code, Name string }

// mostNamed is how many warehouses of a file are listed.
const mostNamed = 500

func (b *Found) house(r StockRow) {
	if r.Warehouse != "" && len(b.Houses) < mostNamed &&
		!slices.ContainsFunc(b.Houses, func(h House) bool { return h.Code == r.Warehouse }) {
		b.Houses = append(b.Houses, House{r.Warehouse, r.WarehouseName})
	}
}

// What is read of a file at most. Beyond it a file is refused, before it takes memory.
const (
	MostFaults  = 1000    // faults that are listed
	mostColumns = 200     // of a file
	mostRecord  = 1 << 18 // bytes of a row, and of the header
)

// Fault adds a fault.
func (b *Found) Fault(f Fault) {
	b.Faulty++
	if len(b.Faults) < MostFaults {
		if len(f.Got) > 200 {
			f.Got = strings.ToValidUTF8(f.Got[:200], "") + "…"
		}
		b.Faults = append(b.Faults, f)
	}
}

// All is the number of rows in all files.
func (b *Found) All() (n int) {
	for _, rows := range b.Rows {
		n += rows
	}
	return n
}

// Scan reads files one after another and hands over their rows one by one: it keeps none of them. Which file is which is told by its
// columns, not its name. Faults of form are in what was Found once the last row was handed over. step is called now and then with
// the number of bytes read.
func Scan(files iter.Seq[File], step func(done int)) (*Found, iter.Seq[Staged]) {
	b := &Found{Names: map[Kind]string{}, Rows: map[Kind]int{}}
	return b, func(yield func(Staged) bool) {
		sum := sha256.New()
		done, going := 0, true
		for f := range files {
			fmt.Fprintf(sum, "%q", f.Name)
			counted := &counting{r: io.TeeReader(f.open(), sum), step: step, done: done}
			going = b.scan(f.Name, counted, yield)
			if done = counted.done; !going || b.Err != nil {
				break
			}
		}
		b.Sum = sum.Sum(nil)
		step(done)
	}
}

// counting counts what is read, and reads no more of a row than it may have.
type counting struct {
	r    io.Reader
	step func(int)
	done int
	left int // of the row
	err  error
}

var errLongRow = errors.New("the row is too long")

func (c *counting) Read(p []byte) (int, error) {
	if c.left <= 0 {
		c.err = errLongRow
		return 0, c.err
	}
	n, err := c.r.Read(p)
	if c.done/(1<<20) != (c.done+n)/(1<<20) {
		c.step(c.done + n)
	}
	c.done += n
	c.left -= n
	if err != nil {
		c.err = err
	}
	return n, err
}

// row allows as many bytes again as a row may have.
func (c *counting) row() { c.left = mostRecord }

// scan reads a file and says whether whoever takes the rows wants more.
func (b *Found) scan(name string, from *counting, yield func(Staged) bool) bool {
	from.row()
	in := bufio.NewReaderSize(from, 4096)
	if bom, _ := in.Peek(3); bytes.Equal(bom, []byte("\xef\xbb\xbf")) {
		_, _ = in.Discard(3)
	}
	first, _ := in.Peek(4096)
	first, _, _ = bytes.Cut(first, []byte("\n"))
	r := csv.NewReader(in)
	r.FieldsPerRecord = -1
	r.ReuseRecord = true
	if bytes.Count(first, []byte(";")) > bytes.Count(first, []byte(",")) {
		r.Comma = ';'
	}
	s := &sheet{b: b, name: name, r: r, from: from, decimalComma: r.Comma == ';', yield: yield}
	header, ok := s.next()
	if !ok {
		if b.Faulty == 0 && b.Err == nil {
			b.Fault(Fault{File: name, Expected: "a first row with the names of the columns"})
		}
		return true
	}
	if len(header) > mostColumns {
		b.Fault(Fault{File: name, Row: 1, Got: fmt.Sprintf("%d columns", len(header)), Expected: fmt.Sprintf("at most %d", mostColumns)})
		return true
	}
	seen := map[string]bool{}
	for _, h := range header {
		h = strings.Clone(strings.ToLower(strings.TrimSpace(h)))
		if h != "" && seen[h] {
			b.Fault(Fault{File: name, Row: 1, Column: h, Expected: "each column once"})
			return true
		}
		seen[h] = true
		s.names = append(s.names, h)
	}
	kind, err := kindOf(s.names)
	if err != nil {
		b.Fault(Fault{File: name, Row: 1, Expected: err.Error()})
		return true
	}
	if other, twice := b.Names[kind]; twice {
		b.Fault(Fault{File: name, Expected: fmt.Sprintf("one file of %s; %s is one already", kind, other)})
		return true
	}
	b.Names[kind] = name
	s.kind = kind
	switch kind {
	case Items:
		return readRows(s, itemColumns, func(r *ItemRow) (string, string) { return r.SKU, "" })
	case Substitutes:
		return readRows(s, substituteColumns, func(r *SubstituteRow) (string, string) { return r.SKU, r.Substitute })
	case Zones:
		return readRows(s, zoneColumns, func(r *ZoneRow) (string, string) { return r.Zone, "" })
	case Stock:
		return readRows(s, stockColumns, func(r *StockRow) (string, string) {
			b.house(*r)
			return r.SKU, r.Warehouse + "\x1f" + r.Bin
		})
	case Customers:
		return readRows(s, customerColumns, func(r *CustomerRow) (string, string) { return r.Customer, "" })
	case Inbound:
		return readRows(s, inboundColumns, func(r *InboundRow) (string, string) { return r.SKU, r.Ref + "\x1f" + r.Warehouse })
	}
	return readRows(s, orderColumns, func(r *OrderRow) (string, string) { return r.Order, "" })
}

func kindOf(names []string) (Kind, error) {
	has := func(cols ...string) bool {
		for _, c := range cols {
			if !slices.Contains(names, c) {
				return false
			}
		}
		return true
	}
	switch {
	case has("order", "line"):
		return Orders, nil
	case has("ref", "due"):
		return Inbound, nil
	case has("substitute"):
		return Substitutes, nil
	case has("zone", "days"):
		return Zones, nil
	case has("on_hand"):
		return Stock, nil
	case has("customer", "ship_to"):
		return Customers, nil
	case has("sku", "name"):
		return Items, nil
	}
	return "", errors.New("the columns of one of the seven files: items (sku, name), substitutes (sku, substitute), zones (zone, " +
		"days), stock (warehouse, sku, on_hand), " +
		"customers (customer, name, ship_to), inbound (ref, sku, warehouse, due, qty), orders (order, line, customer, sku, qty, wanted)")
}

// column is one column of a file and what its text becomes.
type column[T any] struct {
	name     string
	required bool
	set      func(*T, string) error // the error says what was expected
}

// sheet is a file being read.
type sheet struct {
	b            *Found
	name         string
	kind         Kind
	r            *csv.Reader
	from         *counting
	line         int // of the record that was read last
	names        []string
	decimalComma bool
	yield        func(Staged) bool
}

// next reads the next record; ok is false at the end, and where the file cannot be read any further.
func (s *sheet) next() (rec []string, ok bool) {
	s.from.row()
	rec, err := s.r.Read()
	fault := func(row int, expected string) {
		s.b.Fault(Fault{File: s.name, Row: row, Expected: expected})
	}
	var wrong *csv.ParseError
	switch {
	case errors.Is(s.from.err, errLongRow):
		fault(s.line+1, fmt.Sprintf("rows of at most %d kB, with quotes that are closed", mostRecord>>10))
	case s.from.err != nil && !errors.Is(s.from.err, io.EOF):
		s.b.Err = s.from.err
	case errors.Is(err, io.EOF):
	case errors.As(err, &wrong):
		fault(wrong.StartLine, "quotes that are closed, and doubled inside a quoted field")
	case err != nil:
		s.b.Err = err
	default:
		s.line, _ = s.r.FieldPos(0)
		if slices.ContainsFunc(rec, func(text string) bool { return !utf8.ValidString(text) }) {
			fault(s.line, "text in UTF-8: save the file as “CSV UTF-8”")
			return nil, false
		}
		return rec, true
	}
	return nil, false
}

// readRows hands over the rows of a file with what they are about and which part of it, and says whether more are wanted.
func readRows[T any](s *sheet, columns []column[T], named func(*T) (a, b string)) bool {
	at := make([]*column[T], len(s.names))
	for i, n := range s.names {
		k := slices.IndexFunc(columns, func(c column[T]) bool { return c.name == n })
		switch {
		case k >= 0:
			at[i] = &columns[k]
		case n != "":
			s.b.Fault(Fault{File: s.name, Row: 1, Column: n, Expected: "one of the columns " + columnNames(columns)})
			return true
		}
	}
	for _, c := range columns {
		if c.required && !slices.Contains(s.names, c.name) {
			s.b.Fault(Fault{File: s.name, Row: 1, Column: c.name, Expected: "this column to be there"})
			return true
		}
	}
	for {
		rec, ok := s.next()
		if !ok {
			return true
		}
		if blank(rec) {
			continue
		}
		if len(rec) != len(s.names) {
			s.b.Fault(Fault{
				File: s.name, Row: s.line, Got: fmt.Sprintf("%d fields", len(rec)),
				Expected: fmt.Sprintf("%d, as in the header", len(s.names)),
			})
			continue
		}
		var v T
		for i, text := range rec {
			c := at[i]
			if c == nil {
				continue
			}
			text = strings.Clone(strings.TrimSpace(text))
			if text == "" {
				if c.required {
					s.b.Fault(Fault{File: s.name, Row: s.line, Column: c.name, Expected: "a value; it may not be empty"})
				}
				continue
			}
			if s.decimalComma && strings.Count(text, ",") == 1 && isNumber(text) {
				text = strings.Replace(text, ",", ".", 1)
			}
			if err := c.set(&v, text); err != nil {
				s.b.Fault(Fault{File: s.name, Row: s.line, Column: c.name, Got: text, Expected: err.Error()})
			}
		}
		s.b.Rows[s.kind]++
		a, b := named(&v)
		if a = plain(a); a == "" {
			continue // what it is about is a fault already
		}
		if !s.yield(Staged{s.kind, s.line, a, plain(b), v}) {
			return false
		}
	}
}

// plain is a name without what no name has, and the database does not take; a row with such a name is a fault already.
func plain(s string) string { return strings.ReplaceAll(s, "\x00", "") }

func isNumber(s string) bool { return strings.Trim(s, "0123456789,") == "" }

func blank(rec []string) bool {
	for _, f := range rec {
		if strings.TrimSpace(f) != "" {
			return false
		}
	}
	return true
}

func columnNames[T any](cs []column[T]) string {
	names := make([]string, len(cs))
	for i, c := range cs {
		names[i] = c.name
	}
	return strings.Join(names, ", ")
}
