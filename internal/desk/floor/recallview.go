package floor

import (
	"context"

	"journeyman/core/journey"
	"journeyman/core/order"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// RecallView is what a recall would do.
type RecallView struct {
	Order string          `json:"order"`
	Lines []RecallLine    `json:"lines"`
	Units int64           `json:"units" doc:"Units that would be stopped"`
	Late  int64           `json:"late" doc:"Units for which it is too late, because a carrier is being asked"`
	Gone  int64           `json:"gone" doc:"Units that have left"`
	Does  []words.Message `json:"does" doc:"What that brings with it, a sentence each"`
}

// RecallLine is a line of the order in a recall.
type RecallLine struct {
	ID    int64         `json:"id"`
	No    int           `json:"no"`
	SKU   string        `json:"sku"`
	Item  string        `json:"item"`
	At    supply.Counts `json:"at"`
	Can   int64         `json:"can" doc:"Units that can be stopped"`
	Takes int64         `json:"takes" doc:"Units that would be"`
	Parts []RecallPart  `json:"parts" doc:"Where its units are that have not left, those first that have come least far"`
}

// RecallPart is so many units of a line at one place.
type RecallPart struct {
	Station string        `json:"station" enum:"open,allocated,released,picked,packed"`
	Qty     int64         `json:"qty"`
	Takes   int64         `json:"takes" doc:"Units that would be stopped"`
	Where   words.Message `json:"where"`
	Late    bool          `json:"late" doc:"It is too late for them: a carrier is being asked"`
}

// RehearseRecall says what a recall would do, and does nothing. It refuses more than can be stopped; that nothing can be, it says as no
// units.
func (d *Desk) RehearseRecall(ctx context.Context, ask RecallAsk) (RecallView, error) {
	r := d.Store.Read(ctx)
	ends, err := endOf(ask.Ends)
	if err != nil {
		return RecallView{}, err
	}
	refs, err := r.OrdersByNumber([]string{ask.Order})
	if err != nil {
		return RecallView{}, err
	}
	if len(refs) == 0 {
		return RecallView{}, command.NotFound("There is no order %s.", ask.Order)
	}
	rows, err := r.LinesOfOrders(store.IDs{refs[0].ID})
	if err != nil {
		return RecallView{}, err
	}
	lines := make([]stopLine, len(rows))
	for i, l := range rows {
		lines[i] = stopLine{l.ID, l.LineNo, l.WeightG, l.Line().At}
	}
	parts, err := partsOf(r, lines)
	if err != nil {
		return RecallView{}, err
	}
	stop, err := whichStop(ask, ends, lines, parts)
	if err != nil {
		return RecallView{}, err
	}
	out := RecallView{Order: ask.Order, Units: int64(stop.units), Late: int64(stop.late), Does: stop.effects(ends)}
	if out.Does == nil {
		out.Does = []words.Message{}
	}
	for i, l := range rows {
		v := RecallLine{
			ID: l.ID, No: l.LineNo, SKU: l.SKU, Item: l.ItemName, At: l.StationCounts, Can: int64(order.Stoppable(lines[i].at, ends)),
			Parts: []RecallPart{},
		}
		out.Gone += l.Shipped + l.Delivered
		for _, p := range stop.parts {
			if p.line != l.ID {
				continue
			}
			if p.late {
				v.Can -= int64(p.qty)
			}
			v.Takes += int64(p.takes)
			v.Parts = append(v.Parts, RecallPart{p.station.String(), int64(p.qty), int64(p.takes), p.where(), p.late})
		}
		out.Lines = append(out.Lines, v)
	}
	return out, nil
}

// where says where the units are, in few words.
func (p stopPart) where() words.Message {
	switch p.station {
	case journey.Open:
		return words.Say("nothing is set aside for them")
	case journey.Allocated:
		return words.Say("set aside at %s", p.houseCode)
	case journey.Released:
		switch {
		case p.picker != "" && p.printed:
			return words.Say("on %s, printed; %s picks it", p.list, p.picker)
		case p.picker != "":
			return words.Say("on %s; %s picks it", p.list, p.picker)
		case p.printed:
			return words.Say("on %s, printed", p.list)
		}
		return words.Say("on %s", p.list)
	case journey.Picked:
		if p.list == "" {
			return words.Say("at %s", p.houseCode)
		}
		return words.Say("at %s, from %s", p.houseCode, p.list)
	}
	switch {
	case p.late:
		return words.Say("in %s of %s, which the carrier is being asked to take", p.box, p.shipment)
	case p.asked:
		return words.Say("in %s of %s, which is to be dispatched", p.box, p.shipment)
	}
	return words.Say("in %s of %s", p.box, p.shipment)
}
