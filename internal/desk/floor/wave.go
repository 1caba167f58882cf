package floor

import (
	"slices"

	"journeyman/core/capped"
	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/supply"
	"journeyman/internal/store"
)

// WaveAsk says how what is released at once is spread over pick lists. The zero value is one list a warehouse.
type WaveAsk struct {
	Together   string `json:"together,omitempty" enum:"order,service,cut_off,zone" doc:"What is picked on one list; everything if absent"`
	ZoneByZone bool   `json:"zone_by_zone,omitempty" doc:"Each list is split by zone, so that several people can pick it at once"`
	MostOrders int    `json:"most_orders,omitempty" minimum:"0" maximum:"1000" doc:"Orders on a list; 0 is no limit"`
	MostRows   int    `json:"most_rows,omitempty" minimum:"0" maximum:"10000" doc:"Rows on a list, likewise"`
	MostG      int64  `json:"most_weight_g,omitempty" minimum:"0" maximum:"1000000000" doc:"Weight on a list in grams, likewise"`
}

func (a WaveAsk) wave() (release.Wave, error) {
	w := release.Wave{
		Together: release.Together(a.Together), ZoneByZone: a.ZoneByZone, MostOrders: a.MostOrders, MostRows: a.MostRows, MostG: a.MostG,
	}
	switch {
	case !slices.Contains(release.Togethers, w.Together):
		return w, command.Invalid("Lists are not made by “%s”: choose order, service, cut_off or zone.", a.Together)
	case a.MostOrders < 0 || a.MostRows < 0 || a.MostG < 0:
		return w, command.Invalid("A limit of a list must not be less than nothing.")
	}
	return w, nil
}

// going is a line that goes to the floor: so many units from each warehouse, its own first.
type going struct {
	line, item int64
	from       []part
}

type part struct {
	house int64
	qty   journey.Qty
}

// task is a row of a pick list to be.
type task struct {
	line      int64
	warehouse int64
	bin       int64
	code      string
	zone      string
	qty       journey.Qty
}

// inBins spreads what goes over the bins: from a single bin if one holds enough, else the smallest remains first, so that bins are emptied.
// lacking is what its bins hold too few of.
func inBins(goes []going, rooms []store.BinRoom) (tasks []task, lacking []going) {
	type room struct {
		bins []release.Bin
		rows []store.BinRoom
	}
	byCell := map[command.CellKey]*room{}
	for _, x := range rooms {
		k := command.CellKey{Item: x.ItemID, Warehouse: x.WarehouseID}
		if byCell[k] == nil {
			byCell[k] = &room{}
		}
		byCell[k].bins = append(byCell[k].bins, binOf(x))
		byCell[k].rows = append(byCell[k].rows, x)
	}
	for _, g := range goes {
		for _, p := range g.from {
			q := p.qty
			at := byCell[command.CellKey{Item: g.item, Warehouse: p.house}]
			for q > 0 {
				b := -1
				if at != nil {
					b = release.PickFrom(at.bins, q)
				}
				if b < 0 {
					lacking = append(lacking, going{g.line, g.item, []part{{p.house, q}}})
					break
				}
				n := min(q, at.bins[b].Room())
				at.bins[b].Gone += n
				q -= n
				tasks = append(tasks, task{g.line, p.house, at.rows[b].BinID, at.rows[b].Bin, at.rows[b].Zone, n})
			}
		}
	}
	return tasks, lacking
}

// binOf is a bin as the core asks about it.
func binOf(x store.BinRoom) release.Bin {
	return release.Bin{Code: x.Bin, Qty: journey.Qty(x.Qty), Gone: journey.Qty(x.Held + x.Due)}
}

// wave is pick lists to be, with what they come to.
type wave struct {
	tasks  []task
	rows   []release.Row // the same, as the core asks about them
	lists  []release.List
	facts  map[int64]store.ReleaseFact // by line
	houses map[int64]store.Warehouse
	floors map[int64]*release.Floor
}

// makeWave spreads tasks over pick lists.
func makeWave(r *store.Reader, tasks []task, ask WaveAsk) (*wave, error) {
	rule, err := ask.wave()
	if err != nil {
		return nil, err
	}
	w := &wave{tasks: tasks, facts: map[int64]store.ReleaseFact{}}
	lines := store.IDs{}
	for _, t := range tasks {
		lines = append(lines, t.line)
	}
	slices.Sort(lines)
	facts, err := r.ReleaseFacts(slices.Compact(lines))
	if err != nil {
		return nil, err
	}
	for _, f := range facts {
		w.facts[f.Line] = f
	}
	if err := w.readHouses(r); err != nil {
		return nil, err
	}
	cutOff, err := supply.CutOffs(r)
	if err != nil {
		return nil, err
	}
	for _, t := range tasks {
		f := w.facts[t.line]
		shipBy, err := days.Parse(f.ShipBy)
		if err != nil {
			return nil, err
		}
		w.rows = append(w.rows, release.Row{
			Order: f.OrderID, ShipBy: shipBy, Tier: f.Tier, Warehouse: t.warehouse, Stop: t.stop(), Qty: t.qty,
			WeightG: capped.Times(int64(t.qty), f.WeightG), Service: f.Service, CutOff: cutOff.At(w.houses[t.warehouse], f.Service),
		})
	}
	w.lists = rule.Lists(w.rows)
	return w, nil
}

func (t task) stop() release.Stop { return release.Stop{Zone: t.zone, Bin: t.code} }

// readHouses reads how the floors of the warehouses concerned are laid out.
func (w *wave) readHouses(r *store.Reader) error {
	w.houses, w.floors = map[int64]store.Warehouse{}, map[int64]*release.Floor{}
	houses, err := r.Warehouses()
	if err != nil {
		return err
	}
	for _, h := range houses {
		w.houses[h.ID] = h
	}
	concerned := store.IDs{}
	for _, t := range w.tasks {
		if !slices.Contains(concerned, t.warehouse) {
			concerned = append(concerned, t.warehouse)
		}
	}
	bins, err := r.BinsAt(concerned)
	stops := map[int64][]release.Stop{}
	for _, b := range bins {
		stops[b.WarehouseID] = append(stops[b.WarehouseID], release.Stop{Zone: b.Zone, Bin: b.Bin})
	}
	for _, id := range concerned {
		h := w.houses[id]
		w.floors[id] = release.NewFloor(stops[id], release.Spacing{Aisle: int64(h.AisleCM), Place: int64(h.PlaceCM)})
	}
	return err
}

// walk is how far one walks for a list, in its order and order by order, in centimetres, and how many seconds it should take.
func (w *wave) walk(l release.List) (cm, byOrder, seconds int64) {
	length := func(rows []int) int64 {
		stops := make([]release.Stop, len(rows))
		for i, at := range rows {
			stops[i] = w.rows[at].Stop
		}
		return w.floors[l.Warehouse].Length(stops)
	}
	// Order by order one walks from the door and back for each of them.
	for i := 0; i < len(l.OrderWise); {
		j := i
		for j < len(l.OrderWise) && w.rows[l.OrderWise[j]].Order == w.rows[l.OrderWise[i]].Order {
			j++
		}
		byOrder = capped.Plus(byOrder, length(l.OrderWise[i:j]))
		i = j
	}
	units := int64(0)
	for _, at := range l.Rows {
		units = capped.Plus(units, int64(w.rows[at].Qty))
	}
	cm = length(l.Rows)
	return cm, byOrder, paceOf(w.houses[l.Warehouse]).Seconds(cm, int64(len(l.Rows)), units)
}

func paceOf(h store.Warehouse) release.Pace {
	return release.Pace{WalkCM: int64(h.WalkMMin) * 100, LineMillis: int64(h.RowS) * 1000, UnitMillis: int64(h.UnitMS)}
}

func palletOf(h store.Warehouse) release.Pallet {
	return release.Pallet{MostG: int64(h.PalletKG) * 1000, MostCM3: int64(h.PalletL) * 1000}
}
