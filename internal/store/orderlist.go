package store

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
)

// MostCounted is up to how many rows of a list are counted unless somebody asks for more.
const MostCounted = 10_000

// inFirm is an order's value if it is in the firm's currency; sums are of those.
var inFirm = firmsOwn("n.currency", "n.value_minor")

// firmsOwn is an amount if it is in the firm's currency.
func firmsOwn(currency, amount string) string {
	return "CASE WHEN " + currency + " = '" + FirmCurrency + "' THEN " + amount + " ELSE 0 END"
}

// marginShare is which part of an order's value is not its cost. There is an index on it.
const marginShare = "(CASE WHEN n.value_minor = 0 THEN 1 ELSE (n.value_minor - n.cost_minor)::numeric / n.value_minor END)"

// Orders is the list of orders. Its scopes are "station", one that has units of the order, and "state": open for unfinished ones, done,
// late or held.
var Orders = &List{
	Name: "orders", First: "wanted", tie: part{"x.number", Text}, counts: "n", key: "x.id", begin: beginOrders,
	name: "x.number", version: "n.version",
	Columns: append([]Column{
		{Name: "tier", Title: "Tier", Kind: Number, By: "x.tier", Group: true},
		{Name: "wanted", Title: "Requested", Kind: Day, By: "x.wanted", Group: true},
		{Name: "number", Title: "Order", Kind: Text, By: "x.number"},
		{Name: "customer", Title: "Customer", Kind: Text, By: "c.name", Names: customersNamed, Key: "x.customer_id", Group: true},
		{Name: "channel", Title: "Channel", Kind: Text, By: "x.channel", Group: true},
		{Name: "value", Title: "Value", Kind: Money, By: "n.value_minor", Sum: inFirm},
		// of its sum: how many are in other currencies, which the value leaves out
		{
			Name: "currency", Title: "Currency", Kind: Text, By: "n.currency", Group: true,
			Sum: "CASE WHEN n.currency = '" + FirmCurrency + "' THEN 0 ELSE 1 END",
		},
		{Name: "margin", Title: "Margin", Kind: Share, By: marginShare, Costs: true},
		{Name: "rule", Title: "Ship rule", Kind: Text, By: "n.ship_rule", Group: true},
		{Name: "service", Title: "Service", Kind: Text, By: "o.service", Group: true},
		{Name: "ref", Title: "Customer's number", Kind: Text, By: "o.customer_ref"},
		{Name: "entered", Title: "Entered", Kind: Moment, By: "o.entered_at"},
	}, stationColumns("n")...),
}

// stationColumns are the units of a row by where they stand.
func stationColumns(alias string) []Column {
	out := make([]Column, 0, 10)
	for _, name := range []string{
		"ordered", "open", "promised", "allocated", "released", "picked", "packed", "shipped", "delivered", "dropped",
	} {
		by := alias + "." + name
		title := strings.ToUpper(name[:1]) + name[1:]
		out = append(out, Column{Name: name, Title: title, Kind: Number, By: by, Sum: by})
	}
	return out
}

var stationNames = map[string]bool{
	"open": true, "allocated": true, "released": true, "picked": true, "packed": true, "shipped": true, "delivered": true, "dropped": true,
}

// orderRows are the orders that are looked for. They are read (x) from their counts if just unfinished
// ones are looked for, which one index has, and else in the order of an index.
type orderRows struct {
	args  map[string]any
	live  bool // just unfinished orders
	every bool // all orders that are found are read, not just some
}

func beginOrders(r *Reader, ask ListAsk, every bool) (*rows, error) {
	l := &orderRows{args: map[string]any{"today": ask.Today}, every: every}
	p := &rows{args: l.args, from: l.from}
	if station := ask.Scope["station"]; stationNames[station] {
		p.conds = append(p.conds, "n."+station+" > 0")
		l.live = station != "delivered" && station != "dropped"
	}
	switch ask.Scope["state"] {
	case "open":
		l.live = true
	case "done":
		p.conds = append(p.conds, "n.delivered + n.dropped = n.ordered")
	case "late":
		l.live = true
		p.conds = append(p.conds, "x.wanted < CAST(@today AS date)")
	case "held":
		p.conds = append(p.conds, "x.id IN (SELECT order_id FROM hold WHERE lifted_by IS NULL)")
	}
	if l.live {
		p.conds = append(p.conds, "n.delivered + n.dropped < n.ordered")
	}
	for i, w := range ask.Words {
		cond, err := l.word(r, fmt.Sprintf("w%d", i), w)
		if err != nil {
			return nil, err
		}
		p.conds = append(p.conds, cond)
	}
	return p, nil
}

// fewMatches is up to how many customers or items that match a word the orders are looked up from these; of more it is asked of each
// order.
const fewMatches = 60

// mostNumbers is up to how many orders are looked up by a part of their number or reference.
const mostNumbers = 2000

// findable says whether an index on parts can find a word: it knows three letters or digits beside each other, and nothing else.
func findable(word string) bool {
	run := 0
	for _, r := range word {
		if run++; !unicode.IsLetter(r) && !unicode.IsDigit(r) {
			run = 0
		}
		if run == 3 {
			return true
		}
	}
	return false
}

// foundBy is the column with an order's number and reference.
func (l *orderRows) foundBy() string {
	if l.live || l.every {
		return "o.found_by" // which is not kept beside the counts
	}
	return "x.found_by"
}

// word is the condition that a word is found in an order's number, reference, customer or items.
func (l *orderRows) word(r *Reader, name, word string) (string, error) {
	part := "%" + likeEscape(word) + "%"
	args := l.args
	args[name] = part
	customers, err := all[struct{ ID int64 }](
		r, `SELECT id FROM customer WHERE found_by LIKE lower(?)`, part,
	)
	if err != nil {
		return "", err
	}
	items, err := r.ItemsNamed(word)
	if err != nil {
		return "", err
	}
	args[name+"c"], args[name+"i"] = idsOf(customers), items
	var or, found []string
	// A word that many numbers have is asked of each order; so is one that the index on parts cannot find.
	number := fmt.Sprintf(
		"SELECT id FROM sales_order WHERE found_by LIKE lower(@%s)", name,
	)
	many := !findable(word)
	if !many {
		row, _, err := one[struct{ N int64 }](
			r, fmt.Sprintf("SELECT count(*) AS n FROM (%s LIMIT %d) m", number, mostNumbers+1), map[string]any{name: part},
		)
		if err != nil {
			return "", err
		}
		many = row.N > mostNumbers
	}
	if many {
		or = append(or, fmt.Sprintf("%s LIKE lower(@%s)", l.foundBy(), name))
	} else {
		found = append(found, number)
	}
	if n := len(customers); n > fewMatches {
		or = append(or, fmt.Sprintf("x.customer_id IN (SELECT unnest(CAST(@%sc AS bigint[])))", name))
	} else if n > 0 {
		found = append(found, fmt.Sprintf("SELECT id FROM sales_order WHERE customer_id = ANY(@%sc)", name))
	}
	if n := len(items); n > fewMatches && !(l.every && n <= fewItems) {
		// a set, looked into for each line
		or = append(
			or,
			fmt.Sprintf(
				"EXISTS (SELECT 1 FROM order_line l WHERE l.order_id = x.id AND (l.item_id IN (SELECT unnest(CAST(@%si AS bigint[])))) IS TRUE)",
				name,
			),
		)
	} else if n > 0 {
		found = append(found, fmt.Sprintf("SELECT order_id FROM order_line WHERE item_id = ANY(@%si)", name))
	}
	switch all := strings.Join(found, " UNION "); {
	case len(found) == 0:
	case len(or) == 0 && !l.every: // orders are looked up by their keys
		or = append(or, "x.id = ANY(ARRAY("+all+"))")
	default: // each order is looked up in a set
		or = append(or, "(x.id IN ("+all+")) IS TRUE")
	}
	return "(" + strings.Join(or, " OR ") + ")", nil
}

// from is what a query reads that shows an expression.
func (l *orderRows) from(shows string) string {
	var b strings.Builder
	if l.live || l.every {
		b.WriteString("(SELECT order_id AS id, * FROM order_count) x JOIN LATERAL (SELECT x.*) n ON true")
	} else {
		b.WriteString("sales_order x")
		if uses(shows, "n") {
			b.WriteString(" JOIN order_count n ON n.order_id = x.id")
		}
	}
	if uses(shows, "o") {
		b.WriteString(" JOIN sales_order o ON o.id = x.id")
	}
	if uses(shows, "c") {
		b.WriteString(" JOIN customer c ON c.id = x.customer_id")
	}
	return b.String()
}

func idsOf(rows []struct{ ID int64 }) IDs {
	out := make(IDs, len(rows))
	for i, x := range rows {
		out[i] = x.ID
	}
	return out
}

// inKeyOrder returns found rows in the order of their keys.
func inKeyOrder[T any](keys IDs, found []T, keyOf func(T) int64) []T {
	at := make(map[int64]int, len(keys))
	for i, id := range keys {
		at[id] = i
	}
	slices.SortFunc(found, func(a, b T) int { return at[keyOf(a)] - at[keyOf(b)] })
	return found
}

// OrderHeads returns the orders of those keys, in their order.
func (r *Reader) OrderHeads(keys IDs) ([]OrderHead, error) {
	heads, err := all[OrderHead](r, orderHead+` WHERE o.id = ANY(?)`, keys)
	return inKeyOrder(keys, heads, func(h OrderHead) int64 { return h.ID }), err
}
