// Package journey holds the one rule everything in Journeyman stands on: every
// unit of every order line is at exactly one station, and only a move takes it
// to the next.
//
// The package is pure. A [Move] is checked against a [Line], the line's [Place]
// in one warehouse and that warehouse's [Cell] of stock; [Apply] changes all
// three together or none. Quantities are whole numbers of the item's base unit.
package journey

import "fmt"

// Qty is a quantity in the item's base unit. It is never negative in a count.
type Qty int64

// Station is a place on the way of a unit from the order to the customer.
// Its order is the order of the journey; Dropped stands beside it.
type Station uint8

// The stations, in the order of the journey.
const (
	Open Station = iota
	Allocated
	Released
	Picked
	Packed
	Shipped
	Delivered
	Dropped
	// Outside is where units come from when a line is entered or raised, and
	// where they go when it is reduced. No unit is ever counted there.
	Outside
)

// Stations is the number of stations at which units are counted.
const Stations = int(Outside)

var stationNames = [...]string{"open", "allocated", "released", "picked", "packed", "shipped", "delivered", "dropped", "outside"}

// String is the name used on the screen, in the API and in the database.
func (s Station) String() string {
	if int(s) < len(stationNames) {
		return stationNames[s]
	}
	return fmt.Sprintf("station(%d)", uint8(s))
}

// ParseStation returns the station of that name, or an error naming what was given.
func ParseStation(name string) (Station, error) {
	for i, n := range stationNames {
		if n == name {
			return Station(i), nil
		}
	}
	return 0, fmt.Errorf("%q is not a station", name)
}

// InHouse says whether units at s stand in a warehouse and use up its stock.
func (s Station) InHouse() bool { return s >= Allocated && s <= Packed }

// Counts is the number of units at each station, indexed by Station.
type Counts [Stations]Qty

// Sum is the number of units at all stations together.
func (c Counts) Sum() Qty {
	var t Qty
	for _, q := range c {
		t += q
	}
	return t
}

// Line is one order line: what was ordered and where its units are.
// A line is sound when At.Sum() == Ordered and no count is negative.
type Line struct {
	Ordered Qty
	At      Counts
}

// Finished says whether every unit is delivered or dropped.
// A line with nothing ordered is finished.
func (l Line) Finished() bool { return l.At[Delivered]+l.At[Dropped] == l.Ordered }

// Place is where units of one line stand in one warehouse. Only the stations
// for which InHouse is true are ever non-zero.
type Place = Counts

// Cell is the stock of one item in one warehouse.
// On hand = held + free + allocated + released + picked + packed.
type Cell struct {
	OnHand, Held Qty
	At           Counts // the in-house stations, over all lines
}

// Free is what is on hand, not held and not spoken for by any line.
func (c Cell) Free() Qty {
	return c.OnHand - c.Held - c.At[Allocated] - c.At[Released] - c.At[Picked] - c.At[Packed]
}

// Binned is what lies in the bins: on hand less what was picked or packed.
func (c Cell) Binned() Qty { return c.OnHand - c.At[Picked] - c.At[Packed] }

// Sound returns an error naming the first count that cannot be.
func (c Cell) Sound() error {
	switch {
	case c.OnHand < 0:
		return fmt.Errorf("on hand would be %d", c.OnHand)
	case c.Held < 0:
		return fmt.Errorf("held would be %d", c.Held)
	case c.Free() < 0:
		return fmt.Errorf("free would be %d", c.Free())
	}
	for s, q := range c.At {
		if q < 0 {
			return fmt.Errorf("%s would be %d", Station(s), q)
		}
	}
	return nil
}

// Sound returns an error naming the first count that cannot be.
func (l Line) Sound() error {
	for s, q := range l.At {
		if q < 0 {
			return fmt.Errorf("%s would be %d", Station(s), q)
		}
	}
	if l.At.Sum() != l.Ordered {
		return fmt.Errorf("the stations add up to %d, ordered are %d", l.At.Sum(), l.Ordered)
	}
	return nil
}
