package store_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"journeyman/core/journey"
	"journeyman/internal/dbtest"
)

// What entries may name, beside the seed: two more lines, a task of each, a package, an arrival.
const named = `
	INSERT INTO order_line (order_id, line_no, item_id, warehouse_id, ship_by, price_minor, list_minor, cost_minor)
		VALUES (1, 2, 1, 1, '2027-03-01', 300, 300, 70), (1, 3, 1, 1, '2027-03-01', 500, 500, 90);
	INSERT INTO pick_list (number, warehouse_id, command_id) VALUES ('PL', 1, 1);
	INSERT INTO pick_task (pick_list_id, seq, line_id, bin_id, qty) SELECT 1, l, l, 1, 1000000 FROM generate_series(1, 3) l;
	INSERT INTO shipment (number, customer_id, ship_to_id, warehouse_id, packed_by) VALUES ('SH', 1, 1, 1, 1);
	INSERT INTO package (shipment_id, number, kind, weight_g) VALUES (1, 'PK', 'carton', 100);
	INSERT INTO inbound (ref, item_id, warehouse_id, due, qty) VALUES ('PO', 1, 1, '2027-03-01', 1000000);`

// randomMoves are moves of three lines of one item, each possible after those before it, as they are entered into the journal.
func randomMoves(r *rand.Rand, n int) []string {
	var rows []string
	lines, places := [4]journey.Line{}, [4]journey.Place{}
	lines[1] = journey.Line{Ordered: 10, At: journey.Counts{journey.Open: 10}}
	cell := journey.Cell{OnHand: 20}
	for len(rows) < n {
		rule := journey.Rules[r.IntN(len(journey.Rules))]
		if rule.Kind == journey.BinOut || rule.Kind == journey.BinIn { // right in pairs only
			continue
		}
		m := journey.Move{Kind: rule.Kind, From: rule.From, To: rule.To, Cause: rule.Cause, Qty: journey.Qty(1 + r.IntN(6))}
		l := 1 + r.IntN(3)
		var err error
		if rule.From == rule.To {
			err = journey.Apply(nil, nil, &cell, m)
		} else {
			err = journey.Apply(&lines[l], &places[l], &cell, m)
		}
		if err != nil {
			continue
		}
		ref := func(is bool, key int) string {
			if is {
				return fmt.Sprint(key)
			}
			return "NULL"
		}
		moves := rule.From != rule.To
		task := rule.Kind == journey.Release || rule.Kind == journey.Recall || rule.Kind == journey.Pick || rule.Kind == journey.Short
		pack := rule.Kind == journey.Pack || rule.Kind == journey.Unpack || rule.Kind == journey.Dispatch || rule.Kind == journey.Void ||
			rule.Kind == journey.Deliver || rule.Kind == journey.Lose || rule.From == journey.Packed
		bin := rule.Kind == journey.Pick || rule.Kind == journey.Short || rule.Kind == journey.PutBack || !moves
		rows = append(rows, fmt.Sprintf("(1, '%s', '%s', '%s', '%s', %d, 1, %s, %s, %s, %s, %s, %s, %s)", rule.Kind, rule.From, rule.To,
			rule.Cause, m.Qty,
			ref(rule.InHouse, 1), ref(bin, 1), ref(moves, l), ref(moves, 1), ref(task, l), ref(pack, 1), ref(
				rule.Kind == journey.Receive, 1,
			)))
	}
	return rows
}

// counted is every count with the entry that changed it last.
func counted(t *testing.T, conn *pgx.Conn) (all []string) {
	t.Helper()
	for _, q := range []string{
		`SELECT 'line', to_jsonb(c)::text FROM line_count c ORDER BY 2`, `SELECT 'place', to_jsonb(c)::text FROM line_at c ORDER BY 2`,
		`SELECT 'order', to_jsonb(c)::text FROM order_count c ORDER BY 2`, `SELECT 'cell', to_jsonb(c)::text FROM stock_cell c ORDER BY 2`,
		`SELECT 'bin', to_jsonb(c)::text FROM bin_stock c ORDER BY 2`, `SELECT 'task', to_jsonb(c)::text FROM pick_task c ORDER BY 2`,
		`SELECT 'package', to_jsonb(c)::text FROM package_line c ORDER BY 2`,
		`SELECT 'inbound', to_jsonb(c)::text FROM inbound c ORDER BY 2`,
	} {
		rows, err := conn.Query(context.Background(), q)
		if err != nil {
			t.Fatal(err)
		}
		some, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (string, error) {
			var what, is string
			err := row.Scan(&what, &is)
			return what + " " + is, err
		})
		if err != nil {
			t.Fatal(err)
		}
		all = append(all, some...)
	}
	return all
}

// The same moves, entered a few at a time and all at once, come to the same counts.
func TestAFewEntriesAndManyAreCountedAlike(t *testing.T) {
	t.Parallel()
	const into = `INSERT INTO journal (command_id, kind, from_station, to_station, cause, qty, item_id, warehouse_id, bin_id, line_id,
		order_id, task_id, package_id, inbound_id) VALUES `
	for seedNo := range uint64(12) {
		r := rand.New(rand.NewPCG(seedNo, 7))
		rows := randomMoves(r, 60+r.IntN(200))
		var was []string
		for _, atOnce := range []int{1, 40, len(rows)} {
			conn := connect(t, dbtest.URL(t))
			if _, err := conn.Exec(context.Background(), seed+named); err != nil {
				t.Fatal(err)
			}
			for at := 0; at < len(rows); at += atOnce {
				if _, err := conn.Exec(context.Background(), into+strings.Join(rows[at:min(len(rows), at+atOnce)], ", ")); err != nil {
					t.Fatalf("seed %d, %d at once: %v", seedNo, atOnce, err)
				}
			}
			is := counted(t, conn)
			if was == nil {
				was = is
			}
			for i := range is {
				if is[i] != was[i] || len(is) != len(was) {
					t.Fatalf("seed %d, %d at once:\n%s\nand one by one\n%s", seedNo, atOnce, is[i], was[i])
				}
			}
			_ = conn.Close(context.Background())
		}
	}
}
