package journey

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"testing"
)

func TestEachMoveDoesWhatTheTableSays(t *testing.T) {
	// CORE section 1, the table of moves: stations and the stock of item and warehouse.
	cases := []struct {
		move                     Move
		onHand, held, free, bins Qty
	}{
		{Make(Allocate, 3), 0, 0, -3, 0},
		{Make(GiveBack, 3), 0, 0, +3, 0},
		{Make(Release, 3), 0, 0, 0, 0},
		{Make(Recall, 3), 0, 0, 0, 0},
		{Make(Pick, 3), 0, 0, 0, -3},
		{MakeShort(Missing, 3), -3, 0, 0, -3},
		{MakeShort(Damaged, 3), 0, +3, 0, 0},
		{MakeShort(Elsewhere, 3), 0, 0, +3, 0},
		{Make(Pack, 3), 0, 0, 0, 0},
		{Make(Unpack, 3), 0, 0, 0, 0},
		{MakePutBack(Picked, Allocated, 3), 0, 0, 0, +3},
		{MakePutBack(Picked, Open, 3), 0, +3, 0, +3},
		{MakePutBack(Packed, Dropped, 3), 0, +3, 0, +3},
		{Make(Dispatch, 3), -3, 0, 0, 0},
		{Make(Void, 3), +3, 0, 0, 0},
		{Make(Deliver, 3), 0, 0, 0, 0},
		{Make(Lose, 3), 0, 0, 0, 0},
		{Make(Drop, 3), 0, 0, 0, 0},
		{Make(Reopen, 3), 0, 0, 0, 0},
		{Make(Receive, 3), +3, 0, +3, +3},
		{Make(Gain, 3), +3, 0, +3, +3},
		{Make(Loss, 3), -3, 0, -3, -3},
		{Make(Set, 3), 0, +3, -3, 0},
		{Make(Unset, 3), 0, -3, +3, 0},
		{Make(Enter, 3), 0, 0, 0, 0},
		{Make(Reduce, 3), 0, 0, 0, 0},
	}
	for _, c := range cases {
		t.Run(fmt.Sprintf("%s %s-%s %s", c.move.Kind, c.move.From, c.move.To, c.move.Cause), func(t *testing.T) {
			l, p, cell := full()
			before := cell
			bl := l
			if err := Apply(&l, &p, &cell, c.move); err != nil {
				t.Fatal(err)
			}
			if cell.OnHand-before.OnHand != c.onHand || cell.Held-before.Held != c.held ||
				cell.Free()-before.Free() != c.free || cell.Binned()-before.Binned() != c.bins {
				t.Errorf("on hand %+d held %+d free %+d bins %+d", cell.OnHand-before.OnHand, cell.Held-before.Held,
					cell.Free()-before.Free(), cell.Binned()-before.Binned())
			}
			r, err := c.move.Rule()
			if err != nil {
				t.Fatal(err)
			}
			if Qty(r.Binned())*3 != c.bins {
				t.Errorf("the rule moves %d a unit in the bins, the cell says %d for 3", r.Binned(), c.bins)
			}
			if c.move.From != Outside && bl.At[c.move.From]-l.At[c.move.From] != 3 {
				t.Errorf("%s fell by %d", c.move.From, bl.At[c.move.From]-l.At[c.move.From])
			}
			if c.move.To != Outside && l.At[c.move.To]-bl.At[c.move.To] != 3 {
				t.Errorf("%s rose by %d", c.move.To, l.At[c.move.To]-bl.At[c.move.To])
			}
		})
	}
}

// full is a line with ten units at every station, all in one warehouse.
func full() (Line, Place, Cell) {
	var l Line
	var p Place
	for s := range Stations {
		l.At[s] = 10
		l.Ordered += 10
		if Station(s).InHouse() {
			p[s] = 10
		}
	}
	return l, p, Cell{OnHand: 60, Held: 10, At: p}
}

func TestWhatIsNotThereCannotMove(t *testing.T) {
	for _, r := range Rules {
		l, p, c := full()
		bl, bp, bc := l, p, c
		err := Apply(&l, &p, &c, Move{r.Kind, r.From, r.To, r.Cause, 11})
		grows := r.From == Outside && r.OnHand >= 0 && r.Held >= 0 && r.Kind != Set
		if grows != (err == nil) {
			t.Errorf("%s 11 of 10: %v", r.Kind, err)
		}
		if err != nil && (l != bl || p != bp || c != bc) {
			t.Errorf("%s was refused and changed something", r.Kind)
		}
	}
}

func TestIllegalMovesAreRefused(t *testing.T) {
	for _, k := range []Kind{Enter, Allocate, Pick, Short, PutBack, Dispatch, Receive} {
		for from := Open; from <= Outside; from++ {
			for to := Open; to <= Outside; to++ {
				m := Move{k, from, to, NoCause, 1}
				if _, err := m.Rule(); err == nil {
					continue
				}
				l, p, c := full()
				if err := Apply(&l, &p, &c, m); !errors.Is(err, ErrIllegal) {
					t.Errorf("%s %s-%s: %v", k, from, to, err)
				}
			}
		}
	}
	l, p, c := full()
	for _, q := range []Qty{0, -1} {
		if err := Apply(&l, &p, &c, Make(Allocate, q)); !errors.Is(err, ErrIllegal) {
			t.Errorf("allocate %d: %v", q, err)
		}
	}
	if err := Apply(&l, nil, nil, Make(Allocate, 1)); !errors.Is(err, ErrIllegal) {
		t.Errorf("allocate without stock: %v", err)
	}
}

func TestUnitsOfAnotherWarehouseStayThere(t *testing.T) {
	l, p, c := full()
	p[Allocated] = 0 // the line's allocated units stand in another warehouse
	if err := Apply(&l, &p, &c, Make(Release, 1)); !errors.Is(err, ErrTooMany) {
		t.Errorf("released a unit that is not here: %v", err)
	}
}

// world is a few lines competing for one item in two warehouses.
type world struct {
	lines  [4]Line
	places [4][2]Place
	cells  [2]Cell
}

func (w *world) sound() error {
	for i := range w.lines {
		if err := w.lines[i].Sound(); err != nil {
			return fmt.Errorf("line %d: %w", i, err)
		}
		for s := Allocated; s <= Packed; s++ {
			if got := w.places[i][0][s] + w.places[i][1][s]; got != w.lines[i].At[s] {
				return fmt.Errorf("line %d: %s is %d, its places hold %d", i, s, w.lines[i].At[s], got)
			}
		}
	}
	for h := range w.cells {
		if err := w.cells[h].Sound(); err != nil {
			return fmt.Errorf("cell %d: %w", h, err)
		}
		for s := Allocated; s <= Packed; s++ {
			var sum Qty
			for i := range w.lines {
				sum += w.places[i][h][s]
			}
			if sum != w.cells[h].At[s] {
				return fmt.Errorf("cell %d: %s is %d, its lines hold %d", h, s, w.cells[h].At[s], sum)
			}
		}
	}
	return nil
}

func TestRandomMovesNeverLoseOrDoubleAUnit(t *testing.T) {
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 7))
		var w world
		var came, gone Qty // stock that entered, and that left for good
		for i := range w.lines {
			must(t, Apply(&w.lines[i], nil, nil, Make(Enter, Qty(1+r.IntN(50)))))
		}
		done := 0
		for range 400 {
			i, h := r.IntN(len(w.lines)), r.IntN(len(w.cells))
			rule := Rules[r.IntN(len(Rules))]
			m := Move{rule.Kind, rule.From, rule.To, rule.Cause, Qty(1 + r.IntN(12))}
			if r.IntN(20) == 0 { // and now and then nonsense
				m.From, m.To = Station(r.IntN(9)), Station(r.IntN(9))
			}
			before := w
			err := Apply(&w.lines[i], &w.places[i][h], &w.cells[h], m)
			if err != nil {
				if w != before {
					t.Fatalf("seed %d: %v was refused and changed something", seed, m)
				}
				if !errors.Is(err, ErrIllegal) && !errors.Is(err, ErrTooMany) {
					t.Fatalf("seed %d: %v", seed, err)
				}
				continue
			}
			done++
			used, _ := m.Rule()
			if d := Qty(used.OnHand) * m.Qty; d > 0 {
				came += d
			} else {
				gone -= d
			}
			if err := w.sound(); err != nil {
				t.Fatalf("seed %d: after %v: %v", seed, m, err)
			}
			if w.cells[0].OnHand+w.cells[1].OnHand != came-gone {
				t.Fatalf("seed %d: after %v: on hand %d, came %d, gone %d", seed, m, w.cells[0].OnHand+w.cells[1].OnHand, came, gone)
			}
			if back, ok := m.Inverse(); ok {
				undone := w
				must(t, Apply(&undone.lines[i], &undone.places[i][h], &undone.cells[h], back))
				if undone != before {
					t.Fatalf("seed %d: undo of %v does not restore", seed, m)
				}
			}
		}
		if done < 20 {
			t.Fatalf("seed %d: only %d moves were possible, the test shows little", seed, done)
		}
	}
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func TestALineIsFinishedWhenAllIsDeliveredOrDropped(t *testing.T) {
	l := Line{Ordered: 5}
	l.At[Delivered], l.At[Shipped] = 3, 2
	if l.Finished() {
		t.Error("two units are still on the way")
	}
	l.At[Dropped], l.At[Shipped] = 2, 0
	if !l.Finished() {
		t.Error("nothing is left to do")
	}
}

func TestStationNamesReadBack(t *testing.T) {
	for s := Open; s <= Outside; s++ {
		if got, err := ParseStation(s.String()); err != nil || got != s {
			t.Errorf("%s: %v %v", s, got, err)
		}
	}
	if _, err := ParseStation("nowhere"); err == nil {
		t.Error("nowhere is a station")
	}
}

func ExampleApply() {
	line := Line{Ordered: 10, At: Counts{Open: 10}}
	var here Place
	shelf := Cell{OnHand: 8, Held: 1}
	fmt.Println(Apply(&line, &here, &shelf, Make(Allocate, 8)))
	fmt.Println(Apply(&line, &here, &shelf, Make(Allocate, 7)))
	fmt.Println(line.At[Open], line.At[Allocated], shelf.Free(), shelf.OnHand)
	// Output:
	// allocate 8, free are 7: more than there is
	// <nil>
	// 3 7 0 8
}
