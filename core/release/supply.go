package release

import "journeyman/core/journey"

// Supply is what there is for the units that a line still lacks. The zero value is that it lacks none and nobody else does.
type Supply string

// The kinds of supply, the best first.
const (
	Covered   Supply = ""          // nothing is open, and nobody else lacks any of the item there
	Wanted    Supply = "wanted"    // nothing is open, and others lack some
	AllFree   Supply = "all_free"  // all that is open is free
	SomeFree  Supply = "some_free" // part of it is
	Arriving  Supply = "arriving"  // none is, and an inbound has a day that has not passed
	Contested Supply = "contested" // nothing of that, and others lack some, too
	Nowhere   Supply = "nowhere"   // nothing of that
)

// Lack is a line's item at its warehouse, as its supply is looked for.
type Lack struct {
	Open   journey.Qty // of the line
	Free   journey.Qty
	Coming journey.Qty // of the next inbound whose day has not passed
	Others int         // other lines with open units
}

// Supply returns the first kind that fits.
func (l Lack) Supply() Supply {
	switch {
	case l.Open <= 0 && l.Others == 0:
		return Covered
	case l.Open <= 0:
		return Wanted
	case l.Free >= l.Open:
		return AllFree
	case l.Free > 0:
		return SomeFree
	case l.Coming > 0:
		return Arriving
	case l.Others > 0:
		return Contested
	}
	return Nowhere
}
