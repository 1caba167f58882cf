package book

import (
	"slices"
	"strings"
	"testing"
)

func TestWhatIsTakenIsGoneFromTheBook(t *testing.T) {
	text := `{"format":"journeyman-book/1","today":"2027-03-01","items":[{"sku":"A"}],
		"stock":[{"sku":"A","warehouse":"W","on_hand":40,"held":2},{"sku":"A","warehouse":"V","on_hand":10}],
		"orders":[{"order":"1","lines":[{"line":1,"sku":"A","warehouse":"W","also":["V"],"ordered":30,"at":{"allocated":5},
			"promises":[{"qty":8,"day":"2027-03-02","warehouse":"W"},{"qty":9,"day":"2027-03-05","warehouse":"V"}]}]},
			{"order":"2","lines":[{"line":1,"sku":"A","warehouse":"W","ordered":6,"promises":[{"qty":6,"day":"2027-03-03","warehouse":"W"}]}]}]}`
	b, err := Read(strings.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	w, _ := b.CellOf("A", "W")
	v, _ := b.CellOf("A", "V")
	after := b.WithTaken([]Taken{{Line: 0, Cell: w, Qty: 7}, {Line: 0, Cell: v, Qty: 4}, {Line: 1, Cell: w, Qty: 6}})
	if got := after.Cells[w].Free(); got != 40-2-5-7-6 {
		t.Errorf("free at W are %d", got)
	}
	if got := after.Cells[v].Free(); got != 6 {
		t.Errorf("free at V are %d", got)
	}
	if after.Lines[0].Open != 14 || after.Lines[1].Open != 0 {
		t.Errorf("open are %d and %d", after.Lines[0].Open, after.Lines[1].Open)
	}
	// Eleven use up the eight of the 2nd, and three of the nine of the 5th.
	if got := after.PromisesOf(0); len(got) != 1 || got[0].Qty != 6 || got[0].Cell != v {
		t.Errorf("promised is still %+v", got)
	}
	if len(after.PromisesOf(1)) != 0 || after.Eligible(1) || !after.Eligible(0) {
		t.Errorf("the second line has %+v left to serve", after.PromisesOf(1))
	}
	// The book it was taken from is as it was.
	if b.Lines[0].Open != 25 || b.Cells[w].Free() != 33 || len(b.PromisesOf(0)) != 2 ||
		!slices.Equal(b.PromisesOf(1), []Promise{{Qty: 6, Cell: w, Day: b.Today + 2}}) {
		t.Error("the book itself was changed")
	}
}
