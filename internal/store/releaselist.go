package store

import (
	"fmt"
	"strings"

	"journeyman/core/journey"
)

// ReleaseQuery chooses allocated lines.
type ReleaseQuery struct {
	Words     []string
	Warehouse string    // code; empty for all
	Until     string    // only lines to be shipped by this day; empty for all
	Held      bool      // only lines whose order is on hold
	After     ReleaseAt // only lines that come after this one
}

// ReleaseAt is where a line stands among those that may be released: by ship-by day, tier and age.
type ReleaseAt struct {
	ShipBy string // YYYY-MM-DD; empty for before all lines
	Tier   int
	Line   int64
}

// Releasing is what decides whether an allocated line may be released.
type Releasing struct {
	ReleaseAt `gorm:"embedded"`
	OrderID   int64
	Open      int64
	OrderOpen int64 // of an order that goes whole
	Allocated int64
	Held      bool
	NotBefore string // on which its order may leave first; empty for any
	ShipRule  string
	Waiting   bool
	HasBin    bool
	Version   int64
}

// looked is the lines that a query chooses, the most urgent first, at most so many of them. With it stand the orders on hold, those that
// may not leave before some day, where items that are allocated have no bin, and the lines of which some units are still to be put back.
func (r *Reader) looked(q ReleaseQuery, most int) (sql string, args map[string]any, err error) {
	conds, args, err := r.lineWords("n", q.Words)
	conds = append(conds, "n.allocated > 0", live)
	if q.Warehouse != "" {
		args["warehouse"] = q.Warehouse
		conds = append(conds, `EXISTS (SELECT 1 FROM line_at p JOIN warehouse w ON w.id = p.warehouse_id
			WHERE p.line_id = n.line_id AND p.allocated > 0 AND w.code = @warehouse)`)
	}
	if q.Until != "" {
		args["until"] = q.Until
		conds = append(conds, "n.ship_by <= CAST(@until AS date)")
	}
	if q.Held {
		conds = append(
			conds, "n.line_id IN (SELECT l.id FROM order_line l JOIN hold h ON h.order_id = l.order_id WHERE h.lifted_by IS NULL)",
		)
	}
	if q.After.ShipBy != "" {
		args["day"], args["tier"], args["line"] = q.After.ShipBy, q.After.Tier, q.After.Line
		conds = append(conds, "(n.ship_by, n.tier, n.line_id) > (CAST(@day AS date), @tier, @line)")
	}
	return fmt.Sprintf(`
		WITH held AS MATERIALIZED (SELECT DISTINCT order_id FROM hold WHERE lifted_by IS NULL),
			unbinned AS MATERIALIZED (SELECT s.item_id, s.warehouse_id FROM stock_cell s WHERE s.allocated > 0 AND NOT EXISTS (
				SELECT 1 FROM bin_stock b JOIN bin k ON k.id = b.bin_id
				WHERE b.item_id = s.item_id AND b.warehouse_id = s.warehouse_id AND k.code <> '' AND NOT k.put_back)),
			later AS MATERIALIZED (SELECT id, not_before FROM sales_order WHERE not_before IS NOT NULL),
			waiting AS MATERIALIZED (SELECT DISTINCT line_id FROM put_back WHERE done < qty AND ends = 'allocated'),
			looked AS MATERIALIZED (SELECT n.line_id, n.ship_by, n.tier, n.open, n.allocated, n.order_id, n.item_id, n.ship_rule,
				n.version FROM line_count n
				WHERE %s ORDER BY n.ship_by, n.tier, n.line_id LIMIT %d)`, strings.Join(conds, " AND "), most), args, err
}

// binned says of a line that was looked at (x) whether its item has a bin wherever it has units allocated.
const binned = `NOT (x.item_id IN (SELECT item_id FROM unbinned) AND EXISTS (SELECT 1 FROM line_at p
	JOIN unbinned u ON u.item_id = x.item_id AND u.warehouse_id = p.warehouse_id WHERE p.line_id = x.line_id AND p.allocated > 0))`

// waits says of a line that was looked at (x) whether some of its allocated units are still to be put back.
const waits = `x.line_id IN (SELECT line_id FROM waiting)`

// mayLeave is the day on which the order of a line that was looked at (x) may leave first, if there is one.
const mayLeave = `(SELECT l.not_before FROM later l WHERE l.id = x.order_id)`

// orderOpen is how many units of the order of a line that was looked at (x) are open, if that matters: if the order goes whole.
const orderOpen = `CASE WHEN x.ship_rule = '` + string(journey.ShipWhole) +
	`' THEN (SELECT c.open FROM order_count c WHERE c.order_id = x.order_id) ELSE 0 END`

// ReleaseCandidates returns of the allocated lines that were chosen, the most urgent first, what decides whether they may be released: at
// most so many, by one index.
func (r *Reader) ReleaseCandidates(q ReleaseQuery, most int) ([]Releasing, error) {
	looked, args, err := r.looked(q, most)
	if err != nil {
		return nil, err
	}
	return all[Releasing](r, looked+`
		SELECT x.line_id AS line, x.ship_by::text AS ship_by, x.tier, x.order_id, x.open, `+orderOpen+` AS order_open,
			x.allocated, x.order_id IN (SELECT order_id FROM held) AS held, coalesce(`+mayLeave+`::text, '') AS not_before,
			x.ship_rule, `+waits+` AS waiting, `+binned+` AS has_bin, x.version
		FROM looked x
		ORDER BY x.ship_by, x.tier, x.line_id`, args)
}

// ReleaseGroup is lines that are alike in what decides whether they may be released.
type ReleaseGroup struct {
	Open, OrderOpen int64  // 0 or 1: whether there are any
	Day             string // on which it is due, if that is later than asked for
	Held            bool
	Early           bool // its order may leave later than by the day asked for
	ShipRule        string
	Waiting         bool
	HasBin          bool
	Lines           int64
	Units           int64 // allocated
	WeightG         int64 // of all these units
}

// ReleaseGroups adds up the allocated lines that were chosen by what decides whether they may be released by a day: some tens of rows,
// and some for each later day, however many lines there are. It looks at the most urgent lines, as many as that.
func (r *Reader) ReleaseGroups(q ReleaseQuery, due string, most int) ([]ReleaseGroup, error) {
	looked, args, err := r.looked(q, most)
	if err != nil {
		return nil, err
	}
	args["due"] = due
	return all[ReleaseGroup](r, looked+`
		SELECT (x.open > 0)::int AS open, (`+orderOpen+` > 0)::int AS order_open, 
			CASE WHEN x.ship_by > CAST(@due AS date) THEN x.ship_by::text ELSE '' END AS day,
			x.order_id IN (SELECT order_id FROM held) AS held, coalesce(`+mayLeave+` > CAST(@due AS date), false) AS early, x.ship_rule,
			`+waits+` AS waiting, `+binned+` AS has_bin, count(*) AS lines,
			shown(sum(x.allocated)) AS units, shown(sum(x.allocated::numeric * i.weight_g)) AS weight_g
		FROM looked x JOIN item i ON i.id = x.item_id
		GROUP BY 1, 2, 3, 4, 5, 6, 7, 8`, args)
}

// Unallocated says how many lines that the words and the warehouse let through have something open and nothing allocated, up to so many.
func (r *Reader) Unallocated(words []string, warehouse string, most int) (lines int64, err error) {
	conds, args, err := r.lineWords("n", words)
	if err != nil {
		return 0, err
	}
	conds = append(conds, "n.open > 0 AND n.allocated = 0", live)
	if warehouse != "" {
		args["warehouse"] = warehouse
		conds = append(conds, "n.warehouse_id = (SELECT id FROM warehouse WHERE code = @warehouse)")
	}
	row, _, err := one[struct{ N int64 }](r, fmt.Sprintf("SELECT count(*) AS n FROM (SELECT 1 FROM line_count n WHERE %s LIMIT %d) x",
		strings.Join(conds, " AND "), most), args)
	return row.N, err
}

// Release is the list of allocated lines. Its scope "until" is the day up to which lines count as due, "warehouse" where units are
// allocated, and "state" is empty for those that could go, a reason why others could not (core/release), or all.
var Release = &List{
	Name: "release", First: "ship_by", Page: 50, tie: part{"n.line_id", Number}, key: "n.line_id", begin: beginRelease,
	name: "n.line_id::text", version: "n.version",
	Columns: []Column{
		{Name: "tier", Title: "Tier", Kind: Number, By: "n.tier", Then: []part{{"n.ship_by", Day}}, Group: true},
		{Name: "ship_by", Title: "Ship by", Kind: Day, By: "n.ship_by", Then: []part{{"n.tier", Number}}, Group: true},
		{Name: "order", Title: "Order", Kind: Text, By: "oc.number", Group: true},
		{Name: "customer", Title: "Customer", Kind: Text, By: "c.name", Names: customersNamed, Key: "oc.customer_id", Group: true},
		{Name: "item", Title: "Item", Kind: Text, By: "i.sku", Names: itemsNamed, Key: "n.item_id", Group: true},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "w.code", Names: warehousesNamed, Key: "n.warehouse_id", Group: true},
		{Name: "channel", Title: "Channel", Kind: Text, By: "oc.channel", Group: true},
		{Name: "rule", Title: "Ship rule", Kind: Text, By: "n.ship_rule", Group: true},
		{Name: "ordered", Title: "Ordered", Kind: Number, By: "n.ordered", Sum: "n.ordered"},
		{Name: "open", Title: "Open", Kind: Number, By: "n.open", Sum: "n.open"},
		{Name: "still_due", Title: "Still due", Kind: Number, By: stillDue, Sum: stillDue},
		{Name: "allocated", Title: "Allocated", Kind: Number, By: "n.allocated", Sum: "n.allocated"},
		{Name: "service", Title: "Service", Kind: Text, By: "(SELECT o.service FROM sales_order o WHERE o.id = n.order_id)", Group: true},
		{Name: "completes", Title: "Completes its order", Kind: Text, By: "CASE WHEN oc.open = 0 THEN 'yes' ELSE 'no' END", Group: true},
		{Name: "order_open", Title: "Open of its order", Kind: Number, By: "oc.open"},
		{Name: "weight", Title: "Weight", Kind: Weight, By: weightAllocated, Sum: weightAllocated},
		{Name: "value", Title: "Value", Kind: Money, By: valueAllocated, Sum: firmsOwn("oc.currency", valueAllocated)},
		{Name: "why", Title: "Why not", Kind: Text, By: whyNotReleased, Group: true},
	},
}

const (
	stillDue        = "(n.open + n.allocated + n.released + n.picked + n.packed)"
	weightAllocated = "shown(n.allocated::numeric * i.weight_g)"
	valueAllocated  = "shown(n.allocated::numeric * (SELECT l.price_minor FROM order_line l WHERE l.id = n.line_id))"
)

// keptBack are the conditions on which an allocated line may not be released, in the order in which core/release looks for them.
var keptBack = []struct{ why, is string }{
	{"on_hold", "n.order_id IN (SELECT order_id FROM hold WHERE lifted_by IS NULL)"},
	{"not_due", "n.ship_by > CAST(@until AS date)"},
	{"not_before", "n.order_id IN (SELECT id FROM sales_order WHERE not_before > CAST(@until AS date))"},
	{"rule_line", "n.ship_rule = '" + string(journey.ShipLines) + "' AND n.open > 0"},
	{"rule_order", "n.ship_rule = '" + string(journey.ShipWhole) + "' AND oc.open > 0"},
	{"put_back", "n.line_id IN (SELECT line_id FROM put_back WHERE done < qty AND ends = 'allocated')"},
	{"no_bin", "n.item_id IN (SELECT s.item_id FROM stock_cell s WHERE s.allocated > 0 AND " + noBin + `) AND EXISTS (
		SELECT 1 FROM line_at p JOIN stock_cell s ON s.item_id = n.item_id AND s.warehouse_id = p.warehouse_id
		WHERE p.line_id = n.line_id AND p.allocated > 0 AND ` + noBin + ")"},
}

// noBin is that a stock row (s) has no bin.
const noBin = `NOT EXISTS (SELECT 1 FROM bin_stock b JOIN bin k ON k.id = b.bin_id
	WHERE b.item_id = s.item_id AND b.warehouse_id = s.warehouse_id AND k.code <> '' AND NOT k.put_back)`

var whyNotReleased = func() string {
	var b strings.Builder
	b.WriteString("CASE")
	for _, k := range keptBack {
		fmt.Fprintf(&b, " WHEN %s THEN '%s'", k.is, k.why)
	}
	return b.String() + " ELSE '' END"
}()

func beginRelease(r *Reader, ask ListAsk, _ bool) (*rows, error) {
	conds, args, err := r.lineWords("n", ask.Words)
	conds = append(conds, "n.allocated > 0", live)
	if args["until"] = ask.Scope["until"]; args["until"] == "" {
		args["until"] = ask.Today
	}
	if house := ask.Scope["warehouse"]; house != "" {
		args["house"] = house
		conds = append(conds, `EXISTS (SELECT 1 FROM line_at p JOIN warehouse w ON w.id = p.warehouse_id
			WHERE p.line_id = n.line_id AND p.allocated > 0 AND w.code = @house)`)
	}
	if state := ask.Scope["state"]; state != "all" {
		for _, k := range keptBack {
			if k.why == state {
				conds = append(conds, k.is)
				break
			}
			conds = append(conds, "NOT ("+k.is+")")
		}
	}
	return &rows{conds: conds, args: args, from: func(shows string) string {
		return "line_count n" + joins(
			shows,
			join{"oc", "order_count oc ON oc.order_id = n.order_id"},
			join{"c", "customer c ON c.id = oc.customer_id"},
			join{"i", "item i ON i.id = n.item_id"},
			join{"w", "warehouse w ON w.id = n.warehouse_id"},
		)
	}}, err
}
