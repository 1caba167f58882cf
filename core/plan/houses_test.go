package plan

import (
	"testing"
	"time"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/policy"
)

// twoHouses is a book in which HL works from Monday to Friday and EG from Tuesday to Saturday.
// They are added in the order that sorting turns round.
func twoHouses(t *testing.T, rule book.Rule, lines ...book.NewLine) *book.Book {
	t.Helper()
	week, err := days.NewCalendar(days.Weekdays, nil)
	if err != nil {
		t.Fatal(err)
	}
	late, err := days.NewCalendar([]time.Weekday{time.Tuesday, time.Wednesday, time.Thursday, time.Friday, time.Saturday}, nil)
	if err != nil {
		t.Fatal(err)
	}
	monday := days.Date(2027, 3, 1)
	b := book.NewBuilder(monday, week)
	hl, eg := b.Warehouse("HL"), b.Warehouse("EG")
	b.Works(eg, late)
	item, err := b.Item("G1", 1, 0, false)
	if err != nil {
		t.Fatal(err)
	}
	cells := []int32{b.Cell(item, hl), b.Cell(item, eg)}
	for _, c := range cells {
		if err := b.Stock(c, 10, 0); err != nil {
			t.Fatal(err)
		}
		if err := b.Receipt(c, days.Date(2027, 3, 6), 20); err != nil { // a Saturday
			t.Fatal(err)
		}
	}
	o, err := b.Order(book.Order{Number: "S1", Tier: 1, Urgency: 3, Rule: rule})
	if err != nil {
		t.Fatal(err)
	}
	for i, l := range lines {
		l.Order, l.No, l.Cell, l.Ordered = o, int32(i+1), cells[l.Cell], l.Open
		for j := range l.Others {
			l.Others[j] = cells[l.Others[j]]
		}
		if err := b.Line(l); err != nil {
			t.Fatal(err)
		}
	}
	bk, err := b.Book()
	if err != nil {
		t.Fatal(err)
	}
	return bk
}

func TestEachWarehouseWorksOnItsOwnDays(t *testing.T) {
	type given struct {
		house, day string
		qty        int64
	}
	for _, c := range []struct {
		name  string
		rule  book.Rule
		lines []book.NewLine
		want  [][]given
	}{
		{
			"a receipt of Saturday counts at once where Saturday is worked, and on Monday elsewhere", book.Any,
			[]book.NewLine{{Cell: 0, Open: 25}, {Cell: 1, Open: 25}},
			[][]given{{{"HL", "2027-03-01", 10}, {"HL", "2027-03-08", 15}}, {{"EG", "2027-03-02", 10}, {"EG", "2027-03-06", 15}}},
		},
		{
			"what another warehouse has is not taken on a day on which it is closed", book.Any,
			[]book.NewLine{{Cell: 0, Open: 14, Others: []int32{1}}},
			[][]given{{{"HL", "2027-03-01", 10}, {"EG", "2027-03-02", 4}}},
		},
		{
			"a whole order leaves on a day on which all its warehouses work", book.Whole,
			[]book.NewLine{{Cell: 0, Open: 5}, {Cell: 1, Open: 25}},
			[][]given{{{"HL", "2027-03-09", 5}}, {{"EG", "2027-03-09", 25}}},
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			b := twoHouses(t, c.rule, c.lines...)
			p := Promise(b, PromiseOptions{Keys: []policy.Key{policy.Entered}})
			for i, want := range c.want {
				var got []given
				for _, x := range p.PromisesOf(int32(i)) {
					got = append(got, given{b.Warehouses[b.Cells[x.Cell].Warehouse], x.Day.String(), x.Qty})
				}
				if len(got) != len(want) {
					t.Fatalf("line %d: %v, want %v", i+1, got, want)
				}
				for j := range got {
					if got[j] != want[j] {
						t.Errorf("line %d: %v, want %v", i+1, got, want)
					}
				}
			}
		})
	}
}
