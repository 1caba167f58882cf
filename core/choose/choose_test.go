package choose

import (
	"math/rand/v2"
	"testing"
)

// C. C. Petersen, Computational experience with variants of the Balas algorithm, Management Science
// 13, 1967; the first problem of mknap1 of the OR-Library (values from memory): an order is an item,
// its lines are the column, the stock rows are the capacities. The best is 3800 with items 2, 3 and 6.
func TestPetersensFirstProblem(t *testing.T) {
	t.Parallel()
	values := []int64{100, 600, 1200, 2400, 500, 2000}
	rows := [][]int64{
		{8, 12, 13, 64, 22, 41},
		{8, 12, 13, 75, 22, 41},
		{3, 6, 4, 18, 6, 4},
		{5, 10, 8, 32, 6, 12},
		{5, 13, 8, 42, 6, 20},
		{5, 13, 8, 48, 6, 20},
		{0, 0, 0, 0, 8, 0},
		{3, 0, 4, 0, 8, 0},
		{3, 2, 4, 0, 8, 4},
		{3, 2, 4, 8, 8, 4},
	}
	p := Problem{Room: []int64{80, 96, 20, 36, 44, 48, 10, 18, 22, 24}}
	for j, v := range values {
		b := Bundle{Worth: v}
		for i, row := range rows {
			if row[j] > 0 {
				b.Needs = append(b.Needs, Need{int32(i), row[j]})
			}
		}
		p.Bundles = append(p.Bundles, b)
		p.Turns = append(p.Turns, int32(j))
	}
	a := Best(p)
	if a.Reached != 3800 || a.Bound != 3800 || !a.Bundles[1] || !a.Bundles[2] || !a.Bundles[5] {
		t.Errorf("reached %d of at most %d with %v, want 3800 with items 2, 3 and 6", a.Reached, a.Bound, a.Bundles)
	}
}

// brute tries every set of bundles, and of the parts every number of packs.
func brute(p Problem) (best int64) {
	left := append([]int64(nil), p.Room...)
	var parts func(x int, sum int64)
	parts = func(x int, sum int64) {
		if x == len(p.Parts) {
			best = max(best, sum)
			return
		}
		part := p.Parts[x]
		had := func(q int64) {
			if q <= left[part.Cell] {
				left[part.Cell] -= q
				parts(x+1, sum+q*part.Each)
				left[part.Cell] += q
			}
		}
		for q := int64(0); q < part.Qty; q += max(1, part.Pack) {
			had(q)
		}
		had(part.Qty)
	}
	var bundles func(j int, sum int64)
	bundles = func(j int, sum int64) {
		if j == len(p.Bundles) {
			parts(0, sum)
			return
		}
		bundles(j+1, sum)
		for _, n := range p.Bundles[j].Needs {
			left[n.Cell] -= n.Qty
		}
		ok := true
		for _, n := range p.Bundles[j].Needs {
			ok = ok && left[n.Cell] >= 0
		}
		if ok {
			bundles(j+1, sum+p.Bundles[j].Worth)
		}
		for _, n := range p.Bundles[j].Needs {
			left[n.Cell] += n.Qty
		}
	}
	bundles(0, 0)
	return best
}

// random is a problem of so many bundles, cells and parts at most.
func random(r *rand.Rand, bundles, cells, parts int, alike bool) Problem {
	p := Problem{Room: make([]int64, 1+r.IntN(cells))}
	for i := range p.Room {
		p.Room[i] = int64(r.IntN(25))
	}
	for j := range r.IntN(bundles + 1) {
		b := Bundle{Worth: int64(r.IntN(50))}
		if alike {
			b.Worth = 1
		}
		for i := range p.Room {
			if r.IntN(2) == 0 {
				b.Needs = append(b.Needs, Need{int32(i), int64(1 + r.IntN(12))})
			}
		}
		p.Bundles = append(p.Bundles, b)
		p.Turns = append(p.Turns, int32(j))
	}
	r.Shuffle(len(p.Turns), func(i, j int) { p.Turns[i], p.Turns[j] = p.Turns[j], p.Turns[i] })
	for range r.IntN(parts + 1) {
		p.Parts = append(p.Parts, Part{int32(r.IntN(len(p.Room))), int64(r.IntN(9)), int64(r.IntN(4)), int64(r.IntN(9))})
	}
	return p
}

// large is a problem like a random one with so much larger quantities, in packs that rarely divide each other or the room.
func large(r *rand.Rand, bundles, cells, parts int) Problem {
	p := random(r, bundles, cells, parts, r.IntN(3) == 0)
	size := []int64{100, 1000, 2500, 10_001, 1_000_000}[r.IntN(5)]
	odd := func() int64 {
		if r.IntN(2) == 0 {
			return 0
		}
		return r.Int64N(size)
	}
	for i := range p.Room {
		p.Room[i] = p.Room[i]*size + odd()
	}
	for j := range p.Bundles {
		for k := range p.Bundles[j].Needs {
			p.Bundles[j].Needs[k].Qty = p.Bundles[j].Needs[k].Qty*size + odd()
		}
	}
	for x := range p.Parts {
		y := &p.Parts[x]
		y.Pack = max(1, y.Pack)*size + odd()
		y.Qty = y.Qty*size + odd()
	}
	return p
}

// check says whether the answer can be had and is worth what it says.
func check(t *testing.T, p Problem, a Answer) {
	t.Helper()
	left := append([]int64(nil), p.Room...)
	sum := int64(0)
	for j, in := range a.Bundles {
		if in {
			sum += p.Bundles[j].Worth
			for _, n := range p.Bundles[j].Needs {
				left[n.Cell] -= n.Qty
			}
		}
	}
	for x, q := range a.Parts {
		part := p.Parts[x]
		if q < 0 || q > part.Qty || q != part.Qty && q%max(1, part.Pack) != 0 {
			t.Fatalf("%d of part %+v", q, part)
		}
		sum += q * part.Each
		left[part.Cell] -= q
	}
	for i, q := range left {
		if q < 0 {
			t.Fatalf("cell %d is overdrawn by %d", i, -q)
		}
	}
	if sum != a.Reached {
		t.Fatalf("it is worth %d, and says %d", sum, a.Reached)
	}
}

// inTurn is what serving in turn reaches, bundles only.
func inTurn(p Problem) (sum int64) {
	left := append([]int64(nil), p.Room...)
	for _, j := range p.Turns {
		ok := true
		for _, n := range p.Bundles[j].Needs {
			ok = ok && left[n.Cell] >= n.Qty
		}
		if ok {
			sum += p.Bundles[j].Worth
			for _, n := range p.Bundles[j].Needs {
				left[n.Cell] -= n.Qty
			}
		}
	}
	return sum
}

func TestTheBestLiesBetweenReachedAndBound(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(6, 1))
	proved, cases := 0, 3000
	for n := range cases {
		p := random(r, 9, 4, 3, n%3 == 0)
		a := Best(p)
		check(t, p, a)
		best := brute(p)
		if a.Reached > best || a.Bound < best || a.Reached < inTurn(p) {
			t.Fatalf("case %d: reached %d, bound %d, in turn %d; the best is %d: %+v", n, a.Reached, a.Bound, inTurn(p), best, p)
		}
		if a.Reached == a.Bound {
			proved++
		}
	}
	if proved < cases*99/100 {
		t.Errorf("only %d of %d are proved", proved, cases)
	}
}

// Rooms that are too large for tables, and packs that do not divide them: what packs are worth there is a stair.
func TestTheBestOfLargeQuantitiesLiesBetweenReachedAndBound(t *testing.T) {
	t.Parallel()
	proved, cases := 0, 500
	for n := range cases {
		r := rand.New(rand.NewPCG(6, uint64(100+n)))
		p := large(r, 7, 3, 4)
		p.Prove = true
		a := Best(p)
		check(t, p, a)
		best := brute(p)
		if a.Reached > best || a.Bound < best || a.Reached < inTurn(p) {
			t.Fatalf("case %d: reached %d, bound %d, in turn %d; the best is %d: %+v", n, a.Reached, a.Bound, inTurn(p), best, p)
		}
		if shown, err := p.Check(*a.Proof); err != nil || shown != a.Bound {
			t.Fatalf("case %d: the proof shows %d of %d: %v", n, shown, a.Bound, err)
		}
		if a.Reached == a.Bound {
			proved++
		}
	}
	if proved < cases*95/100 {
		t.Errorf("only %d of %d are proved", proved, cases)
	}
}

// One item in packs of 10,001, of which two are there: the first wants 11,000 at 10, and can have one pack or all; the second
// one pack at 9. And in packs of a thousand.
func TestPacksThatAreFilledInOneAfterAnotherAreNotCalledTheBest(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		room  int64
		parts []Part
		best  int64
	}{
		{20_002, []Part{{0, 11_000, 10_001, 10}, {0, 10_001, 10_001, 9}}, 190_019},
		{21_000, []Part{{0, 11_500, 1000, 10}, {0, 11_000, 1000, 9}}, 11_000*10 + 10_000*9},
		{21_000, []Part{{0, 11_500, 1000, 10}, {0, 9_500, 1000, 9}}, 11_500*10 + 9_500*9},
	} {
		p := Problem{Room: []int64{c.room}, Parts: c.parts}
		if b := brute(p); b != c.best {
			t.Fatalf("the best is %d, not %d", b, c.best)
		}
		a := Best(p)
		check(t, p, a)
		if a.Reached != c.best || a.Bound != c.best {
			t.Errorf("reached %d of at most %d, want %d: %+v", a.Reached, a.Bound, c.best, c.parts)
		}
	}
}

// Where packs have too many sums to be compared, the bound is a weaker one, and is not called less.
func TestPacksWithTooManySumsHaveAWeakerBound(t *testing.T) {
	t.Parallel()
	weaker := 0
	for seed := range uint64(6) {
		r := rand.New(rand.NewPCG(seed, 61))
		size := []int64{1000, 80}[seed%2] // the smaller one is searched, too
		p := Problem{Room: []int64{3000 * size}, Prove: true}
		for range 40 {
			p.Parts = append(p.Parts, Part{0, 60*size + r.Int64N(140*size), 5*size + r.Int64N(20*size), 1000 + r.Int64N(30)})
		}
		for j := range 6 {
			p.Bundles = append(p.Bundles, Bundle{1 + r.Int64N(200_000*size), []Need{{0, 1 + r.Int64N(900*size)}}})
			p.Turns = append(p.Turns, int32(j))
		}
		a := Best(p)
		check(t, p, a)
		if shown, err := p.Check(*a.Proof); err != nil || shown != a.Bound || a.Reached > a.Bound {
			t.Errorf("seed %d: the proof shows %d of %d, reached are %d: %v", seed, shown, a.Bound, a.Reached, err)
		}
		if a.Reached < a.Bound {
			weaker++
		}
	}
	if weaker == 0 {
		t.Error("all were proved: the test shows nothing")
	}
}

// A group may be worth as much as a quarter of what 64 bits hold.
func TestTheGreatestWorthsAreAddedUp(t *testing.T) {
	t.Parallel()
	for seed := range uint64(4) {
		r := rand.New(rand.NewPCG(seed, 62))
		p := Problem{Room: []int64{1_000_000_000, 1_500_000_000, 900_000_000}, Prove: true}
		for j := range 1500 {
			b := Bundle{Worth: 1_000_000_000_000_000 - r.Int64N(1_000_000)}
			for i := range p.Room {
				if r.IntN(2) == 0 || len(b.Needs) == 0 && i == 2 {
					b.Needs = append(b.Needs, Need{int32(i), 1 + r.Int64N(1_000_000_000)})
				}
			}
			p.Bundles = append(p.Bundles, b)
			p.Turns = append(p.Turns, int32(j))
		}
		for range 300 {
			q := 1 + r.Int64N(1_000_000_000)
			p.Parts = append(p.Parts, Part{int32(r.IntN(3)), q, 1, 1_000_000_000_000_000 / q})
		}
		a := Best(p)
		check(t, p, a)
		if shown, err := p.Check(*a.Proof); err != nil || shown != a.Bound || a.Reached > a.Bound || a.Bound < 0 {
			t.Fatalf("seed %d: the proof shows %d of %d, reached are %d: %v", seed, shown, a.Bound, a.Reached, err)
		}
	}
}

func TestMoreRoomIsNeverWorse(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(6, 2))
	for range 300 {
		p := random(r, 10, 4, 2, false)
		before := Best(p)
		p.Room[r.IntN(len(p.Room))] += int64(1 + r.IntN(9))
		if after := Best(p); before.Reached == before.Bound && after.Reached == after.Bound && after.Reached < before.Reached {
			t.Fatalf("with more room %d, before %d", after.Reached, before.Reached)
		}
	}
}

func TestLargeRoomsAreCountedInLargerUnits(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(6, 3))
	for range 20 {
		p := Problem{Room: []int64{1_000_000_000, 700_000_000}}
		for j := range 40 {
			p.Bundles = append(p.Bundles, Bundle{int64(1 + r.IntN(1000)), []Need{{int32(j % 2), 1 + r.Int64N(100_000_000)}}})
			if j%4 == 0 {
				p.Bundles[j].Needs = []Need{{0, 1 + r.Int64N(100_000_000)}, {1, 1 + r.Int64N(100_000_000)}}
			}
			p.Turns = append(p.Turns, int32(j))
		}
		p.Parts = []Part{{0, 300_000_000, 1000, 1}, {1, 123_456_789, 7, 0}}
		a := Best(p)
		check(t, p, a)
		if a.Bound < a.Reached || float64(a.Bound) > 1.01*float64(a.Reached) {
			t.Errorf("reached %d, bound %d", a.Reached, a.Bound)
		}
	}
}
