package plan

import "journeyman/core/book"

// Part is a share of what is free that a policy keeps for some lines: those of the tier and the tiers
// before it, and those for which For says so.
type Part struct {
	SKU     string // of this item; of every item if empty
	Percent int64  // of what is free of it at each warehouse when the run begins, rounded down to units
	Tier    uint8  // 0 for none
	For     func(line int32) bool
}

// Reserves says how many units the parts keep, cell by cell in the order of the parts. Of a cell of which less than a
// unit would be kept nothing is. What several parts keep of one cell adds up. Cost: parts × cells.
func Reserves(b *book.Book, parts []Part) []Reserve {
	var out []Reserve
	for _, p := range parts {
		for c := range b.Cells {
			cell := &b.Cells[c]
			if p.SKU != "" && b.Items[cell.Item].SKU != p.SKU {
				continue
			}
			if units := cell.Free() * p.Percent / 100; units > 0 {
				out = append(out, Reserve{Cell: int32(c), Units: units, For: func(l int32) bool {
					return b.Orders[b.Lines[l].Order].Tier <= p.Tier || p.For != nil && p.For(l)
				}})
			}
		}
	}
	return out
}
