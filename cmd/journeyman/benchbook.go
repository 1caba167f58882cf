package main

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// bigBook are the statements that fill an empty database with a book of orders, most of them delivered: $lines order lines, of which
// $open are not finished; $items items in two warehouses, $customers customers. The counts are written as the journal would have them,
// without it: a book of a million lines is there in a minute, and is for reading only.
const bigBook = `
	SET session_replication_role = replica;
	INSERT INTO app_user (login, name, role) VALUES ('ana', 'Ana Ruiz', 'coordinator') ON CONFLICT DO NOTHING;
	INSERT INTO warehouse (code, name) VALUES ('HL', 'Harrow Lane'), ('EG', 'Eastgate');
	INSERT INTO bin (warehouse_id, code, zone) SELECT w, 'A-' || b || '-1', 'A' FROM generate_series(1, 2) w, generate_series(1, 300) b;
	INSERT INTO item (sku, name, multiple, price_minor, cost_minor, weight_g)
		SELECT 'X-' || to_char(i, 'FM00000'), (ARRAY['Glaze', 'Clay', 'Kiln shelf', 'Brush', 'Tile', 'Cone', 'Mould',
			'Stand'])[1 + i % 8] || ' ' || (ARRAY['blue', 'red', 'white', 'amber', 'grey'])[1 + i / 8 % 5] || ', no. ' || i,
			1, 100 + i % 900, 60 + i % 500, 100 + i % 3000 FROM generate_series(1, $items) i;
	INSERT INTO customer (code, name, tier, warehouse_id)
		SELECT 'C' || to_char(c, 'FM00000'), (ARRAY['Saltpan', 'Emberly', 'Millrace', 'Tidewrack', 'Aldersyke', 'Withycombe',
			'Fernhollow'])[1 + c % 7] || ' '
			|| (ARRAY['Pottery', 'College', 'Studio', 'School', 'Ceramics', 'Workshop'])[1 + c / 7 % 6] || ' ' || c, 1 + c % 5, 1 + c % 2
			FROM generate_series(1, $customers) c;
	INSERT INTO ship_to (customer_id, code, name, city, postcode) SELECT id, 'MAIN', name, 'Saltpan', 'SP1 1AA' FROM customer;
	INSERT INTO sales_order (number, customer_id, ship_to_id, channel, customer_ref, tier, ship_rule, entered_at, wanted)
		SELECT 'SO-' || (100000 + o), 1 + o * 7919 % $customers, 1 + o * 7919 % $customers, (ARRAY['web', 'telephone', 'edi'])[1 + o % 3],
			'PO ' || (o * 31 % 1000003), 1 + o % 5,
			(ARRAY['any', 'any', 'any', 'lines', 'whole'])[1 + o % 5], now() - (($orders - o) * interval '1 minute'),
			current_date + 28 - ((($orders - o) / ($open / 150))::int)
		FROM generate_series(1, $orders) o;
	INSERT INTO order_line (order_id, line_no, item_id, warehouse_id, ship_by, price_minor, list_minor, cost_minor)
		SELECT o.id, n, 1 + (o.id * 31 + n * 977) % $items, 1 + (o.id + n) % 2, o.wanted - 2, 100 + o.id % 900, 100 + o.id % 900,
			60 + o.id % 500
		FROM sales_order o, generate_series(1, 5) n ORDER BY o.id, n LIMIT $lines;
	INSERT INTO line_count (line_id, order_id, item_id, warehouse_id, ship_by, tier, ship_rule, ordered, open, allocated, delivered,
			version)
		SELECT id, order_id, item_id, warehouse_id, ship_by, 1 + order_id % 5,
			(ARRAY['any', 'any', 'any', 'lines', 'whole'])[1 + order_id % 5], 1 + id % 20, CASE WHEN id > $lines - $open
			AND id % 3 <> 0 THEN 1 + id % 20 ELSE 0 END,
			CASE WHEN id > $lines - $open AND id % 3 = 0 THEN 1 + id % 20 ELSE 0 END,
			CASE WHEN id > $lines - $open THEN 0 ELSE 1 + id % 20 END, id
		FROM order_line;
	INSERT INTO line_at (line_id, warehouse_id, allocated) SELECT l.id, l.warehouse_id, n.allocated FROM order_line l
		JOIN line_count n ON n.line_id = l.id WHERE n.allocated > 0;
	INSERT INTO order_count (order_id, number, customer_id, channel, tier, wanted, currency, ship_rule, ordered, open, allocated,
		delivered, value_minor, cost_minor, version)
		SELECT o.id, o.number, o.customer_id, o.channel, o.tier, o.wanted, o.currency, o.ship_rule, sum(n.ordered), sum(n.open),
			sum(n.allocated), sum(n.delivered), sum(n.ordered * l.price_minor), sum(n.ordered * l.cost_minor), max(n.version)
		FROM order_line l JOIN line_count n ON n.line_id = l.id JOIN sales_order o ON o.id = l.order_id GROUP BY o.id;
	INSERT INTO stock_cell (item_id, warehouse_id, on_hand, allocated, binned)
		SELECT i, w, coalesce(a.allocated, 0) + CASE WHEN (i + w) % 4 = 0 THEN 0 ELSE (i * 7 + w) % 60 END, coalesce(a.allocated, 0),
			coalesce(a.allocated, 0) + CASE WHEN (i + w) % 4 = 0 THEN 0 ELSE (i * 7 + w) % 60 END
		FROM generate_series(1, $items) i CROSS JOIN generate_series(1, 2) w
			LEFT JOIN (SELECT l.item_id, l.warehouse_id, sum(n.allocated) AS allocated FROM order_line l
			JOIN line_count n ON n.line_id = l.id WHERE n.allocated > 0 GROUP BY 1, 2) a
				ON a.item_id = i AND a.warehouse_id = w;
	INSERT INTO bin_stock (item_id, warehouse_id, bin_id, qty)
		SELECT s.item_id, s.warehouse_id, (s.warehouse_id - 1) * 300 + 1 + s.item_id % 300, s.binned FROM stock_cell s WHERE s.binned > 0;
	INSERT INTO inbound (ref, item_id, warehouse_id, due, qty, supplier)
		SELECT 'PO-' || i, i, 1 + i % 2, current_date + (i % 40)::int - 3, 50 + i % 200, 'Northbank Minerals'
			FROM generate_series(1, $items, 2) i;
	` + bigFloor + bigSums + `
	SET session_replication_role = DEFAULT;`

// bigFloor is what became of the lines that are delivered, and of the last few that are on their way: a command for ten orders, a pick list
// for four, a shipment with one package for each; and what the journal says of all lines, but for the stations between.
const bigFloor = `
	INSERT INTO command (id, key, verb, actor_id, at, asked, outcome) OVERRIDING SYSTEM VALUE
		SELECT 1000000 + n, gen_random_uuid(), 'enter order', 1, now() - (($orders - n * 10) * interval '1 minute'), '', '{}'
		FROM generate_series(1, $orders / 10 + 1) n;
	SELECT setval(pg_get_serial_sequence('command', 'id'), 2000000);
	INSERT INTO pick_list (id, number, warehouse_id, command_id) OVERRIDING SYSTEM VALUE
		SELECT n, 'PL-' || (100000 + n), 1 + n % 2, 1000001 + n * 4 / 10 FROM generate_series(1, ($lines - $open) / 20) n;
	SELECT setval(pg_get_serial_sequence('pick_list', 'id'), $lines);
	INSERT INTO pick_task (pick_list_id, seq, line_id, bin_id, qty, picked)
		SELECT (l.id - 1) / 20 + 1, 1 + (l.id - 1) % 20, l.id, 1 + l.id % 600, n.ordered,
			CASE WHEN l.id > $lines - $open - 6000 AND l.id % 3 = 0 THEN 0 ELSE n.ordered END
		FROM order_line l JOIN line_count n ON n.line_id = l.id WHERE l.id <= $lines - $open;
	INSERT INTO print_run (id, command_id, pdf, pages, printed_at) OVERRIDING SYSTEM VALUE
		SELECT id, command_id, '', 1, now() FROM pick_list;
	SELECT setval(pg_get_serial_sequence('print_run', 'id'), $lines);
	INSERT INTO paper (print_run_id, place, kind, code, revision, pick_list_id, warehouse_id, void_by, void_why)
		SELECT id, 1, 'pick list', number || '-R1', 1, id, warehouse_id, CASE WHEN id % 7 = 0 THEN command_id END,
			CASE WHEN id % 7 = 0 THEN 'recalled' ELSE '' END
		FROM pick_list;
	INSERT INTO shipment (id, number, customer_id, ship_to_id, warehouse_id, service, carrier, tracking, packed_by, dispatched_by,
			dispatched_at, expected, delivered_by, delivered_at) OVERRIDING SYSTEM VALUE
		SELECT o.id, 'SH-' || (100000 + o.id), o.customer_id, o.ship_to_id, 1 + o.id % 2, 'parcel', 'Fellgate Parcels',
			CASE WHEN x.left THEN 'JS' || o.id ELSE '' END, 1000001, CASE WHEN x.left THEN 1000001 END,
			CASE WHEN x.left THEN o.entered_at + interval '1 day' END, CASE WHEN x.left THEN o.wanted END,
			CASE WHEN x.there THEN 1000001 END, CASE WHEN x.there THEN o.entered_at + interval '3 days' END
		FROM sales_order o, LATERAL (SELECT o.id <= ($lines - $open) / 5 - 300 AS left, o.id <= ($lines - $open) / 5 - 3300 AS there) x
		WHERE o.id <= ($lines - $open) / 5;
	INSERT INTO package (id, shipment_id, number, kind, weight_g) OVERRIDING SYSTEM VALUE
		SELECT id, id, 'PK-' || id, 'carton', 500 + id % 9000 FROM shipment;
	INSERT INTO package_line (package_id, line_id, qty)
		SELECT l.order_id, l.id, n.ordered FROM order_line l JOIN line_count n ON n.line_id = l.id JOIN package p ON p.id = l.order_id;
	INSERT INTO line_at (line_id, warehouse_id, picked) SELECT id, warehouse_id, 1 + id % 20 FROM order_line
		WHERE id BETWEEN $lines - $open - 2000 AND $lines - $open - 1000;
	INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id, line_id, order_id, package_id)
		SELECT 1000001 + l.order_id / 10, m.kind, m.here, m.there, n.ordered, l.item_id, l.warehouse_id, l.id, l.order_id,
			CASE WHEN m.kind = 'deliver' THEN l.order_id END
		FROM order_line l JOIN line_count n ON n.line_id = l.id,
			(VALUES ('enter', 'outside', 'open'), ('allocate', 'open', 'allocated'), ('deliver', 'shipped', 'delivered'))
				m (kind, here, there)
		WHERE m.kind = 'enter' OR l.id <= $lines - $open ORDER BY l.id;
	`

// bigSums are the sums that are kept, added up from the lines.
const bigSums = `
	DELETE FROM strip_part;
	DELETE FROM wanting_part;
	INSERT INTO strip_part (open, open_lines, promised, promised_lines, allocated, allocated_lines, released, released_lines, picked,
		picked_lines, packed, packed_lines, shipped, shipped_lines)
		SELECT sum(open), count(*) FILTER (WHERE open > 0), 0, 0, sum(allocated), count(*) FILTER (WHERE allocated > 0), 0, 0, 0, 0, 0, 0,
			0, 0 FROM line_count;
	INSERT INTO wanting_part SELECT item_id, warehouse_id, sum(open), count(*) FROM line_count WHERE open > 0 GROUP BY 1, 2;`

// allAllocated gives all that is open to the lines that want it, from stock that comes in for it.
const allAllocated = `SET session_replication_role = replica;
	DELETE FROM line_at WHERE line_id IN (SELECT line_id FROM line_count WHERE open + allocated > 0);
	UPDATE order_count SET allocated = allocated + open, open = 0 WHERE open > 0;
	UPDATE line_count SET allocated = allocated + open, open = 0 WHERE open > 0;
	INSERT INTO line_at (line_id, warehouse_id, allocated) SELECT line_id, warehouse_id, allocated FROM line_count WHERE allocated > 0;
	UPDATE stock_cell s SET on_hand = s.on_hand - s.allocated + x.units, binned = s.binned - s.allocated + x.units, allocated = x.units
		FROM (SELECT item_id, warehouse_id, sum(allocated) AS units FROM line_count WHERE allocated > 0 GROUP BY 1, 2) x
		WHERE s.item_id = x.item_id AND s.warehouse_id = x.warehouse_id;
	UPDATE bin_stock b SET qty = s.binned FROM stock_cell s WHERE s.item_id = b.item_id AND s.warehouse_id = b.warehouse_id;
	INSERT INTO bin_stock (item_id, warehouse_id, bin_id, qty)
		SELECT s.item_id, s.warehouse_id, (s.warehouse_id - 1) * 300 + 1 + s.item_id % 300, s.binned FROM stock_cell s
		WHERE s.binned > 0 ON CONFLICT DO NOTHING;
	` + bigSums + `
	SET session_replication_role = DEFAULT;`

// allocateAll turns the big book into one of which all open lines are allocated.
func allocateAll(ctx context.Context, conn *pgx.Conn) error {
	if _, err := conn.Exec(ctx, allAllocated); err != nil {
		return fmt.Errorf("the big book, all allocated: %w", err)
	}
	_, err := conn.Exec(ctx, vacuumFilled)
	return err
}

// fillBigBook fills an empty database. conn is its owner's.
func fillBigBook(ctx context.Context, conn *pgx.Conn, lines, open, items, customers int) error {
	sql := replaceAll(
		bigBook, map[string]int{"$lines": lines, "$open": open, "$items": items, "$customers": customers, "$orders": (lines + 4) / 5},
	)
	if _, err := conn.Exec(ctx, sql); err != nil {
		return fmt.Errorf("the big book: %w", err)
	}
	_, err := conn.Exec(ctx, vacuumFilled)
	return err
}

// vacuumFilled takes the statistics of the tables that were filled. Those of an empty table would say that it is empty, which
// nobody says of a new database: until they are taken again, the database would look through all that has come since for each
// row of something else.
const vacuumFilled = `VACUUM ANALYZE item, customer, ship_to, sales_order, order_line, line_count, line_at, order_count, stock_cell,
	bin_stock, inbound, strip_part, wanting_part, journal, command, pick_list, pick_task, print_run, paper, shipment, package, package_line`
