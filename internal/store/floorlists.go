package store

import (
	"fmt"
	"strings"
)

// toPick is a row of a pick list of which something is left to pick, if there is one.
const toPick = "(SELECT 1 FROM pick_task y WHERE y.pick_list_id = p.id AND y.qty - y.picked - y.short - y.recalled > 0 LIMIT 1)"

// PickLists is the list of pick lists. Its scope "state" is empty for those with something left to pick, the oldest first; done for the
// others, the newest first; or all.
var PickLists = &List{
	Name: "pick-lists", First: "age", FirstIn: map[string]SortedBy{"done": {"age", true}, "all": {"age", true}},
	tie: part{"p.id", Number}, key: "p.id",
	Columns: []Column{
		{Name: "age", Kind: Number, By: "p.id"},
		{Name: "number", Title: "Pick list", Kind: Text, By: "p.number"},
		{Name: "tier", Title: "Tier", Kind: Number, By: "x.tier", Then: []part{{"x.first_ship", Day}}, Group: true},
		{Name: "first_ship", Title: "First ships", Kind: Day, By: "x.first_ship", Group: true},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "w.code", Names: warehousesNamed, Key: "p.warehouse_id", Group: true},
		{Name: "zone", Title: "Zone", Kind: Text, By: "p.zone", Group: true},
		{Name: "orders", Title: "Orders", Kind: Number, By: "x.orders"},
		{Name: "rows", Title: "Rows", Kind: Number, By: "x.tasks", Sum: "x.tasks"},
		{Name: "units", Title: "Units", Kind: Number, By: "x.units", Sum: "x.units"},
		{Name: "due", Title: "Still to pick", Kind: Number, By: "x.due", Sum: "x.due"},
		{Name: "short", Title: "Short", Kind: Number, By: "x.short", Sum: "x.short"},
		{Name: "work", Title: "Time (s)", Kind: Number, By: "p.work_s", Sum: "p.work_s"},
		{Name: "walk", Title: "Walk (cm)", Kind: Number, By: "p.walk_cm", Sum: "p.walk_cm"},
		{Name: "picker", Title: "Picked by", Kind: Text, By: "coalesce(pk.name, '')", Group: true},
		{Name: "who", Title: "Released by", Kind: Text, By: "u.name", Group: true},
		{Name: "released", Title: "Released", Kind: Moment, By: "m.at"},
	},
	begin: func(r *Reader, ask ListAsk, _ bool) (*rows, error) {
		conds, args, err := r.containing(ask, inLists, "p.id", ask.Scope["state"] == "")
		if err != nil {
			return nil, err
		}
		switch ask.Scope["state"] {
		case "":
			conds = append(conds, "p.id IN (SELECT pick_list_id FROM pick_task WHERE qty - picked - short - recalled > 0)")
		case "done":
			conds = append(conds, toPick+" IS NULL")
		}
		return &rows{conds: conds, args: args, from: func(shows string) string {
			return "pick_list p" + joins(
				shows,
				join{"w", "warehouse w ON w.id = p.warehouse_id"},
				join{"m", "command m ON m.id = p.command_id"},
				join{"u", "app_user u ON u.id = m.actor_id"},
				join{"pk", "app_user pk ON pk.id = p.picker_id"},
				join{"x", `LATERAL (
					SELECT count(*) AS tasks, shown(sum(t.qty - t.recalled)) AS units, shown(sum(t.due)) AS due,
						shown(sum(t.short)) AS short, count(DISTINCT l.order_id) AS orders, min(l.ship_by) AS first_ship, min(o.tier) AS tier
					FROM pick_task t JOIN order_line l ON l.id = t.line_id JOIN sales_order o ON o.id = l.order_id
					WHERE t.pick_list_id = p.id) x ON true`},
			)
		}}, nil
	},
}

// lineOf is how lines are found in something: tables, and in them its key and the line's; and how it is found by what it is called.
type lineOf struct{ from, key, line, table, called string }

var (
	inLists     = lineOf{"pick_task y", "y.pick_list_id", "y.line_id", "pick_list", "lower(number) LIKE lower(@w)"}
	inShipments = lineOf{
		"package a JOIN package_line y ON y.package_id = a.id AND y.qty > 0", "a.shipment_id", "y.line_id", "shipment",
		"lower(number) LIKE lower(@w) OR lower(tracking) LIKE lower(@w)",
	}
)

// containing are the conditions that each word is a part of what a row is called, or of the order, customer or item of a line in it. Of few
// rows it is asked of each; of very many, those that have the word are found first.
func (r *Reader) containing(ask ListAsk, in lineOf, key string, few bool) (conds []string, args map[string]any, err error) {
	args = map[string]any{}
	for i, word := range ask.Words {
		w := fmt.Sprintf("w%d", i)
		args[w] = "%" + likeEscape(word) + "%"
		say := strings.NewReplacer(
			"@key", key, "@table", in.table, "@called", in.called, "@within", in.key, "@from", in.from, "@line", in.line,
		)
		with := func(query string) string { return strings.ReplaceAll(say.Replace(query), "@w", "@"+w) }
		if few {
			conds = append(conds, with(`(@key IN (SELECT id FROM @table WHERE @called) OR EXISTS (
				SELECT 1 FROM @from JOIN order_line l ON l.id = @line JOIN item i ON i.id = l.item_id
					JOIN sales_order o ON o.id = l.order_id JOIN customer c ON c.id = o.customer_id
				WHERE @within = @key AND (o.found_by LIKE lower(@w) OR c.found_by LIKE lower(@w) OR i.found_by LIKE lower(@w))))`))
			continue
		}
		lines, err := r.amongThose(in.line, with(`
			SELECT l.id FROM sales_order o JOIN order_line l ON l.order_id = o.id WHERE o.found_by LIKE lower(@w)
			UNION ALL SELECT l.id FROM customer c JOIN sales_order o ON o.customer_id = c.id JOIN order_line l ON l.order_id = o.id
				WHERE c.found_by LIKE lower(@w)
			UNION ALL SELECT l.id FROM item i JOIN order_line l ON l.item_id = i.id WHERE i.found_by LIKE lower(@w)`), w+"lines", args)
		if err != nil {
			return nil, nil, err
		}
		cond, err := r.amongThose(
			key, with("SELECT id FROM @table WHERE @called UNION ALL SELECT @within FROM @from WHERE ")+lines, w+"ids", args,
		)
		if err != nil {
			return nil, nil, err
		}
		conds = append(conds, cond)
	}
	return conds, args, nil
}

// amongThose is the condition that a key is among those that a query returns as id. If they are few, they are found first, which tells the
// database how few.
func (r *Reader) amongThose(key, query, name string, args map[string]any) (string, error) {
	found, err := all[struct{ ID int64 }](r, fmt.Sprintf("SELECT id FROM (%s) those LIMIT %d", query, fewOrders+1), args)
	if err != nil || len(found) > fewOrders {
		return key + " IN (" + query + ")", err
	}
	args[name] = idsOf(found)
	return key + " = ANY(@" + name + ")", nil
}

// PickListsByKey returns the pick lists of those keys, in their order.
func (r *Reader) PickListsByKey(keys IDs) ([]ListHead, error) {
	heads, err := all[ListHead](r, listHead+` WHERE p.id = ANY(?)`+byList, keys)
	return inKeyOrder(keys, heads, func(h ListHead) int64 { return h.ID }), err
}

// packingKey is the key of what waits to be packed of an order at a warehouse, of which there are fewer than a million.
const packingKey = "(l.order_id * 1000000 + p.warehouse_id)"

// Packing is the list of what is picked and waits to be packed, by order and warehouse: what ships first comes first.
var Packing = &List{
	Name: "packing", First: "ship_by", tie: part{"j.id", Number}, key: "j.id",
	Columns: []Column{
		{Name: "tier", Title: "Tier", Kind: Number, By: "o.tier", Then: []part{{"j.ship_by", Day}}, Group: true},
		{Name: "ship_by", Title: "Ship by", Kind: Day, By: "j.ship_by", Then: []part{{"o.tier", Number}}, Group: true},
		{Name: "order", Title: "Order", Kind: Text, By: "o.number"},
		{Name: "customer", Title: "Customer", Kind: Text, By: "c.name", Names: customersNamed, Key: "o.customer_id", Group: true},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "w.code", Names: warehousesNamed, Key: "j.warehouse_id", Group: true},
		{Name: "service", Title: "Service", Kind: Text, By: "o.service", Group: true},
		{Name: "rule", Title: "Ship rule", Kind: Text, By: "o.ship_rule", Group: true},
		{Name: "hold", Title: "Hold", Kind: Text, By: heldBy, Group: true},
		{Name: "lines", Title: "Lines", Kind: Number, By: "j.lines", Sum: "j.lines"},
		{Name: "units", Title: "Units", Kind: Number, By: "j.units", Sum: "j.units"},
		{Name: "weight", Title: "Weight", Kind: Weight, By: "j.weight_g", Sum: "j.weight_g"},
		{Name: "value", Title: "Value", Kind: Money, By: "j.value_minor", Sum: firmsOwn("o.currency", "j.value_minor")},
	},
	begin: func(_ *Reader, ask ListAsk, _ bool) (*rows, error) {
		_, args := found(ask.Words, "")
		var conds []string
		for i := range ask.Words {
			conds = append(conds, strings.ReplaceAll(`(o.found_by LIKE lower(@w) OR c.found_by LIKE lower(@w) OR EXISTS (
				SELECT 1 FROM order_line l JOIN line_at p ON p.line_id = l.id JOIN item i ON i.id = l.item_id
				WHERE l.order_id = j.order_id AND p.warehouse_id = j.warehouse_id AND p.picked > 0 AND i.found_by LIKE lower(@w)))`,
				"@w", fmt.Sprintf("@w%d", i)))
		}
		return &rows{conds: conds, args: args, from: func(shows string) string {
			return `(SELECT ` + packingKey + ` AS id, l.order_id, p.warehouse_id, min(l.ship_by) AS ship_by, count(*) AS lines,
					shown(sum(p.picked)) AS units, shown(sum(p.picked::numeric * i.weight_g)) AS weight_g,
					shown(sum(p.picked::numeric * l.price_minor)) AS value_minor
				FROM line_at p JOIN order_line l ON l.id = p.line_id JOIN item i ON i.id = l.item_id WHERE p.picked > 0
				GROUP BY l.order_id, p.warehouse_id) j` + joins(
				shows,
				join{"o", "sales_order o ON o.id = j.order_id"},
				join{"c", "customer c ON c.id = o.customer_id"},
				join{"w", "warehouse w ON w.id = j.warehouse_id"},
			)
		}}, nil
	},
}

// heldBy is the kinds of holds that stand on an order.
const heldBy = `coalesce((SELECT string_agg(h.kind, ' ' ORDER BY h.kind) FROM hold h WHERE h.order_id = o.id AND h.lifted_by IS NULL), '')`

// PickedByKey returns what waits to be packed of those keys, by key.
func (r *Reader) PickedByKey(keys IDs) ([]PickedRow, error) {
	return all[PickedRow](r, pickedRow+` AND `+packingKey+` = ANY(?) ORDER BY array_position(?, `+packingKey+`), l.line_no`, keys, keys)
}

// Shipments is the list of shipments with something in them. Its scope "state" is empty for those that have not left, in the order in which
// they should; “under way” for those that have not arrived, by the day on which they should; delivered, the latest first; or all.
var Shipments = &List{
	Name: "shipments", First: "ship_by",
	FirstIn: map[string]SortedBy{"under way": {"expected", false}, "delivered": {"arrived", true}, "all": {"age", true}},
	tie:     part{"s.id", Number}, key: "s.id", name: "s.number", version: "x.units",
	chosen: []Filter{{"state", "=", []string{"packed", "under way"}}},
	Columns: []Column{
		{Name: "age", Kind: Number, By: "s.id"},
		{Name: "arrived", Kind: Moment, By: "s.delivered_at"}, // of those that have, by its index
		{Name: "tier", Title: "Tier", Kind: Number, By: "x.tier", Then: []part{{"x.ship_by", Day}}, Group: true},
		{Name: "number", Title: "Shipment", Kind: Text, By: "s.number"},
		{Name: "state", Title: "State", Kind: Text, By: shipmentState, Group: true},
		{Name: "ship_by", Title: "Ship by", Kind: Day, By: "x.ship_by", Then: []part{{"x.tier", Number}}, Group: true},
		{Name: "expected", Title: "Expected", Kind: Day, By: "coalesce(s.expected, " + never + ")", Group: true},
		{Name: "customer", Title: "Customer", Kind: Text, By: "c.name", Names: customersNamed, Key: "s.customer_id", Group: true},
		{Name: "ship_to", Title: "Ship to", Kind: Text, By: "t.city || ' ' || t.postcode", Group: true},
		{Name: "country", Title: "Country", Kind: Text, By: "t.country", Group: true},
		{Name: "service", Title: "Service", Kind: Text, By: "s.service", Group: true},
		{Name: "carrier", Title: "Carrier", Kind: Text, By: "s.carrier", Group: true},
		{Name: "warehouse", Title: "Warehouse", Kind: Text, By: "w.code", Names: warehousesNamed, Key: "s.warehouse_id", Group: true},
		{Name: "orders", Title: "Orders", Kind: Text, By: "v.orders"},
		{Name: "packages", Title: "Packages", Kind: Number, By: "k.packages", Sum: "k.packages"},
		{Name: "weight", Title: "Weight", Kind: Weight, By: "k.weight_g", Sum: "k.weight_g"},
		{Name: "units", Title: "Units", Kind: Number, By: "x.units", Sum: "x.units"},
		{Name: "value", Title: "Value", Kind: Money, By: "v.value_minor", Sum: firmsOwn("v.currency", "v.value_minor")},
		{Name: "tracking", Title: "Tracking", Kind: Text, By: "s.tracking"},
		{Name: "dispatched", Title: "Dispatched", Kind: Moment, By: "coalesce(s.dispatched_at, " + noMoment + ")"},
		{Name: "delivered", Title: "Delivered", Kind: Moment, By: "coalesce(s.delivered_at, " + noMoment + ")"},
	},
	begin: beginShipments,
}

const shipmentState = `CASE WHEN s.delivered_at IS NOT NULL THEN 'delivered' WHEN s.dispatched_at IS NOT NULL THEN 'under way'
	WHEN s.asked_at IS NOT NULL THEN 'asking' ELSE 'packed' END`

func beginShipments(r *Reader, ask ListAsk, _ bool) (*rows, error) {
	conds, args, err := r.containing(ask, inShipments, "s.id", ask.Scope["state"] == "")
	if err != nil {
		return nil, err
	}
	conds = append(
		conds, "EXISTS (SELECT 1 FROM package a JOIN package_line b ON b.package_id = a.id WHERE a.shipment_id = s.id AND b.qty > 0)",
	)
	switch ask.Scope["state"] {
	case "":
		conds = append(conds, "s.dispatched_at IS NULL")
	case "under way":
		conds = append(conds, "s.dispatched_at IS NOT NULL", "s.delivered_at IS NULL")
	case "delivered":
		conds = append(conds, "s.delivered_at IS NOT NULL")
	}
	return &rows{conds: conds, args: args, from: func(shows string) string {
		return "shipment s" + joins(
			shows,
			join{"w", "warehouse w ON w.id = s.warehouse_id"},
			join{"c", "customer c ON c.id = s.customer_id"},
			join{"t", "ship_to t ON t.id = s.ship_to_id"},
			join{"x", `LATERAL (
				SELECT shown(sum(b.qty)) AS units, min(o.tier) AS tier, min(l.ship_by) AS ship_by
				FROM package a JOIN package_line b ON b.package_id = a.id JOIN order_line l ON l.id = b.line_id
					JOIN sales_order o ON o.id = l.order_id
				WHERE a.shipment_id = s.id AND b.qty > 0) x ON true`},
			join{"v", `LATERAL (
				SELECT string_agg(DISTINCT o.number, ' ' ORDER BY o.number) AS orders, shown(sum(b.qty::numeric * l.price_minor)) AS value_minor,
					CASE WHEN count(DISTINCT o.currency) = 1 THEN min(o.currency) ELSE '' END AS currency
				FROM package a JOIN package_line b ON b.package_id = a.id JOIN order_line l ON l.id = b.line_id
					JOIN sales_order o ON o.id = l.order_id
				WHERE a.shipment_id = s.id AND b.qty > 0) v ON true`},
			join{"k", `LATERAL (
				SELECT count(*) AS packages, shown(sum(a.weight_g)) AS weight_g FROM package a
				WHERE a.shipment_id = s.id AND EXISTS (SELECT 1 FROM package_line b WHERE b.package_id = a.id AND b.qty > 0)) k ON true`},
		)
	}}, nil
}

// ShipmentsByKey returns the shipments of those keys, in their order.
func (r *Reader) ShipmentsByKey(keys IDs) ([]ShipmentHead, error) {
	heads, err := all[ShipmentHead](r, shipmentHead+` WHERE s.id = ANY(?)`, keys)
	return inKeyOrder(keys, heads, func(h ShipmentHead) int64 { return h.ID }), err
}
