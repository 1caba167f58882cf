package makeroom

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"journeyman/core/days"
	"journeyman/internal/reference"
)

// program is the question day by day as an integer program: each promise stays or goes to one later
// working day; on no day is there less than before, or than nothing.
func program(s *slow) string {
	var cost, once, bins []string
	cover := make([][]string, horizon)
	lead := s.b.Items[s.b.Cells[s.ask.Cell].Item].Lead
	used := map[string]bool{}
	harmed := func(e Move) (name string, weight int64) { // what is harmed once, however much of it is put back
		if s.ask.Harm == Customers {
			return "c" + s.b.Orders[s.b.Lines[e.Line].Order].Customer, 1
		}
		return fmt.Sprintf("w%d", e.Line), int64(s.b.Lines[e.Line].Weight)
	}
	for i, choice := range s.choices {
		var goes []string
		for _, d := range s.goes(choice) {
			v := fmt.Sprintf("m%dx%d", i, d-s.b.Today)
			goes, bins = append(goes, v), append(bins, v)
			for _, e := range choice {
				if name, _ := harmed(e); s.ask.Harm != Days {
					once = append(once, fmt.Sprintf("%s - %s <= 0", v, name))
				}
			}
			if s.ask.Harm == Days {
				cost = append(cost, fmt.Sprintf("%d %s", s.harm(moved(choice, d)), v))
			}
			for k := range min(horizon, int(d-s.b.Today)) { // a program names a variable once in a row
				units := int64(0)
				for _, e := range choice {
					if e.Cell == s.ask.Cell && max(e.From, s.b.Today) <= s.b.Today+days.Day(k) {
						units += e.Qty
					}
				}
				if units > 0 {
					cover[k] = append(cover[k], fmt.Sprintf("%d %s", units, v))
				}
			}
		}
		if len(goes) > 0 {
			once = append(once, strings.Join(goes, " + ")+" <= 1")
		}
		for _, e := range choice {
			if name, weight := harmed(e); s.ask.Harm != Days && !used[name] {
				used[name] = true
				cost, bins = append(cost, fmt.Sprintf("%d %s", weight, name)), append(bins, name)
			}
		}
	}
	var b strings.Builder
	b.WriteString("Minimize\n obj: 0 z + " + strings.Join(cost, " + ") + "\nSubject To\n c: z <= 1\n")
	for i, l := range once {
		fmt.Fprintf(&b, " o%d: %s\n", i, l)
	}
	for k := range s.before {
		day := s.b.Today + days.Day(k)
		if day < s.ask.By || day >= lead {
			continue
		}
		if lacks := min(0, s.before[k]) - s.before[k] + s.ask.Qty; lacks > 0 {
			fmt.Fprintf(&b, " d%d: 0 z + %s >= %d\n", k, strings.Join(append(cover[k], "0 z"), " + "), lacks)
		}
	}
	b.WriteString("Binary\n z " + strings.Join(bins, " ") + "\nEnd\n")
	return b.String()
}

// Of 300 books, every other one with orders that go only whole, each kind of harm.
func TestTheReferenceSolverFindsNoLessHarm(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 9))
	books := 300
	if testing.Short() {
		books = 60
	}
	var answers []Answer
	var programs []string
	for n := 0; n < books; {
		b, ask := competing(r, 12+r.IntN(12), n%2 == 1)
		if a := Find(b, ask); a.Fits || !a.Possible {
			continue
		}
		n++
		for _, ask.Harm = range []Harm{Number, Days, Customers} {
			answers, programs = append(answers, Find(b, ask)), append(programs, program(newSlow(b, ask)))
		}
	}
	for n, least := range reference.Optima(t, programs) {
		if a := answers[n]; a.Harm != least || a.Bound != least || !a.Proved {
			t.Errorf("book %d, harm %d of 3: harm %d, bound %d; the solver says %d", n/3, n%3+1, a.Harm, a.Bound, least)
		}
	}
}
