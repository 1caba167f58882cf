package release

import (
	"math/rand/v2"
	"slices"
	"testing"

	"journeyman/core/days"
)

func row(order int64, shipBy days.Day, bin string) Row {
	return Row{
		Order: order, ShipBy: shipBy, Tier: 3, Warehouse: 1, Stop: Stop{bin[:1], bin}, Qty: 1, WeightG: 1000, Service: "parcel", CutOff: 960,
	}
}

// onLists says which orders are on which list.
func onLists(rows []Row, lists []List) [][]int64 {
	var out [][]int64
	for _, l := range lists {
		var on []int64
		for _, i := range l.OrderWise {
			if !slices.Contains(on, rows[i].Order) {
				on = append(on, rows[i].Order)
			}
		}
		out = append(out, on)
	}
	return out
}

func same(a, b [][]int64) bool {
	return slices.EqualFunc(a, b, func(x, y []int64) bool { return slices.Equal(x, y) })
}

func TestWhatIsPickedTogether(t *testing.T) {
	rows := []Row{
		row(1, 10, "A-1-1"), row(2, 9, "B-1-1"), row(1, 10, "B-1-2"), row(3, 9, "A-1-2"), row(4, 11, "B-2-1"),
	}
	rows[3].Service, rows[3].CutOff = "pallet", 840
	rows[4].Warehouse = 2
	for _, c := range []struct {
		what string
		wave Wave
		want [][]int64
	}{
		{"everything", Wave{}, [][]int64{{2, 3, 1}, {4}}},
		{"an order each, the most urgent first", Wave{Together: PerOrder}, [][]int64{{2}, {3}, {1}, {4}}},
		{"by service", Wave{Together: PerService}, [][]int64{{2, 1}, {3}, {4}}},
		{"by cut-off", Wave{Together: PerCutOff}, [][]int64{{2, 1}, {3}, {4}}},
		{"by zone, what lies in several by itself", Wave{Together: PerZone}, [][]int64{{2}, {3}, {1}, {4}}},
		{"split by zone", Wave{ZoneByZone: true}, [][]int64{{3, 1}, {2, 1}, {4}}},
		{"two orders a list, those of a day before others", Wave{MostOrders: 2}, [][]int64{{2, 3}, {1}, {4}}},
		{"two rows a list; an order is never divided", Wave{MostRows: 2}, [][]int64{{2, 3}, {1}, {4}}},
		{"1 kg a list; an order that is heavier goes alone", Wave{MostG: 1000}, [][]int64{{2}, {3}, {1}, {4}}},
	} {
		lists := c.wave.Lists(rows)
		if got := onLists(rows, lists); !same(got, c.want) {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
		}
	}
	if lists := (Wave{ZoneByZone: true}).Lists(rows); lists[0].Zone != "A" || lists[1].Zone != "B" || lists[2].Warehouse != 2 {
		t.Errorf("zones of lists: %+v", lists)
	}
	if lists := (Wave{}).Lists(nil); len(lists) != 0 {
		t.Errorf("of nothing: %+v", lists)
	}
}

func TestAListIsFilledWithWhatLiesOnTheWay(t *testing.T) {
	rows := []Row{
		row(1, 9, "A-1-1"), row(2, 9, "A-7-1"), row(3, 9, "A-1-3"), row(4, 10, "A-1-2"),
	}
	// Order 3 lies in the aisle of order 1; order 4 does so, too, but ships a day later than order 2.
	if got := onLists(rows, Wave{MostOrders: 2}.Lists(rows)); !same(got, [][]int64{{1, 3}, {2, 4}}) {
		t.Errorf("%v", got)
	}
}

// Whatever the rule, each row comes onto one list, no list is over its limit but by one order, and an order is on one list of a warehouse.
func TestNoRowIsLostAndNoOrderIsDivided(t *testing.T) {
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 3))
		var rows []Row
		_, bins := hall(3, 4, 6)
		for range 1 + r.IntN(60) {
			s := bins[r.IntN(len(bins))]
			rows = append(rows, Row{
				Order: 1 + int64(r.IntN(20)), ShipBy: days.Day(r.IntN(3)), Tier: 1 + r.IntN(3), Warehouse: 1 + int64(r.IntN(2)), Stop: s,
				WeightG: int64(r.IntN(9000)), Qty: 1,
			})
		}
		w := Wave{
			Together: Togethers[r.IntN(len(Togethers))], ZoneByZone: r.IntN(2) == 0, MostOrders: r.IntN(4), MostRows: r.IntN(12),
			MostG: int64(r.IntN(20_000)),
		}
		seen := map[int]bool{}
		on := map[[2]int64]map[int]bool{}
		for n, l := range w.Lists(rows) {
			orders := map[int64]bool{}
			g := int64(0)
			for _, i := range l.Rows {
				if seen[i] {
					t.Fatalf("seed %d: row %d is on two lists", seed, i)
				}
				seen[i] = true
				orders[rows[i].Order] = true
				g += rows[i].WeightG
				if rows[i].Warehouse != l.Warehouse {
					t.Fatalf("seed %d: a row of another warehouse", seed)
				}
				if w.ZoneByZone && rows[i].Stop.Zone != l.Zone {
					t.Fatalf("seed %d: a row of another zone", seed)
				}
				k := [2]int64{rows[i].Warehouse, rows[i].Order}
				if on[k] == nil {
					on[k] = map[int]bool{}
				}
				on[k][n] = true
			}
			if !slices.Equal(slices.Sorted(slices.Values(l.Rows)), slices.Sorted(slices.Values(l.OrderWise))) {
				t.Fatalf("seed %d: the rows in order are others", seed)
			}
			over := w.MostOrders > 0 && len(orders) > w.MostOrders || w.MostRows > 0 && len(l.Rows) > w.MostRows || w.MostG > 0 && g > w.MostG
			if over && len(orders) > 1 {
				t.Errorf("seed %d: a list of %d orders, %d rows and %d g, with %+v", seed, len(orders), len(l.Rows), g, w)
			}
		}
		if len(seen) != len(rows) {
			t.Fatalf("seed %d: %d of %d rows are on lists", seed, len(seen), len(rows))
		}
		for k, lists := range on {
			if !w.ZoneByZone && len(lists) > 1 {
				t.Errorf("seed %d: order %d is on %d lists", seed, k[1], len(lists))
			}
		}
	}
}

func TestFillingListsByAislesWalksLessThanByUrgencyAlone(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 11))
	f, bins := hall(2, 10, 20)
	var rows []Row
	for order := range int64(80) {
		for range 1 + r.IntN(3) {
			rows = append(rows, Row{Order: order, Warehouse: 1, Stop: bins[r.IntN(len(bins))], Qty: 1})
		}
	}
	length := func(lists []List) (sum int64) {
		for _, l := range lists {
			var stops []Stop
			for _, i := range l.Rows {
				stops = append(stops, rows[i].Stop)
			}
			sum += f.Length(stops)
		}
		return sum
	}
	got := length(Wave{MostOrders: 8}.Lists(rows))
	var plain []List
	for from := int64(0); from < 80; from += 8 {
		var of []int
		for i, x := range rows {
			if x.Order >= from && x.Order < from+8 {
				of = append(of, i)
			}
		}
		Walk(of, func(i int) Stop { return rows[i].Stop })
		plain = append(plain, List{Rows: of})
	}
	if want := length(plain); got*100 > want*90 {
		t.Errorf("%d by aisles, %d by urgency alone", got, want)
	}
	if single := length(Wave{Together: PerOrder}.Lists(rows)); got*2 > single {
		t.Errorf("%d together, %d order by order", got, single)
	}
}
