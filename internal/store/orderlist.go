package store

import (
	"fmt"
	"strings"
	"unicode"
)

// OrderQuery chooses orders for a list.
type OrderQuery struct {
	Words    []string // each must be found in a number, customer, reference or item
	Station  string   // orders with units there
	State    string   // "open" for unfinished, "done" for finished, "late", "held"
	Channel  string
	Customer string // code
	Tier     int    // 0 for all
	Wanted   string // day
	Today    string
	Sort     string
	Down     bool
	Limit    int
	Offset   int
	Exact    bool // count all that are found, however many there are
}

// MostCounted is up to how many rows of a list are counted unless somebody asks for more.
const MostCounted = 10_000

// orderSorts are the columns by which orders can be sorted, each with its index. Ties end with the number.
var orderSorts = map[string]string{
	"number": "", "customer": "c.name", "channel": "x.channel", "tier": "x.tier", "wanted": "x.wanted", "entered": "o.entered_at",
	"value":  "n.value_minor",
	"margin": "(CASE WHEN n.value_minor = 0 THEN 1 ELSE (n.value_minor - n.cost_minor)::numeric / n.value_minor END)",
}

var stationNames = map[string]bool{
	"open": true, "allocated": true, "released": true, "picked": true, "packed": true, "shipped": true, "delivered": true, "dropped": true,
}

// orderList is a query as it is put to the database. It reads orders (x) from their counts if just unfinished
// ones are looked for, which one index has, and else in the order of an index.
type orderList struct {
	OrderQuery
	args  map[string]any
	conds []string
	live  bool // just unfinished orders
	every bool // all orders that are found are read, not just some
	by    string
}

func (r *Reader) orderList(q OrderQuery, every bool) (*orderList, error) {
	l := &orderList{
		OrderQuery: q, args: map[string]any{"today": q.Today, "channel": q.Channel, "customer": q.Customer}, conds: []string{"true"},
		every: every || q.Exact,
	}
	by, known := orderSorts[q.Sort]
	if l.by = by; !known {
		l.by = orderSorts["wanted"]
	}
	unfinished := "n.delivered + n.dropped < n.ordered"
	if stationNames[q.Station] {
		l.conds = append(l.conds, "n."+q.Station+" > 0")
		l.live = q.Station != "delivered" && q.Station != "dropped"
	}
	switch q.State {
	case "open":
		l.live = true
	case "done":
		l.conds = append(l.conds, "n.delivered + n.dropped = n.ordered")
	case "late":
		l.live = true
		l.conds = append(l.conds, "x.wanted < CAST(@today AS date)")
	case "held":
		l.conds = append(l.conds, "x.id IN (SELECT order_id FROM hold WHERE lifted_by IS NULL)")
	}
	if l.live {
		l.conds = append(l.conds, unfinished)
	}
	if q.Channel != "" {
		l.conds = append(l.conds, "x.channel = @channel")
	}
	if q.Customer != "" {
		l.conds = append(l.conds, "x.customer_id = (SELECT id FROM customer WHERE code = @customer)")
	}
	if q.Tier != 0 {
		l.args["tier"] = q.Tier
		l.conds = append(l.conds, "x.tier = @tier")
	}
	if q.Wanted != "" {
		l.args["wanted"] = q.Wanted
		l.conds = append(l.conds, "x.wanted = CAST(@wanted AS date)")
	}
	for i, w := range q.Words {
		cond, err := l.word(r, fmt.Sprintf("w%d", i), w)
		if err != nil {
			return nil, err
		}
		l.conds = append(l.conds, cond)
	}
	return l, nil
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
func (l *orderList) foundBy() string {
	if l.live || l.every {
		return "o.found_by" // which is not kept beside the counts
	}
	return "x.found_by"
}

// word is the condition that a word is found in an order's number, reference, customer or items.
func (l *orderList) word(r *Reader, name, word string) (string, error) {
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

// from is what a query reads that shows an expression. All that is shown or chooses is read, and nothing else.
func (l *orderList) from(shows string) string {
	var b strings.Builder
	uses := func(alias string) bool {
		return strings.Contains(shows, alias+".") || strings.Contains(strings.Join(l.conds, " "), alias+".")
	}
	if l.live || l.every {
		b.WriteString("(SELECT order_id AS id, * FROM order_count) x JOIN LATERAL (SELECT x.*) n ON true")
	} else {
		b.WriteString("sales_order x")
		if uses("n") {
			b.WriteString(" JOIN order_count n ON n.order_id = x.id")
		}
	}
	if uses("o") {
		b.WriteString(" JOIN sales_order o ON o.id = x.id")
	}
	if uses("c") {
		b.WriteString(" JOIN customer c ON c.id = x.customer_id")
	}
	return b.String() + " WHERE " + strings.Join(l.conds, " AND ")
}

// OrderSum is how many orders were found. If there are more than are counted, More says so; else Value is what those in the firm's
// currency are worth, and Others how many are in other ones.
type OrderSum struct {
	N, Value, Others int64
	More             bool
}

// orderSum says what the orders that are found come to. Where words are looked for, those that have them are found once: if they are few
// enough to be counted, what follows is asked of them.
func (r *Reader) orderSum(l *orderList) (sum OrderSum, err error) {
	most := ""
	if !l.Exact {
		most = fmt.Sprintf(" LIMIT %d", MostCounted+1)
	}
	if len(l.Words) > 0 && !l.Exact {
		found, err := all[struct{ ID int64 }](r, "SELECT x.id FROM "+l.from("x.id")+most, l.args)
		if err != nil {
			return sum, err
		}
		if len(found) > MostCounted {
			return OrderSum{N: MostCounted, More: true}, nil
		}
		l.conds, l.args["found"] = []string{"x.id = ANY(@found)"}, idsOf(found)
	}
	sum, _, err = one[OrderSum](r, `SELECT count(*) AS n, shown(sum(value_minor) FILTER (WHERE currency = '`+FirmCurrency+`')) AS value,
			count(*) FILTER (WHERE currency <> '`+FirmCurrency+`') AS others
		FROM (SELECT n.value_minor, n.currency FROM `+l.from("n.value_minor")+most+`) f`, l.args)
	if !l.Exact && sum.N > MostCounted {
		sum = OrderSum{N: MostCounted, More: true}
	}
	return sum, err
}

func idsOf(rows []struct{ ID int64 }) IDs {
	out := make(IDs, len(rows))
	for i, x := range rows {
		out[i] = x.ID
	}
	return out
}

// Orders returns a page of orders, and what all of them come to.
func (r *Reader) Orders(q OrderQuery) (page []OrderHead, sum OrderSum, err error) {
	l, err := r.orderList(q, false)
	if err != nil {
		return nil, sum, err
	}
	if sum, err = r.orderSum(l); err != nil {
		return nil, sum, err
	}
	dir := ""
	if q.Down {
		dir = " DESC"
	}
	order := "x.number" + dir
	if l.by != "" {
		order = l.by + dir + ", x.number" + dir
	}
	ids, err := all[struct{ ID int64 }](
		r, fmt.Sprintf(`SELECT x.id FROM %s ORDER BY %s LIMIT %d OFFSET %d`, l.from(l.by), order, q.Limit, q.Offset), l.args,
	)
	if err != nil {
		return nil, sum, err
	}
	keys := make(IDs, len(ids))
	at := make(map[int64]int, len(ids))
	for i, x := range ids {
		keys[i], at[x.ID] = x.ID, i
	}
	heads, err := all[OrderHead](r, orderHead+` WHERE o.id = ANY(?)`, keys)
	page = make([]OrderHead, len(heads))
	for _, h := range heads {
		page[at[h.ID]] = h
	}
	return page, sum, err
}
