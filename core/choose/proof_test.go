package choose

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
)

// The bound is added up again by other code from the numbers alone, and nothing is worth more than it.
func TestTheBoundCanBeAddedUpAgain(t *testing.T) {
	t.Parallel()
	searched, summed, below := 0, 0, 0
	for seed := range uint64(3000) {
		r := rand.New(rand.NewPCG(seed, 41))
		p := random(r, 9, 4, 3, seed%2 == 0)
		if seed%5 == 0 {
			p = random(r, 14, 6, 0, false) // what the sums alone do not settle
		}
		p.Prove = true
		a := Best(p)
		shown, err := p.Check(*a.Proof)
		if err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		best := brute(p)
		if shown != a.Bound || a.Bound < best {
			t.Fatalf("seed %d: the proof shows %d, the bound is %d, the best is %d", seed, shown, a.Bound, best)
		}
		branched := false
		for x, g := range a.Proof.Groups {
			weaker := *a.Proof
			weaker.Groups = slices.Clone(weaker.Groups)
			weaker.Groups[x].Bound--
			if _, err := p.Check(weaker); err == nil && best == a.Bound {
				t.Fatalf("seed %d: less than the best is taken for shown", seed)
			}
			branched = branched || !g.bySums(p)
		}
		if branched {
			searched++
			continue
		}
		summed++
		if len(a.Proof.Groups) > 0 && a.Reached == a.Bound {
			below++
		}
	}
	if searched < 10 || summed < 1000 || below < 500 {
		t.Errorf("%d with a search, %d without, of which %d proved", searched, summed, below)
	}
}

// bySums says whether the sums alone show the bound.
func (g GroupProof) bySums(p Problem) bool {
	parts := make([][]Part, len(p.Room))
	for _, x := range p.Parts {
		parts[x.Cell] = append(parts[x.Cell], x)
	}
	at := map[int32]int{}
	for i, c := range g.Cells {
		at[c] = i
	}
	wants := make([][]want, len(g.Cells))
	priced, alone := int64(0), int64(0)
	for k, j := range g.Bundles {
		gain, next := g.Scale*p.Bundles[j].Worth, 0
		for _, n := range ByCell(p.Bundles[j].Needs) {
			if i, ours := at[n.Cell]; ours {
				gain -= g.Prices[i] * n.Qty
				wants[i] = append(wants[i], want{k, n.Qty, g.Split[k][next]})
				next++
			}
		}
		priced += max(0, gain)
	}
	for i, c := range g.Cells {
		priced += g.Prices[i] * p.Room[c]
		for _, x := range parts[c] {
			priced += x.Qty * max(0, g.Scale*x.Each-g.Prices[i])
		}
		alone += bestAlone(p.Room[c], wants[i], parts[c], g.Scale)
	}
	return g.Bound >= min(priced, alone)/g.Scale
}

func TestTheBoundOfALargeProblemCanBeAddedUpAgain(t *testing.T) {
	t.Parallel()
	for _, alike := range []bool{true, false} {
		r := rand.New(rand.NewPCG(7, 8))
		p := Problem{Room: make([]int64, 60), Prove: true}
		for i := range p.Room {
			p.Room[i] = 40 + r.Int64N(300)
		}
		p.Room[0] = 3_000_000 // too large to be counted one by one
		for j := range 2000 {
			b := Bundle{Worth: 1 + r.Int64N(5000)}
			if alike {
				b.Worth = 1
			}
			for i := range 1 + r.IntN(3) {
				c := int32(1 + (j*7+i*13)%59)
				b.Needs = append(b.Needs, Need{c, 1 + r.Int64N(20)})
			}
			if j%50 == 0 {
				b.Needs = append(b.Needs, Need{0, 100_000 + r.Int64N(100_000)})
			}
			p.Bundles = append(p.Bundles, b)
			p.Turns = append(p.Turns, int32(j))
		}
		if !alike {
			for i := range 200 {
				p.Parts = append(p.Parts, Part{int32(i % 60), 1 + r.Int64N(40), 1 + r.Int64N(6), r.Int64N(300)})
			}
		}
		a := Best(p)
		shown, err := p.Check(*a.Proof)
		if err != nil || shown != a.Bound || a.Reached > a.Bound {
			t.Errorf("alike %v: the sums show %d, the bound is %d, reached are %d (%v)", alike, shown, a.Bound, a.Reached, err)
		}
	}
}

// A proof that was tampered with is found out.
func TestAWrongProofIsRefused(t *testing.T) {
	t.Parallel()
	tampers := map[string]func(*Proof){
		"free":  func(x *Proof) { x.Free++ },
		"bound": func(x *Proof) { x.Groups[0].Bound-- },
		"price": func(x *Proof) { x.Groups[0].Prices[0] = -1 },
		"split": func(x *Proof) { x.Groups[0].Split[0][0]-- },
		"cell":  func(x *Proof) { x.Groups[0].Split[0] = append(x.Groups[0].Split[0], 0) },
		"fewer": func(x *Proof) { x.Groups[0].Split[0] = x.Groups[0].Split[0][:0] },
		"bundle": func(x *Proof) {
			x.Groups[0].Bundles = x.Groups[0].Bundles[1:]
			x.Groups[0].Split = x.Groups[0].Split[1:]
		},
		"group":    func(x *Proof) { x.Groups = append(x.Groups, x.Groups[0]) },
		"no group": func(x *Proof) { x.Groups = x.Groups[1:] },
		"scale":    func(x *Proof) { x.Groups[0].Scale = 0 },
	}
	tried := 0
	for seed := range uint64(200) {
		p := random(rand.New(rand.NewPCG(seed, 43)), 9, 4, 3, false)
		p.Prove = true
		for name, tamper := range tampers {
			a := Best(p)
			if len(a.Proof.Groups) == 0 || len(a.Proof.Groups[0].Bundles) == 0 || !a.Proof.Groups[0].bySums(p) ||
				p.Bundles[a.Proof.Groups[0].Bundles[0]].Worth == 0 {
				continue
			}
			tamper(a.Proof)
			tried++
			if shown, err := p.Check(*a.Proof); err == nil {
				t.Errorf("seed %d: a wrong %s shows %d", seed, name, shown)
			}
		}
	}
	if tried < 500 {
		t.Errorf("only %d were tried", tried)
	}
}

func ExampleProblem_Check() {
	// Ten units that three orders want: 6 for 5, 5 for 4, 5 for 4.
	p := Problem{
		Room:    []int64{10},
		Bundles: []Bundle{{5, []Need{{0, 6}}}, {4, []Need{{0, 5}}}, {4, []Need{{0, 5}}}},
		Turns:   []int32{0, 1, 2},
		Prove:   true,
	}
	a := Best(p)
	shown, err := p.Check(*a.Proof)
	fmt.Println(a.Reached, a.Bound, shown, err)
	// Output: 8 8 8 <nil>
}
