package release

import (
	"cmp"
	"slices"

	"journeyman/core/capped"
	"journeyman/core/days"
	"journeyman/core/journey"
)

// Together says what is picked on one list. The zero value is everything that is released at once.
type Together string

// What can be picked on one list. Lists are always of one warehouse.
const (
	Everything Together = ""
	PerOrder   Together = "order"
	PerService Together = "service"
	PerCutOff  Together = "cut_off" // those that have to be ready at the same time of day
	PerZone    Together = "zone"    // orders that lie in one zone, zone by zone; those that lie in several by themselves
)

// Togethers lists all of them.
var Togethers = []Together{Everything, PerOrder, PerService, PerCutOff, PerZone}

// Wave is how what is released at once is spread over pick lists.
type Wave struct {
	Together   Together
	ZoneByZone bool  // each list is split by zone, so that several people can pick it at once
	MostOrders int   // on a list, before it is split by zone; 0 is no limit
	MostRows   int   // likewise
	MostG      int64 // weight in grams, likewise
}

// Row is so many units of a line that lie in one bin.
type Row struct {
	Order     int64
	ShipBy    days.Day
	Tier      int
	Warehouse int64
	Stop      Stop
	Qty       journey.Qty
	WeightG   int64  // of all these units
	Service   string // of its order
	CutOff    int    // minutes after midnight at which the carrier of its order comes; 0 for none
}

// List is a pick list to be: rows, by their place among those that were given, in walking order.
type List struct {
	Warehouse int64
	Zone      string // if it was split by zone
	Rows      []int
	OrderWise []int // the same in the order in which they were given, order by order: as one would walk without a list for several
}

// Lists spreads rows over pick lists. Orders keep together: an order comes onto one list of each warehouse, or of each zone if lists are
// split, however large it is. The most urgent orders (ship-by, tier, as given) come onto the first lists; where a list has a limit, those
// of the same day that lie in the aisles that are walked anyway are taken before others. Cost: that of sorting the rows, and for lists
// with a limit some hundred comparisons of aisles for each order.
func (w Wave) Lists(rows []Row) []List {
	var out []List
	for _, group := range w.groups(rows, jobsOf(rows)) {
		for _, jobs := range w.limited(rows, group) {
			var all []int
			for _, j := range jobs {
				all = append(all, j.rows...)
			}
			for _, part := range w.split(rows, all) {
				l := List{Warehouse: rows[part[0]].Warehouse, Rows: slices.Clone(part), OrderWise: part}
				if w.ZoneByZone {
					l.Zone = rows[part[0]].Stop.Zone
				}
				Walk(l.Rows, func(i int) Stop { return rows[i].Stop })
				out = append(out, l)
			}
		}
	}
	return out
}

// job is what is to be picked of an order in a warehouse.
type job struct {
	rows   []int
	shipBy days.Day
	tier   int
	zone   string // if all of it lies in one
	g      int64
}

// jobsOf are the jobs, by warehouse and then the most urgent first.
func jobsOf(rows []Row) []*job {
	type key struct{ warehouse, order int64 }
	at := map[key]*job{}
	var out []*job
	for i, r := range rows {
		k := key{r.Warehouse, r.Order}
		j := at[k]
		if j == nil {
			j = &job{shipBy: r.ShipBy, tier: r.Tier, zone: r.Stop.Zone}
			at[k] = j
			out = append(out, j)
		}
		j.rows = append(j.rows, i)
		j.shipBy, j.tier, j.g = min(j.shipBy, r.ShipBy), min(j.tier, r.Tier), capped.Plus(j.g, r.WeightG)
		if j.zone != r.Stop.Zone {
			j.zone = ""
		}
	}
	slices.SortStableFunc(out, func(a, b *job) int {
		return cmp.Or(
			cmp.Compare(rows[a.rows[0]].Warehouse, rows[b.rows[0]].Warehouse), cmp.Compare(a.shipBy, b.shipBy), cmp.Compare(a.tier, b.tier),
		)
	})
	return out
}

// groups are the jobs that may come onto one list: those with the most urgent first.
func (w Wave) groups(rows []Row, jobs []*job) [][]*job {
	type key struct {
		warehouse, order int64
		text             string
		cutOff           int
	}
	at := map[key]int{}
	var out [][]*job
	for _, j := range jobs {
		first := rows[j.rows[0]]
		k := key{warehouse: first.Warehouse}
		switch w.Together {
		case PerOrder:
			k.order = first.Order
		case PerService:
			k.text = first.Service
		case PerCutOff:
			k.cutOff = first.CutOff
		case PerZone:
			k.text = j.zone
		}
		i, known := at[k]
		if !known {
			i = len(out)
			at[k] = i
			out = append(out, nil)
		}
		out[i] = append(out[i], j)
	}
	return out
}

// looksAhead is how many orders are looked at for the one that fits a list best.
const looksAhead = 60

// limited spreads the jobs of a group over lists with no more on them than the limits say.
func (w Wave) limited(rows []Row, jobs []*job) [][]*job {
	if w.MostOrders <= 0 && w.MostRows <= 0 && w.MostG <= 0 {
		return [][]*job{jobs}
	}
	var out [][]*job
	left := slices.Clone(jobs)
	for len(left) > 0 {
		list := []*job{left[0]}
		n, g := len(left[0].rows), left[0].g
		walked := map[Stop]bool{}
		walk := func(j *job) {
			for _, i := range j.rows {
				walked[rows[i].Stop.lane()] = true
			}
		}
		walk(left[0])
		left = left[1:]
		for {
			fits := func(j *job) bool {
				return (w.MostOrders <= 0 || len(list) < w.MostOrders) && (w.MostRows <= 0 || n+len(j.rows) <= w.MostRows) &&
					(w.MostG <= 0 || capped.Plus(g, j.g) <= w.MostG)
			}
			best := nearest(rows, left, walked, fits)
			if best < 0 {
				break
			}
			j := left[best]
			list, n, g = append(list, j), n+len(j.rows), capped.Plus(g, j.g)
			walk(j)
			left = slices.Delete(left, best, best+1)
		}
		out = append(out, list)
	}
	return out
}

// nearest is the job that fits and takes the picker into the fewest aisles that are not walked yet, among the next ones of the first day
// that has one that fits; the most urgent of several. It is -1 if none fits.
func nearest(rows []Row, left []*job, walked map[Stop]bool, fits func(*job) bool) int {
	best, fewest := -1, 0
	for i, j := range left[:min(len(left), looksAhead)] {
		if best >= 0 && j.shipBy != left[best].shipBy {
			break
		}
		if !fits(j) {
			continue
		}
		further := map[Stop]bool{}
		for _, r := range j.rows {
			if at := rows[r].Stop.lane(); !walked[at] {
				further[at] = true
			}
		}
		if best < 0 || len(further) < fewest {
			best, fewest = i, len(further)
		}
	}
	return best
}

// split are the rows of a list, zone by zone if that is wanted.
func (w Wave) split(rows []Row, list []int) [][]int {
	if !w.ZoneByZone {
		return [][]int{list}
	}
	byZone := map[string][]int{}
	var zones []string
	for _, i := range list {
		zone := rows[i].Stop.Zone
		if byZone[zone] == nil {
			zones = append(zones, zone)
		}
		byZone[zone] = append(byZone[zone], i)
	}
	slices.SortFunc(zones, natural)
	out := make([][]int, len(zones))
	for i, z := range zones {
		out[i] = byZone[z]
	}
	return out
}
