package book

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/core/journey"
)

// Format is the first word of a book file.
const Format = "journeyman-book/1"

// Read reads a book in its JSON form (docs/book.md) and checks all of it. The error is
// a *Fault with the path of what is wrong: an unknown or doubled field, a negative
// number, a sum that cannot be, something named that is not there. The places are those that will be asked about: a known item at
// a warehouse that the book names has a cell there, with nothing in it if no row says otherwise.
func Read(from io.Reader, asked ...Place) (*Book, error) {
	s := newScan(from)
	parts := map[string]json.RawMessage{}
	names := []string{"format", "today", "calendar", "warehouses", "items", "stock", "inbound", "orders"}
	err := s.object(func(name string) error {
		if !slices.Contains(names, name) {
			return unknown(names...)
		}
		raw, err := s.raw()
		parts[name] = raw
		return err
	})
	if err != nil {
		return nil, err
	}
	if _, err := s.dec.Token(); !errors.Is(err, io.EOF) {
		return nil, fault("something follows after the end of the book")
	}
	r := &reader{}
	for _, part := range []struct {
		name   string
		needed bool
		read   func(*scan) error
	}{
		{"format", true, r.format},
		{"today", true, func(s *scan) error { return s.day(&r.today) }},
		{"calendar", false, r.calendar},
		{"warehouses", false, r.warehouses},
		{"items", false, r.items},
		{"stock", false, r.stock},
		{"inbound", false, r.inbound},
		{"orders", false, r.orders},
	} {
		raw, given := parts[part.name]
		if !given && part.needed {
			return nil, under(fault("is missing"), part.name)
		}
		if part.name == "warehouses" {
			if !given && !r.hasCalendar {
				r.cal, _ = days.NewCalendar(days.Weekdays, nil)
			}
			r.b = NewBuilder(r.today, r.cal)
		}
		if given {
			if err := part.read(newScan(bytes.NewReader(raw))); err != nil {
				return nil, under(err, part.name)
			}
		}
		delete(parts, part.name)
	}
	for _, x := range asked {
		r.b.Place(x)
	}
	b, err := r.b.Book()
	var no *ImpossibleStock
	if errors.As(err, &no) {
		path := r.stockPath[[2]string{no.SKU, no.Warehouse}]
		if path == "" {
			path = "stock"
		}
		return nil, under(err, path)
	}
	if err != nil {
		return nil, under(err, "orders")
	}
	return b, nil
}

type reader struct {
	today       days.Day
	cal         days.Calendar
	hasCalendar bool
	b           *Builder
	stockPath   map[[2]string]string
	listed      map[string]bool // the warehouses, if the book lists them
}

// Place is an item at a warehouse.
type Place struct{ SKU, Warehouse string }

func (r *reader) format(s *scan) error {
	var v string
	if err := s.text(&v); err != nil {
		return err
	}
	if v != Format {
		return fault("%q is not a format that is known; %q is", v, Format)
	}
	// A book without a calendar works from Monday to Friday.
	var err error
	r.cal, err = days.NewCalendar(days.Weekdays, nil)
	return err
}

func (r *reader) calendar(s *scan) error {
	cal, err := readCalendar(s)
	r.cal, r.hasCalendar = cal, true
	return err
}

func readCalendar(s *scan) (days.Calendar, error) {
	work := days.Weekdays
	var closed []days.Day
	err := s.object(func(name string) error {
		switch name {
		case "workdays":
			work = nil
			return s.list(func() error {
				var v string
				if err := s.text(&v); err != nil {
					return err
				}
				for w := time.Sunday; w <= time.Saturday; w++ {
					if strings.ToLower(w.String()[:3]) == v {
						work = append(work, w)
						return nil
					}
				}
				return fault("%q is not a day of the week: mon, tue, wed, thu, fri, sat or sun", v)
			})
		case "closed":
			return s.list(func() error {
				var d days.Day
				err := s.day(&d)
				closed = append(closed, d)
				return err
			})
		}
		return unknown("workdays", "closed")
	})
	if err != nil {
		return days.Calendar{}, err
	}
	cal, err := days.NewCalendar(work, closed)
	return cal, under(err, "workdays")
}

// warehouses are names, or objects with a name and a calendar of their own.
func (r *reader) warehouses(s *scan) error {
	r.listed = map[string]bool{}
	return s.list(func() error {
		raw, err := s.raw()
		if err != nil {
			return err
		}
		var code string
		cal, own := r.cal, false
		if x := newScan(bytes.NewReader(raw)); raw[0] != '{' {
			err = x.name(&code)
		} else {
			err = x.object(func(name string) error {
				switch name {
				case "warehouse":
					return x.name(&code)
				case "calendar":
					own = true
					cal, err = readCalendar(x)
					return err
				}
				return unknown("warehouse", "calendar")
			})
			if err == nil && code == "" {
				err = under(fault("is missing"), "warehouse")
			}
		}
		if err != nil {
			return err
		}
		if r.listed[code] {
			return fault("warehouse %q stands there twice", code)
		}
		r.listed[code] = true
		house := r.b.Warehouse(code)
		if own {
			r.b.Works(house, cal)
		}
		return nil
	})
}

func (r *reader) items(s *scan) error {
	return s.list(func() error {
		var sku string
		multiple, lead, buyable := int64(1), int32(0), true
		err := s.object(func(name string) error {
			switch name {
			case "sku":
				return s.name(&sku)
			case "multiple":
				return s.whole(&multiple, 1, MostUnits)
			case "lead_days":
				return s.small(&lead, 0, MostLeadDays)
			case "buyable":
				return s.boolean(&buyable)
			}
			return unknown("sku", "multiple", "lead_days", "buyable")
		})
		if err == nil && sku == "" {
			err = under(fault("is missing"), "sku")
		}
		if err != nil {
			return err
		}
		_, err = r.b.Item(sku, multiple, int(lead), buyable)
		return under(err, "sku")
	})
}

// cell finds the cell that a row names by sku and warehouse, the latter in the field of that name.
func (r *reader) cell(sku, field, warehouse string) (int32, error) {
	switch {
	case sku == "":
		return 0, under(fault("is missing"), "sku")
	case warehouse == "":
		return 0, under(fault("is missing"), field)
	}
	item, err := r.b.ItemOf(sku)
	if err != nil {
		return 0, under(err, "sku")
	}
	if r.listed != nil && !r.listed[warehouse] {
		return 0, under(fault("%q is not among the warehouses of the book", warehouse), field)
	}
	return r.b.Cell(item, r.b.Warehouse(warehouse)), nil
}

func (r *reader) stock(s *scan) error {
	r.stockPath = map[[2]string]string{}
	n := 0
	return s.list(func() error {
		var sku, warehouse string
		var onHand, held int64
		err := s.object(func(name string) error {
			switch name {
			case "sku":
				return s.name(&sku)
			case "warehouse":
				return s.name(&warehouse)
			case "on_hand":
				return s.qty(&onHand)
			case "held":
				return s.qty(&held)
			}
			return unknown("sku", "warehouse", "on_hand", "held")
		})
		if err != nil {
			return err
		}
		cell, err := r.cell(sku, "warehouse", warehouse)
		if err != nil {
			return err
		}
		if held > onHand {
			return under(fault("%d are held, and only %d are on hand", held, onHand), "held")
		}
		r.stockPath[[2]string{sku, warehouse}] = fmt.Sprintf("stock[%d].on_hand", n)
		n++
		return r.b.Stock(cell, onHand, held)
	})
}

func (r *reader) inbound(s *scan) error {
	return s.list(func() error {
		var ref, sku, warehouse string
		var due days.Day
		var qty int64
		given := 0
		err := s.object(func(name string) error {
			switch name {
			case "ref":
				return s.text(&ref)
			case "sku":
				return s.name(&sku)
			case "warehouse":
				return s.name(&warehouse)
			case "due":
				given++
				return s.day(&due)
			case "qty":
				given++
				return s.qty(&qty)
			}
			return unknown("ref", "sku", "warehouse", "due", "qty")
		})
		if err != nil {
			return err
		}
		cell, err := r.cell(sku, "warehouse", warehouse)
		if err != nil {
			return err
		}
		if given < 2 {
			return fault("due and qty are both needed")
		}
		return r.b.Receipt(cell, due, qty)
	})
}

func (r *reader) orders(s *scan) error {
	return s.list(func() error {
		o := Order{Tier: 5, Urgency: 3}
		var lines json.RawMessage
		var holds int64
		err := s.object(func(name string) error {
			var n int64
			switch name {
			case "order":
				return s.name(&o.Number)
			case "customer":
				return s.text(&o.Customer)
			case "tier":
				err := s.whole(&n, 1, 5)
				o.Tier = uint8(n)
				return err
			case "urgency":
				err := s.whole(&n, 1, 5)
				o.Urgency = uint8(n)
				return err
			case "entered":
				return s.moment(&o.Entered)
			case "ship_rule":
				var v string
				if err := s.text(&v); err != nil {
					return err
				}
				rule, err := journey.ParseShipRule(v)
				o.Rule = RuleOf(rule)
				return err
			case "holds":
				return s.list(func() error { holds++; return s.name(new(string)) })
			case "lines":
				// The lines wait for the rest of their order, which they refer to.
				var err error
				lines, err = s.raw()
				return err
			}
			return unknown("order", "customer", "tier", "urgency", "entered", "ship_rule", "holds", "lines")
		})
		if err == nil && o.Number == "" {
			err = under(fault("is missing"), "order")
		}
		if err != nil {
			return err
		}
		o.Holds = int32(min(holds, 1000))
		k, err := r.b.Order(o)
		if err != nil {
			return under(err, "order")
		}
		if lines == nil {
			return nil
		}
		ls := newScan(bytes.NewReader(lines))
		seen := map[int32]bool{}
		return under(ls.list(func() error {
			no, err := r.line(ls, k)
			if err == nil && seen[no] {
				err = under(fault("line %d stands there twice", no), "line")
			}
			seen[no] = true
			return err
		}), "lines")
	})
}

// stations are the names under `at`; what stands at none of them is open.
var stations = []journey.Station{
	journey.Allocated, journey.Released, journey.Picked, journey.Packed, journey.Shipped, journey.Delivered, journey.Dropped,
}

func (r *reader) line(s *scan, order int32) (int32, error) {
	l := writtenLine{NewLine: NewLine{Order: order, ShipBy: r.today}}
	if err := s.object(func(name string) error { return l.member(s, name) }); err != nil {
		return 0, err
	}
	switch {
	case l.No == 0:
		return 0, under(fault("is missing"), "line")
	case !l.ordered:
		return 0, under(fault("is missing"), "ordered")
	}
	l.Open = l.Ordered - int64(l.at.Sum())
	if l.Open < 0 {
		return 0, under(fault("%d stand at stations, and only %d were ordered", l.at.Sum(), l.Ordered), "at")
	}
	if err := r.cellsOf(&l); err != nil {
		return 0, err
	}
	return l.No, r.b.Line(l.NewLine)
}

// writtenLine is a line as it is written, in names.
type writtenLine struct {
	NewLine
	ordered                     bool
	sku, warehouse, atWarehouse string
	also                        []string
	at                          journey.Counts
	promises                    []writtenPromise
}

type writtenPromise struct {
	qty       int64
	day       days.Day
	warehouse string
}

// member reads a member of a line.
func (l *writtenLine) member(s *scan, name string) error {
	switch name {
	case "line":
		return s.small(&l.No, 1, 1<<30)
	case "sku":
		return s.name(&l.sku)
	case "warehouse":
		return s.name(&l.warehouse)
	case "also":
		return s.list(func() error {
			var v string
			err := s.name(&v)
			l.also = append(l.also, v)
			return err
		})
	case "ordered":
		l.ordered = true
		return s.qty(&l.Ordered)
	case "ship_by":
		return s.day(&l.ShipBy)
	case "price":
		return s.whole(&l.Price, 0, MostPrice)
	case "weight":
		return s.small(&l.Weight, 1, 1_000_000)
	case "at_warehouse":
		return s.name(&l.atWarehouse)
	case "at":
		return s.object(func(name string) error {
			for _, st := range stations {
				if st.String() == name {
					return s.whole((*int64)(&l.at[st]), 0, MostUnits)
				}
			}
			return unknown("allocated", "released", "picked", "packed", "shipped", "delivered", "dropped")
		})
	case "promises":
		return s.list(func() error {
			p, err := readPromise(s)
			l.promises = append(l.promises, p)
			return err
		})
	}
	return unknown("line", "sku", "warehouse", "also", "ordered", "ship_by", "price", "weight", "at", "at_warehouse", "promises")
}

func readPromise(s *scan) (p writtenPromise, err error) {
	given := 0
	err = s.object(func(name string) error {
		switch name {
		case "qty":
			given++
			return s.whole(&p.qty, 0, MostUnits)
		case "day":
			given++
			return s.day(&p.day)
		case "warehouse":
			return s.name(&p.warehouse)
		}
		return unknown("qty", "day", "warehouse")
	})
	if err == nil && given < 2 {
		err = fault("qty and day are both needed")
	}
	return p, err
}

// cellsOf finds the cells that a line names: its own, the others that it may have units from, where what has left its own stands, and
// those of its promises.
func (r *reader) cellsOf(l *writtenLine) (err error) {
	if l.Cell, err = r.cell(l.sku, "warehouse", l.warehouse); err != nil {
		return err
	}
	for i, w := range l.also {
		where := fmt.Sprintf("also[%d]", i)
		cell, err := r.cell(l.sku, where, w)
		if err != nil {
			return err
		}
		if cell == l.Cell || slices.Contains(l.Others, cell) {
			return under(fault("%q is among its warehouses already", w), where)
		}
		l.Others = append(l.Others, cell)
	}
	stands := l.Cell
	if l.atWarehouse != "" {
		if stands, err = r.cell(l.sku, "at_warehouse", l.atWarehouse); err != nil {
			return err
		}
	}
	at := &l.at
	r.b.Use(stands, int64(at[journey.Allocated]+at[journey.Released]+at[journey.Picked]+at[journey.Packed]))
	for i, p := range l.promises {
		cell := l.Cell
		if p.warehouse != "" {
			if cell, err = r.cell(l.sku, fmt.Sprintf("promises[%d].warehouse", i), p.warehouse); err != nil {
				return err
			}
		}
		l.Promises = append(l.Promises, Promise{Qty: p.qty, Cell: cell, Day: p.day})
	}
	return nil
}
