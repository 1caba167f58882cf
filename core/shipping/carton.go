package shipping

import (
	"cmp"
	"math"
	"slices"

	"journeyman/core/capped"
)

// Size is length, width and height in millimetres. Where one of them is 0 nobody has said how large it is.
type Size [3]int64

func (s Size) known() bool { return slices.Min(s[:]) > 0 }

// volume is in cubic millimetres.
func (s Size) volume() int64 { return capped.Times(capped.Times(s[0], s[1]), s[2]) }

// turned are the ways in which something of that size can lie, each once.
func (s Size) turned() []Size {
	all := []Size{
		{s[0], s[1], s[2]}, {s[1], s[0], s[2]}, {s[0], s[2], s[1]}, {s[2], s[0], s[1]}, {s[1], s[2], s[0]}, {s[2], s[1], s[0]},
	}
	out := all[:0]
	for _, x := range all {
		if !slices.Contains(out, x) {
			out = append(out, x)
		}
	}
	return out
}

// PackageKind is a kind of carton or pallet.
type PackageKind struct {
	Pallet bool
	Inner  Size  // what goes into it, or stands on it; the last is its height
	TareG  int64 // what it weighs empty, in grams
	MostG  int64 // what it may weigh with its goods
}

// holds is how much its goods may weigh.
func (k PackageKind) holds() int64 { return max(0, k.MostG-k.TareG) }

// Goods are units that are alike. Those of which nobody has said how large they are take no room.
type Goods struct {
	Units   int64
	Size    Size
	WeightG int64 // of one
}

// Part is so many units of goods.
type Part struct {
	Goods int // its place among those that were given
	Units int64
}

// Block is units of goods that lie side by side, turned the same way: so many along each side.
type Block struct {
	Goods    int
	At, Unit Size // where it begins, and the size of a unit as it lies
	Count    [3]int64
}

// Proposed is a package that could be made.
type Proposed struct {
	Kind   int // its place among those that were given; ByItself for a thing that goes as it is
	Parts  []Part
	Blocks []Block // where its goods lie, but for those of no size
	GoodsG int64
}

// ByItself is the kind of a package that is a single thing, which fits into nothing.
const ByItself = -1

// Ware is into what goods are packed.
type Ware string

// The wares. The zero value leaves it to Propose.
const (
	Either  Ware = ""
	Cartons Ware = "cartons"
	Pallets Ware = "pallets"
)

// mostCartons is how many cartons are carried one by one: more are put onto a pallet. Common practice, no source.
const mostCartons = 6

// Propose spreads goods over packages of those kinds, at most so many, and returns the goods that are left for more. Nothing stands on air:
// what lies on other goods lies on units of one kind, side by side. Goods that fit into no carton go onto a pallet, or else by themselves.
// With Either, all goes onto pallets where some of it has to, or where it would take more than six cartons.
//
// It is a heuristic (first fit of the largest, in blocks, several orders of the goods tried); FewestPackages is what no way can beat. Cost:
// for each package some hundred places for each of the goods, however many units there are.
func Propose(goods []Goods, kinds []PackageKind, ware Ware, most int) (packages []Proposed, left []Part) {
	cartons, pallets := kindsOf(kinds, false), kindsOf(kinds, true)
	if ware != Pallets {
		limit := most
		if ware == Either && len(pallets) > 0 {
			limit = min(most, mostCartons)
		}
		packages, left = propose(goods, kinds, [][]int{cartons, pallets}, limit)
		onPallet := slices.ContainsFunc(packages, func(p Proposed) bool { return p.Kind != ByItself && kinds[p.Kind].Pallet })
		if ware == Cartons || len(left) == 0 && !onPallet || len(pallets) == 0 {
			return packages, left
		}
	}
	return propose(goods, kinds, [][]int{pallets, cartons}, most)
}

// kindsOf are the places of the kinds that are pallets, or that are not, the smallest first.
func kindsOf(kinds []PackageKind, pallets bool) (out []int) {
	for i, k := range kinds {
		if k.Pallet == pallets {
			out = append(out, i)
		}
	}
	slices.SortStableFunc(out, func(a, b int) int {
		return cmp.Or(cmp.Compare(kinds[a].Inner.volume(), kinds[b].Inner.volume()), cmp.Compare(kinds[a].MostG, kinds[b].MostG))
	})
	return out
}

// propose fills packages of the first of several sets of kinds, and with what fits into none of these of the next.
func propose(goods []Goods, kinds []PackageKind, sets [][]int, most int) (packages []Proposed, left []Part) {
	f := filling{goods: goods, left: make([]int64, len(goods))}
	for i, g := range goods {
		f.left[i] = g.Units
	}
	for _, set := range sets {
		for len(packages) < most && f.any() {
			p, fits := f.best(kinds, set)
			if !fits {
				break
			}
			f.take(p)
			packages = append(packages, p)
		}
	}
	for i := range goods {
		for len(packages) < most && f.left[i] > 0 {
			p := Proposed{Kind: ByItself, Parts: []Part{{i, 1}}, GoodsG: goods[i].WeightG}
			f.take(p)
			packages = append(packages, p)
		}
		if f.left[i] > 0 {
			left = append(left, Part{i, f.left[i]})
		}
	}
	return packages, left
}

// filling is goods while they are spread over packages.
type filling struct {
	goods []Goods
	left  []int64
}

func (f *filling) any() bool { return slices.ContainsFunc(f.left, func(n int64) bool { return n > 0 }) }

func (f *filling) take(p Proposed) {
	for _, x := range p.Parts {
		f.left[x.Goods] -= x.Units
	}
}

// best is the smallest package that takes all that is left, or else the one that takes most of it.
func (f *filling) best(kinds []PackageKind, set []int) (best Proposed, fits bool) {
	var most measure
	for _, k := range set {
		p, m := f.fill(k, kinds[k])
		if len(p.Parts) > 0 && (!fits || m.beats(most)) {
			best, most, fits = p, m, true
		}
		if m.all {
			break // the kinds come the smallest first
		}
	}
	return best, fits
}

// measure is how much a package takes.
type measure struct {
	all            bool // all that was left
	volume, weight int64
	units          int64
}

func (m measure) beats(o measure) bool {
	if m.all != o.all {
		return m.all
	}
	return cmp.Or(cmp.Compare(m.volume, o.volume), cmp.Compare(m.weight, o.weight), cmp.Compare(m.units, o.units)) > 0
}

// orders are the ways in which the goods are taken up: by room, by longest side, by weight, by shortest side, each the greatest first.
var orders = []func(a, b Goods) int{
	func(a, b Goods) int { return cmp.Compare(b.Size.volume(), a.Size.volume()) },
	func(a, b Goods) int { return cmp.Compare(slices.Max(b.Size[:]), slices.Max(a.Size[:])) },
	func(a, b Goods) int { return cmp.Compare(b.WeightG, a.WeightG) },
	func(a, b Goods) int { return cmp.Compare(slices.Min(b.Size[:]), slices.Min(a.Size[:])) },
}

// mostSorts is of how many different goods every order is tried; of more, one is.
const mostSorts = 40

// fill fills one package of that kind in several ways and returns the best.
func (f *filling) fill(kind int, k PackageKind) (best Proposed, most measure) {
	tried := orders
	if len(f.goods) > mostSorts {
		tried = orders[:1]
	}
	for _, by := range tried {
		turn := make([]int, len(f.goods))
		for i := range turn {
			turn[i] = i
		}
		slices.SortStableFunc(turn, func(a, b int) int { return by(f.goods[a], f.goods[b]) })
		for _, low := range []bool{false, true} {
			p, m := f.fillInTurn(kind, k, turn, low)
			if len(best.Parts) == 0 || m.beats(most) {
				best, most = p, m
			}
			if m.all {
				return best, most
			}
		}
	}
	return best, most
}

// mostPieces is into how many blocks goods of one size are laid in one package.
const mostPieces = 40

// fillInTurn fills one package with the goods in that order, from below if low is set.
func (f *filling) fillInTurn(kind int, k PackageKind, turn []int, low bool) (Proposed, measure) {
	p, m := Proposed{Kind: kind}, measure{all: true}
	free := []space{{size: k.Inner, volume: k.Inner.volume()}}
	holds, least := k.holds(), f.leastSide()
	for _, i := range turn {
		g, placed := f.goods[i], int64(0)
		can := f.left[i]
		if g.WeightG > 0 {
			can = min(can, holds/g.WeightG)
		}
		if !g.Size.known() {
			placed = can
		}
		for range mostPieces {
			if placed == can {
				break
			}
			b, at, fits := bestBlock(free, g.Size, can-placed, low)
			if !fits {
				break
			}
			b.Goods = i
			rest := free[at].without(b, least)
			free = append(slices.Delete(free, at, at+1), rest...)
			p.Blocks = append(p.Blocks, b)
			placed += b.units()
		}
		if placed > 0 {
			p.Parts = append(p.Parts, Part{i, placed})
			holds -= capped.Times(placed, g.WeightG)
			p.GoodsG += placed * g.WeightG
			m.volume = capped.Plus(m.volume, capped.Times(placed, g.Size.volume()))
			m.units = capped.Plus(m.units, placed)
		}
		m.all = m.all && placed == f.left[i]
	}
	m.weight = p.GoodsG
	return p, m
}

func (b Block) units() int64 { return b.Count[0] * b.Count[1] * b.Count[2] }

// space is room in a package that nothing lies in.
type space struct {
	at, size Size
	volume   int64
}

// leastSide is the shortest side of all that is left: what is narrower is no room.
func (f *filling) leastSide() int64 {
	least := int64(math.MaxInt64)
	for i, g := range f.goods {
		if f.left[i] > 0 && g.Size.known() {
			least = min(least, slices.Min(g.Size[:]))
		}
	}
	return least
}

// bestBlock finds where most of so many units can lie in one block; of several such spaces in the one that has least room to spare. If low
// is set, it takes as many as can lie in the lowest space, and of several such ways the one that is flattest.
func bestBlock(free []space, size Size, units int64, low bool) (best Block, at int, fits bool) {
	turned, volume := size.turned(), size.volume()
	spare := int64(math.MaxInt64)
	for i, s := range free {
		if s.volume < volume {
			continue
		}
		for _, u := range turned {
			b := Block{At: s.at, Unit: u, Count: [3]int64{s.size[0] / u[0], s.size[1] / u[1], s.size[2] / u[2]}}
			b.limit(units)
			n := b.units()
			rest := s.volume - n*volume
			if low {
				rest = u[2] * b.Count[2]
			}
			if n == 0 || fits && cmp.Or(lower(low, s.at[2], best.At[2]), cmp.Compare(best.units(), n), cmp.Compare(rest, spare)) >= 0 {
				continue
			}
			best, at, spare, fits = b, i, rest, true
		}
	}
	return best, at, fits
}

// lower compares heights, if they count.
func lower(counts bool, a, b int64) int {
	if !counts {
		return 0
	}
	return cmp.Compare(a, b)
}

// limit makes a block of at most so many units: whole layers, or else whole rows of one, or part of a row.
func (b *Block) limit(units int64) {
	row := b.Count[0]
	layer := capped.Times(row, b.Count[1])
	switch {
	case capped.Times(layer, b.Count[2]) <= units:
	case units >= layer:
		b.Count[2] = units / max(layer, 1)
	case units >= row:
		b.Count[1], b.Count[2] = units/max(row, 1), 1
	default:
		b.Count = [3]int64{units, min(1, b.Count[1]), min(1, b.Count[2])}
	}
}

// without is what is left of a space once a block lies in its corner: beside it, behind it, and above it. What is beside and what is behind
// share the corner between them so that the largest space is as large as can be. What is narrower than that is left out.
func (s space) without(b Block, least int64) (out []space) {
	var used Size
	for axis := range used {
		used[axis] = b.Unit[axis] * b.Count[axis]
	}
	x, y, z := s.size[0]-used[0], s.size[1]-used[1], s.size[2]-used[2]
	beside := space{at: Size{s.at[0] + used[0], s.at[1], s.at[2]}, size: Size{x, s.size[1], s.size[2]}}
	behind := space{at: Size{s.at[0], s.at[1] + used[1], s.at[2]}, size: Size{used[0], y, s.size[2]}}
	if x*s.size[1] < s.size[0]*y {
		beside.size[1], behind.size[0] = used[1], s.size[0]
	}
	above := space{at: Size{s.at[0], s.at[1], s.at[2] + used[2]}, size: Size{used[0], used[1], z}}
	for _, r := range []space{beside, behind, above} {
		if slices.Min(r.size[:]) >= least {
			r.volume = r.size.volume()
			out = append(out, r)
		}
	}
	return out
}

// FewestPackages returns a number of packages of those kinds below which no way of packing comes: by room, by weight, and by the units of
// which no two go together. Each unit is taken to fit into some kind. It is 0 where there are no goods or no kinds.
func FewestPackages(goods []Goods, kinds []PackageKind) int64 {
	var room, holds, side int64
	for _, k := range kinds {
		room, holds, side = max(room, k.Inner.volume()), max(holds, k.holds()), max(side, slices.Max(k.Inner[:]))
	}
	var volume, weight, thick, heavy int64
	for _, g := range goods {
		volume = capped.Plus(volume, capped.Times(g.Units, g.Size.volume()))
		weight = capped.Plus(weight, capped.Times(g.Units, g.WeightG))
		// Two boxes lie apart along some side, which is at least as long as the shortest sides of both.
		if 2*slices.Min(g.Size[:]) > side {
			thick = capped.Plus(thick, g.Units)
		}
		if 2*g.WeightG > holds {
			heavy = capped.Plus(heavy, g.Units)
		}
	}
	if room == 0 || weight == 0 && volume == 0 {
		return 0
	}
	least := max(thick, heavy, ceil(volume, room))
	if holds > 0 {
		least = max(least, ceil(weight, holds))
	}
	return least
}

func ceil(n, by int64) int64 {
	if n == 0 {
		return 0
	}
	return (n-1)/by + 1
}

// Doubtful says whether what a package weighs on the scale is so far from what its goods should weigh that they are better counted again:
// more than a twentieth, and more than 200 grams. Common practice, no source.
func Doubtful(weighed, shouldWeigh int64) bool {
	off := weighed - shouldWeigh
	if off < 0 {
		off = -off
	}
	return shouldWeigh > 0 && off > 200 && off > shouldWeigh/20
}
