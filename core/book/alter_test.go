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

func TestABookWithAChange(t *testing.T) {
	t.Parallel()
	b, whole := altered(t), altered(t)
	open, day, tier, onHand := int64(6), b.Today+2, uint8(5), int64(8)
	x := b.With(Change{Line: 1, Open: &open, ShipBy: &day, Tier: &tier, OnHand: &onHand})
	l := x.Lines[1]
	if l.Open != 6 || l.Ordered != 6 || l.ShipBy != day || x.Orders[l.Order].Tier != 5 || x.Cells[0].Free() != 5 {
		t.Errorf("changed %+v of tier %d, %d free", l, x.Orders[l.Order].Tier, x.Cells[0].Free())
	}
	// What is promised beyond what is open is cut, the latest first; other lines keep theirs.
	if ps := x.PromisesOf(1); ps[0].Qty != 4 || ps[1].Qty != 2 {
		t.Errorf("promises %+v", ps)
	}
	if ps := x.PromisesOf(0); ps[0].Qty != 4 || ps[1].Qty != 5 {
		t.Errorf("promises of another line %+v", ps)
	}
	if !reflect.DeepEqual(b, whole) {
		t.Error("the book itself has changed")
	}
	none := int64(0)
	if y := b.With(Change{Line: 0, Open: &none}); y.Eligible(0) || !y.Eligible(1) || y.PromisesOf(0)[0].Qty != 0 {
		t.Errorf("a line of which nothing is open: %+v", y.Lines[0])
	}
	if y := b.With(Change{}); !reflect.DeepEqual(y, whole) {
		t.Error("no change has changed the book")
	}
}
