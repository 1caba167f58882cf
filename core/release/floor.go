package release

import (
	"slices"
	"strconv"
)

// Floor is where the bins of a warehouse lie, as their codes tell it: its zones side by side, in each zone its aisles side by side, each as
// deep as the deepest of the zone. One can change aisles at the front, and within a zone at the back, too. The door, where every
// picker begins and ends, is at the front of the first aisle. Lengths are in centimetres. A Floor is made by NewFloor and not changed any
// more.
type Floor struct {
	aisles map[Stop]lane // by zone and aisle
	placed map[Stop]int64
	place  int64
}

// lane is an aisle: how far along the front it begins, and how long it is.
type lane struct{ along, depth int64 }

// Spacing is how far apart aisles, and places in an aisle, are, in centimetres.
type Spacing struct{ Aisle, Place int64 }

// NewFloor returns the floor on which those bins lie. Bins without a code lie nowhere. Places that are numbers lie where their number
// says, others in their order. Cost: that of sorting the bins.
func NewFloor(bins []Stop, s Spacing) *Floor {
	f := &Floor{aisles: map[Stop]lane{}, placed: map[Stop]int64{}, place: s.Place}
	sorted := slices.DeleteFunc(slices.Clone(bins), func(b Stop) bool { return b.Bin == "" })
	slices.SortFunc(sorted, compare)
	sorted = slices.Compact(sorted)
	along := int64(0)
	for i := 0; i < len(sorted); {
		zone := sorted[i].Zone
		j := i
		for j < len(sorted) && sorted[j].Zone == zone {
			j++
		}
		depth := f.placeAll(sorted[i:j])
		for k := i; k < j; k++ {
			at := sorted[k].lane()
			if _, known := f.aisles[at]; !known {
				f.aisles[at] = lane{along, (depth + 1) * s.Place}
				along += s.Aisle
			}
		}
		i = j
	}
	return f
}

// placeAll notes at which place of its aisle each bin of a zone lies and returns the last of these.
func (f *Floor) placeAll(bins []Stop) (last int64) {
	place := int64(0)
	for i, b := range bins {
		if i == 0 || bins[i-1].lane() != b.lane() {
			place = 0
		}
		place++
		_, text := b.aisle()
		if n, err := strconv.ParseInt(text, 10, 32); err == nil && n < mostPlaces {
			place = max(place, n)
		}
		f.placed[b] = place
		last = max(last, place)
	}
	return last
}

// mostPlaces is how many places an aisle can have; greater numbers are names.
const mostPlaces = 10_000

// lane is the stop's zone and aisle.
func (s Stop) lane() Stop {
	aisle, _ := s.aisle()
	return Stop{s.Zone, aisle}
}

// at is how far a stop lies along the front and into its aisle, in centimetres; ok is false if it lies nowhere on the floor.
func (f *Floor) at(s Stop) (in lane, into int64, ok bool) {
	place, ok := f.placed[s]
	return f.aisles[s.lane()], place * f.place, ok
}

// Between returns how far it is from one stop to another, in centimetres; 0 if one of them lies nowhere.
func (f *Floor) Between(a, b Stop) int64 {
	la, ya, aLies := f.at(a)
	lb, yb, bLies := f.at(b)
	if !aLies || !bLies {
		return 0
	}
	if a.lane() == b.lane() {
		return abs(ya - yb)
	}
	front := ya + yb
	if a.Zone == b.Zone {
		front = min(front, la.depth-ya+lb.depth-yb)
	}
	return abs(la.along-lb.along) + front
}

// FromDoor returns how far it is from the door to a stop, in centimetres; 0 if it lies nowhere.
func (f *Floor) FromDoor(s Stop) int64 {
	in, into, ok := f.at(s)
	if !ok {
		return 0
	}
	return in.along + into
}

// Length returns how far it is from the door past all stops, in their order, and back, in centimetres. Stops that lie nowhere are passed
// over.
func (f *Floor) Length(stops []Stop) int64 {
	var length int64
	var last Stop
	begun := false
	for _, s := range stops {
		if _, lies := f.placed[s]; !lies {
			continue
		}
		if begun {
			length += f.Between(last, s)
		} else {
			length += f.FromDoor(s)
		}
		last, begun = s, true
	}
	return length + f.FromDoor(last)
}

func abs(n int64) int64 { return max(n, -n) }
