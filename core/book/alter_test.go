package book

import (
	"reflect"
	"testing"

	"journeyman/core/days"
)

func altered(t *testing.T) *Book {
	t.Helper()
	today := days.Date(2027, 3, 1)
	cal, err := days.NewCalendar(days.Weekdays, nil)
	if err != nil {
		t.Fatal(err)
	}
	d := NewBuilder(today, cal)
	it, err := d.Item("A", 1, 5, true)
	if err != nil {
		t.Fatal(err)
	}
	c := d.Cell(it, d.Warehouse("W"))
	if err := d.Stock(c, 20, 3); err != nil {
		t.Fatal(err)
	}
	for _, number := range []string{"1", "2"} {
		o, err := d.Order(Order{Number: number, Tier: 2, Urgency: 3})
		if err != nil {
			t.Fatal(err)
		}
		for no := range int32(2) {
			if err := d.Line(NewLine{
				Order: o, No: no + 1, Cell: c, Ordered: 9, Open: 9, ShipBy: today,
				Promises: []Promise{{Qty: 4, Cell: c, Day: today + 3}, {Qty: 5, Cell: c, Day: today + 8}},
			}); err != nil {
				t.Fatal(err)
			}
		}
	}
	b, err := d.Book()
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func TestABookIsAlteredAndPutBack(t *testing.T) {
	t.Parallel()
	b := altered(t)
	whole := b.Clone()
	open, day, tier, onHand := int64(6), b.Today+2, uint8(5), int64(8)
	restore := b.Alter(Change{Line: 1, Open: &open, ShipBy: &day, Tier: &tier, OnHand: &onHand})
	l := b.Lines[1]
	if l.Open != 6 || l.Ordered != 6 || l.ShipBy != day || b.Orders[l.Order].Tier != 5 || b.Cells[0].Free() != 5 {
		t.Errorf("altered %+v of tier %d, %d free", l, b.Orders[l.Order].Tier, b.Cells[0].Free())
	}
	// What is promised beyond what is open is cut, the latest first; other lines keep theirs.
	if ps := b.PromisesOf(1); ps[0].Qty != 4 || ps[1].Qty != 2 {
		t.Errorf("promises %+v", ps)
	}
	if ps := b.PromisesOf(0); ps[0].Qty != 4 || ps[1].Qty != 5 {
		t.Errorf("the promises of another line are %+v", ps)
	}
	restore()
	if !reflect.DeepEqual(b, whole) {
		t.Error("put back it is not what it was")
	}
	none := int64(0)
	restore = b.Alter(Change{Line: 0, Open: &none})
	if b.Eligible(0) || !b.Eligible(1) {
		t.Error("a line of which nothing is open is served")
	}
	restore()
	if !b.Eligible(0) || !reflect.DeepEqual(b, whole) {
		t.Error("put back it is not what it was")
	}
}

func TestAClonedBookIsOfItsOwn(t *testing.T) {
	t.Parallel()
	b := altered(t)
	open, onHand, tier := int64(1), int64(3), uint8(1)
	c := b.Clone()
	c.Alter(Change{Line: 0, Open: &open, Tier: &tier, OnHand: &onHand})
	if b.Lines[0].Open != 9 || b.Cells[0].OnHand != 20 || b.Orders[0].Tier != 2 || b.PromisesOf(0)[1].Qty != 5 {
		t.Error("altering the clone altered the book")
	}
}

func TestABookWithoutSomePromises(t *testing.T) {
	t.Parallel()
	b := altered(t)
	p := b.PromisesOf(2)[0]
	w := b.Without(map[int32][]Promise{2: {p}})
	if ps := w.PromisesOf(2); len(ps) != 1 || ps[0].Qty != 5 {
		t.Errorf("left are %+v", ps)
	}
	if len(w.PromisesOf(1)) != 2 || len(w.PromisesOf(3)) != 2 || len(b.PromisesOf(2)) != 2 {
		t.Error("the promises of other lines, or of the book itself, changed")
	}
	if b.Without(nil) != b {
		t.Error("without nothing it is the book itself")
	}
}
