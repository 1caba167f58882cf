package store

import (
	"fmt"
	"slices"
	"strings"
)

// helped says of a line whether free stock at its warehouse can help it.
const helped = "EXISTS (SELECT 1 FROM stock_cell s WHERE s.item_id = n.item_id AND s.warehouse_id = n.warehouse_id AND s.free > 0)"

// OpenLines returns lines with open units: those that free stock can help first, then by tier and day. It also says how many there are in
// all, up to MostCounted with words; then more says whether there are more.
func (r *Reader) OpenLines(words []string, limit, offset int) (rows []LineRow, total int64, more bool, err error) {
	conds, args, err := r.openWords(words)
	if err != nil {
		return nil, 0, false, err
	}
	first, total, more, err := r.countOpen(conds, args)
	if err != nil {
		return nil, 0, false, err
	}
	var ids IDs
	for _, part := range []struct {
		cond   string
		before int64 // rows of the list before this part
		count  int64
	}{{helped, 0, first}, {"NOT " + helped, first, total - first}} {
		skip := max(0, int64(offset)-part.before)
		if len(ids) == limit || skip >= part.count && !more {
			continue
		}
		some, err := all[struct{ ID int64 }](r, fmt.Sprintf(`SELECT n.line_id AS id FROM line_count n WHERE %s
			ORDER BY n.tier, n.ship_by, n.line_id LIMIT %d OFFSET %d`,
			strings.Join(append([]string{part.cond}, conds...), " AND "), limit-len(ids), skip), args)
		if err != nil {
			return nil, 0, false, err
		}
		for _, x := range some {
			ids = append(ids, x.ID)
		}
	}
	if rows, err = r.LinesByID(ids); err != nil {
		return nil, 0, false, err
	}
	at := make(map[int64]int, len(ids))
	for i, id := range ids {
		at[id] = i
	}
	slices.SortFunc(rows, func(a, b LineRow) int { return at[a.ID] - at[b.ID] })
	return rows, total, more, nil
}

// countOpen says how many of the open lines free stock can help, and how many there are. Without words it is kept.
func (r *Reader) countOpen(conds []string, args map[string]any) (first, total int64, more bool, err error) {
	type counts struct{ First, Total int64 }
	if len(args) == 0 {
		row, _, err := one[counts](r, `SELECT coalesce(sum(w.lines) FILTER (WHERE s.free > 0), 0) AS first,
			coalesce(sum(w.lines), 0) AS total
			FROM wanting w LEFT JOIN stock_cell s USING (item_id, warehouse_id)`)
		return row.First, row.Total, false, err
	}
	row, _, err := one[counts](r, fmt.Sprintf(`SELECT count(*) FILTER (WHERE x.helped) AS first, count(*) AS total
		FROM (SELECT %s AS helped FROM line_count n WHERE %s LIMIT %d) x`, helped, strings.Join(conds, " AND "), MostCounted+1), args)
	if row.Total > MostCounted {
		row.Total, more = MostCounted, true
	}
	return row.First, row.Total, more, err
}

// openWords are the conditions that a line is open and that each of the words is found in its order's number, its customer or its item.
func (r *Reader) openWords(words []string) (conds []string, args map[string]any, err error) {
	args = map[string]any{}
	conds = []string{"n.open > 0", live}
	for i, w := range words {
		k := fmt.Sprintf("w%d", i)
		args[k] = "%" + likeEscape(w) + "%"
		conds = append(conds, strings.ReplaceAll(`(n.item_id IN (SELECT id FROM item
			WHERE lower(sku) LIKE lower(@w) OR lower(name) LIKE lower(@w))
			OR n.order_id IN (SELECT id FROM sales_order WHERE lower(number) LIKE lower(@w)
				UNION ALL SELECT o.id FROM sales_order o JOIN customer c ON c.id = o.customer_id JOIN order_count m ON m.order_id = o.id
					WHERE lower(c.name) LIKE lower(@w) AND m.delivered + m.dropped < m.ordered))`, "@w", "@"+k))
	}
	return conds, args, nil
}
