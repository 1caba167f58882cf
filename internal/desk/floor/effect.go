package floor

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"journeyman/core/capped"
	"journeyman/core/journey"
	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
)

// ReleaseEffect is what releasing some lines comes to.
type ReleaseEffect struct {
	Lines      int64        `json:"lines"`
	Orders     int64        `json:"orders"`
	Units      int64        `json:"units"`
	WeightG    int64        `json:"weight_g"`
	VolumeCM3  int64        `json:"volume_cm3" doc:"Of the units whose size is known"`
	Unsized    int64        `json:"unsized" doc:"Units whose size nobody has said"`
	Pallets    int64        `json:"pallets" doc:"How much of pallets they fill, by weight or volume, in hundredths of a pallet"`
	Lists      int64        `json:"lists" doc:"Pick lists"`
	Walk       int64        `json:"walk_cm" doc:"How far one walks for all lists, in centimetres"`
	WalkByOne  int64        `json:"walk_by_order_cm" doc:"How far if each order were picked by itself"`
	Seconds    int64        `json:"seconds" doc:"How long picking should take, by one person"`
	LongestS   int64        `json:"longest_s" doc:"How long the longest list should take"`
	CutOffs    []CutOff     `json:"cut_offs" doc:"When carriers come today for what would be released, the first first"`
	OnLists    []ListEffect `json:"on_lists" doc:"The first lists"`
	Incomplete bool         `json:"incomplete" doc:"Bins hold fewer than are allocated: the release would be refused"`
}

// ListEffect is what would be on a pick list.
type ListEffect struct {
	Warehouse string `json:"warehouse"`
	Zone      string `json:"zone,omitempty"`
	Orders    int64  `json:"orders"`
	Rows      int64  `json:"rows"`
	Walk      int64  `json:"walk_cm"`
	Seconds   int64  `json:"seconds"`
}

// CutOff is when a carrier comes for some of what would be released.
type CutOff struct {
	Warehouse string `json:"warehouse"`
	Service   string `json:"service"`
	At        string `json:"at" doc:"Time of day, as 16:00"`
	Lines     int64  `json:"lines" doc:"That ship today or should have"`
	Left      int64  `json:"left_min" doc:"Minutes until then; less than 0 if it has passed"`
}

// mostListed is how many of the lists to be are described.
const mostListed = 40

// RehearseRelease says what a release would come to. It changes nothing.
func (d *Desk) RehearseRelease(ctx context.Context, ask ReleaseAsk) (ReleaseEffect, error) {
	r := d.Store.Read(ctx)
	asked := make([]lineGoes, len(ask.Lines))
	for i, l := range ask.Lines {
		asked[i] = lineGoes{l.Line, l.Qty}
	}
	return d.effectOf(r, asked, ask.Wave)
}

// lineGoes is a line of which so many units go; with none, all that is allocated.
type lineGoes struct{ line, qty int64 }

// effectOf is what releasing lines comes to.
func (d *Desk) effectOf(r *store.Reader, asked []lineGoes, ask WaveAsk) (ReleaseEffect, error) {
	out := ReleaseEffect{CutOffs: []CutOff{}, OnLists: []ListEffect{}}
	goes, rooms, err := readGoing(r, asked)
	if err != nil {
		return out, err
	}
	tasks, lacking := inBins(goes, rooms)
	out.Incomplete = len(lacking) > 0
	w, err := makeWave(r, tasks, ask)
	if err != nil {
		return out, err
	}
	w.addUp(&out)
	out.CutOffs, err = d.cutOffsOf(r, w)
	return out, err
}

// readGoing reads where what goes is allocated, and what lies in the bins of its items.
func readGoing(r *store.Reader, asked []lineGoes) (goes []going, rooms []store.BinRoom, err error) {
	ids := make(store.IDs, len(asked))
	for i, l := range asked {
		ids[i] = l.line
	}
	var places []store.LinePlace
	var parts errgroup.Group
	parts.Go(func() (err error) {
		places, err = r.AllocatedOf(ids)
		return err
	})
	items := map[int64]int64{}
	parts.Go(func() error {
		facts, err := r.ReleaseFacts(ids)
		of := store.IDs{}
		for _, f := range facts {
			items[f.Line] = f.ItemID
			of = append(of, f.ItemID)
		}
		if err != nil {
			return err
		}
		slices.Sort(of)
		rooms, err = r.BinsOf(slices.Compact(of))
		return err
	})
	if err := parts.Wait(); err != nil {
		return nil, nil, err
	}
	at := map[int64][]part{}
	for _, p := range places {
		at[p.LineID] = append(at[p.LineID], part{p.WarehouseID, journey.Qty(p.Allocated)})
	}
	for _, l := range asked {
		g := going{line: l.line, item: items[l.line]}
		left := journey.Qty(l.qty)
		for _, p := range at[l.line] {
			if l.qty > 0 {
				p.qty = min(p.qty, left)
				left -= p.qty
			}
			if p.qty > 0 {
				g.from = append(g.from, p)
			}
		}
		goes = append(goes, g)
	}
	return goes, rooms, nil
}

// addUp adds up what the lists come to.
func (w *wave) addUp(out *ReleaseEffect) {
	lines, orders := map[int64]bool{}, map[int64]bool{}
	pallets := map[int64][2]int64{} // weight and volume, by warehouse
	for i, t := range w.tasks {
		f, q := w.facts[t.line], int64(t.qty)
		lines[t.line], orders[f.OrderID] = true, true
		cm3 := (capped.Times(q, f.VolumeMM3) + 999) / 1000
		out.Units, out.WeightG = capped.Plus(out.Units, q), capped.Plus(out.WeightG, w.rows[i].WeightG)
		out.VolumeCM3 = capped.Plus(out.VolumeCM3, cm3)
		if f.VolumeMM3 == 0 {
			out.Unsized = capped.Plus(out.Unsized, q)
		}
		p := pallets[t.warehouse]
		pallets[t.warehouse] = [2]int64{capped.Plus(p[0], w.rows[i].WeightG), capped.Plus(p[1], cm3)}
	}
	for house, p := range pallets {
		out.Pallets = capped.Plus(out.Pallets, palletOf(w.houses[house]).Hundredths(p[0], p[1]))
	}
	out.Lines, out.Orders, out.Lists = int64(len(lines)), int64(len(orders)), int64(len(w.lists))
	for _, l := range w.lists {
		cm, byOrder, seconds := w.walk(l)
		out.Walk, out.WalkByOne = capped.Plus(out.Walk, cm), capped.Plus(out.WalkByOne, byOrder)
		out.Seconds, out.LongestS = capped.Plus(out.Seconds, seconds), max(out.LongestS, seconds)
		if len(out.OnLists) < mostListed {
			on := map[int64]bool{}
			for _, at := range l.Rows {
				on[w.rows[at].Order] = true
			}
			out.OnLists = append(out.OnLists, ListEffect{
				w.houses[l.Warehouse].Code, l.Zone, int64(len(on)), int64(len(l.Rows)), cm, seconds,
			})
		}
	}
}

// cutOffsOf is when carriers come today for what would be released of what ships today or should have.
func (d *Desk) cutOffsOf(r *store.Reader, w *wave) ([]CutOff, error) {
	type key struct {
		house   int64
		service string
	}
	today := d.Today()
	lines := map[key]map[int64]bool{}
	at := map[key]int{}
	for i, t := range w.tasks {
		if w.rows[i].ShipBy > today || w.rows[i].CutOff == 0 {
			continue
		}
		k := key{t.warehouse, strings.ToLower(w.rows[i].Service)}
		if lines[k] == nil {
			lines[k] = map[int64]bool{}
		}
		lines[k][t.line], at[k] = true, w.rows[i].CutOff
	}
	out := []CutOff{}
	for k := range lines {
		zone, err := d.supply.ZoneOf(w.houses[k.house])
		if err != nil {
			return nil, err
		}
		out = append(out, CutOff{
			Warehouse: w.houses[k.house].Code, Service: k.service, At: supply.TimeOfDay(at[k]), Lines: int64(len(lines[k])),
			Left: int64(at[k] - supply.MinutesOf(d.Now().In(zone))),
		})
	}
	slices.SortFunc(out, func(a, b CutOff) int {
		return cmp.Or(cmp.Compare(a.At, b.At), cmp.Compare(a.Warehouse, b.Warehouse), cmp.Compare(a.Service, b.Service))
	})
	return out, nil
}

// QuickAsk chooses lines in one step.
type QuickAsk struct {
	DueAsk
	Rule    string  `json:"rule" enum:"complete,due,lines,weight,time" doc:"Orders completed; what ships today; the most urgent up to a limit"`
	Most    int64   `json:"most,omitempty" minimum:"0" maximum:"1000000000000" doc:"Lines, grams or minutes, by the rule"`
	CutOff  string  `json:"cut_off,omitempty" maxLength:"5" doc:"Of a choice by time, in place of minutes: until then, as 16:00"`
	Pickers int     `json:"pickers,omitempty" minimum:"0" maximum:"100" doc:"How many people pick; 1 if absent"`
	Wave    WaveAsk `json:"wave,omitzero" doc:"On which lists it would be picked: a choice by time depends on it"`
}

// QuickChoice is what was chosen and what was not.
type QuickChoice struct {
	Lines []LineUnits   `json:"lines" doc:"With all that is allocated, in the order in which they were chosen"`
	Left  []QuickLeft   `json:"left" doc:"What could go and was not chosen"`
	Comes ReleaseEffect `json:"comes" doc:"What releasing those chosen would come to"`
	More  bool          `json:"more" doc:"There is more that could go than was looked at"`
}

// QuickLeft counts lines that could go and were not chosen, for one reason.
type QuickLeft struct {
	Why   string `json:"why" enum:"not_complete,later,limit,with_order"`
	Lines int64  `json:"lines"`
	Units int64  `json:"units"`
}

// mostQuick is how many lines are looked at, the most urgent first; a command takes so many.
const mostQuick = 5000

// ChooseQuickly chooses lines that could go by a rule, and says what it left out and why. It changes nothing.
func (d *Desk) ChooseQuickly(ctx context.Context, ask QuickAsk) (QuickChoice, error) {
	out := QuickChoice{Lines: []LineUnits{}, Left: []QuickLeft{}}
	r := d.Store.Read(ctx)
	rule := release.Quick(ask.Rule)
	if !slices.Contains(release.Quicks, rule) {
		return out, command.Invalid("Lines are not chosen by “%s”: choose complete, due, lines, weight or time.", ask.Rule)
	}
	until, err := d.supply.DueUntil(r, ask.Until, ask.Warehouse)
	if err != nil {
		return out, err
	}
	could, ended, err := offered(r, ask.DueAsk, until, store.ReleaseAt{}, mostQuick)
	if err != nil {
		return out, err
	}
	out.More = !ended
	lines, err := d.readyLines(r, could)
	if err != nil {
		return out, err
	}
	passed := rule.Choose(lines, ask.Most)
	if rule == release.UpToTime {
		if passed, err = d.chooseByTime(r, could, lines, ask); err != nil {
			return out, err
		}
	}
	left := map[release.Passed]*QuickLeft{}
	var goes []lineGoes
	for i, x := range could {
		why := passed[i]
		if why == release.Chosen {
			out.Lines = append(out.Lines, LineUnits{Line: x.Line, Qty: x.Allocated, Seen: x.Version})
			goes = append(goes, lineGoes{x.Line, x.Allocated})
			continue
		}
		if left[why] == nil {
			left[why] = &QuickLeft{Why: string(why)}
		}
		left[why].Lines++
		left[why].Units = capped.Plus(left[why].Units, x.Allocated)
	}
	for _, why := range []release.Passed{release.Unready, release.Later, release.Limit, release.WithOrder} {
		if left[why] != nil {
			out.Left = append(out.Left, *left[why])
		}
	}
	out.Comes, err = d.effectOf(r, goes, ask.Wave)
	return out, err
}

// readyLines is what the core asks about lines that could go.
func (d *Desk) readyLines(r *store.Reader, could []store.Releasing) ([]release.Ready, error) {
	ids := make(store.IDs, len(could))
	for i, x := range could {
		ids[i] = x.Line
	}
	facts, err := r.ReleaseFacts(ids)
	if err != nil {
		return nil, err
	}
	weight := map[int64]int64{}
	for _, f := range facts {
		weight[f.Line] = f.WeightG
	}
	// An order is completed if nothing of it is open and all lines of which something is allocated could go.
	orders := store.IDs{}
	goes := map[int64]int64{}
	for _, x := range could {
		orders = append(orders, x.OrderID)
		goes[x.OrderID] = capped.Plus(goes[x.OrderID], x.Allocated)
	}
	slices.Sort(orders)
	unsent, err := r.OpenOfOrders(slices.Compact(orders))
	if err != nil {
		return nil, err
	}
	today := d.Today().String()
	out := make([]release.Ready, len(could))
	for i, x := range could {
		u := unsent[x.OrderID]
		out[i] = release.Ready{
			Order: x.OrderID, Whole: journey.ShipRule(x.ShipRule) == journey.ShipWhole, Completes: u.Open == 0 && u.Allocated == goes[x.OrderID],
			Due: x.ShipBy <= today, Qty: journey.Qty(x.Allocated), WeightG: capped.Times(x.Allocated, weight[x.Line]),
		}
	}
	return out, nil
}

// chooseByTime chooses the most urgent that can be picked in the time that there is.
func (d *Desk) chooseByTime(r *store.Reader, could []store.Releasing, lines []release.Ready, ask QuickAsk) ([]release.Passed, error) {
	seconds := capped.Times(capped.Times(ask.Most, 60), int64(max(1, ask.Pickers)))
	if ask.CutOff != "" {
		until, err := d.minutesUntil(r, ask.CutOff, ask.Warehouse)
		if err != nil {
			return nil, err
		}
		seconds = capped.Times(max(0, until)*60, int64(max(1, ask.Pickers)))
	}
	asked := make([]lineGoes, len(could))
	for i, x := range could {
		asked[i] = lineGoes{x.Line, x.Allocated}
	}
	goes, rooms, err := readGoing(r, asked)
	if err != nil {
		return nil, err
	}
	tasks, _ := inBins(goes, rooms)
	all, err := makeWave(r, tasks, ask.Wave)
	if err != nil {
		return nil, err
	}
	rule, err := ask.Wave.wave()
	if err != nil {
		return nil, err
	}
	bundles := release.Bundles(lines)
	at := map[int64]int{} // the bundle of a line
	for n, bundle := range bundles {
		for _, i := range bundle {
			at[could[i].Line] = n
		}
	}
	fit := release.MostThat(len(bundles), func(n int) bool {
		part := *all
		part.tasks, part.rows = nil, nil
		for i, t := range all.tasks {
			if at[t.line] < n {
				part.tasks, part.rows = append(part.tasks, t), append(part.rows, all.rows[i])
			}
		}
		part.lists = rule.Lists(part.rows)
		sum := int64(0)
		for _, l := range part.lists {
			_, _, s := part.walk(l)
			sum = capped.Plus(sum, s)
		}
		return sum <= seconds
	})
	out := make([]release.Passed, len(lines))
	for n, bundle := range bundles {
		for _, i := range bundle {
			if n >= fit {
				out[i] = release.Limit
			}
		}
	}
	return out, nil
}

// minutesUntil is how many minutes there are until a time of day, in the time of a warehouse or else of the firm.
func (d *Desk) minutesUntil(r *store.Reader, at, warehouse string) (int64, error) {
	minutes, ok := readClock(at)
	if !ok {
		return 0, command.Invalid("“%s” is not a time of day: use one such as 16:00.", at)
	}
	zone := d.Zone
	if warehouse != "" {
		h, found, err := r.WarehouseByCode(warehouse)
		if err != nil {
			return 0, err
		}
		if !found {
			return 0, command.NotFound("There is no warehouse %s.", warehouse)
		}
		if zone, err = d.supply.ZoneOf(h); err != nil {
			return 0, err
		}
	}
	return int64(minutes - supply.MinutesOf(d.Now().In(zone))), nil
}

func readClock(s string) (minutes int, ok bool) {
	t, err := time.Parse("15:04", s)
	return supply.MinutesOf(t), err == nil
}
