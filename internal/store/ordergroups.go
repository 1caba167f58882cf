package store

import "fmt"

// OrderGroup is orders that are alike in something, with what they come to.
type OrderGroup struct {
	Key    string // the customer's code, the channel, the tier or the day
	Name   string // of the customer
	Orders int64
	Value  int64 // of those in the firm's currency
	Others int64 // how many are in other currencies
	StationCounts
}

// orderGroupings are what orders can be grouped by, and the order of the groups: days and tiers by themselves, others by what they are
// worth.
var orderGroupings = map[string]struct{ key, order string }{
	"customer": {"x.customer_id", "g.value DESC, g.key"}, "channel": {"x.channel", "g.value DESC, g.key"},
	"tier": {"x.tier", "g.key"}, "wanted": {"x.wanted", "g.key"},
}

// GroupOrders adds up the orders that were asked for by what they are grouped by: so many groups, and how many there are. It reads every
// order that is found.
func (r *Reader) GroupOrders(q OrderQuery, by string, limit int) (groups []OrderGroup, total int64, err error) {
	g, known := orderGroupings[by]
	if !known {
		return nil, 0, fmt.Errorf("store: orders are not grouped by %q", by)
	}
	l, err := r.orderList(q, true)
	if err != nil {
		return nil, 0, err
	}
	rows, err := all[struct {
		OrderGroup
		Groups int64
	}](r, fmt.Sprintf(`
		WITH grouped AS MATERIALIZED (
			SELECT %[1]s AS key, count(*) AS orders, shown(sum(n.value_minor) FILTER (WHERE n.currency = '%[2]s')) AS value,
				count(*) FILTER (WHERE n.currency <> '%[2]s') AS others, shown(sum(n.ordered)) AS ordered, shown(sum(n.open)) AS open,
				shown(sum(n.promised)) AS promised, shown(sum(n.allocated)) AS allocated, shown(sum(n.released)) AS released,
				shown(sum(n.picked)) AS picked, shown(sum(n.packed)) AS packed, shown(sum(n.shipped)) AS shipped,
				shown(sum(n.delivered)) AS delivered, shown(sum(n.dropped)) AS dropped
			FROM %[3]s GROUP BY 1)
		SELECT g.key::text AS key, g.orders, g.value, g.others, g.ordered, g.open, g.promised, g.allocated, g.released, g.picked, g.packed,
			g.shipped, g.delivered, g.dropped, (SELECT count(*) FROM grouped) AS groups
		FROM grouped g ORDER BY %[4]s LIMIT %[5]d`,
		g.key, FirmCurrency, l.from(g.key+" n.open"), g.order, limit), l.args)
	if err != nil {
		return nil, 0, err
	}
	for _, x := range rows {
		groups, total = append(groups, x.OrderGroup), x.Groups
	}
	if by == "customer" {
		err = r.nameCustomers(groups)
	}
	return groups, total, err
}

// nameCustomers puts codes and names in place of the customers' keys.
func (r *Reader) nameCustomers(groups []OrderGroup) error {
	keys := make(Texts, len(groups))
	for i, g := range groups {
		keys[i] = g.Key
	}
	rows, err := all[struct{ ID, Code, Name string }](
		r, `SELECT id::text AS id, code, name FROM customer WHERE id = ANY(CAST(? AS bigint[]))`, keys,
	)
	at := map[string]int{}
	for i, x := range rows {
		at[x.ID] = i
	}
	for i := range groups {
		if k, known := at[groups[i].Key]; known {
			groups[i].Key, groups[i].Name = rows[k].Code, rows[k].Name
		}
	}
	return err
}
