package command

import (
	"fmt"
	"slices"
	"strings"

	"journeyman/core/journey"
	"journeyman/core/lots"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// LotQty is so many units of one lot.
type LotQty struct {
	Lot string `json:"lot" minLength:"1" maxLength:"40" doc:"As it stands on the goods; capitals do not count"`
	Qty int64  `json:"qty" minimum:"1" maximum:"1000000000"`
}

// Carry is units of an item that somebody brings from one place to another. A zero place is outside the house.
type Carry struct {
	From, To store.LotPlace
	Qty      journey.Qty
	Said     []LotQty // of which lots they are, as somebody read it off them
	Inbound  int64    // with which they arrived
}

func (c Carry) item() int64 { return max(c.From.Item, c.To.Item) }

// lotBook is what places hold of items of which lots are noted, as it is after what was followed so far.
type lotBook struct {
	items   map[int64]*store.LotItem // nil for an item without lots
	places  map[store.LotPlace]*store.LotHolding
	lots    map[int64]store.Lot
	codes   map[int64]map[string]int64 // of an item the key of each lot, by its code
	carries []Carry                    // that are still to be followed
}

func newLotBook() lotBook {
	return lotBook{
		items: map[int64]*store.LotItem{}, places: map[store.LotPlace]*store.LotHolding{}, lots: map[int64]store.Lot{},
		codes: map[int64]map[string]int64{},
	}
}

// carried notes where the units of a move go.
func (w *UnitOfWork) carried(e store.Entry, said []LotQty) {
	from, to := lots.Goes(e.Move)
	if from == to {
		return
	}
	at := func(p lots.Place) store.LotPlace {
		switch p {
		case lots.Bin:
			return store.LotPlace{Item: e.Item, Warehouse: e.Warehouse, Bin: e.Bin}
		case lots.Picked:
			return store.LotPlace{Item: e.Item, Warehouse: e.Warehouse, Line: e.Line}
		case lots.Packed:
			return store.LotPlace{Item: e.Item, Warehouse: e.Warehouse, Line: e.Line, Package: e.Package}
		}
		return store.LotPlace{}
	}
	w.Carry(Carry{From: at(from), To: at(to), Qty: e.Move.Qty, Said: said, Inbound: e.Inbound})
}

// Carry notes that units are brought from one place to another.
func (w *UnitOfWork) Carry(c Carry) { w.lots.carries = append(w.lots.carries, c) }

// Follow works out of which lots the units are that were carried since it was last called; the end of a command calls it, too. It returns
// how many of them, by carry, came into a bin and are of lots that must not be sent.
//
// It refuses lots that cannot be there, lots that must not be sent where units are picked or packed, and units of which somebody has to say
// of which lots they are.
func (w *UnitOfWork) Follow() (stopped []journey.Qty, err error) {
	carries := w.lots.carries
	w.lots.carries = nil
	stopped = make([]journey.Qty, len(carries))
	if len(carries) == 0 {
		return stopped, nil
	}
	if err := w.readLotItems(carries); err != nil {
		return nil, err
	}
	places, asked := []store.LotPlace{}, map[store.LotPlace]bool{{}: true}
	for _, c := range carries {
		if w.lots.items[c.item()] == nil {
			continue
		}
		for _, p := range []store.LotPlace{c.From, c.To} {
			if !asked[p] && w.lots.places[p] == nil {
				asked[p] = true
				places = append(places, p)
			}
		}
	}
	if err := w.readLotPlaces(places); err != nil {
		return nil, err
	}
	for i, c := range carries {
		if it := w.lots.items[c.item()]; it != nil {
			if stopped[i], err = w.follow(it, c); err != nil {
				return nil, err
			}
		}
	}
	return stopped, nil
}

// readLotItems reads which of the items have lots, as far as that is not known.
func (w *UnitOfWork) readLotItems(carries []Carry) error {
	var ids store.IDs
	for _, c := range carries {
		if _, known := w.lots.items[c.item()]; !known {
			w.lots.items[c.item()] = nil
			ids = append(ids, c.item())
		}
	}
	if len(ids) == 0 {
		return nil
	}
	found, err := w.Tx.LotItems(ids)
	for i := range found {
		w.lots.items[found[i].ID] = &found[i]
	}
	return err
}

// readLotPlaces reads what places hold.
func (w *UnitOfWork) readLotPlaces(places []store.LotPlace) error {
	if len(places) == 0 {
		return nil
	}
	held, err := w.Tx.LotHoldings(places)
	if err != nil {
		return err
	}
	var ids store.IDs
	for i := range held {
		w.lots.places[held[i].LotPlace] = &held[i]
		for _, p := range held[i].Parts {
			if _, known := w.lots.lots[p.Lot]; !known && !slices.Contains(ids, p.Lot) {
				ids = append(ids, p.Lot)
			}
		}
	}
	if len(ids) == 0 {
		return nil
	}
	found, err := w.Tx.Lots(ids)
	for _, l := range found {
		w.lots.lots[l.ID] = l
	}
	return err
}

// follow works out of which lots the units are, and notes it.
func (w *UnitOfWork) follow(it *store.LotItem, c Carry) (stopped journey.Qty, err error) {
	said, err := w.lotsSaid(it, c.Said)
	if err != nil {
		return 0, err
	}
	from, to := w.lots.places[c.From], w.lots.places[c.To]
	parts, err := w.whichLots(it, c, said, from)
	if err != nil {
		return 0, err
	}
	toBin := c.To.Bin != 0
	for _, p := range parts { // which must not be sent
		switch l := w.lots.lots[p.Lot]; {
		case l.RecallID == nil:
		case toBin:
			stopped += p.Qty
		case to != nil:
			return 0, Conflict("Lot %s of %s must not be sent: %s recalled it %s. Why: %s Lay it aside.", l.Code, it.SKU, l.Who, w.Clock(*l.At),
				words.WithFullStop(l.Reason))
		}
	}
	var brought journey.Qty // of those that are set aside, from bin to bin
	if from != nil {
		for _, p := range from.Take(parts, c.Qty) {
			e := store.LotEntry{LotPlace: c.From, Lot: p.Lot, Change: -int64(p.Qty)}
			if left := from.Of(p.Lot); from.Aside[p.Lot] > left { // fewer are there than were set aside
				e.Aside = int64(left - from.Aside[p.Lot])
				brought += from.Aside[p.Lot] - left
				from.Aside[p.Lot] = left
			}
			w.Tx.NoteLots([]store.LotEntry{e})
		}
	}
	if to == nil {
		return 0, nil
	}
	to.Put(parts, c.Qty)
	for _, p := range parts {
		e := store.LotEntry{LotPlace: c.To, Lot: p.Lot, Change: int64(p.Qty), Inbound: c.Inbound}
		if toBin && w.lots.lots[p.Lot].RecallID != nil {
			e.Aside = int64(p.Qty)
			to.Aside[p.Lot] += p.Qty
		}
		w.Tx.NoteLots([]store.LotEntry{e})
	}
	return stopped, w.setAside(it, c, stopped, brought)
}

// CountLots notes of which lots the units are that were counted in a bin, once what was found or lacks was moved. With nothing said of
// lots they stay as they are noted. What is of lots that must not be sent is set aside.
func (w *UnitOfWork) CountLots(at store.LotPlace, counted journey.Qty, said []LotQty) error {
	if len(said) == 0 {
		return nil
	}
	if err := w.readLotItems([]Carry{{From: at}}); err != nil {
		return err
	}
	it := w.lots.items[at.Item]
	if it == nil {
		return Invalid("This item is not kept by lots. Leave them out.")
	}
	parts, err := w.lotsSaid(it, said)
	if err != nil {
		return err
	}
	if sum := lots.Sum(parts); sum > counted {
		return Invalid("%d of %s are said to be of some lot, and there are %d.", sum, it.SKU, counted)
	}
	if err := w.readLotPlaces([]store.LotPlace{at}); err != nil {
		return err
	}
	h := w.lots.places[at]
	is := lots.Holding{Parts: parts}
	var more, less journey.Qty // that are set aside
	for _, p := range append(slices.Clone(parts), h.Parts...) {
		now, was := is.Of(p.Lot), h.Of(p.Lot)
		e := store.LotEntry{LotPlace: at, Lot: p.Lot, Change: int64(now - was)}
		if w.lots.lots[p.Lot].RecallID != nil {
			e.Aside = int64(now - h.Aside[p.Lot])
			more, less = more+max(0, now-h.Aside[p.Lot]), less+max(0, h.Aside[p.Lot]-now)
			h.Aside[p.Lot] = now
		}
		if e.Change != 0 || e.Aside != 0 {
			w.Tx.NoteLots([]store.LotEntry{e})
		}
		h.Parts = slices.DeleteFunc(h.Parts, func(x lots.Part) bool { return x.Lot == p.Lot })
		if now > 0 {
			h.Parts = append(h.Parts, lots.Part{Lot: p.Lot, Qty: now})
		}
	}
	for _, m := range []journey.Move{{Kind: journey.Unset, Qty: less}, {Kind: journey.Set, Qty: more}} {
		if m.Qty > 0 {
			if err := w.MoveStock(at.Item, at.Warehouse, journey.Make(m.Kind, m.Qty), Refs{Bin: at.Bin}); err != nil {
				return err
			}
		}
	}
	return nil
}

// setAside sets aside what came into a bin and is of lots that must not be sent. What was put back is held until whoever put it back says
// otherwise.
func (w *UnitOfWork) setAside(it *store.LotItem, c Carry, stopped, brought journey.Qty) error {
	if c.From.Line != 0 || stopped == 0 && brought == 0 {
		return nil
	}
	if brought > 0 {
		if err := w.MoveStock(it.ID, c.From.Warehouse, journey.Make(journey.Unset, brought), Refs{Bin: c.From.Bin}); err != nil {
			return err
		}
	}
	if stopped == 0 {
		return nil
	}
	w.Also(words.Say("Set aside, since the lot must not be sent: %s.", words.Count(int64(stopped), "unit")))
	return w.MoveStock(it.ID, c.To.Warehouse, journey.Make(journey.Set, stopped), Refs{Bin: c.To.Bin})
}

// lotsSaid are the lots that somebody read off units; those that are new are made.
func (w *UnitOfWork) lotsSaid(it *store.LotItem, said []LotQty) ([]lots.Part, error) {
	if len(said) == 0 {
		return nil, nil
	}
	var codes store.Texts
	for _, s := range said {
		code := strings.ToUpper(strings.TrimSpace(s.Lot))
		if code == "" || s.Qty < 1 {
			return nil, Invalid("Say of which lot of %s how many units are.", it.SKU)
		}
		if slices.Contains(codes, code) {
			return nil, Invalid("Lot %s was said twice. Say it once, with all units of it.", code)
		}
		codes = append(codes, code)
	}
	known := w.lots.codes[it.ID]
	if known == nil {
		known = map[string]int64{}
		w.lots.codes[it.ID] = known
	}
	if slices.ContainsFunc(codes, func(c string) bool { return known[c] == 0 }) {
		id, err := w.Tx.CommandID()
		if err != nil {
			return nil, err
		}
		found, err := w.Tx.EnsureLots(it.ID, codes, id)
		if err != nil {
			return nil, err
		}
		for _, l := range found {
			known[l.Code] = l.ID
			w.lots.lots[l.ID] = l
		}
	}
	parts := make([]lots.Part, len(said))
	for i, s := range said {
		parts[i] = lots.Part{Lot: known[codes[i]], Qty: journey.Qty(s.Qty)}
	}
	return parts, nil
}

// whichLots is of which lots units are: as it was said, as it can only be or, of what is lost, as it is taken to be.
func (w *UnitOfWork) whichLots(it *store.LotItem, c Carry, said []lots.Part, from *store.LotHolding) ([]lots.Part, error) {
	sum := lots.Sum(said)
	switch {
	case sum > c.Qty:
		return nil, Invalid("%d of %s are said to be of some lot, and there are %d.", sum, it.SKU, c.Qty)
	case from == nil: // it has arrived, or was found
		if c.Inbound != 0 && it.Lots && sum < c.Qty {
			return nil, Invalid("%s is kept by lots: scan or type the lot that stands on the goods.", it.SKU)
		}
		return said, nil
	case len(said) > 0:
		if from.Check(said, c.Qty) == nil && (sum == c.Qty || !it.Lots || c.From.Bin == 0) {
			return said, nil
		}
		return nil, w.notOfLots(it, c, said, from)
	}
	parts, err := from.Certain(c.Qty)
	picks := c.From.Bin != 0 && c.To.Line != 0
	switch {
	case err == nil && (!picks || !it.Lots || lots.Sum(parts) == c.Qty):
		return parts, nil
	case c.To == (store.LotPlace{}) || c.From.Bin != 0 && c.To.Bin != 0:
		return w.taken(from, c.Qty), nil
	}
	return nil, Invalid("%s is kept by lots: say which was taken out of %s. %s", it.SKU, from.Name, w.lotsIn(from))
}

// taken is of which lots units of a place are taken to be when nobody can say it. Lots that must not be sent lie aside: they are the last.
func (w *UnitOfWork) taken(from *store.LotHolding, q journey.Qty) []lots.Part {
	h := lots.Holding{Units: from.Units, Parts: slices.Clone(from.Parts)}
	slices.SortStableFunc(h.Parts, func(a, b lots.Part) int {
		stops := func(p lots.Part) int {
			if w.lots.lots[p.Lot].RecallID != nil {
				return 1
			}
			return 0
		}
		return stops(a) - stops(b)
	})
	return h.First(q)
}

// notOfLots refuses what was said of lots that cannot be in a place.
func (w *UnitOfWork) notOfLots(it *store.LotItem, c Carry, said []lots.Part, from *store.LotHolding) error {
	for _, p := range said {
		if here := from.Of(p.Lot) + from.Unnoted(); p.Qty > here {
			return Conflict("%s holds %d of %s of lot %s, not %d. %s", placeName(from), here, it.SKU, w.lots.lots[p.Lot].Code, p.Qty, w.lotsIn(from))
		}
	}
	if sum := lots.Sum(said); sum < c.Qty {
		return Invalid("%s is kept by lots: say it of all %d that were taken out of %s. %s", it.SKU, c.Qty, from.Name, w.lotsIn(from))
	}
	return Conflict("The %d of %s out of %s cannot be of these lots. %s", c.Qty, it.SKU, from.Name, w.lotsIn(from))
}

func placeName(h *store.LotHolding) string {
	if h.Name == "" {
		return "No bin"
	}
	return h.Name
}

// lotsIn says of which lots units of a place are.
func (w *UnitOfWork) lotsIn(h *store.LotHolding) words.Message {
	if len(h.Parts) == 0 {
		return words.Say("No lot is noted there yet.")
	}
	var said []string
	for _, p := range h.Parts {
		said = append(said, fmt.Sprintf("%s (%d)", w.lots.lots[p.Lot].Code, p.Qty))
	}
	if n := h.Unnoted(); n > 0 {
		return words.Say("Noted there: %s; of %s no lot is.", strings.Join(said, ", "), words.Count(int64(n), "unit"))
	}
	return words.Say("Noted there: %s.", strings.Join(said, ", "))
}
