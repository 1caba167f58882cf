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
	used := map[int32]bool{}
	for i, e := range s.entries {
		var goes []string
		for d := max(e.From, s.b.Today-1) + 1; d <= s.last; d++ {
			if !s.b.CalendarOf(s.ask.Cell).Works(d) {
				continue
			}
			v := fmt.Sprintf("m%dx%d", i, d-s.b.Today)
			goes, bins = append(goes, v), append(bins, v)
			if s.ask.Harm == Days {
				cost = append(cost, fmt.Sprintf("%d %s", int64(s.b.Lines[e.Line].Weight)*int64(d-e.From), v))
			} else {
				once = append(once, fmt.Sprintf("%s - w%d <= 0", v, e.Line))
			}
			for day := max(e.From, s.b.Today); day < d; day++ {
				if k := int(day - s.b.Today); k < horizon {
					cover[k] = append(cover[k], fmt.Sprintf("%d %s", e.Qty, v))
				}
			}
		}
		if len(goes) > 0 {
			once = append(once, strings.Join(goes, " + ")+" <= 1")
		}
		if s.ask.Harm != Days && !used[e.Line] {
			used[e.Line] = true
			cost, bins = append(cost, fmt.Sprintf("%d w%d", s.b.Lines[e.Line].Weight, e.Line)), append(bins, fmt.Sprintf("w%d", e.Line))
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

func TestTheReferenceSolverFindsNoLessHarm(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 9))
	var answers []Answer
	var programs []string
	for len(programs) < 160 {
		b, ask := competing(r, 12+r.IntN(12))
		ask.Harm = []Harm{Number, Days}[len(programs)%2]
		a := Find(b, ask)
		if a.Fits || !a.Possible {
			continue
		}
		answers, programs = append(answers, a), append(programs, program(newSlow(b, ask)))
	}
	for n, least := range reference.Optima(t, programs) {
		if a := answers[n]; a.Harm != least || a.Bound != least || !a.Proved {
			t.Errorf("case %d: harm %d, bound %d; the solver says %d", n, a.Harm, a.Bound, least)
		}
	}
}
