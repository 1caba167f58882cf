package shipping_test

import (
	"math/rand/v2"
	"testing"

	"journeyman/core/shipping"
	"journeyman/internal/reference"
)

// sound checks what has to be true of every proposal: all units are in it or left, no package is too heavy, and in each everything lies
// inside, nothing in the same place, and nothing on air.
func sound(t *testing.T, goods []shipping.Goods, kinds []shipping.PackageKind, packages []shipping.Proposed, left []shipping.Part) {
	t.Helper()
	count := make([]int64, len(goods))
	for _, x := range left {
		count[x.Goods] += x.Units
	}
	for n, p := range packages {
		weight, inPackage := int64(0), make([]int64, len(goods))
		for _, x := range p.Parts {
			count[x.Goods] += x.Units
			inPackage[x.Goods] += x.Units
			weight += x.Units * goods[x.Goods].WeightG
		}
		if weight != p.GoodsG || len(p.Parts) == 0 {
			t.Errorf("package %d weighs %d, %d is said", n, weight, p.GoodsG)
		}
		if p.Kind == shipping.ByItself {
			continue
		}
		k := kinds[p.Kind]
		if weight+k.TareG > k.MostG {
			t.Errorf("package %d is too heavy: %d of %d", n, weight+k.TareG, k.MostG)
		}
		for i, b := range p.Blocks {
			inPackage[b.Goods] -= b.Count[0] * b.Count[1] * b.Count[2]
			from, to := b.At, end(b)
			floor := int64(0)
			for axis := range 3 {
				if from[axis] < 0 || to[axis] > k.Inner[axis] || b.Count[axis] < 1 {
					t.Errorf("package %d: %+v does not lie inside %v", n, b, k.Inner)
				}
			}
			for j, o := range p.Blocks {
				apart := false
				for axis := range 3 {
					apart = apart || to[axis] <= o.At[axis] || end(o)[axis] <= from[axis]
				}
				if j < i && !apart {
					t.Errorf("package %d: %+v and %+v lie in the same place", n, b, o)
				}
				if under := end(o); under[2] == from[2] && o.At[0] <= from[0] && o.At[1] <= from[1] && under[0] >= to[0] && under[1] >= to[1] {
					floor = from[2]
				}
			}
			if floor != from[2] {
				t.Errorf("package %d: %+v lies on air", n, b)
			}
		}
		for i, units := range inPackage {
			if goods[i].Size != (shipping.Size{}) && units != 0 {
				t.Errorf("package %d: of %d units of goods %d nobody says where they lie", n, units, i)
			}
		}
	}
	for i, g := range goods {
		if count[i] != g.Units {
			t.Errorf("%d of %d units of goods %d are packed or left", count[i], g.Units, i)
		}
	}
}

func end(b shipping.Block) (to shipping.Size) {
	for axis := range to {
		to[axis] = b.At[axis] + b.Unit[axis]*b.Count[axis]
	}
	return to
}

// A small, a medium and a large carton, and a pallet of 1200 × 800 mm.
var kinds = []shipping.PackageKind{
	{Inner: shipping.Size{600, 400, 400}, TareG: 900, MostG: 25_000},
	{Inner: shipping.Size{300, 200, 150}, TareG: 200, MostG: 10_000},
	{Pallet: true, Inner: shipping.Size{1200, 800, 1650}, TareG: 25_000, MostG: 800_000},
	{Inner: shipping.Size{400, 300, 250}, TareG: 400, MostG: 20_000},
}

func TestGoodsGoIntoTheSmallestCartonThatTakesThem(t *testing.T) {
	t.Parallel()
	bottle := func(n int64) shipping.Goods { return shipping.Goods{n, shipping.Size{90, 90, 240}, 1400} }
	for _, c := range []struct {
		why   string
		goods []shipping.Goods
		ware  shipping.Ware
		want  []int // kinds
		left  int64
	}{
		{"nothing", nil, shipping.Either, nil, 0},
		{"two bottles lie down in the small carton", []shipping.Goods{bottle(2)}, shipping.Either, []int{1}, 0},
		{"ten do not fit into it", []shipping.Goods{bottle(10)}, shipping.Either, []int{3}, 0},
		{"twenty need two", []shipping.Goods{bottle(20)}, shipping.Either, []int{0, 3}, 0},
		{"more than six cartons go onto a pallet", []shipping.Goods{bottle(120)}, shipping.Either, []int{2}, 0},
		{"but not if cartons are wanted", []shipping.Goods{bottle(120)}, shipping.Cartons, []int{0, 0, 0, 0, 0, 0, 0, 1}, 0},
		{"a kiln fits into no carton", []shipping.Goods{bottle(2), {1, shipping.Size{700, 700, 900}, 96_000}}, shipping.Either, []int{2}, 0},
		{"a long thing goes by itself", []shipping.Goods{{2, shipping.Size{2600, 40, 40}, 900}}, shipping.Either, []int{-1, -1}, 0},
		{"of unknown size only the weight counts", []shipping.Goods{{5, shipping.Size{}, 4000}}, shipping.Either, []int{0}, 0},
		{"at most two hundred", []shipping.Goods{{1e9, shipping.Size{600, 400, 400}, 24_000}}, shipping.Cartons, nil, 1e9 - 200},
	} {
		packages, left := shipping.Propose(c.goods, kinds, c.ware, 200)
		sound(t, c.goods, kinds, packages, left)
		stays := int64(0)
		for _, x := range left {
			stays += x.Units
		}
		if stays != c.left {
			t.Errorf("%s: %d are left", c.why, stays)
		}
		if c.left > 0 {
			continue
		}
		var got []int
		for _, p := range packages {
			got = append(got, p.Kind)
		}
		if len(got) != len(c.want) {
			t.Errorf("%s: %v, want %v", c.why, got, c.want)
			continue
		}
		for i := range got {
			if got[i] != c.want[i] {
				t.Errorf("%s: %v, want %v", c.why, got, c.want)
				break
			}
		}
	}
}

// D. S. Johnson et al. 1974 (from memory): of weights alone, 9 bins are enough for these pieces, and first fit decreasing takes 11.
func TestJohnsonsPiecesTakeNoMoreThanFirstFitDecreasing(t *testing.T) {
	t.Parallel()
	piece := func(n, weight int64) shipping.Goods { return shipping.Goods{Units: n, WeightG: weight} }
	goods := []shipping.Goods{piece(6, 51), piece(6, 27), piece(6, 26), piece(12, 23)}
	bin := []shipping.PackageKind{{Inner: shipping.Size{1, 1, 1}, MostG: 100}}
	packages, left := shipping.Propose(goods, bin, shipping.Cartons, 200)
	sound(t, goods, bin, packages, left)
	if len(packages) < 9 || len(packages) > 11 || shipping.FewestPackages(goods, bin) != 9 {
		t.Errorf("%d bins, no fewer than %d", len(packages), shipping.FewestPackages(goods, bin))
	}
}

// G. Dósa 2007: first fit decreasing takes at most 11/9 of the fewest and 6/9 more. The fewest are counted by trying everything.
func TestByWeightAloneFewPackagesAreTaken(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(4, 7))
	for range 300 {
		most := 20 + r.Int64N(80)
		var goods []shipping.Goods
		var pieces []int64
		for range 1 + r.IntN(4) {
			w, n := 1+r.Int64N(most), 1+r.Int64N(3)
			goods = append(goods, shipping.Goods{Units: n, WeightG: w})
			for range n {
				pieces = append(pieces, w)
			}
		}
		bin := []shipping.PackageKind{{Inner: shipping.Size{1, 1, 1}, MostG: most}}
		packages, left := shipping.Propose(goods, bin, shipping.Cartons, 200)
		sound(t, goods, bin, packages, left)
		fewest := fewestBins(pieces, most)
		if got := len(packages); got < fewest || 9*got > 11*fewest+6 {
			t.Errorf("%v into %d: %d packages, %d are enough", pieces, most, got, fewest)
		}
		if b := shipping.FewestPackages(goods, bin); b > int64(fewest) {
			t.Errorf("%v into %d: no fewer than %d is said, %d are enough", pieces, most, b, fewest)
		}
	}
}

// fewestBins tries every way.
func fewestBins(pieces []int64, most int64) int {
	best := len(pieces)
	var put func(i int, bins []int64)
	put = func(i int, bins []int64) {
		if len(bins) >= best {
			return
		}
		if i == len(pieces) {
			best = len(bins)
			return
		}
		for b := range bins {
			if bins[b]+pieces[i] <= most {
				bins[b] += pieces[i]
				put(i+1, bins)
				bins[b] -= pieces[i]
			}
		}
		put(i+1, append(append([]int64{}, bins...), pieces[i]))
	}
	put(0, nil)
	return best
}

// Boxes of any shape, into cartons of one size: compared with binpackingjs 4.1, a heuristic, and with the bound.
func TestAsFewCartonsAsAnotherProgram(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(11, 3))
	var problems []reference.CartonsOf
	var all [][]shipping.Goods
	for range 120 {
		p := reference.CartonsOf{Inner: [3]int64{600, 400, 400}, Most: 24_000}
		var goods []shipping.Goods
		for range 1 + r.IntN(6) {
			g := shipping.Goods{1 + r.Int64N(12), shipping.Size{40 + r.Int64N(260), 40 + r.Int64N(260), 40 + r.Int64N(260)}, 100 + r.Int64N(3000)}
			goods = append(goods, g)
			for range g.Units {
				p.Boxes = append(p.Boxes, reference.Box{Size: g.Size, Weight: g.WeightG})
			}
		}
		problems, all = append(problems, p), append(all, goods)
	}
	carton := []shipping.PackageKind{{Inner: shipping.Size{600, 400, 400}, TareG: 900, MostG: 24_900}}
	var ours, theirs, bound int64
	for i, other := range reference.Cartons(t, problems) {
		packages, left := shipping.Propose(all[i], carton, shipping.Cartons, 200)
		sound(t, all[i], carton, packages, left)
		n, b := int64(len(packages)), shipping.FewestPackages(all[i], carton)
		if b > n || b > other {
			t.Errorf("%+v: no fewer than %d is said; we take %d, they %d", all[i], b, n, other)
		}
		ours, theirs, bound = ours+n, theirs+other, bound+b
	}
	if ours > theirs {
		t.Errorf("%d cartons in all, the other program takes %d, the bound is %d", ours, theirs, bound)
	}
	t.Logf("%d cartons, the other program %d, the bound %d", ours, theirs, bound)
}

func TestWhatWeighsOddlyIsCountedAgain(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		weighed, should int64
		want            bool
	}{{10_000, 10_000, false}, {10_400, 10_000, false}, {10_600, 10_000, true}, {9_400, 10_000, true}, {900, 700, false}, {5000, 0, false}} {
		if got := shipping.Doubtful(c.weighed, c.should); got != c.want {
			t.Errorf("%d in place of %d: %v", c.weighed, c.should, got)
		}
	}
}
