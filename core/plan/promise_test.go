package plan

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"journeyman/core/book"
	"journeyman/core/days"
	"journeyman/core/policy"
)

// worked is the book of CORE's worked answers.
func worked(t testing.TB) *book.Book {
	t.Helper()
	f, err := os.Open(filepath.Join("..", "..", "examples", "book-1.json"))
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = f.Close() }()
	b, err := book.Read(f)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// tell writes what a plan promises, a line of text for each order line.
func tell(b *book.Book, p *Plan) string {
	var s []string
	for i := range b.Lines {
		l := &b.Lines[i]
		if l.Open == 0 {
			continue
		}
		var parts []string
		for _, x := range p.PromisesOf(int32(i)) {
			parts = append(parts, fmt.Sprintf("%d %s %s", x.Qty, b.Warehouses[b.Cells[x.Cell].Warehouse], x.Day.String()[5:]))
		}
		if n := p.Lines[i].Short; n > 0 {
			parts = append(parts, fmt.Sprintf("short %d", n))
		}
		s = append(s, fmt.Sprintf("%s/%d: %s", b.Orders[l.Order].Number, l.No, strings.Join(parts, ", ")))
	}
	return strings.Join(s, "\n")
}

func TestThePromisesOfTheWorkedBook(t *testing.T) {
	keys := []policy.Key{policy.Tier, policy.Entered}
	for _, c := range []struct {
		why     string
		options PromiseOptions
		want    string
	}{
		{"afresh", PromiseOptions{Keys: keys}, `S1/1: 50 HL 03-17
S2/1: 76 HL 03-04, 14 HL 03-08
S3/1: 85 HL 03-17
S3/2: short 1
S4/1: 2 HL 03-08
S4/2: 10 HL 03-08`},
		{"keep", PromiseOptions{Keys: keys, Keep: true}, `S1/1: 50 HL 03-03
S2/1: 26 HL 03-04, 64 HL 03-17
S3/1: 85 HL 03-17
S3/2: short 1
S4/1: 2 HL 03-08
S4/2: 10 HL 03-08`},
	} {
		b := worked(t)
		if got := tell(b, Promise(b, c.options)); got != c.want {
			t.Errorf("%s:\n%s\nwant\n%s", c.why, got, c.want)
		}
	}
}

// J. R. Jackson 1955: on one machine, serving by the earliest due date makes the greatest lateness least. The machine is an item
// of which one unit arrives a day, a job a line that goes whole; every order of the jobs is tried.
func TestServingByShipByMakesTheGreatestLatenessLeast(t *testing.T) {
	t.Parallel()
	lateness := func(lengths, due []int, turn []int) days.Day {
		today := days.Date(2027, 3, 1)
		d := book.NewBuilder(today, days.Calendar{})
		item, _ := d.Item("A", 1, 0, false)
		cell := d.Cell(item, d.Warehouse("W"))
		for day := range 60 {
			must(d.Receipt(cell, today+days.Day(day+1), 1))
		}
		for i, at := range turn {
			o, _ := d.Order(book.Order{Number: fmt.Sprint(i), Tier: 1, Urgency: 3, Rule: book.Lines, Entered: int64(at)})
			must(d.Line(book.NewLine{Order: o, No: 1, Cell: cell, Ordered: int64(lengths[i]), Open: int64(lengths[i]), ShipBy: today}))
		}
		b, err := d.Book()
		must(err)
		p := Promise(b, PromiseOptions{Keys: []policy.Key{policy.Entered}})
		worst := days.Day(-1000)
		for i := range b.Lines {
			ps := p.PromisesOf(int32(i))
			worst = max(worst, ps[len(ps)-1].Day-today-days.Day(due[i]))
		}
		return worst
	}
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(seed, 77))
		n := 2 + r.IntN(4)
		lengths, due, byDue := make([]int, n), make([]int, n), make([]int, n)
		for i := range n {
			lengths[i], due[i], byDue[i] = 1+r.IntN(8), 1+r.IntN(25), i
		}
		slices.SortStableFunc(byDue, func(x, y int) int { return due[x] - due[y] })
		turn := make([]int, n)
		for at, i := range byDue {
			turn[i] = at
		}
		earliest := lateness(lengths, due, turn)
		var try func(k int)
		try = func(k int) {
			if k == n {
				if worst := lateness(lengths, due, turn); worst < earliest {
					t.Fatalf("seed %d: by due date the greatest lateness is %d, in the order %v it is %d", seed, earliest, turn, worst)
				}
				return
			}
			for i := k; i < n; i++ {
				turn[k], turn[i] = turn[i], turn[k]
				try(k + 1)
				turn[k], turn[i] = turn[i], turn[k]
			}
		}
		try(0)
	}
}
