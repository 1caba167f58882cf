package store

import (
	"context"
	"database/sql"
	"fmt"

	"gorm.io/gorm"

	"journeyman/core/journey"
)

// Difference is a count that is not what the journal adds up to.
type Difference struct {
	What  string // such as "SO-10482 line 1, allocated"
	Count int64  // what is kept
	Sum   int64  // what the journal adds up to
}

func (d Difference) String() string {
	return fmt.Sprintf("%s: %d is kept, the journal adds up to %d", d.What, d.Count, d.Sum)
}

// sums are the moves of one place, added up by what they are.
type sums struct {
	A, B, C                             int64 // the keys of what is counted
	Kind, FromStation, ToStation, Cause string
	Qty                                 int64
}

func (s sums) move() (journey.Move, journey.Rule, error) {
	from, err := journey.ParseStation(s.FromStation)
	if err != nil {
		return journey.Move{}, journey.Rule{}, err
	}
	to, err := journey.ParseStation(s.ToStation)
	if err != nil {
		return journey.Move{}, journey.Rule{}, err
	}
	m := journey.Move{Kind: journey.Kind(s.Kind), From: from, To: to, Cause: journey.Cause(s.Cause), Qty: journey.Qty(s.Qty)}
	r, err := m.Rule()
	return m, r, err
}

// tally is one kind of count, once from the journal by the core's rules and once as kept.
type tally struct {
	journal string // a query that yields sums
	kept    string // a query that yields A, B, C, name and the fields below
	fields  []string
	effect  func(journey.Move, journey.Rule) []int64 // per field, for the whole quantity
}

func stations(m journey.Move, of ...journey.Station) []int64 {
	out := make([]int64, len(of))
	for i, s := range of {
		if m.From == s {
			out[i] -= int64(m.Qty)
		}
		if m.To == s {
			out[i] += int64(m.Qty)
		}
	}
	return out
}

var (
	everyStation = []journey.Station{
		journey.Open, journey.Allocated, journey.Released, journey.Picked, journey.Packed, journey.Shipped, journey.Delivered,
		journey.Dropped,
	}
	houseStations = []journey.Station{journey.Allocated, journey.Released, journey.Picked, journey.Packed}
)

const by = ` kind, from_station, to_station, cause, sum(qty) AS qty FROM journal `

var tallies = []tally{
	{
		`SELECT line_id AS a, 0 AS b, 0 AS c,` + by + `WHERE line_id IS NOT NULL GROUP BY 1, 4, 5, 6, 7`,
		`SELECT c.line_id AS a, 0 AS b, 0 AS c, o.number || ' line ' || l.line_no AS name,
			ARRAY[open, allocated, released, picked, packed, shipped, delivered, dropped, ordered]::text AS kept
			FROM line_count c JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id`,
		[]string{"open", "allocated", "released", "picked", "packed", "shipped", "delivered", "dropped", "ordered"},
		func(m journey.Move, _ journey.Rule) []int64 {
			return append(stations(m, everyStation...), -stations(m, journey.Outside)[0])
		},
	},
	{
		`SELECT order_id AS a, 0 AS b, 0 AS c,` + by + `WHERE order_id IS NOT NULL GROUP BY 1, 4, 5, 6, 7`,
		`SELECT c.order_id AS a, 0 AS b, 0 AS c, o.number AS name,
			ARRAY[open, allocated, released, picked, packed, shipped, delivered, dropped, ordered]::text AS kept
			FROM order_count c JOIN sales_order o ON o.id = c.order_id`,
		[]string{"open", "allocated", "released", "picked", "packed", "shipped", "delivered", "dropped", "ordered"},
		func(m journey.Move, _ journey.Rule) []int64 {
			return append(stations(m, everyStation...), -stations(m, journey.Outside)[0])
		},
	},
	{
		`SELECT line_id AS a, warehouse_id AS b, 0 AS c,` + by +
			`WHERE line_id IS NOT NULL AND warehouse_id IS NOT NULL GROUP BY 1, 2, 4, 5, 6, 7`,
		`SELECT c.line_id AS a, c.warehouse_id AS b, 0 AS c, o.number || ' line ' || l.line_no || ' at ' || w.code AS name,
			ARRAY[allocated, released, picked, packed]::text AS kept
			FROM line_at c JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id
				JOIN warehouse w ON w.id = c.warehouse_id`,
		[]string{"allocated", "released", "picked", "packed"},
		func(m journey.Move, _ journey.Rule) []int64 { return stations(m, houseStations...) },
	},
	{
		`SELECT item_id AS a, warehouse_id AS b, 0 AS c,` + by + `WHERE warehouse_id IS NOT NULL GROUP BY 1, 2, 4, 5, 6, 7`,
		`SELECT c.item_id AS a, c.warehouse_id AS b, 0 AS c, i.sku || ' at ' || w.code AS name,
			ARRAY[on_hand, held, allocated, released, picked, packed, free, binned]::text AS kept
			FROM stock_cell c JOIN item i ON i.id = c.item_id JOIN warehouse w ON w.id = c.warehouse_id`,
		[]string{"on hand", "held", "allocated", "released", "picked", "packed", "free", "in bins"},
		func(m journey.Move, r journey.Rule) []int64 {
			if !r.InHouse {
				return make([]int64, 8)
			}
			q := int64(m.Qty)
			out := append([]int64{q * int64(r.OnHand), q * int64(r.Held)}, stations(m, houseStations...)...)
			free := out[0] - out[1] - out[2] - out[3] - out[4] - out[5]
			return append(out, free, q*int64(r.Binned()))
		},
	},
	{
		`SELECT item_id AS a, warehouse_id AS b, bin_id AS c,` + by + `WHERE bin_id IS NOT NULL GROUP BY 1, 2, 3, 4, 5, 6, 7`,
		`SELECT s.item_id AS a, s.warehouse_id AS b, s.bin_id AS c, i.sku || ' at ' || w.code || ' bin ' || b.code AS name, ARRAY[qty,
			held]::text AS kept
			FROM bin_stock s JOIN item i ON i.id = s.item_id JOIN warehouse w ON w.id = s.warehouse_id JOIN bin b ON b.id = s.bin_id`,
		[]string{"in the bin", "held"},
		func(m journey.Move, r journey.Rule) []int64 {
			return []int64{int64(m.Qty) * int64(r.Binned()), int64(m.Qty) * int64(r.Held)}
		},
	},
	{
		`SELECT task_id AS a, 0 AS b, 0 AS c,` + by + `WHERE task_id IS NOT NULL GROUP BY 1, 4, 5, 6, 7`,
		`SELECT t.id AS a, 0 AS b, 0 AS c, p.number || ' row ' || t.seq AS name, ARRAY[picked, short, recalled, due]::text AS kept
			FROM pick_task t JOIN pick_list p ON p.id = t.pick_list_id`,
		[]string{"picked", "short", "recalled", "still to pick"},
		func(m journey.Move, _ journey.Rule) []int64 {
			q, out := int64(m.Qty), make([]int64, 4)
			switch m.Kind {
			case journey.Pick:
				out[0] = q
			case journey.Short:
				out[1] = q
			case journey.Recall:
				out[2] = q
			}
			out[3] = stations(m, journey.Released)[0]
			return out
		},
	},
	{
		`SELECT package_id AS a, line_id AS b, 0 AS c,` + by + `WHERE package_id IS NOT NULL GROUP BY 1, 2, 4, 5, 6, 7`,
		`SELECT c.package_id AS a, c.line_id AS b, 0 AS c, p.number || ' holding ' || o.number || ' line ' || l.line_no AS name,
			ARRAY[qty]::text AS kept
			FROM package_line c JOIN package p ON p.id = c.package_id JOIN order_line l ON l.id = c.line_id
				JOIN sales_order o ON o.id = l.order_id`,
		[]string{"packed"},
		func(m journey.Move, _ journey.Rule) []int64 {
			if m.Kind == journey.Dispatch || m.Kind == journey.Void {
				return []int64{0} // what has left is still in its package
			}
			return stations(m, journey.Packed)
		},
	},
	{
		`SELECT inbound_id AS a, 0 AS b, 0 AS c,` + by + `WHERE inbound_id IS NOT NULL GROUP BY 1, 4, 5, 6, 7`,
		`SELECT n.id AS a, 0 AS b, 0 AS c, n.ref AS name, ARRAY[received]::text AS kept FROM inbound n`,
		[]string{"received"},
		func(m journey.Move, _ journey.Rule) []int64 { return []int64{int64(m.Qty)} },
	},
}

// Audit adds up the journal by the core's rules, not the database's, and returns
// every count that differs, and how many counts were compared. It reads one
// consistent picture; call it on a reader of a repeatable-read transaction, or
// while nothing else happens.
func (r *Reader) Audit() (differences []Difference, compared int, err error) {
	type key struct{ a, b, c int64 }
	for _, t := range tallies {
		moves, err := all[sums](r, t.journal)
		if err != nil {
			return nil, 0, err
		}
		want := map[key][]int64{}
		for _, s := range moves {
			m, rule, err := s.move()
			if err != nil {
				return nil, 0, err
			}
			k := key{s.A, s.B, s.C}
			if want[k] == nil {
				want[k] = make([]int64, len(t.fields))
			}
			for i, v := range t.effect(m, rule) {
				want[k][i] += v
			}
		}
		rows, err := all[struct {
			A, B, C int64
			Name    string
			Kept    string
		}](r, t.kept)
		if err != nil {
			return nil, 0, err
		}
		for _, row := range rows {
			k := key{row.A, row.B, row.C}
			sum := want[k]
			if sum == nil {
				sum = make([]int64, len(t.fields))
			}
			delete(want, k)
			for i, v := range parseArray(row.Kept) {
				compared++
				if v != sum[i] {
					differences = append(differences, Difference{row.Name + ", " + t.fields[i], v, sum[i]})
				}
			}
		}
		for k, sum := range want {
			for i, v := range sum {
				if v != 0 {
					differences = append(
						differences,
						Difference{fmt.Sprintf("a count that is missing (keys %d, %d, %d), %s", k.a, k.b, k.c, t.fields[i]), 0, v},
					)
				}
			}
		}
	}
	more, err := r.auditAcross()
	return append(differences, more...), compared, err
}

// auditAcross compares counts that different documents keep of the same units.
func (r *Reader) auditAcross() ([]Difference, error) {
	return all[Difference](r, `
		SELECT o.number || ' line ' || l.line_no || ', released against its pick lists' AS what, c.released AS count,
			coalesce(t.due, 0) AS sum
		FROM line_count c JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id
			LEFT JOIN (SELECT line_id, sum(due) AS due FROM pick_task GROUP BY line_id) t ON t.line_id = c.line_id
		WHERE c.released <> coalesce(t.due, 0)
		UNION ALL
		SELECT o.number || ' line ' || l.line_no || ', packed, shipped and delivered against its packages',
			c.packed + c.shipped + c.delivered, coalesce(p.qty, 0)
		FROM line_count c JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id
			LEFT JOIN (SELECT line_id, sum(qty) AS qty FROM package_line GROUP BY line_id) p ON p.line_id = c.line_id
		WHERE c.packed + c.shipped + c.delivered <> coalesce(p.qty, 0)
		  AND NOT EXISTS (SELECT 1 FROM journal j WHERE j.line_id = c.line_id AND j.kind = 'lose')
		UNION ALL
		SELECT o.number || ' line ' || l.line_no || ', promised against its newest entry', c.promised, coalesce(e.now_units, 0)
		FROM line_count c JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id
			LEFT JOIN LATERAL (SELECT now_units FROM promise_entry e WHERE e.line_id = c.line_id ORDER BY e.id DESC LIMIT 1) e ON true
		WHERE c.promised <> coalesce(e.now_units, 0)
		UNION ALL
		SELECT o.number || ' line ' || l.line_no || ', promised against the promises that stand', c.promised, coalesce(p.qty, 0)
		FROM line_count c JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id
			LEFT JOIN (SELECT line_id, sum(qty) AS qty FROM promise GROUP BY line_id) p ON p.line_id = c.line_id
		WHERE c.promised <> coalesce(p.qty, 0)
		UNION ALL
		SELECT o.number || ', promised against its lines', n.promised, coalesce(p.qty, 0)
		FROM order_count n JOIN sales_order o ON o.id = n.order_id
			LEFT JOIN (SELECT order_id, sum(qty) AS qty FROM promise GROUP BY order_id) p ON p.order_id = n.order_id
		WHERE n.promised <> coalesce(p.qty, 0)
		UNION ALL
		SELECT 'entries that name an order line that is not there', count(*), 0 FROM journal j
		WHERE j.line_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM order_line l
			WHERE l.id = j.line_id AND l.order_id = j.order_id AND l.item_id = j.item_id)
		HAVING count(*) > 0
		UNION ALL
		SELECT o.number || ' line ' || l.line_no || ', where and when it is wanted', 1, 0
		FROM line_count c JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id
		WHERE (c.order_id, c.item_id, c.warehouse_id, c.ship_by, c.tier) IS DISTINCT
			FROM (l.order_id, l.item_id, l.warehouse_id, l.ship_by, o.tier)
		UNION ALL
		SELECT o.number || ', whose it is and when it is wanted', 1, 0 FROM order_count n JOIN sales_order o ON o.id = n.order_id
		WHERE (n.number, n.customer_id, n.channel, n.tier, n.wanted, n.currency, n.ship_rule)
			IS DISTINCT FROM (o.number, o.customer_id, o.channel, o.tier, o.wanted, o.currency, o.ship_rule)
		UNION ALL
		SELECT i.sku || ', open units against the sums kept', coalesce(k.units, 0), coalesce(c.units, 0)
		FROM (SELECT item_id, warehouse_id, sum(open) AS units, count(*) AS lines FROM line_count WHERE open > 0 GROUP BY 1, 2) c
			FULL JOIN (SELECT * FROM wanting WHERE units <> 0 OR lines <> 0) k USING (item_id, warehouse_id) JOIN item i ON i.id = item_id
		WHERE coalesce(k.units, 0) <> coalesce(c.units, 0) OR coalesce(k.lines, 0) <> coalesce(c.lines, 0)
		UNION ALL
		SELECT 'the strip, ' || x.what, x.kept, x.sum
		FROM (SELECT sum(open) AS o, sum(open_lines) AS ol, sum(promised) AS p, sum(promised_lines) AS pl, sum(allocated) AS a,
			sum(allocated_lines) AS al,
				sum(released) AS r, sum(released_lines) AS rl, sum(picked) AS k, sum(picked_lines) AS kl, sum(packed) AS c,
				sum(packed_lines) AS cl,
				sum(shipped) AS s, sum(shipped_lines) AS sl FROM strip_part) kept,
			(SELECT coalesce(sum(open - promised), 0) AS o, count(*) FILTER (WHERE open > promised) AS ol, coalesce(sum(promised), 0) AS p,
				count(*) FILTER (WHERE promised > 0) AS pl, coalesce(sum(allocated), 0) AS a, count(*) FILTER (WHERE allocated > 0) AS al,
				coalesce(sum(released), 0) AS r, count(*) FILTER (WHERE released > 0) AS rl, coalesce(sum(picked), 0) AS k, count(*)
				FILTER (WHERE picked > 0) AS kl,
				coalesce(sum(packed), 0) AS c, count(*) FILTER (WHERE packed > 0) AS cl, coalesce(sum(shipped), 0) AS s, count(*)
				FILTER (WHERE shipped > 0) AS sl
				FROM line_count) is_,
			LATERAL (VALUES ('open', kept.o, is_.o), ('open lines', kept.ol, is_.ol), ('promised', kept.p, is_.p),
			('promised lines', kept.pl, is_.pl),
				('allocated', kept.a, is_.a), ('allocated lines', kept.al, is_.al), ('released', kept.r, is_.r),
				('released lines', kept.rl, is_.rl),
				('picked', kept.k, is_.k), ('picked lines', kept.kl, is_.kl), ('packed', kept.c, is_.c), ('packed lines', kept.cl, is_.cl),
				('shipped', kept.s, is_.s), ('shipped lines', kept.sl, is_.sl)) x (what, kept, sum)
		WHERE x.kept <> x.sum
		UNION ALL
		SELECT i.sku || ' in ' || k.code || ', against what is to be put back' || x.what, x.kept, x.sum
		FROM (SELECT item_id, bin_id, sum(qty - done) AS qty, sum(qty - done) FILTER (WHERE ends <> 'allocated') AS held FROM put_back
				GROUP BY 1, 2) b
			FULL JOIN (SELECT s.item_id, s.bin_id, s.qty, s.held FROM bin_stock s JOIN bin p ON p.id = s.bin_id WHERE p.put_back) s
				USING (item_id, bin_id)
			JOIN item i ON i.id = item_id JOIN bin k ON k.id = bin_id,
			LATERAL (VALUES ('', coalesce(s.qty, 0), coalesce(b.qty, 0)), (', held', coalesce(s.held, 0), coalesce(b.held, 0))) x (what, kept, sum)
		WHERE x.kept <> x.sum
		UNION ALL
		SELECT i.sku || ' lot ' || t.code || x.what, x.kept, x.sum
		FROM (SELECT lot_id, sum(change) AS change, sum(aside) AS aside FROM lot_entry GROUP BY 1) e
			FULL JOIN (SELECT lot_id, sum(qty) AS qty, sum(aside) AS aside FROM lot_count GROUP BY 1) c USING (lot_id)
			JOIN lot t ON t.id = lot_id JOIN item i ON i.id = t.item_id,
			LATERAL (VALUES ('', coalesce(c.qty, 0), coalesce(e.change, 0)), (', set aside', coalesce(c.aside, 0), coalesce(e.aside, 0)))
				x (what, kept, sum)
		WHERE x.kept <> x.sum
		UNION ALL
		SELECT i.sku || ' in ' || b.code || ', more of lots than there are' || x.what, x.kept, x.sum
		FROM (SELECT bin_id, item_id, sum(qty) AS qty, sum(aside) AS aside FROM lot_count WHERE bin_id IS NOT NULL GROUP BY 1, 2) c
			JOIN bin b ON b.id = c.bin_id JOIN item i ON i.id = c.item_id LEFT JOIN bin_stock s ON s.bin_id = c.bin_id AND s.item_id = c.item_id,
			LATERAL (VALUES ('', c.qty, coalesce(s.qty, 0)), (', set aside', c.aside, coalesce(s.held, 0))) x (what, kept, sum)
		WHERE x.kept > x.sum
		UNION ALL
		SELECT o.number || ' line ' || l.line_no || ', picked, more of lots than there are', c.qty, coalesce(p.picked, 0) + coalesce(b.qty, 0)
		FROM (SELECT line_id, warehouse_id, sum(qty) AS qty FROM lot_count WHERE line_id IS NOT NULL AND package_id IS NULL GROUP BY 1, 2) c
			JOIN order_line l ON l.id = c.line_id JOIN sales_order o ON o.id = l.order_id
			LEFT JOIN line_at p ON p.line_id = c.line_id AND p.warehouse_id = c.warehouse_id
			LEFT JOIN (SELECT line_id, warehouse_id, sum(qty - done) AS qty FROM put_back WHERE package_id IS NULL GROUP BY 1, 2) b
				ON b.line_id = c.line_id AND b.warehouse_id = c.warehouse_id
		WHERE c.qty > coalesce(p.picked, 0) + coalesce(b.qty, 0)
		UNION ALL
		SELECT k.number || ', more of lots than there are', c.qty, coalesce(p.qty, 0) + coalesce(b.qty, 0)
		FROM (SELECT package_id, line_id, sum(qty) AS qty FROM lot_count WHERE package_id IS NOT NULL GROUP BY 1, 2) c
			JOIN package k ON k.id = c.package_id LEFT JOIN package_line p ON p.package_id = c.package_id AND p.line_id = c.line_id
			LEFT JOIN (SELECT package_id, line_id, sum(qty - done) AS qty FROM put_back WHERE package_id IS NOT NULL GROUP BY 1, 2) b
				ON b.package_id = c.package_id AND b.line_id = c.line_id
		WHERE c.qty > coalesce(p.qty, 0) + coalesce(b.qty, 0)
		UNION ALL
		SELECT 'entries of no command', count(*), 0 FROM (SELECT command_id FROM journal UNION ALL SELECT command_id FROM promise_entry) j
		WHERE NOT EXISTS (SELECT 1 FROM command c WHERE c.id = j.command_id)
		HAVING count(*) > 0`)
}

func parseArray(s string) []int64 {
	var out []int64
	n, neg, in := int64(0), false, false
	for _, ch := range s {
		switch {
		case ch == '-':
			neg = true
		case ch >= '0' && ch <= '9':
			n, in = n*10+int64(ch-'0'), true
		default:
			if in {
				if neg {
					n = -n
				}
				out = append(out, n)
			}
			n, neg, in = 0, false, false
		}
	}
	return out
}

// Audit is Reader.Audit on one consistent picture of the whole database.
func (s *Store) Audit(ctx context.Context) (differences []Difference, compared int, err error) {
	err = s.g.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		differences, compared, err = (&Reader{g}).Audit()
		return err
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	return differences, compared, err
}
