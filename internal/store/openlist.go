package store

import (
	"fmt"
	"strings"
)

// helped says of a line whether free stock at its warehouse can help it.
const helped = "EXISTS (SELECT 1 FROM stock_cell WHERE item_id = n.item_id AND warehouse_id = n.warehouse_id AND free > 0)"

// OpenLines is the list of lines with open units: those that free stock can help first, then by tier and day.
var OpenLines = &List{
	Name: "open", First: "helped", Page: 70, tie: part{"n.line_id", Number}, key: "n.line_id", begin: beginOpen,
	name: "n.line_id::text", version: "n.version",
	Columns: []Column{
		{
			Name: "helped", Title: "Can be helped", Kind: Number, By: "CASE WHEN " + helped + " THEN 0 ELSE 1 END",
			Parts: []string{helped, "NOT " + helped}, Then: []part{{"n.tier", Number}, {"n.ship_by", Day}},
		},
		{Name: "tier", Title: "Tier", Kind: Number, By: "n.tier", Then: []part{{"n.ship_by", Day}}, Group: true},
		{Name: "ship_by", Title: "Ship by", Kind: Day, By: "n.ship_by", Group: true},
		{Name: "order", Title: "Order", Kind: Text, By: "oc.number", Group: true},
		{Name: "customer", Title: "Customer", Kind: Text, By: "c.name", Names: customersNamed, Key: "oc.customer_id", Group: true},
		{Name: "item", Title: "Item", Kind: Text, By: "i.sku", Names: itemsNamed, Key: "n.item_id", Group: true},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "w.code", Names: warehousesNamed, Key: "n.warehouse_id", Group: true},
		{Name: "channel", Title: "Channel", Kind: Text, By: "oc.channel", Group: true},
		{Name: "wanted", Title: "Requested", Kind: Day, By: "oc.wanted", Group: true},
		{Name: "ordered", Title: "Ordered", Kind: Number, By: "n.ordered", Sum: "n.ordered"},
		{Name: "open", Title: "Open", Kind: Number, By: "n.open", Sum: "n.open"},
		{Name: "promised", Title: "Promised", Kind: Number, By: "n.promised", Sum: "n.promised"},
		{Name: "free", Title: "Free", Kind: Number, By: "coalesce(s.free, 0)"},
	},
}

func beginOpen(r *Reader, ask ListAsk, _ bool) (*rows, error) {
	conds, args, err := r.lineWords("n", ask.Words)
	return &rows{conds: append(conds, "n.open > 0", live), args: args, from: func(shows string) string {
		return "line_count n" + joins(
			shows,
			join{"oc", "order_count oc ON oc.order_id = n.order_id"},
			join{"c", "customer c ON c.id = oc.customer_id"},
			join{"i", "item i ON i.id = n.item_id"},
			join{"w", "warehouse w ON w.id = n.warehouse_id"},
			join{"s", "stock_cell s ON s.item_id = n.item_id AND s.warehouse_id = n.warehouse_id"},
		)
	}}, err
}

// LinesInOrder returns the lines of those keys, in their order.
func (r *Reader) LinesInOrder(ids IDs) ([]LineRow, error) {
	found, err := r.LinesByID(ids)
	return inKeyOrder(ids, found, func(l LineRow) int64 { return l.ID }), err
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
