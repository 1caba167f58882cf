package choose

import (
	"math/rand/v2"
	"slices"
	"testing"
)

// The few items and rooms that a price leaves open give the same choice as the whole table.
func TestWhatAPriceSealsIsInEveryBestChoice(t *testing.T) {
	t.Parallel()
	sealed, open := 0, 0
	var k oneCell // one for all, as where it is used
	for seed := range uint64(20_000) {
		r := rand.New(rand.NewPCG(seed, 47))
		k.room = r.Int64N(120)
		k.items = k.items[:0]
		for j := range r.IntN(30) {
			it := item{int32(j), r.Int64N(40), 1000 * (r.Int64N(60) - 5)}
			switch seed % 4 {
			case 0: // all worth about as much a unit
				it.worth = it.qty*1000 + r.Int64N(40)
			case 1: // alike
				it.qty, it.worth = 1+r.Int64N(3), 1000*(1+r.Int64N(2))
			}
			k.items = append(k.items, it)
		}
		var parts []Part
		for range r.IntN(4) {
			parts = append(parts, Part{Qty: 1 + r.Int64N(50), Pack: 1 + r.Int64N(7), Each: r.Int64N(4)})
		}
		f := newFilling(parts, k.room)
		b := newBase(k.room, 1, 1000, &f)
		k.base = &b
		var got, whole []int32
		worth := k.solve(func(j int32) { got = append(got, j) })
		for _, f := range k.fate {
			if f == maybe {
				open++
			} else {
				sealed++
			}
		}
		k.whole()
		x := k.room
		for i, it := range k.items {
			if k.rows[i][x] != k.rows[i+1][x] {
				whole = append(whole, it.bundle)
				x -= it.qty
			}
		}
		if worth != k.rows[0][k.room] || !slices.Equal(got, whole) {
			t.Fatalf("seed %d: %d by %v, the whole table has %d by %v", seed, worth, got, k.rows[0][k.room], whole)
		}
		var wants []want
		for _, it := range k.items {
			wants = append(wants, want{0, it.qty, it.worth})
		}
		if alone := bestAlone(k.room, wants, parts, 1000); worth != alone {
			t.Fatalf("seed %d: %d, by other code %d", seed, worth, alone)
		}
		for price := range int64(5) {
			most := int64(0)
			for x := range k.room + 1 {
				most = max(most, b.of(x)-price*700*x)
			}
			if got := b.priced(price * 700); got != most {
				t.Fatalf("seed %d: the parts are worth %d above %d, not %d", seed, most, price*700, got)
			}
		}
	}
	if sealed < open || open < 10_000 {
		t.Errorf("%d items were sealed, %d left open: the test shows little", sealed, open)
	}
}

// Packs of one size in their order, and the others by a table, are worth what all ways of taking them are worth at most.
func TestPartsAreWorthWhatTheBestOfAllWaysIs(t *testing.T) {
	t.Parallel()
	even, odd := 0, 0
	for seed := range uint64(4000) {
		r := rand.New(rand.NewPCG(seed, 53))
		room := r.Int64N(60)
		var parts []Part
		pack := 1 + r.Int64N(6)
		for range 1 + r.IntN(4) {
			p := Part{Qty: pack * r.Int64N(4), Pack: pack, Each: r.Int64N(5)}
			switch r.IntN(3) {
			case 0:
				p.Qty += r.Int64N(5)
			case 1:
				p.Pack = r.Int64N(5)
			}
			parts = append(parts, p)
		}
		f := newFilling(parts, room)
		even, odd = even+len(parts)-len(f.odd), odd+len(f.odd)
		var most func(x int, room int64) int64
		most = func(x int, room int64) (best int64) {
			if x == len(parts) {
				return 0
			}
			p := parts[x]
			for q := int64(0); q <= min(p.Qty, room); q++ {
				if q == p.Qty || q%max(1, p.Pack) == 0 {
					best = max(best, q*p.Each+most(x+1, room-q))
				}
			}
			return best
		}
		for left := range room + 1 {
			want, got, took := most(0, left), int64(0), int64(0)
			for x, q := range f.of(left) {
				if q > parts[x].Qty || q != parts[x].Qty && q%max(1, parts[x].Pack) != 0 {
					t.Fatalf("seed %d: %d of %+v", seed, q, parts[x])
				}
				got, took = got+q*parts[x].Each, took+q
			}
			if took > left || got != want || f.worth(left) != want {
				t.Fatalf(
					"seed %d: in %d of room %d are had, worth %d or %d, not %d: %+v", seed, left, took, got, f.worth(left), want, parts,
				)
			}
		}
	}
	if even < 1000 || odd < 1000 {
		t.Errorf("%d even and %d odd parts: the test shows little", even, odd)
	}
}
