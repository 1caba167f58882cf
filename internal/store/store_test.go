package store_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"journeyman/core/journey"
	"journeyman/internal/dbtest"
	"journeyman/internal/store"
	"journeyman/internal/store/postgres"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

func connect(t *testing.T, url string) *pgx.Conn {
	t.Helper()
	conn, err := pgx.Connect(context.Background(), url)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = conn.Close(context.Background()) })
	return conn
}

func TestTheDatabaseKnowsTheSameMovesAsTheCore(t *testing.T) {
	t.Parallel()
	conn := connect(t, dbtest.URL(t))
	rows, err := conn.Query(
		context.Background(), `SELECT kind, from_station, to_station, cause, on_hand, held, binned, in_house FROM move_rule`,
	)
	if err != nil {
		t.Fatal(err)
	}
	inDatabase := map[string]bool{}
	for rows.Next() {
		var kind, from, to, cause string
		var onHand, held, binned int
		var house bool
		if err := rows.Scan(&kind, &from, &to, &cause, &onHand, &held, &binned, &house); err != nil {
			t.Fatal(err)
		}
		inDatabase[fmt.Sprint(kind, from, to, cause, onHand, held, binned, house)] = true
	}
	for _, r := range journey.Rules {
		k := fmt.Sprint(string(r.Kind), r.From.String(), r.To.String(), string(r.Cause), r.OnHand, r.Held, r.Binned(), r.InHouse)
		if !inDatabase[k] {
			t.Errorf("the database lacks %s", k)
		}
		delete(inDatabase, k)
	}
	for k := range inDatabase {
		t.Errorf("the core lacks %s", k)
	}
}

// seed is one item in one warehouse with twenty units free, and one order line of ten.
const seed = `
	INSERT INTO app_user (login, name, role) VALUES ('ana', 'Ana', 'coordinator');
	INSERT INTO warehouse (code, name) VALUES ('HL', 'Harrow Lane');
	INSERT INTO bin (warehouse_id, code) VALUES (1, 'A-1');
	INSERT INTO item (sku, name) VALUES ('X', 'A thing');
	INSERT INTO customer (code, name) VALUES ('C', 'A customer');
	INSERT INTO ship_to (customer_id, code) VALUES (1, 'MAIN');
	INSERT INTO sales_order (number, customer_id, ship_to_id, tier, ship_rule, entered_at, wanted)
		VALUES ('S', 1, 1, 3, 'any', now(), '2027-03-01');
	INSERT INTO order_line (order_id, line_no, item_id, warehouse_id, ship_by, price_minor, list_minor, cost_minor)
		VALUES (1, 1, 1, 1, '2027-03-01', 100, 100, 50);
	INSERT INTO command (key, verb, actor_id, at, asked, outcome) VALUES (gen_random_uuid(), 'import', 1, now(), '', '{}');
	INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, line_id, order_id)
		VALUES (1, 'enter', 'outside', 'open', 10, 1, 1, 1);
	INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id, bin_id)
		VALUES (1, 'gain', 'outside', 'outside', 20, 1, 1, 1);`

const allocate = `INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id, line_id, order_id)
	VALUES (1, 'allocate', 'open', 'allocated', %d, 1, 1, 1, 1)`

func TestTheDatabaseItselfRefusesWhatCannotBe(t *testing.T) {
	t.Parallel()
	conn := connect(t, dbtest.URL(t))
	ctx := context.Background()
	for _, q := range []string{seed, fmt.Sprintf(allocate, 6)} {
		if _, err := conn.Exec(ctx, q); err != nil {
			t.Fatal(err)
		}
	}
	cases := []struct{ why, role, query, says string }{
		{"more than is open", "app", fmt.Sprintf(allocate, 5), "no_station_is_negative"},
		{"more than is free", "app", `INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id, bin_id)
			VALUES (1, 'loss', 'outside', 'outside', 15, 1, 1, 1)`, "free_is_never_negative"},
		{"a move that does not exist", "app", `INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id, line_id, order_id)
			VALUES (1, 'allocate', 'open', 'packed', 1, 1, 1, 1, 1)`, "not in move_rule"},
		{"nothing moves", "app", fmt.Sprintf(allocate, 0), "journal_qty_check"},
		{"a backward quantity", "app", fmt.Sprintf(allocate, -1), "journal_qty_check"},
		{"a move without a line", "app", `INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id)
			VALUES (1, 'allocate', 'open', 'allocated', 1, 1, 1)`, "a_move_has_its_line"},
		{"a move in no warehouse", "app", `INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, line_id, order_id)
			VALUES (1, 'allocate', 'open', 'allocated', 1, 1, 1, 1)`, "a_move_in_the_house_has_its_warehouse"},
		{"stock from no bin", "app", `INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id)
			VALUES (1, 'gain', 'outside', 'outside', 1, 1, 1)`, "what_touches_a_bin_names_it"},
		{"another item's line", "app", `INSERT INTO item (sku, name) VALUES ('Y', 'Another');
			INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id, line_id, order_id)
			VALUES (1, 'allocate', 'open', 'allocated', 1, (SELECT id FROM item WHERE sku = 'Y'), 1, 1, 1)`, "not in order_line"},
		{"the application changes the journal", "app", `UPDATE journal SET qty = 1`, "permission denied"},
		{"the application deletes from it", "app", `DELETE FROM journal`, "permission denied"},
		{"the application changes a count", "app", `UPDATE line_count SET open = 0`, "permission denied"},
		{"the application changes stock", "app", `UPDATE stock_cell SET on_hand = 99`, "permission denied"},
		{"the owner changes the journal", "owner", `UPDATE journal SET qty = 1`, "only added to"},
		{"the owner deletes from it", "owner", `DELETE FROM journal`, "only added to"},
		{"the owner empties it", "owner", `TRUNCATE journal`, "only added to"},
		{"the application promises more than is open", "app", `INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
			VALUES (1, 1, 1, 1, '[]', '[{"warehouse": 1, "day": "2027-03-01", "qty": 99}]', 0, 99, 'promised')`, "promised_units_are_open"},
		{"the application changes what was promised", "app", `UPDATE promise_entry SET now_units = 0`, "permission denied"},
		{"the application changes what stands", "app", `DELETE FROM promise`, "permission denied"},
		{"the owner changes what was promised", "owner", `DELETE FROM promise_entry`, "only added to"},
		{"the owner makes a line not add up", "owner", `UPDATE line_count SET allocated = allocated + 1`, "line_adds_up"},
		{"the owner gives away what is not there", "owner", `UPDATE stock_cell SET allocated = 21`, "free_is_never_negative"},
		{"the owner empties a bin", "owner", `UPDATE stock_cell SET binned = 0`, "bins_hold_what_is_not_picked"},
	}
	for _, c := range cases {
		t.Run(c.why, func(t *testing.T) {
			role := "RESET ROLE"
			if c.role == "app" {
				role = "SET ROLE journeyman_app"
			}
			if _, err := conn.Exec(ctx, role); err != nil {
				t.Fatal(err)
			}
			if _, err := conn.Exec(ctx, c.query); err == nil || !strings.Contains(err.Error(), c.says) {
				t.Errorf("got %v, want %q", err, c.says)
			}
		})
	}
}

// What an entry names is looked for in two ways: row by row for a few, as sets for many.
func TestAnEntryNamesWhatIsThere(t *testing.T) {
	t.Parallel()
	conn := connect(t, dbtest.URL(t))
	ctx := context.Background()
	if _, err := conn.Exec(ctx, seed+`
		INSERT INTO warehouse (code, name) VALUES ('DQ', 'Dunmore Quay');
		INSERT INTO order_line (order_id, line_no, item_id, warehouse_id, ship_by, price_minor, list_minor, cost_minor)
			VALUES (1, 2, 1, 1, '2027-03-01', 100, 100, 50);
		INSERT INTO pick_list (number, warehouse_id, command_id) VALUES ('P1', 1, 1);
		INSERT INTO pick_task (pick_list_id, seq, line_id, bin_id, qty) VALUES (1, 1, 2, 1, 5);
		SET ROLE journeyman_app`); err != nil {
		t.Fatal(err)
	}
	cases := []struct{ columns, values, says string }{
		{"kind, from_station, to_station, line_id, order_id", "'enter', 'outside', 'shipped', 1, 1", "move_rule"},
		{"kind, from_station, to_station, line_id, order_id", "'enter', 'outside', 'open', 99, 1", "order_line"},
		{"kind, from_station, to_station, line_id, order_id", "'enter', 'outside', 'open', 1, 99", "order_line"},
		{"kind, from_station, to_station, warehouse_id, line_id, order_id", "'allocate', 'open', 'allocated', 99, 1, 1", "warehouse"},
		{"kind, from_station, to_station, warehouse_id, bin_id", "'gain', 'outside', 'outside', 1, 99", "bin"},
		// another warehouse's
		{"kind, from_station, to_station, warehouse_id, bin_id", "'gain', 'outside', 'outside', 2, 1", "bin"},
		// another line's
		{
			"kind, from_station, to_station, warehouse_id, line_id, order_id, task_id", "'release', 'allocated', 'released', 1, 1, 1, 1",
			"pick_task",
		},
		{
			"kind, from_station, to_station, warehouse_id, line_id, order_id, package_id", "'pack', 'picked', 'packed', 1, 1, 1, 99",
			"package",
		},
		{"kind, from_station, to_station, warehouse_id, bin_id, inbound_id", "'receive', 'outside', 'outside', 1, 1, 99", "inbound"},
	}
	for _, c := range cases {
		for _, n := range []int{1, 2, 40, 41, 300} {
			_, err := conn.Exec(
				ctx,
				fmt.Sprintf(
					`INSERT INTO journal (command_id, qty, item_id, %s) SELECT 1, 1, 1, %s FROM generate_series(1, %d)`, c.columns,
					c.values, n,
				),
			)
			if postgres.Check(err) != "journal_names_"+c.says {
				t.Errorf("%d of %s: got %v, want journal_names_%s", n, c.values, err, c.says)
			}
		}
	}
	for _, n := range []int{1, 41} {
		_, err := conn.Exec(ctx, fmt.Sprintf(`INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id,
			bin_id)
			SELECT 1, 'gain', 'outside', 'outside', 1, 99, 1, 1 FROM generate_series(1, %d)`, n))
		if postgres.Check(err) != "journal_names_item" {
			t.Errorf("%d of an item that is not there: %v", n, err)
		}
	}
	// One that is wrong among many that are right takes them all with it.
	if _, err := conn.Exec(ctx, `INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, line_id, order_id)
		SELECT 1, 'enter', 'outside', 'open', 1, 1, CASE n WHEN 77 THEN 99 ELSE 1 END, 1
			FROM generate_series(1, 100) n`); postgres.Check(err) != "journal_names_order_line" {
		t.Errorf("one wrong among many: %v", err)
	}
	if _, err := conn.Exec(ctx, `INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
		VALUES (1, 1, 99, 1, '[]', '[]', 0, 0, 'promised')`); postgres.Check(err) != "promise_names_order_line" {
		t.Errorf("a promise to another order: %v", err)
	}
	if _, err := conn.Exec(ctx, `INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
		VALUES (1, 1, 1, 1, '[]', '[{"warehouse": 99, "day": "2027-03-05", "qty": 2}]', 0, 2, 'promised')`); postgres.Check(err) != "promise_names_warehouse" {
		t.Errorf("a promise from a warehouse that is not there: %v", err)
	}
	var open int64
	if err := conn.QueryRow(ctx, `SELECT open FROM line_count WHERE line_id = 1`).Scan(&open); err != nil || open != 10 {
		t.Errorf("after all that was refused %d are open (%v)", open, err)
	}
}

func TestACommandMayEndAfterItsEntriesButMustEnd(t *testing.T) {
	t.Parallel()
	conn := connect(t, dbtest.URL(t))
	ctx := context.Background()
	if _, err := conn.Exec(ctx, seed+"SET ROLE journeyman_app"); err != nil {
		t.Fatal(err)
	}
	entries := map[string]string{
		"a move":    `INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, line_id, order_id) SELECT %d, 'enter', 'outside', 'open', 1, 1, 1, 1 FROM generate_series(1, 50)`,
		"a promise": `INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause) VALUES (%d, 1, 1, 1, '[]', '[]', 0, 0, 'promised')`,
	}
	const ends = `INSERT INTO command (id, key, verb, actor_id, at, asked, outcome) OVERRIDING SYSTEM VALUE
		VALUES (%d, gen_random_uuid(), 'import', 1, now(), '', '{}')`
	id := 100
	for what, entry := range entries {
		if _, err := conn.Exec(ctx, fmt.Sprintf(entry, id)); postgres.Check(err) != "command_awaited_command_id_fkey" {
			t.Errorf("%s of no command: %v", what, err)
		}
		if _, err := conn.Exec(ctx, fmt.Sprintf("BEGIN; "+entry+"; "+ends+"; COMMIT", id, id)); err != nil {
			t.Errorf("%s before its command: %v", what, err)
			_, _ = conn.Exec(ctx, "ROLLBACK")
		}
		if _, err := conn.Exec(ctx, fmt.Sprintf("BEGIN; "+ends+"; "+entry+"; COMMIT", id+1, id+1)); err != nil {
			t.Errorf("%s after its command: %v", what, err)
			_, _ = conn.Exec(ctx, "ROLLBACK")
		}
		id += 10
	}
}

// Promises that say that moves follow are counted with these, and do not come without them.
func TestPromisesWaitForTheirMoves(t *testing.T) {
	t.Parallel()
	url, ctx := dbtest.URL(t), context.Background()
	conn := connect(t, url)
	if _, err := conn.Exec(ctx, seed+`
		INSERT INTO order_line (order_id, line_no, item_id, warehouse_id, ship_by, price_minor, list_minor, cost_minor)
			VALUES (1, 2, 1, 1, '2027-03-01', 100, 100, 50);
		INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, line_id, order_id)
			VALUES (1, 'enter', 'outside', 'open', 60, 1, 2, 1);
		INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id, bin_id)
			VALUES (1, 'gain', 'outside', 'outside', 30, 1, 1, 1);
		INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
			VALUES (1, 1, 1, 1, '[]', '[{"warehouse": 1, "day": "2027-03-01", "qty": 4}]', 0, 4, 'promised');
		SET ROLE journeyman_app`); err != nil {
		t.Fatal(err)
	}
	const (
		command = `INSERT INTO command (id, key, verb, actor_id, at, asked, outcome) OVERRIDING SYSTEM VALUE
			VALUES (50, gen_random_uuid(), 'promise', 1, now(), '', '{}'); `
		follow = `SELECT set_config('journeyman.moves_follow', 'yes', true); `
		first  = `INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
			VALUES (50, 1, 1, 1, '[]', '[]', 4, 0, 'kept by allocating'); `
		second = `INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
			VALUES (50, 2, 1, 1, '[]', '[{"warehouse": 1, "day": "2027-03-01", "qty": %d}]', 0, %[1]d, 'promised'); `
		no    = `SELECT set_config('journeyman.moves_follow', 'no', true); `
		moves = `INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, warehouse_id, line_id,
			order_id) SELECT 50, 'allocate', 'open', 'allocated', 1, 1, 1, 1 + (n > 5)::int, 1 FROM generate_series(1, %d) n; `
		moved = `SELECT (SELECT array_agg(promised ORDER BY line_id) FROM line_count),
			(SELECT array_agg(allocated ORDER BY line_id) FROM line_count), promised FROM order_count`
		together = `UPDATE promise_awaited SET entry_id = 0; `
	)
	counted := func() (out string) {
		var lines, allocated []int64
		var order int64
		if err := conn.QueryRow(ctx, moved).Scan(&lines, &allocated, &order); err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(lines, allocated, order)
	}
	for _, c := range []struct{ what, does, refused string }{
		{"without moves", follow + first, "wait for moves"},
		{"with few moves", follow + first + fmt.Sprintf(moves, 20), "wait for moves"},
		{"with the moves of another command", follow + first + strings.ReplaceAll(fmt.Sprintf(moves, 45), "50", "1"), "wait for moves"},
		{"more than is open", follow + first + fmt.Sprintf(second, 60) + fmt.Sprintf(moves, 15), "wait for moves"},
		{"more than is open by then", follow + first + fmt.Sprintf(second, 60) + fmt.Sprintf(moves, 41), "promised_units_are_open"},
		{"the application counts for itself", together, "permission denied"},
	} {
		_, err := conn.Exec(ctx, "BEGIN; "+command+c.does+"COMMIT")
		if err == nil || !strings.Contains(err.Error(), c.refused) {
			t.Errorf("%s: %v", c.what, err)
		}
		_, _ = conn.Exec(ctx, "ROLLBACK")
		if got := counted(); got != "[4 0] [0 0] 4" {
			t.Fatalf("%s: %s are counted", c.what, got)
		}
	}
	// The second says nothing, and waits with the first.
	if _, err := conn.Exec(ctx, "BEGIN; "+command+follow+first+no+fmt.Sprintf(second, 20)+fmt.Sprintf(moves, 45)+"COMMIT"); err != nil {
		t.Fatal(err)
	}
	if got := counted(); got != "[0 20] [5 40] 20" {
		t.Errorf("together %s are counted", got)
	}
	s := dbtest.Open(t, url)
	if diff, _, err := s.Audit(ctx); err != nil || len(diff) > 0 {
		t.Errorf("%v %v", diff, err)
	}
}

func TestWhatIsNamedStays(t *testing.T) {
	t.Parallel()
	conn := connect(t, dbtest.URL(t))
	ctx := context.Background()
	if _, err := conn.Exec(ctx, seed); err != nil {
		t.Fatal(err)
	}
	for _, table := range []string{
		"command", "item", "warehouse", "bin", "package", "inbound", "pick_task", "sales_order", "order_line", "move_rule",
	} {
		for _, q := range []string{"DELETE FROM " + table, "TRUNCATE " + table + " CASCADE"} {
			if _, err := conn.Exec(ctx, q); err == nil {
				t.Errorf("the owner may %s", q)
			}
		}
	}
	for _, q := range []string{
		"UPDATE order_line SET item_id = item_id + 1", "UPDATE order_line SET order_id = order_id + 1",
		"UPDATE order_line SET id = DEFAULT", "UPDATE bin SET warehouse_id = 2",
		"UPDATE pick_task SET line_id = 2", "UPDATE item SET id = DEFAULT", "UPDATE move_rule SET kind = 'x'",
		"UPDATE command SET id = DEFAULT",
	} {
		if _, err := conn.Exec(ctx, q); err == nil || !strings.Contains(err.Error(), "is refused") {
			t.Errorf("%s: %v", q, err)
		}
	}
}

// What should be impossible is told by the audit all the same.
func TestTheAuditFindsEntriesThatNameNothing(t *testing.T) {
	t.Parallel()
	url, ctx := dbtest.URL(t), context.Background()
	conn := connect(t, url)
	if _, err := conn.Exec(ctx, seed+`
		SET session_replication_role = replica; -- triggers are off
		INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, line_id, order_id)
			VALUES (77, 'enter', 'outside', 'open', 1, 1, 99, 1)`); err != nil {
		t.Fatal(err)
	}
	s := dbtest.Open(t, url)
	diff, _, err := s.Audit(ctx)
	if err != nil {
		t.Fatal(err)
	}
	told := fmt.Sprint(diff)
	for _, want := range []string{"entries that name an order line that is not there: 1 is kept", "entries of no command: 1 is kept"} {
		if !strings.Contains(told, want) {
			t.Errorf("the audit does not say %q: %s", want, told)
		}
	}
}

func TestEveryMigrationWorksOnADatabaseWithDataInIt(t *testing.T) {
	t.Parallel()
	url := dbtest.EmptyURL(t)
	ctx := context.Background()
	// Up to the version in which data can first be kept, then data, then the rest.
	if err := store.MigrateTo(ctx, url, 2); err != nil {
		t.Fatal(err)
	}
	conn := connect(t, url)
	early := strings.NewReplacer("price_minor, list_minor,", "price_minor,", "100, 100, 50", "100, 50").Replace(seed)
	if _, err := conn.Exec(ctx, early+fmt.Sprintf(allocate, 6)); err != nil {
		t.Fatal(err)
	}
	if err := store.MigrateTo(ctx, url, 3); err != nil {
		t.Fatal(err)
	}
	if _, err := conn.Exec(ctx, `INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
		VALUES (1, 1, 1, 1, '[]', '[{"warehouse": 1, "day": "2027-03-01", "qty": 4}]', 0, 4, 'promised')`); err != nil {
		t.Fatal(err)
	}
	// Up to the version before there were bounds, then what lies beyond them: promises whose sum wraps to 6, prices, weights.
	if err := store.MigrateTo(ctx, url, 7); err != nil {
		t.Fatal(err)
	}
	if _, err := conn.Exec(ctx, `UPDATE item SET price_minor = 9000000000000000000, weight_g = 9000000000000000000;
		UPDATE order_line SET price_minor = 2000000000000, list_minor = 2000000000000;
		INSERT INTO command (id, key, verb, actor_id, at, asked, outcome) OVERRIDING SYSTEM VALUE
			SELECT 1000, gen_random_uuid(), 'promise', actor_id, at, asked, outcome FROM command WHERE id = 1;
		INSERT INTO promise_entry (command_id, line_id, order_id, item_id, was, now, was_units, now_units, cause)
			VALUES (1000, 1, 1, 1, '[{"warehouse": 1, "day": "2027-03-01", "qty": 4}]', jsonb_build_array(
			jsonb_build_object('warehouse', 1, 'day', '2027-03-01', 'qty', 4611686018427387904),
			jsonb_build_object('warehouse', 1, 'day', '2027-03-02', 'qty', 4611686018427387904),
			jsonb_build_object('warehouse', 1, 'day', '2027-03-03', 'qty', 4611686018427387904),
			jsonb_build_object('warehouse', 1, 'day', '2027-03-04', 'qty', 4611686018427387904),
			jsonb_build_object('warehouse', 1, 'day', '2027-03-05', 'qty', 4)), 4, 4, 'promised')`); err != nil {
		t.Fatal(err)
	}
	if _, err := store.Migrate(ctx, url); err != nil {
		t.Fatal(err)
	}
	var promised, left int64
	if err := conn.QueryRow(ctx, `SELECT (SELECT promised FROM line_count), (SELECT count(*) FROM promise)`).Scan(&promised,
		&left); err != nil || promised != 0 || left != 0 {
		t.Errorf("of the promises of more than is open %d units and %d rows stand (%v)", promised, left, err)
	}
	if n, err := store.Migrate(ctx, url); err != nil || n != 0 {
		t.Errorf("a second time applied %d migrations: %v", n, err)
	}
	s := dbtest.Open(t, url)
	if diff, n, err := s.Audit(ctx); err != nil || len(diff) > 0 || n == 0 {
		t.Errorf("%v, %d counts, %v", diff, n, err)
	}
	var list, price int64
	if err := conn.QueryRow(ctx, `SELECT list_minor, price_minor FROM order_line`).Scan(&list, &price); err != nil ||
		list != 2_000_000_000_000 || price != 2_000_000_000_000 {
		t.Errorf("the list price of a line from before is %d, its price %d (%v)", list, price, err)
	}
}

func TestWhatIsChangedIsKeptAndTold(t *testing.T) {
	t.Parallel()
	conn := connect(t, dbtest.URL(t))
	ctx := context.Background()
	do := func(query string) error {
		_, err := conn.Exec(ctx, query)
		return err
	}
	if err := do(seed + "SET ROLE journeyman_app"); err != nil {
		t.Fatal(err)
	}
	worth := func() (value, order, line int64) {
		if err := conn.QueryRow(
			ctx, `SELECT o.value_minor, o.version, l.version FROM order_count o, line_count l`,
		).Scan(&value, &order, &line); err != nil {
			t.Fatal(err)
		}
		return value, order, line
	}
	value, order, line := worth()
	if err := do(`UPDATE order_line SET price_minor = 70`); err != nil {
		t.Fatal(err)
	}
	if now, _, _ := worth(); value != 1000 || now != 700 {
		t.Errorf("ten at 100 were worth %d, at 70 they are worth %d", value, now)
	}
	if err := do(`INSERT INTO order_change (command_id, order_id, field, was, now) VALUES (1, 1, 'note', '', 'x')`); err != nil {
		t.Fatal(err)
	}
	if _, o, l := worth(); o <= order || l <= line || o != l {
		t.Errorf("a change of the order took its version from %d to %d, its line's from %d to %d", order, o, line, l)
	}
	for _, c := range []struct{ query, says string }{
		{`UPDATE order_change SET was = 'y'`, "permission denied"},
		{`DELETE FROM quote_entry`, "permission denied"},
		{`UPDATE order_line SET item_id = 2`, "permission denied"},
		{`INSERT INTO order_change (command_id, order_id, field, was, now) VALUES (1, 1, 'note', 'x', 'x')`, "order_change_check"},
		{`UPDATE order_line SET discount_bp = 10001`, "order_line_discount_bp_check"},
		{`INSERT INTO substitute (item_id, other_id, kind) VALUES (1, 1, 'size')`, "substitute_check"},
		{`UPDATE warehouse SET workdays = 0`, "warehouse_workdays_check"},
		{
			`INSERT INTO buy_request (number, item_id, warehouse_id, qty, wanted, asked_by) VALUES ('R', 1, 1, 0, '2027-03-01', 1)`,
			"buy_request_qty_check",
		},
		{`INSERT INTO quote (number, customer_id, ship_to_id, warehouse_id, ship_rule, wanted, expires, made_by)
			VALUES ('Q', 1, 1, 1, 'any', '2027-03-01', '2027-03-01', 1);
			INSERT INTO quote_line (quote_id, line_no, item_id, warehouse_id, qty, accepted, price_minor, list_minor, cost_minor)
				VALUES (1, 1, 1, 1, 3, 4, 1, 1, 1)`, "accepted_is_quoted"},
	} {
		if err := do(c.query); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want %q", c.query, err, c.says)
		}
	}
}

func TestADatabaseThatDoesNotAnswerSaysSo(t *testing.T) {
	t.Parallel()
	_, err := store.Open(context.Background(), "postgres://nobody:x@127.0.0.1:1/none")
	if err == nil || !strings.Contains(err.Error(), "does not answer") || !strings.Contains(err.Error(), "DATABASE_URL") {
		t.Error(err)
	}
}
