package floor

import (
	"context"
	"maps"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"journeyman/core/capped"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// DueAsk chooses allocated lines that could go to the floor.
type DueAsk struct {
	Until     string `json:"until,omitempty" format:"date" doc:"Lines to be shipped by this day; two working days ahead if empty"`
	Warehouse string `json:"warehouse,omitempty" maxLength:"12" doc:"Only what is allocated there"`
	Query     string `json:"q,omitempty" maxLength:"200" doc:"Words that are each in the order's number, the customer or the item"`
}

// NotOffered counts lines that are not offered for release for one reason.
type NotOffered struct {
	Reason string        `json:"reason"`
	Text   words.Message `json:"text"`
	Lines  int64         `json:"lines"`
	More   bool          `json:"more" doc:"There are more than that"`
	Note   string        `json:"note,omitempty" doc:"Such as the first day on which one is due"`
}

// Offer is how much could be released and how much could not, and why.
type Offer struct {
	Until      string       `json:"until" format:"date" doc:"Lines to be shipped by this day count as due"`
	Offered    int64        `json:"offered" doc:"How many lines could go"`
	More       bool         `json:"more" doc:"There are more than that: the most urgent ones were counted"`
	Units      int64        `json:"units" doc:"Of the lines that could go and were counted"`
	WeightG    int64        `json:"weight_g" doc:"The same in weight"`
	NotOffered []NotOffered `json:"not_offered"`
	Later      []LaterDay   `json:"later" doc:"What a later day would bring in, the next days first"`
	Warehouses []string     `json:"warehouses"`
}

// LaterDay is how much more could go if work until that day counted as due.
type LaterDay struct {
	Day   string `json:"day" format:"date"`
	Lines int64  `json:"lines" doc:"That could go by then and cannot yet"`
}

// mostLater is how many later days are told.
const mostLater = 5

// Offer counts the allocated lines that could go by the day asked for and those that could not, by their first reason: the 10,000 most
// urgent exactly.
func (d *Desk) Offer(ctx context.Context, ask DueAsk) (Offer, error) {
	r := d.Store.Read(ctx)
	out := Offer{NotOffered: []NotOffered{}, Later: []LaterDay{}, Warehouses: []string{}}
	houses, err := r.Warehouses()
	if err != nil {
		return out, err
	}
	for _, h := range houses {
		out.Warehouses = append(out.Warehouses, h.Code)
	}
	until, err := d.supply.DueUntil(r, ask.Until, ask.Warehouse)
	if err != nil {
		return out, err
	}
	out.Until = until.String()
	var groups []store.ReleaseGroup
	var none int64
	var parts errgroup.Group
	parts.Go(func() (err error) {
		groups, err = r.ReleaseGroups(ask.query(), until.String(), store.MostCounted+1)
		return err
	})
	parts.Go(func() (err error) {
		none, err = r.Unallocated(ask.query().Words, ask.Warehouse, store.MostCounted+1)
		return err
	})
	err = parts.Wait()
	countOffer(groups, none, until, &out)
	return out, err
}

func (a DueAsk) query() store.ReleaseQuery {
	return store.ReleaseQuery{Words: strings.Fields(a.Query), Warehouse: a.Warehouse}
}

// offered returns up to so many of the lines that could go, the most urgent first, from there on, and whether there are no more. What
// cannot go is passed over in ever longer steps.
func offered(r *store.Reader, ask DueAsk, until days.Day, from store.ReleaseAt, most int) (going []store.Releasing, ended bool, err error) {
	q := ask.query()
	q.Until, q.After = until.String(), from
	for step := most + most/2; ; step *= 4 {
		rows, err := r.ReleaseCandidates(q, step)
		if err != nil {
			return nil, false, err
		}
		for i, x := range rows {
			if release.Check(supply.ReleasingCandidate(x, until), until) != release.Offered {
				continue
			}
			going = append(going, x)
			if len(going) == most {
				return going, i == len(rows)-1 && len(rows) < step, nil
			}
		}
		if len(rows) < step {
			return going, true, nil
		}
		q.After = rows[len(rows)-1].ReleaseAt
	}
}

// countOffer adds up what could go and what could not, by its first reason; none is how many lines have nothing allocated.
func countOffer(groups []store.ReleaseGroup, none int64, until days.Day, out *Offer) {
	counts := map[release.Reason]int64{release.Nothing: min(none, store.MostCounted)}
	counted, firstDue := int64(0), ""
	later := map[string]int64{}
	for _, g := range groups {
		why := release.Check(supply.GroupCandidate(g, until), until)
		counts[why] += g.Lines
		counted += g.Lines
		if why == release.Offered {
			out.Units, out.WeightG = capped.Plus(out.Units, g.Units), capped.Plus(out.WeightG, g.WeightG)
		}
		if why == release.NotDue && (firstDue == "" || g.Day < firstDue) {
			firstDue = g.Day
		}
		if c := supply.GroupCandidate(g, until); why == release.NotDue && release.Check(c, c.ShipBy) == release.Offered {
			later[g.Day] += g.Lines
		}
	}
	brings := int64(0)
	for _, day := range slices.Sorted(maps.Keys(later)) {
		if brings += later[day]; len(out.Later) < mostLater {
			out.Later = append(out.Later, LaterDay{day, brings})
		}
	}
	// The most urgent lines are counted first: of what is due there are more only where nothing else was counted.
	more := counted > store.MostCounted
	out.Offered, out.More = counts[release.Offered], more && counts[release.NotDue] == 0
	for _, why := range release.Reasons {
		if counts[why] == 0 {
			continue
		}
		n := NotOffered{Reason: string(why), Text: supply.ReleaseReasons[why], Lines: counts[why], More: more}
		switch why {
		case release.Nothing:
			n.More = none > store.MostCounted
		case release.NotDue:
			n.Note = firstDue
		}
		out.NotOffered = append(out.NotOffered, n)
	}
}

// LineUnits is how many units of a line are to go.
type LineUnits struct {
	Line int64 `json:"line"`
	Qty  int64 `json:"qty" minimum:"0" maximum:"1000000000" doc:"0: it stays"`
	Seen int64 `json:"seen,omitempty" doc:"Version of the line that was seen"`
}

// ReleaseDueAsk releases all that could go, but for what is said of some lines.
type ReleaseDueAsk struct {
	DueAsk
	Wave         WaveAsk `json:"wave,omitzero"`
	Print        bool    `json:"print,omitempty" doc:"The pick lists are printed, as one document"`
	PackingLists bool    `json:"packing_lists,omitempty" doc:"So are packing lists of what is released of each order"`

	But []LineUnits `json:"but,omitempty" maxItems:"1000" doc:"Lines that are to go otherwise than with all that they have allocated"`
}

// mostReleased is how many lines are released at once.
const mostReleased = 10_000

// ReleaseDue hands all that could go by the day asked for to the floor, the most urgent first, at most 10,000 lines at once.
//
// It locks all lines of the orders concerned with the stock of their items. What may not go by then stays behind; a line of which it
// was said how much is to go is refused if it is not as it was seen, or may not.
func (d *Desk) ReleaseDue(ctx context.Context, call command.Call, ask ReleaseDueAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbRelease, ask, func(w *command.UnitOfWork) error {
		r := &w.Tx.Reader
		until, err := d.supply.DueUntil(r, ask.Until, ask.Warehouse)
		if err != nil {
			return err
		}
		going, ended, err := offered(r, ask.DueAsk, until, store.ReleaseAt{}, mostReleased)
		if err != nil {
			return err
		}
		lines, err := chooseDue(w, going, ask.But)
		if err != nil {
			return err
		}
		goes := ReleaseAsk{Until: until.String(), Wave: ask.Wave, Print: ask.Print, PackingLists: ask.PackingLists}
		if err := d.releaseLines(w, lines, goes); err != nil {
			return err
		}
		if !ended {
			w.Also(words.Say("That is %s, as many as go at once: the others can be released now.", words.Count(len(going), "line")))
		}
		return nil
	})
}

// chooseDue holds all lines of the orders of what could go still and returns those that could, with the units that were asked for.
func chooseDue(w *command.UnitOfWork, going []store.Releasing, but []LineUnits) ([]command.Chosen, error) {
	ids := make(store.IDs, len(going))
	could := make(map[int64]bool, len(going))
	for i, x := range going {
		ids[i], could[x.Line] = x.Line, true
	}
	all, err := wholeOrdersOf(w, ids)
	if err != nil {
		return nil, err
	}
	asked := map[int64]LineUnits{}
	for _, b := range but {
		if asked[b.Line] = b; b.Qty > 0 && !could[b.Line] {
			return nil, command.Conflict(
				"A line of which a quantity was typed can no longer be released. Nothing was done; look at the list as it is now.",
			)
		}
	}
	lines := slices.DeleteFunc(all, func(c command.Chosen) bool {
		b, is := asked[c.Line.ID]
		return !could[c.Line.ID] || is && b.Qty == 0
	})
	for i, c := range lines {
		b, is := asked[c.Line.ID]
		if !is {
			continue
		}
		if b.Seen != 0 {
			if err := w.CheckVersion(c.Line, b.Seen); err != nil {
				return nil, err
			}
		}
		lines[i].Asked = journey.Qty(b.Qty)
	}
	return lines, nil
}
