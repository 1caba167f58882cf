package store

import (
	"fmt"
	"slices"
	"strings"
)

// helped says of a line whether free stock at its warehouse can help it.
const helped = "EXISTS (SELECT 1 FROM stock_cell s WHERE s.item_id = n.item_id AND s.warehouse_id = n.warehouse_id AND s.free > 0)"

// OpenLines returns lines with open units: those that free stock can help first, then by tier and day. It also says how many there are in
// all, with words up to MostCounted; then more says whether there are more.
func (r *Reader) OpenLines(words []string, limit, offset int) (rows []LineRow, total int64, more bool, err error) {
	conds, args, err := r.lineWords("n", words)
	if err != nil {
		return nil, 0, false, err
	}
	conds = append(conds, "n.open > 0", live)
	if len(words) > 0 {
		found, err := r.openFound(conds, args)
		if err != nil {
			return nil, 0, false, err
		}
		if len(found) <= MostCounted {
			from := min(offset, len(found))
			rows, err = r.linesInOrder(found[from:min(from+limit, len(found))])
			return rows, int64(len(found)), false, err
		}
	}
	// How many of all open lines free stock can help is kept.
	type counts struct{ First, Total int64 }
	sum, _, err := one[counts](r, `SELECT coalesce(sum(w.lines) FILTER (WHERE s.free > 0), 0) AS first,
		coalesce(sum(w.lines), 0) AS total
		FROM wanting w LEFT JOIN stock_cell s USING (item_id, warehouse_id)`)
	if err != nil {
		return nil, 0, false, err
	}
	if more = len(words) > 0; more {
		sum.Total = MostCounted
	}
	var ids IDs
	for _, part := range []struct {
		cond   string
		before int64 // rows of the list before this part
		count  int64
	}{{helped, 0, sum.First}, {"NOT " + helped, sum.First, sum.Total - sum.First}} {
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
		ids = append(ids, idsOf(some)...)
	}
	rows, err = r.linesInOrder(ids)
	return rows, sum.Total, more, err
}

// openFound returns the lines that the conditions choose in the order of the list; of more than are counted, some.
func (r *Reader) openFound(conds []string, args map[string]any) (IDs, error) {
	found, err := all[struct{ ID int64 }](r, fmt.Sprintf(`SELECT id FROM (
			SELECT n.line_id AS id, %s AS helped, n.tier, n.ship_by FROM line_count n WHERE %s LIMIT %d) x
		ORDER BY helped DESC, tier, ship_by, id`, helped, strings.Join(conds, " AND "), MostCounted+1), args)
	return idsOf(found), err
}

// linesInOrder returns the lines of those keys, in their order.
func (r *Reader) linesInOrder(ids IDs) ([]LineRow, error) {
	rows, err := r.LinesByID(ids)
	at := make(map[int64]int, len(ids))
	for i, id := range ids {
		at[id] = i
	}
	slices.SortFunc(rows, func(a, b LineRow) int { return at[a.ID] - at[b.ID] })
	return rows, err
}

// ItemsNamed returns the items with the word in their number or name.
func (r *Reader) ItemsNamed(word string) (IDs, error) {
	items, err := all[struct{ ID int64 }](r, `SELECT id FROM item WHERE found_by LIKE lower(?)`, "%"+likeEscape(word)+"%")
	return idsOf(items), err
}

// Up to so many items and orders that match a word the lines are looked up from these; of more it is asked of each line.
const (
	fewItems  = 600
	fewOrders = 5000
)

// lineWords are the conditions that each of the words is found in the order's number, the customer or the item of an unfinished line, of
// which a row has the keys.
func (r *Reader) lineWords(row string, words []string) (conds []string, args map[string]any, err error) {
	args = map[string]any{}
	for i, word := range words {
		k := fmt.Sprintf("w%d", i)
		args[k] = "%" + likeEscape(word) + "%"
		named := strings.NewReplacer("@row", row, "@w", "@"+k)
		matching := named.Replace(`SELECT o.id FROM sales_order o JOIN order_count n ON n.order_id = o.id
				WHERE o.found_by LIKE lower(@w) AND ` + live + `
			UNION SELECT o.id FROM customer c JOIN sales_order o ON o.customer_id = c.id JOIN order_count n ON n.order_id = o.id
				WHERE c.found_by LIKE lower(@w) AND ` + live)
		items, err := r.ItemsNamed(word)
		if err != nil {
			return nil, nil, err
		}
		orders, err := all[struct{ ID int64 }](r, fmt.Sprintf("SELECT id FROM (%s) x LIMIT %d", matching, fewOrders+1), args)
		if err != nil {
			return nil, nil, err
		}
		args[k+"i"], args[k+"o"] = items, idsOf(orders)
		var cond string
		switch {
		case len(items) > fewItems || len(orders) > fewOrders:
			cond = "(@row.item_id IN (SELECT unnest(CAST(@wi AS bigint[]))) OR @row.order_id IN (" + matching + "))"
		case len(orders) == 0:
			cond = "@row.item_id = ANY(@wi)"
		case len(items) == 0:
			cond = "@row.line_id IN (SELECT id FROM order_line WHERE order_id = ANY(@wo))"
		default:
			cond = `@row.line_id IN (SELECT line_id FROM line_count n WHERE item_id = ANY(@wi) AND ` + live + `
				UNION SELECT id FROM order_line WHERE order_id = ANY(@wo))`
		}
		conds = append(conds, named.Replace(cond))
	}
	return conds, args, nil
}
