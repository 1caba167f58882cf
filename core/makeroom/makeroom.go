// Package makeroom finds the promises to put back so that a more important one fits, at
// the least harm, and says how it knows that there is no less (CORE section 6).
//
// A demand of q units by day d does not fit where less than that can still be promised. A
// promise that is put back to a later day leaves its units, from its old day to its new one,
// to the new demand; nothing else changes, so what has to be covered, and by how much, is
// known beforehand: the [row]s. Which entries cover them at the least cost is a covering
// problem. Harm by number is solved exactly by a dynamic program over the lines in the order
// of their promises (after E. L. Lawler and J. M. Moore, A functional equation and its
// application to resource allocation and sequencing problems, Management Science 16, 1969).
// Harm by days starts from a Lagrangian bound and ends with an exact search of the few entries
// that the bound leaves open.
package makeroom

import (
	"cmp"
	"slices"

	"journeyman/core/book"
	"journeyman/core/days"
)

// Harm is what is made least.
type Harm string

// The kinds of harm.
const (
	Number    Harm = "number"    // the sum of the weights of the lines that are put back
	Days      Harm = "days"      // the sum over what is put back of weight × calendar days
	Customers Harm = "customers" // the number of customers of whom anything is put back
)

// Ask is a demand that may not fit.
type Ask struct {
	Cell  int32
	Qty   int64
	By    days.Day              // a past day is today
	Line  int32                 // whose demand it is: its own promises are lifted; NewLine for a new one
	Fixed func(line int32) bool // lines that are not put back; nil: none
	Harm  Harm                  // Number if empty
	Stop  func() bool           // asked now and then; when it says so, the best that was found is the answer; nil: never
}

func (ask *Ask) fixed(line int32) bool { return ask.Fixed != nil && ask.Fixed(line) }

// NewLine is the Ask.Line of a demand that is on no line of the book.
const NewLine = int32(-1)

// Move is an entry of a line's promises that is put back as a whole. With one of an order that goes
// only whole all its promises are, to the same day, also those of other cells.
type Move struct {
	Line     int32
	Cell     int32
	Qty      int64
	From, To days.Day
}

// Answer says which promises to put back.
type Answer struct {
	Fits     bool   // nothing has to be put back
	Possible bool   // it fits, or can be made to
	PutBack  []Move // by line, then by day
	Harm     int64  // in the unit of the harm that was asked for
	Bound    int64  // no way of making room does less harm
	Proved   bool   // Harm is Bound
	Cut      bool   // Ask.Stop said that it was enough
}

// Find returns what to put back. Its cost grows with the entries of the cell and the receipts
// after the day, up to so many steps as take some seconds; then the best that was found is the answer, with its bound. All quantities
// times a factor make no difference.
func Find(b *book.Book, ask Ask) Answer {
	p := build(b, ask)
	switch {
	case p == nil:
		return Answer{Fits: true, Possible: true, Proved: true}
	case !p.possible():
		return Answer{Proved: true}
	}
	p.inUnits()
	var a Answer
	switch ask.Harm {
	case Days:
		a.PutBack, a.Harm, a.Bound = p.bundled().leastDays()
	default:
		groups := p.byLine()
		if ask.Harm == Customers {
			groups = p.byCustomer(b)
		}
		chosen, harm, bound := p.leastNumber(groups)
		a.Harm, a.Bound = harm, bound
		last := p.only(chosen).bundled()
		a.PutBack = last.shortest()
		p.cut = p.cut || last.cut
	}
	a.Possible, a.Proved, a.Cut = true, a.Harm == a.Bound, p.cut
	sortMoves(a.PutBack)
	return a
}

// Entry is a promise that may be put back.
type Entry struct {
	Line int32
	Qty  int64
	Day  days.Day
	To   []days.Day // the days to which it is worth putting it back, the earliest first
}

// Candidates returns the promises of the cell that could make room for the demand, by line and
// day; none if it fits, or if nothing helps.
func Candidates(b *book.Book, ask Ask) []Entry {
	p := build(b, ask)
	if p == nil || !p.possible() {
		return nil
	}
	var out []Entry
	for _, e := range p.entries {
		x := Entry{Line: e.line, Qty: e.qty, Day: e.day}
		for k := e.first; k < len(p.rows); k++ {
			x.To = append(x.To, p.to(&e, k))
		}
		x.To = slices.Compact(x.To)
		out = append(out, x)
	}
	slices.SortStableFunc(out, func(x, y Entry) int { return cmp.Or(cmp.Compare(x.Line, y.Line), cmp.Compare(x.Day, y.Day)) })
	return out
}

// Together returns the moves with those that they bring with them: all other promises of an order
// that goes only whole move to the latest day to which one of them does.
func Together(b *book.Book, moves []Move) []Move {
	until := map[int32]days.Day{}
	out := make([]Move, 0, len(moves))
	for _, m := range moves {
		if l := &b.Lines[m.Line]; l.Rule == book.Whole {
			until[l.Order] = max(until[l.Order], m.To)
		} else {
			out = append(out, m)
		}
	}
	for order, to := range until {
		from, end := b.LinesOf(order)
		for l := from; l < end; l++ {
			for _, x := range b.PromisesOf(l) {
				out = append(out, Move{l, x.Cell, x.Qty, x.Day, to})
			}
		}
	}
	sortMoves(out)
	return out
}

func sortMoves(ms []Move) {
	slices.SortFunc(ms, func(x, y Move) int {
		return cmp.Or(cmp.Compare(x.Line, y.Line), cmp.Compare(x.From, y.From), cmp.Compare(x.Cell, y.Cell))
	})
}

// Enough says whether the demand fits once those promises are put back, and how many units are
// still lacking on the worst day.
func Enough(b *book.Book, ask Ask, moves []Move) (ok bool, lacking int64) {
	p := build(b, ask)
	if p == nil {
		return true, 0
	}
	for k, r := range p.rows {
		there := int64(0)
		for _, m := range moves {
			if m.Cell == ask.Cell && p.until[k] != 0 && max(m.From, b.Today) <= r.start && m.To >= p.until[k] {
				there += m.Qty
			}
		}
		lacking = max(lacking, r.lacks-there)
	}
	return lacking == 0, lacking
}
