package plan

import (
	"journeyman/core/days"
	"journeyman/core/outlook"
)

// Source is a warehouse from which a question could be answered. Its outlook is changed while ways are looked for, and left as it was.
type Source struct {
	Outlook  *outlook.Outlook
	Calendar days.Calendar // the days on which the warehouse sends
}

// Question is asked by somebody who wants so many units by a day.
type Question struct {
	Qty      int64    // in the item's base unit, at least 1
	Multiple int64    // of the item: what is not all that is wanted comes in whole packs
	From     days.Day // on which it has to leave to be there in time
	Sources  []Source // the one that would be asked first, first
}

// WayKind names a way to promise.
type WayKind string

// The ways, in the order in which they are offered.
const (
	ByThen WayKind = "by"     // as much as can leave in time from the first source, and the rest as early as it can
	AtOnce WayKind = "whole"  // all of it together, from the first source, as early as it can
	Helped WayKind = "houses" // as much as can leave in time from each source, one after another
)

// WayPart is so much that would leave a source on a day.
type WayPart struct {
	Source int // by its place among those of the question
	Day    days.Day
	Qty    int64
}

// Way is how a question can be answered.
type Way struct {
	Kind  WayKind
	Parts []WayPart
	Short int64 // units that cannot be promised at all, this way
}

// Ways returns the ways to promise what is asked for (CORE section 2). The first one is always offered; one that says
// nothing new is left out. Cost: the buckets of the outlooks.
func (q Question) Ways() []Way {
	by, inTime := q.byThen()
	out := []Way{by}
	if inTime == q.Qty {
		return out
	}
	if inTime > 0 {
		if day, ok := q.Sources[0].Outlook.Earliest(q.Qty, q.From); ok {
			out = append(out, Way{Kind: AtOnce, Parts: []WayPart{{0, day, q.Qty}}})
		}
	}
	if w := q.helped(); w.Short == 0 || w.Short < by.Short {
		out = append(out, w)
	}
	return out
}

// byThen also returns how many units leave in time.
func (q Question) byThen() (w Way, inTime int64) {
	o := q.Sources[0].Outlook
	w = Way{Kind: ByThen, Short: q.Qty}
	inTime = take(q.Qty, o.ATP(q.From), q.Multiple)
	w.add(0, q.From, inTime)
	if w.Short == 0 {
		return w, inTime
	}
	o.Take(q.From, inTime)
	defer o.Lift(q.From, inTime)
	if day, ok := o.Earliest(w.Short, q.From); ok {
		w.add(0, day, w.Short)
		return w, inTime
	}
	most := take(w.Short, o.Most(), q.Multiple)
	if day, ok := o.Earliest(most, q.From); ok {
		w.add(0, day, most)
	}
	return w, inTime
}

func (q Question) helped() Way {
	w := Way{Kind: Helped, Short: q.Qty}
	for i, s := range q.Sources {
		day := s.Calendar.Next(q.From)
		w.add(i, day, take(w.Short, s.Outlook.ATP(day), q.Multiple))
	}
	return w
}

func (w *Way) add(source int, day days.Day, qty int64) {
	if qty > 0 {
		w.Parts = append(w.Parts, WayPart{source, day, qty})
		w.Short -= qty
	}
}

// Arrival is what a way means for who asked: the days on which its parts are there.
type Arrival struct {
	Days         []days.Day // of each part
	InTime, Late int64      // units that are there by the wished day, and later
	LateDays     int        // working days of the carrier by which the last of them is late
}

// Arrives returns when the parts of a way are there by a service, seen from the day on which they are wished.
func (w Way) Arrives(s days.Service, wished days.Day) Arrival {
	parts := make([]outlook.Part, len(w.Parts))
	for i, p := range w.Parts {
		parts[i] = outlook.Part{Day: p.Day, Qty: p.Qty}
	}
	return ArrivalOf(parts, s, wished)
}

// ArrivalOf returns when parts that leave on their days are there by a service, seen from the day on which they are wished.
func ArrivalOf(parts []outlook.Part, s days.Service, wished days.Day) Arrival {
	var out Arrival
	for _, p := range parts {
		there := s.Arrives(p.Day)
		out.Days = append(out.Days, there)
		if there <= wished {
			out.InTime += p.Qty
		} else {
			out.Late += p.Qty
			out.LateDays = max(out.LateDays, s.Calendar.Count(wished, there))
		}
	}
	return out
}
