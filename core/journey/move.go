package journey

import (
	"errors"
	"fmt"
)

// Kind names a move. The zero value is no move.
type Kind string

// The moves of a line, then the entries that change stock without a line.
const (
	Enter    Kind = "enter"     // units are ordered
	Reduce   Kind = "reduce"    // fewer units are ordered
	Allocate Kind = "allocate"  // stock is set aside for the line
	GiveBack Kind = "give back" // and returned to free stock
	Release  Kind = "release"   // handed to the floor on a pick list
	Recall   Kind = "recall"    // and taken off it again
	Pick     Kind = "pick"
	Short    Kind = "short" // not found when picking; the cause corrects the count
	Pack     Kind = "pack"
	Unpack   Kind = "unpack"
	PutBack  Kind = "put back" // picked or packed units are taken back; held, unless they stay allocated, until they lie in a bin again
	Dispatch Kind = "dispatch"
	Void     Kind = "void" // a dispatch taken back before collection
	Deliver  Kind = "deliver"
	Lose     Kind = "lose" // lost or refused on the way; nothing comes back by itself
	Drop     Kind = "drop"
	Reopen   Kind = "reopen"

	Receive Kind = "receive" // an inbound arrives
	Gain    Kind = "gain"    // a count found more than was on record
	Loss    Kind = "loss"    // a count found fewer
	Set     Kind = "set aside"
	Unset   Kind = "make good"
	BinOut  Kind = "bin out" // units change their bin, nothing else
	BinIn   Kind = "bin in"
)

// Cause says why a pick was short.
type Cause string

// The causes of a short pick. Only a short has one.
const (
	NoCause   Cause = ""
	Missing   Cause = "missing"   // not there: on hand falls
	Damaged   Cause = "damaged"   // there but unusable: held rises
	Elsewhere Cause = "elsewhere" // somewhere in the house: the units become free, their bin unknown
)

// Rule is one legal move: where from, where to, and what one unit of it does to
// the stock of the item in the warehouse where it happens. The change of the
// cell's allocated … packed follows from the two stations.
type Rule struct {
	Kind     Kind
	From, To Station
	Cause    Cause
	OnHand   int // change of on hand, per unit
	Held     int // change of held, per unit
	InHouse  bool
}

// Rules is the complete table of what may happen to a unit, as CORE section 1
// gives it. The database holds the same table and refuses every other move.
// A move with InHouse set happens in a warehouse and needs its cell.
var Rules = []Rule{
	{Enter, Outside, Open, NoCause, 0, 0, false},
	{Reduce, Open, Outside, NoCause, 0, 0, false},
	{Allocate, Open, Allocated, NoCause, 0, 0, true},
	{GiveBack, Allocated, Open, NoCause, 0, 0, true},
	{Release, Allocated, Released, NoCause, 0, 0, true},
	{Recall, Released, Allocated, NoCause, 0, 0, true},
	{Pick, Released, Picked, NoCause, 0, 0, true},
	{Short, Released, Open, Missing, -1, 0, true},
	{Short, Released, Open, Damaged, 0, +1, true},
	{Short, Released, Open, Elsewhere, 0, 0, true},
	{Pack, Picked, Packed, NoCause, 0, 0, true},
	{Unpack, Packed, Picked, NoCause, 0, 0, true},
	{PutBack, Picked, Allocated, NoCause, 0, 0, true},
	{PutBack, Picked, Open, NoCause, 0, +1, true},
	{PutBack, Picked, Dropped, NoCause, 0, +1, true},
	{PutBack, Packed, Allocated, NoCause, 0, 0, true},
	{PutBack, Packed, Open, NoCause, 0, +1, true},
	{PutBack, Packed, Dropped, NoCause, 0, +1, true},
	{Dispatch, Packed, Shipped, NoCause, -1, 0, true},
	{Void, Shipped, Packed, NoCause, +1, 0, true},
	{Deliver, Shipped, Delivered, NoCause, 0, 0, false},
	{Lose, Shipped, Open, NoCause, 0, 0, false},
	{Drop, Open, Dropped, NoCause, 0, 0, false},
	{Reopen, Dropped, Open, NoCause, 0, 0, false},
	{Receive, Outside, Outside, NoCause, +1, 0, true},
	{Gain, Outside, Outside, NoCause, +1, 0, true},
	{Loss, Outside, Outside, NoCause, -1, 0, true},
	{Set, Outside, Outside, NoCause, 0, +1, true},
	{Unset, Outside, Outside, NoCause, 0, -1, true},
	{BinOut, Outside, Outside, NoCause, 0, 0, true},
	{BinIn, Outside, Outside, NoCause, 0, 0, true},
}

// ErrIllegal is wrapped by the error of a move that no rule allows.
var ErrIllegal = errors.New("no such move")

// ErrTooMany is wrapped by the error of a move of more units than are there.
var ErrTooMany = errors.New("more than there is")

// Move is so many units going from one station to another.
type Move struct {
	Kind     Kind
	From, To Station
	Cause    Cause
	Qty      Qty
}

// Make returns the move of that kind when the kind alone decides the stations;
// it panics for PutBack and Short, which have several.
func Make(k Kind, q Qty) Move {
	var found *Rule
	for i := range Rules {
		if Rules[i].Kind == k {
			if found != nil {
				panic("journey: " + string(k) + " goes to several stations")
			}
			found = &Rules[i]
		}
	}
	if found == nil {
		panic("journey: unknown move " + string(k))
	}
	return Move{Kind: k, From: found.From, To: found.To, Qty: q}
}

// MakePutBack returns the move of picked or packed units that are taken back and end as allocated, open or dropped.
func MakePutBack(from, to Station, q Qty) Move {
	return Move{Kind: PutBack, From: from, To: to, Qty: q}
}

// MakeShort returns the move of units that were not found when picking.
func MakeShort(c Cause, q Qty) Move {
	return Move{Kind: Short, From: Released, To: Open, Cause: c, Qty: q}
}

// Rule returns the rule that allows m, or an error that wraps ErrIllegal.
func (m Move) Rule() (Rule, error) {
	for _, r := range Rules {
		if r.Kind == m.Kind && r.From == m.From && r.To == m.To && r.Cause == m.Cause {
			return r, nil
		}
	}
	return Rule{}, fmt.Errorf("%s from %s to %s %s: %w", m.Kind, m.From, m.To, m.Cause, ErrIllegal)
}

// Binned is the change of what lies in the bins, per unit.
func (r Rule) Binned() int {
	switch r.Kind {
	case BinOut:
		return -1
	case BinIn:
		return +1
	}
	n := r.OnHand
	if r.From == Picked || r.From == Packed {
		n++
	}
	if r.To == Picked || r.To == Packed {
		n--
	}
	return n
}

// Apply carries out m on the line, on its place in the warehouse and on that
// warehouse's cell, all or nothing. Line and place may be nil for an entry that
// changes stock alone; place and cell may be nil for a move outside the house.
// The error wraps ErrIllegal or ErrTooMany; then nothing has changed.
func Apply(l *Line, p *Place, c *Cell, m Move) error {
	r, err := m.Rule()
	if err != nil {
		return err
	}
	if m.Qty <= 0 {
		return fmt.Errorf("%s %d: a move takes at least one unit: %w", m.Kind, m.Qty, ErrIllegal)
	}
	ofLine := m.From != m.To
	if ofLine && l == nil || r.InHouse && c == nil || r.InHouse && ofLine && p == nil {
		return fmt.Errorf("%s: line, place or stock not given: %w", m.Kind, ErrIllegal)
	}
	if m.From == Open && m.To == Allocated && c.Free() < m.Qty {
		return fmt.Errorf("%s %d, free are %d: %w", m.Kind, m.Qty, c.Free(), ErrTooMany)
	}
	var nl Line
	var np Place
	var nc Cell
	if ofLine {
		nl = *l
		nl.shift(m)
		if err := nl.Sound(); err != nil {
			return fmt.Errorf("%s %d: %s: %w", m.Kind, m.Qty, err, ErrTooMany)
		}
	}
	if r.InHouse {
		nc = *c
		nc.OnHand += Qty(r.OnHand) * m.Qty
		nc.Held += Qty(r.Held) * m.Qty
		if ofLine {
			np = *p
			shiftHouse(&np, m)
			shiftHouse(&nc.At, m)
			for s, q := range np {
				if q < 0 {
					return fmt.Errorf("%s %d: %s here would be %d: %w", m.Kind, m.Qty, Station(s), q, ErrTooMany)
				}
			}
		}
		if err := nc.Sound(); err != nil {
			return fmt.Errorf("%s %d: %s: %w", m.Kind, m.Qty, err, ErrTooMany)
		}
	}
	if ofLine {
		*l = nl
	}
	if r.InHouse {
		*c = nc
		if ofLine {
			*p = np
		}
	}
	return nil
}

func (l *Line) shift(m Move) {
	if m.From == Outside {
		l.Ordered += m.Qty
	} else {
		l.At[m.From] -= m.Qty
	}
	if m.To == Outside {
		l.Ordered -= m.Qty
	} else {
		l.At[m.To] += m.Qty
	}
}

func shiftHouse(c *Counts, m Move) {
	if m.From.InHouse() {
		c[m.From] -= m.Qty
	}
	if m.To.InHouse() {
		c[m.To] += m.Qty
	}
}

// inverse holds the moves that take each other back while nothing else happened.
var inverse = map[Kind]Kind{
	Allocate: GiveBack, GiveBack: Allocate,
	Release: Recall, Recall: Release,
	Pack: Unpack, Unpack: Pack,
	Drop: Reopen, Reopen: Drop,
}

// Inverse returns the move that takes m back, and whether there is one. A pick,
// a short and everything that left the house cannot be taken back this way:
// goods have moved, and only a person can move them again.
func (m Move) Inverse() (Move, bool) {
	k, ok := inverse[m.Kind]
	if !ok {
		return Move{}, false
	}
	return Make(k, m.Qty), true
}
