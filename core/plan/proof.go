package plan

import (
	"journeyman/core/book"
	"journeyman/core/choose"
)

// GoalProof is why no choice in a tier is worth more than its bound: whole numbers that anybody can add up
// again, from these alone. The bound is Free, and of each group its Bound. That of a group is the smaller one of two sums, divided by
// Scale and rounded down:
//
//   - over the cells room × price, over the wants worth × Scale less qty × price of what they need, and over
//     the packs qty × (each × Scale less price), where that is more than nothing;
//   - over the cells what the best choice would be worth if each were alone: of the wants, whole, by their
//     part there, and of the packs by each × Scale.
//
// A Bound below both is shown by deciding the wants one after another, taken or left: where the worth of what is taken and the second
// sum over the rest, in the rooms that are left, do not exceed the Bound, nobody has to look further, and no way may end above it.
type GoalProof struct {
	Free   int64        `json:"free"` // of what nothing is short for: orders, or minor units of value
	Groups []ProofGroup `json:"groups"`
}

// ProofGroup is the proof for items that are short together, since orders want several of them.
type ProofGroup struct {
	Bound int64       `json:"bound"`
	Scale int64       `json:"scale"` // of prices and parts
	Cells []ProofCell `json:"cells"`
	Wants []ProofWant `json:"wants"`           // had whole or not at all
	Packs []ProofPack `json:"packs,omitempty"` // had by the pack, or whole
}

// ProofCell is an item at a warehouse.
type ProofCell struct {
	SKU       string `json:"sku"`
	Warehouse string `json:"warehouse"`
	Room      int64  `json:"room"`  // units that the tier may have
	Price     int64  `json:"price"` // of a unit, × Scale
}

// ProofWant is an order, or a line that goes only whole.
type ProofWant struct {
	Order string      `json:"order"`
	Line  int32       `json:"line,omitempty"` // if it is a line
	Worth int64       `json:"worth"`
	Needs []ProofNeed `json:"needs"`
}

// ProofNeed is how much a want needs of a cell of the group, and which part of its worth, × Scale, is
// split off for it.
type ProofNeed struct {
	Cell int   `json:"cell"` // counted from 0
	Qty  int64 `json:"qty"`
	Part int64 `json:"part"`
}

// ProofPack is a line that takes what there is.
type ProofPack struct {
	Order string `json:"order"`
	Line  int32  `json:"line"`
	Cell  int    `json:"cell"`
	Qty   int64  `json:"qty"`
	Pack  int64  `json:"pack"`
	Each  int64  `json:"each"` // the worth of a unit
}

// proof names what the proof of a problem is about. of are the wishes of its bundles, then of its parts.
func (m *aiming) proof(p choose.Problem, of []int, proof *choose.Proof) *GoalProof {
	if proof == nil {
		return nil
	}
	lineOf := func(x int) (string, int32) {
		l := &m.b.Lines[m.wishes[of[x]].lines[0]]
		return m.b.Orders[l.Order].Number, l.No
	}
	packs := map[int32][]int{}
	for x, part := range p.Parts {
		packs[part.Cell] = append(packs[part.Cell], x)
	}
	out := &GoalProof{Free: proof.Free, Groups: []ProofGroup{}}
	for _, g := range proof.Groups {
		y := ProofGroup{Bound: g.Bound, Scale: g.Scale, Wants: []ProofWant{}}
		at := map[int32]int{}
		for i, c := range g.Cells {
			cell := &m.b.Cells[c]
			at[c] = i
			y.Cells = append(y.Cells, ProofCell{m.b.Items[cell.Item].SKU, m.b.Warehouses[cell.Warehouse], p.Room[c], g.Prices[i]})
			for _, x := range packs[c] {
				order, line := lineOf(len(p.Bundles) + x)
				part := p.Parts[x]
				y.Packs = append(y.Packs, ProofPack{order, line, i, part.Qty, max(1, part.Pack), part.Each})
			}
		}
		for k, j := range g.Bundles {
			b := p.Bundles[j]
			w := ProofWant{Worth: b.Worth}
			w.Order, w.Line = lineOf(int(j))
			if m.options.Goal == MostOrders || m.rule(&m.b.Lines[m.wishes[of[j]].lines[0]]) == book.Whole {
				w.Line = 0
			}
			for _, n := range choose.ByCell(b.Needs) {
				if i, ours := at[n.Cell]; ours {
					w.Needs = append(w.Needs, ProofNeed{i, n.Qty, g.Split[k][len(w.Needs)]})
				}
			}
			y.Wants = append(y.Wants, w)
		}
		out.Groups = append(out.Groups, y)
	}
	return out
}
