package sales

import (
	"slices"

	"journeyman/core/order"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// canRelabel says whether a change that does not reach what is packed can be made by printing its labels again: where it goes, by which
// service, on which terms. What of the order is on a pick list, or picked, has no label yet. Faults say what stands in its way.
func (w *drafting) canRelabel(change order.Change) (bool, error) {
	if change != order.Readdress && change != order.OtherWay && change != order.OtherTerms {
		return false, nil
	}
	packed, err := w.r.PackedShipmentsOf(w.old.ID)
	if err != nil {
		return false, err
	}
	for _, s := range packed {
		switch {
		case s.Asked && w.ask.Relabel:
			w.fault(-1, "order", "The carrier is being asked to take shipment %s. Wait for its answer.", s.Number)
		case s.Others != "" && w.ask.Relabel:
			w.fault(-1, "order", "Shipment %s holds %s, too, and cannot go elsewhere. Unpack what is of %s first.", s.Number, s.Others,
				w.old.Number)
		}
		if s.Asked || s.Others != "" {
			return false, nil
		}
	}
	w.packed = packed
	return true, nil
}

// relabelWords says which labels have to be printed again, if any.
func (w *drafting) relabelWords() (said words.Message) {
	if !w.relabels {
		return said
	}
	labels, first := int64(0), ""
	for _, s := range w.packed {
		if labels += s.Labels; first == "" && s.Labels > 0 {
			first = s.Number
		}
	}
	if labels == 0 {
		return words.Say("Packing lists of it that were printed are void.")
	}
	return words.Say("%s of %s will be void: print new ones before it leaves.", words.Count(labels, "label"), first)
}

// sendOtherwise has what is packed of an order go as the order does now.
func (c *changing) sendOtherwise() error {
	if !c.dr.relabels {
		return nil
	}
	ids := make(store.IDs, len(c.dr.packed))
	for i, s := range c.dr.packed {
		ids[i] = s.ID
	}
	if err := c.w.Tx.LockShipments(ids); err != nil {
		return err
	}
	now, err := c.w.Tx.PackedShipmentsOf(c.order)
	if err != nil {
		return err
	}
	same := slices.EqualFunc(now, ids, func(s store.PackedShipment, id int64) bool { return s.ID == id && !s.Asked && s.Others == "" })
	if !same {
		return command.Conflict("What is packed of %s has changed since you saw it. Nothing was done; try again.", c.dr.old.Number)
	}
	for _, s := range now {
		c.w.AddDocument("shipment", s.Number)
	}
	h := c.dr.head
	return c.w.Tx.SendOtherwise(ids, c.order, c.to, h.service, h.terms, c.w.ID)
}
