package release

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"journeyman/core/journey"
)

func TestCheckGivesTheFirstReason(t *testing.T) {
	ready := Candidate{Allocated: 5, ShipBy: 10, Rule: journey.ShipAny, HasBin: true}
	cases := []struct {
		why    string
		change func(*Candidate)
		want   Reason
	}{
		{"ready", func(*Candidate) {}, Offered},
		{"nothing allocated comes before everything", func(c *Candidate) { c.Allocated, c.Holds, c.HasBin = 0, 1, false }, Nothing},
		{"a hold comes before the date", func(c *Candidate) { c.Holds, c.ShipBy = 1, 99 }, OnHold},
		{"due tomorrow", func(c *Candidate) { c.ShipBy, c.HasBin = 11, false }, NotDue},
		{"it is due before its order may leave", func(c *Candidate) { c.Early, c.Rule, c.Open = true, journey.ShipLines, 3 }, Early},
		{"not due comes before not before", func(c *Candidate) { c.ShipBy, c.Early = 11, true }, NotDue},
		{"due today", func(c *Candidate) { c.ShipBy = 10 }, Offered},
		{"any sends what there is", func(c *Candidate) { c.Open, c.OrderOpen = 3, 3 }, Offered},
		{"lines waits for the rest of the line", func(c *Candidate) { c.Rule, c.Open, c.OrderOpen = journey.ShipLines, 3, 3 }, RuleLine},
		{"lines does not wait for another line", func(c *Candidate) { c.Rule, c.OrderOpen = journey.ShipLines, 3 }, Offered},
		{"whole waits for another line", func(c *Candidate) { c.Rule, c.OrderOpen = journey.ShipWhole, 3 }, RuleOrder},
		{"whole and complete", func(c *Candidate) { c.Rule = journey.ShipWhole }, Offered},
		{"still to be put back comes before its bin", func(c *Candidate) { c.Waiting, c.HasBin = true, false }, Waiting},
		{"no bin", func(c *Candidate) { c.HasBin = false }, NoBin},
	}
	for _, c := range cases {
		t.Run(c.why, func(t *testing.T) {
			cand := ready
			c.change(&cand)
			if got := Check(cand, 10); got != c.want {
				t.Errorf("got %q, want %q", got, c.want)
			}
		})
	}
}

func ids(s []Stop) string {
	var b []string
	for _, x := range s {
		b = append(b, x.Zone+":"+x.Bin)
	}
	return strings.Join(b, " ")
}

func TestWalkTurnsRoundInEverySecondAisle(t *testing.T) {
	stops := []Stop{
		{"B", "B-1-1"},
		{"A", "A-2-1"},
		{"", ""},
		{"A", "A-10-2"},
		{"A", "A-1-3"},
		{"A", "A-2-12"},
		{"A", "A-1-1"},
		{"A", "A-10-1"},
		{"A", "A-2-3"},
	}
	Walk(stops, func(s Stop) Stop { return s })
	want := "A:A-1-1 A:A-1-3 A:A-2-12 A:A-2-3 A:A-2-1 A:A-10-1 A:A-10-2 B:B-1-1 :"
	if got := ids(stops); got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func TestWalkIsTheSameForShuffledInputAndLosesNothing(t *testing.T) {
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 1))
		var stops []Stop
		for range 30 {
			z := string(rune('A' + r.IntN(3)))
			stops = append(stops, Stop{z, fmt.Sprintf("%s-%d-%d", z, 1+r.IntN(4), 1+r.IntN(12))})
		}
		a, b := slices.Clone(stops), slices.Clone(stops)
		r.Shuffle(len(b), func(i, j int) { b[i], b[j] = b[j], b[i] })
		Walk(a, func(s Stop) Stop { return s })
		Walk(b, func(s Stop) Stop { return s })
		if ids(a) != ids(b) {
			t.Fatalf("seed %d: order depends on the input", seed)
		}
		// Each zone and each aisle is entered once.
		seen := map[string]bool{}
		last := ""
		for _, s := range a {
			aisle, _ := s.aisle()
			if aisle != last && seen[aisle] {
				t.Fatalf("seed %d: aisle %s is walked twice: %s", seed, aisle, ids(a))
			}
			seen[aisle], last = true, aisle
		}
	}
}
