package main

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"journeyman/core/plan"
)

// scarce is a book file in which orders want more of five items than there is.
func scarce(t *testing.T, seed uint64) string {
	t.Helper()
	r := rand.New(rand.NewPCG(seed, 5))
	var items, stock, orders []string
	for i := range 5 {
		items = append(items, fmt.Sprintf(`{"sku":"I%d","multiple":%d,"buyable":false}`, i, 1+r.IntN(3)))
		stock = append(stock, fmt.Sprintf(`{"sku":"I%d","warehouse":"HL","on_hand":%d}`, i, 20+r.IntN(40)))
	}
	for o := range 24 {
		var lines []string
		for n := range 1 + r.IntN(3) {
			q := 1 + r.IntN(12)
			lines = append(
				lines,
				fmt.Sprintf(
					`{"line":%d,"sku":"I%d","warehouse":"HL","ordered":%d,"ship_by":"2027-03-02","price":%d}`, n+1, r.IntN(5), q,
					1+r.IntN(900),
				),
			)
		}
		orders = append(orders, fmt.Sprintf(`{"order":"S%02d","customer":"C","tier":%d,"entered":"2027-02-%02d","ship_rule":%q,"lines":[%s]}`,
			o, 1+r.IntN(2), 1+o, []string{"any", "lines", "whole"}[r.IntN(3)], strings.Join(lines, ",")))
	}
	path := filepath.Join(t.TempDir(), "book.json")
	text := fmt.Sprintf(`{"format":"journeyman-book/1","today":"2027-03-01","calendar":{"workdays":["mon","tue","wed","thu","fri"],"closed":[]},"items":[%s],"stock":[%s],"inbound":[],"orders":[%s]}`,
		strings.Join(items, ","), strings.Join(stock, ","), strings.Join(orders, ","))
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// addUp is the bound of a group from what is printed: the smaller one of its two sums.
func addUp(g plan.ProofGroup) int64 {
	priced, alone := int64(0), int64(0)
	for c, cell := range g.Cells {
		priced += cell.Room * cell.Price
		best := make([]int64, cell.Room+1) // the worth of so much room
		for _, p := range g.Packs {
			if p.Cell != c {
				continue
			}
			priced += p.Qty * max(0, p.Each*g.Scale-cell.Price)
			before := append([]int64(nil), best...)
			for q := int64(1); q <= p.Qty; q++ {
				for x := q; (q%p.Pack == 0 || q == p.Qty) && x <= cell.Room; x++ {
					best[x] = max(best[x], before[x-q]+q*p.Each*g.Scale)
				}
			}
		}
		for _, w := range g.Wants {
			for _, n := range w.Needs {
				for x := cell.Room; n.Cell == c && x >= n.Qty; x-- {
					best[x] = max(best[x], best[x-n.Qty]+n.Part)
				}
			}
		}
		alone += best[cell.Room]
	}
	for _, w := range g.Wants {
		gain, parts := w.Worth*g.Scale, int64(0)
		for _, n := range w.Needs {
			gain -= n.Qty * g.Cells[n.Cell].Price
			parts += n.Part
		}
		if parts != w.Worth*g.Scale {
			return -1 // more or less than its worth is split
		}
		priced += max(0, gain)
	}
	return min(priced, alone) / g.Scale
}

// noneAbove decides the wants of a group one after another, as docs/book.md says it.
func noneAbove(g plan.ProofGroup, bound int64) bool {
	if addUp(g) <= bound {
		return true
	}
	if len(g.Wants) == 0 {
		return false
	}
	w, taken := g.Wants[0], g
	taken.Cells = append([]plan.ProofCell(nil), g.Cells...)
	g.Wants, taken.Wants = g.Wants[1:], g.Wants[1:]
	fits := true
	for _, n := range w.Needs {
		taken.Cells[n.Cell].Room -= n.Qty
		fits = fits && taken.Cells[n.Cell].Room >= 0
	}
	return (!fits || noneAbove(taken, bound-w.Worth)) && noneAbove(g, bound)
}

func TestTheBoundOfAGoalCanBeAddedUpFromWhatIsPrinted(t *testing.T) {
	t.Parallel()
	groups, packs := 0, 0
	for seed := range uint64(30) {
		book := scarce(t, seed)
		for _, goal := range []string{"orders", "value"} {
			out, err := heard(t, "plan", "--mode", "allocate", "--goal", goal, "--proof", book)
			if err != nil {
				t.Fatal(err)
			}
			var told struct{ Totals plan.Totals }
			if err := json.Unmarshal([]byte(out), &told); err != nil {
				t.Fatal(err)
			}
			for tier, bound := range told.Totals.Bound {
				p := told.Totals.Proof[tier]
				sum := p.Free
				for _, g := range p.Groups {
					groups++
					packs += len(g.Packs)
					if shown := addUp(g); shown < g.Bound || shown > g.Bound && !noneAbove(g, g.Bound) {
						t.Errorf("seed %d, %s, tier %s: the group's numbers add up to %d, it says %d", seed, goal, tier, shown, g.Bound)
					}
					for _, w := range g.Wants {
						if w.Order == "" || goal == "orders" && w.Line != 0 || len(w.Needs) == 0 {
							t.Errorf("seed %d: what is wanted is not named: %+v", seed, w)
						}
					}
					sum += g.Bound
				}
				if sum != bound || told.Totals.Reached[tier] > bound {
					t.Errorf(
						"seed %d, %s, tier %s: the groups add up to %d, the bound is %d, reached are %d", seed, goal, tier, sum, bound,
						told.Totals.Reached[tier],
					)
				}
			}
		}
	}
	if groups < 60 || packs < 60 {
		t.Errorf("only %d groups with %d packs", groups, packs)
	}
	out, err := heard(t, "plan", "--mode", "allocate", "--goal", "orders", scarce(t, 1))
	if err != nil || strings.Contains(out, `"proof"`) {
		t.Errorf("a proof that nobody asked for: %v", err)
	}
}
