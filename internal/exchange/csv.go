// Package exchange reads and writes open formats. This half reads the CSV files
// of docs/import.md: it knows their columns and says exactly what is wrong with
// a row; whether a row fits what is in the database is decided at the desk.
package exchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"
)

// File is a CSV file as it was handed over.
type File struct {
	Name string
	Data []byte
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

// Batch is everything that was read from the files of one import.
type Batch struct {
	Items       []Row[ItemRow]
	Substitutes []Row[SubstituteRow]
	Zones       []Row[ZoneRow]
	Stock       []Row[StockRow]
	Customers   []Row[CustomerRow]
	Inbound     []Row[InboundRow]
	Orders      []Row[OrderRow]
	Names       map[Kind]string // the file in which each kind was found
	Faults      []Fault
	Faulty      int // faults in all; Faults lists the first MostFaults of them
}

// MostFaults is how many faults are listed.
const MostFaults = 500

// Fault adds a fault to the batch.
func (b *Batch) Fault(f Fault) {
	b.Faulty++
	if len(b.Faults) < MostFaults {
		b.Faults = append(b.Faults, f)
	}
}

// Rows is the number of rows in all files.
func (b *Batch) Rows() int {
	return len(b.Items) + len(b.Substitutes) + len(b.Zones) + len(b.Stock) + len(b.Customers) + len(b.Inbound) + len(b.Orders)
}

// Read reads the files. Which file is which is told by its columns, not its name.
// Faults of form are in the batch; Read itself never fails. step is called now and
// then with the number of bytes read.
func Read(files []File, step func(done int)) *Batch {
	b := &Batch{Names: map[Kind]string{}}
	done := 0
	for _, f := range files {
		b.read(f, func(at int) { step(done + at) })
		done += len(f.Data)
	}
	step(done)
	return b
}

func (b *Batch) read(f File, step func(int)) {
	data := bytes.TrimPrefix(f.Data, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(data) {
		b.Fault(Fault{File: f.Name, Expected: "text in UTF-8: save the file as “CSV UTF-8”"})
		return
	}
	first, _, _ := bytes.Cut(data, []byte("\n"))
	r := csv.NewReader(bytes.NewReader(data))
	r.FieldsPerRecord = -1
	r.ReuseRecord = true
	if bytes.Count(first, []byte(";")) > bytes.Count(first, []byte(",")) {
		r.Comma = ';'
	}
	header, err := r.Read()
	if err != nil {
		b.Fault(Fault{File: f.Name, Expected: "a first row with the names of the columns"})
		return
	}
	names := make([]string, len(header))
	for i, h := range header {
		names[i] = strings.ToLower(strings.TrimSpace(h))
		if names[i] != "" && slices.Index(names, names[i]) < i {
			b.Fault(Fault{File: f.Name, Row: 1, Column: names[i], Expected: "each column once"})
			return
		}
	}
	kind, err := kindOf(names)
	if err != nil {
		b.Fault(Fault{File: f.Name, Row: 1, Expected: err.Error()})
		return
	}
	if other, twice := b.Names[kind]; twice {
		b.Fault(Fault{File: f.Name, Expected: fmt.Sprintf("one file of %s; %s is one already", kind, other)})
		return
	}
	b.Names[kind] = f.Name
	s := sheet{b: b, name: f.Name, r: r, names: names, decimalComma: r.Comma == ';', step: step}
	switch kind {
	case Items:
		b.Items = readRows(s, itemColumns)
	case Substitutes:
		b.Substitutes = readRows(s, substituteColumns)
	case Zones:
		b.Zones = readRows(s, zoneColumns)
	case Stock:
		b.Stock = readRows(s, stockColumns)
	case Customers:
		b.Customers = readRows(s, customerColumns)
	case Inbound:
		b.Inbound = readRows(s, inboundColumns)
	case Orders:
		b.Orders = readRows(s, orderColumns)
	}
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
	return "", errors.New("the columns of one of the seven files: items (sku, name), substitutes (sku, substitute), zones (zone, days), stock (warehouse, sku, on_hand), " +
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
	b            *Batch
	name         string
	r            *csv.Reader
	names        []string
	decimalComma bool
	step         func(int)
}

func readRows[T any](s sheet, columns []column[T]) []Row[T] {
	at := make([]*column[T], len(s.names))
	for i, n := range s.names {
		k := slices.IndexFunc(columns, func(c column[T]) bool { return c.name == n })
		switch {
		case k >= 0:
			at[i] = &columns[k]
		case n != "":
			s.b.Fault(Fault{File: s.name, Row: 1, Column: n, Expected: "one of the columns " + columnNames(columns)})
			return nil
		}
	}
	for _, c := range columns {
		if c.required && !slices.Contains(s.names, c.name) {
			s.b.Fault(Fault{File: s.name, Row: 1, Column: c.name, Expected: "this column to be there"})
			return nil
		}
	}
	var rows []Row[T]
	for {
		rec, err := s.r.Read()
		if errors.Is(err, io.EOF) {
			return rows
		}
		line, _ := s.r.FieldPos(0)
		if err != nil {
			var pe *csv.ParseError
			if errors.As(err, &pe) {
				line = pe.StartLine
			}
			s.b.Fault(Fault{File: s.name, Row: line, Expected: "quotes that are closed, and doubled inside a quoted field"})
			return nil
		}
		if len(rows)%2000 == 0 {
			s.step(int(s.r.InputOffset()))
		}
		if blank(rec) {
			continue
		}
		if len(rec) != len(s.names) {
			s.b.Fault(Fault{File: s.name, Row: line, Got: fmt.Sprintf("%d fields", len(rec)), Expected: fmt.Sprintf("%d, as in the header", len(s.names))})
			continue
		}
		row := Row[T]{N: line}
		for i, text := range rec {
			c := at[i]
			if c == nil {
				continue
			}
			text = strings.Clone(strings.TrimSpace(text))
			if text == "" {
				if c.required {
					s.b.Fault(Fault{File: s.name, Row: line, Column: c.name, Expected: "a value; it may not be empty"})
				}
				continue
			}
			if s.decimalComma && strings.Count(text, ",") == 1 && isNumber(text) {
				text = strings.Replace(text, ",", ".", 1)
			}
			if err := c.set(&row.V, text); err != nil {
				s.b.Fault(Fault{File: s.name, Row: line, Column: c.name, Got: text, Expected: err.Error()})
			}
		}
		rows = append(rows, row)
	}
}

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
