// Package lots says of which lots units are as they go from place to place, for items of which that is noted.
//
// A place holds units of one item: a bin, what was picked of an order line in one warehouse, or what of a line lies in a package. Of its
// units so many are known to be of one lot or another; of the rest no lot is noted. The package is pure.
package lots

import (
	"errors"
	"fmt"
	"slices"

	"journeyman/core/journey"
)

// Part is so many units of one lot, which is named by its key.
type Part struct {
	Lot int64
	Qty journey.Qty
}

// Holding is what a place holds: its units, and of which lots they are, the lot that was noted first first. A holding is sound if its parts
// are above nothing, each of another lot, and no more than its units together.
type Holding struct {
	Units journey.Qty
	Parts []Part
}

// Sum is how many units the parts are together.
func Sum(parts []Part) (sum journey.Qty) {
	for _, p := range parts {
		sum += p.Qty
	}
	return sum
}

// Unnoted is how many of the units are of no lot that is noted.
func (h Holding) Unnoted() journey.Qty { return h.Units - Sum(h.Parts) }

// Of is how many of the units are known to be of the lot.
func (h Holding) Of(lot int64) journey.Qty {
	for _, p := range h.Parts {
		if p.Lot == lot {
			return p.Qty
		}
	}
	return 0
}

// ErrTooMany is wrapped by the error of more units of a lot than can be in a place, or of more lots than units.
var ErrTooMany = errors.New("more of a lot than there is")

// ErrWhich is the error of units that may be of several lots.
var ErrWhich = errors.New("of which lots")

// Certain returns of which lots any q of the units are, if that can be only one thing: all of them go, or all are alike. No parts are units
// of no noted lot. The error is ErrWhich if it can be several things.
func (h Holding) Certain(q journey.Qty) ([]Part, error) {
	switch {
	case q >= h.Units:
		return slices.Clone(h.Parts), nil
	case len(h.Parts) == 0:
		return nil, nil
	case len(h.Parts) == 1 && h.Unnoted() == 0:
		return []Part{{h.Parts[0].Lot, q}}, nil
	}
	return nil, ErrWhich
}

// Check says whether q of the units can be of the lots that somebody read off them. Those of no noted lot may be of any; what is not said
// of the q units is taken to be of those, too. The error wraps ErrTooMany.
func (h Holding) Check(said []Part, q journey.Qty) error {
	if Sum(said) > q {
		return fmt.Errorf("%d of lots, of %d units: %w", Sum(said), q, ErrTooMany)
	}
	spare := h.Unnoted() - (q - Sum(said))
	for _, p := range said {
		spare -= max(0, p.Qty-h.Of(p.Lot))
		if spare < 0 {
			return fmt.Errorf("%d of lot %d, noted are %d: %w", p.Qty, p.Lot, h.Of(p.Lot), ErrTooMany)
		}
	}
	if spare < 0 {
		return fmt.Errorf("no lot is said of %d units, and of as many none is noted: %w", q-Sum(said), ErrTooMany)
	}
	return nil
}

// First returns of which lots q of the units are taken to be when nobody can say it: those of no noted lot go first, then those of the lot
// that was noted first.
func (h Holding) First(q journey.Qty) []Part {
	var out []Part
	q -= min(q, h.Unnoted())
	for _, p := range h.Parts {
		if n := min(q, p.Qty); n > 0 {
			out = append(out, Part{p.Lot, n})
			q -= n
		}
	}
	return out
}

// Take takes q units out, of the lots that are given, and returns what of each lot was noted here: the rest of it is noted from now on.
// Call it with parts that Check has let through, or that Certain or First returned.
func (h *Holding) Take(parts []Part, q journey.Qty) (noted []Part) {
	for _, p := range parts {
		i := slices.IndexFunc(h.Parts, func(x Part) bool { return x.Lot == p.Lot })
		if i < 0 {
			continue
		}
		n := min(p.Qty, h.Parts[i].Qty)
		h.Parts[i].Qty -= n
		noted = append(noted, Part{p.Lot, n})
	}
	h.Units -= q
	h.Parts = slices.DeleteFunc(h.Parts, func(p Part) bool { return p.Qty == 0 })
	return noted
}

// Put puts q units in, of the lots that are given.
func (h *Holding) Put(parts []Part, q journey.Qty) {
	for _, p := range parts {
		if i := slices.IndexFunc(h.Parts, func(x Part) bool { return x.Lot == p.Lot }); i >= 0 {
			h.Parts[i].Qty += p.Qty
		} else if p.Qty > 0 {
			h.Parts = append(h.Parts, p)
		}
	}
	h.Units += q
}

// Place is what kind of place units go from or to.
type Place int

// The places. Outside is where what arrives comes from, and where what is lost goes.
const (
	Nowhere Place = iota
	Outside
	Bin
	Picked
	Packed
)

// Goes says from where to where goods go when a move is made. Both are Nowhere if none goes: the move is one on paper, or it leaves units
// where they are in their package.
//
// What is recalled is not carried by that: it lies in its tote or package until somebody puts it away. Units that change their bin do so by
// two entries, and are carried by whoever makes them.
func Goes(m journey.Move) (from, to Place) {
	switch m.Kind {
	case journey.Pick:
		return Bin, Picked
	case journey.Pack:
		return Picked, Packed
	case journey.Unpack:
		return Packed, Picked
	case journey.Receive, journey.Gain:
		return Outside, Bin
	case journey.Loss:
		return Bin, Outside
	case journey.Short:
		if m.Cause == journey.Missing {
			return Bin, Outside
		}
	}
	return Nowhere, Nowhere
}
