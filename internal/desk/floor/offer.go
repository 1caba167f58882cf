package floor

import (
	"context"
	"fmt"
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

// ReleaseLine is an allocated line that could go to the floor.
type ReleaseLine struct {
	supply.LineView
	Ready     int   `json:"ready" doc:"Open lines of its order that could go in full now"`
	OpenLines int   `json:"open_lines"`
	WeightG   int64 `json:"weight_g" doc:"Weight of what is allocated"`
}

// ReleasePage is what could be released and what could not.
type ReleasePage struct {
	Until      string        `json:"until" format:"date" doc:"Lines to be shipped by this day count as due"`
	Offered    int64         `json:"offered" doc:"How many lines could go"`
	More       bool          `json:"more" doc:"There are more than that: the most urgent ones were counted"`
	Units      int64         `json:"units" doc:"Of the lines that could go and were counted"`
	WeightG    int64         `json:"weight_g" doc:"The same in weight"`
	Lines      []ReleaseLine `json:"lines" doc:"The most urgent of them"`
	Next       string        `json:"next,omitempty" doc:"Where the list goes on; absent at its end"`
	NotOffered []NotOffered  `json:"not_offered"`
	Warehouses []string      `json:"warehouses"`
}

// offerPage is how many lines are listed at once.
const offerPage = 50

// Offer lists the allocated lines that could go by the day asked for, the most urgent first, from where a page before it ended; and counts
// those that could go and those that could not, by their first reason. It counts the 10,000 most urgent exactly.
func (d *Desk) Offer(ctx context.Context, ask DueAsk, after string) (ReleasePage, error) {
	r := d.Store.Read(ctx)
	out := ReleasePage{Lines: []ReleaseLine{}, NotOffered: []NotOffered{}, Warehouses: []string{}}
	houses, err := r.Warehouses()
	if err != nil {
		return out, err
	}
	for _, h := range houses {
		out.Warehouses = append(out.Warehouses, h.Code)
	}
	until, err := d.dueUntil(r, ask)
	if err != nil {
		return out, err
	}
	out.Until = until.String()
	from, err := readPosition(after)
	if err != nil {
		return out, err
	}
	// Beside each other: what is counted takes longer than what is listed.
	var groups []store.ReleaseGroup
	var none int64
	var parts errgroup.Group
	parts.Go(func() error { return d.listOffer(r, ask, until, from, &out) })
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

// listOffer lists what could go, from there on.
func (d *Desk) listOffer(r *store.Reader, ask DueAsk, until days.Day, from store.ReleaseAt, out *ReleasePage) error {
	going, ended, err := offered(r, ask, until, from, offerPage)
	if err != nil {
		return err
	}
	if !ended {
		out.Next = position(going[len(going)-1].ReleaseAt)
	}
	out.Lines, err = d.releaseLines(r, going)
	return err
}

// dueUntil is the day up to which lines count as due.
func (d *Desk) dueUntil(r *store.Reader, ask DueAsk) (days.Day, error) {
	if ask.Until != "" {
		until, err := days.Parse(ask.Until)
		if err != nil {
			return 0, command.Invalid("The day is not a date: use YYYY-MM-DD.")
		}
		return until, nil
	}
	houses, err := r.Warehouses()
	if err != nil {
		return 0, err
	}
	return d.supply.LookAhead(
		r, slices.DeleteFunc(houses, func(h store.Warehouse) bool { return ask.Warehouse != "" && h.Code != ask.Warehouse }),
	)
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

// position is where a line stands in the list, as a page names it.
func position(at store.ReleaseAt) string { return fmt.Sprintf("%s.%d.%d", at.ShipBy, at.Tier, at.Line) }

func readPosition(text string) (at store.ReleaseAt, err error) {
	if text == "" {
		return at, nil
	}
	day, rest, _ := strings.Cut(text, ".")
	at.ShipBy = day
	_, dayErr := days.Parse(day)
	if n, err := fmt.Sscanf(rest, "%d.%d", &at.Tier, &at.Line); err != nil || n != 2 || dayErr != nil {
		return at, command.Invalid("The list does not go on there. Load the page again.")
	}
	return at, nil
}

// releaseLines are lines that could go, as the page shows them.
func (d *Desk) releaseLines(r *store.Reader, going []store.Releasing) ([]ReleaseLine, error) {
	ids, orders := make(store.IDs, len(going)), store.IDs{}
	at := map[int64]int{}
	for i, x := range going {
		ids[i], at[x.Line] = x.Line, i
		orders = append(orders, x.OrderID)
	}
	rows, err := r.LinesByID(ids)
	if err != nil {
		return nil, err
	}
	slices.SortFunc(rows, func(a, b store.LineRow) int { return at[a.ID] - at[b.ID] })
	views, err := d.supply.LineViews(r, rows)
	if err != nil {
		return nil, err
	}
	slices.Sort(orders)
	wants, err := r.WantsOfOrders(slices.Compact(orders))
	if err != nil {
		return nil, err
	}
	byOrder := map[int64][]store.LineRow{}
	for _, l := range wants {
		byOrder[l.OrderID] = append(byOrder[l.OrderID], l)
	}
	out := make([]ReleaseLine, len(views))
	for i, v := range views {
		ready, open := supply.ReadyShare(byOrder[rows[i].OrderID])
		out[i] = ReleaseLine{LineView: v, Ready: ready, OpenLines: open, WeightG: capped.Times(v.At.Allocated, rows[i].WeightG)}
	}
	return out, nil
}

// countOffer adds up what could go and what could not, by its first reason; none is how many lines have nothing allocated.
func countOffer(groups []store.ReleaseGroup, none int64, until days.Day, out *ReleasePage) {
	counts := map[release.Reason]int64{release.Nothing: min(none, store.MostCounted)}
	counted, firstDue := int64(0), ""
	for _, g := range groups {
		why := release.Check(supply.GroupCandidate(g, until), until)
		counts[why] += g.Lines
		counted += g.Lines
		if why == release.Offered {
			out.Units, out.WeightG = capped.Plus(out.Units, g.Units), capped.Plus(out.WeightG, g.WeightG)
		}
		if why == release.NotDue && (firstDue == "" || g.First < firstDue) {
			firstDue = g.First
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
		until, err := d.dueUntil(r, ask.DueAsk)
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
		if err := releaseLines(w, lines); err != nil {
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
