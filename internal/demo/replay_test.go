package demo

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"journeyman/internal/dbtest"
)

// counts are the tables that the journal is carried to, with what they are counted by and what is counted.
var counts = []struct{ table, by, of string }{
	{"line_count", "line_id", "ordered, open, allocated, released, picked, packed, shipped, delivered, dropped"},
	{"line_at", "line_id, warehouse_id", "allocated, released, picked, packed"},
	{"order_count", "order_id", "ordered, open, allocated, released, picked, packed, shipped, delivered, dropped, value_minor, cost_minor"},
	{"stock_cell", "item_id, warehouse_id", "on_hand, held, allocated, released, picked, packed, binned, version"},
	{"bin_stock", "item_id, warehouse_id, bin_id", "qty, held"},
	{"pick_task", "id", "picked, short, recalled"},
	{"package_line", "package_id, line_id", "qty"},
	{"inbound", "id", "received"},
}

// What is counted move by move, in thousands of small commands, is what is counted when all of it is
// written by one statement: the two go different ways.
func TestTheWholeJournalInOneStatementCountsTheSame(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	url := dbtest.URL(t)
	s := dbtest.Open(t, url)
	playOn(t, s, time.Date(2027, 3, 2, 15, 50, 0, 0, time.UTC))
	s.Close()
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close(ctx) }()
	do := func(query string) {
		t.Helper()
		if _, err := conn.Exec(ctx, query); err != nil {
			t.Fatalf("%v in %s", err, query)
		}
	}
	do(`CREATE TEMP TABLE was_journal AS SELECT * FROM journal`)
	do(`SET session_replication_role = replica`) // the journal cannot be emptied otherwise
	for _, c := range counts {
		do(fmt.Sprintf(`CREATE TEMP TABLE was_%s AS SELECT %s, %s FROM %[1]s`, c.table, c.by, c.of))
		switch c.table {
		case "line_at", "bin_stock", "stock_cell", "package_line":
			do(`DELETE FROM ` + c.table)
		case "line_count", "order_count":
			do(`UPDATE ` + c.table + ` SET promised = 0, ` + strings.ReplaceAll(c.of, ",", " = 0,") + ` = 0`)
		default:
			do(`UPDATE ` + c.table + ` SET ` + strings.ReplaceAll(c.of, ",", " = 0,") + ` = 0`)
		}
	}
	do(`DELETE FROM journal`)
	do(`SET session_replication_role = origin`)
	do(`INSERT INTO journal OVERRIDING SYSTEM VALUE SELECT * FROM was_journal ORDER BY id`)
	for _, c := range counts {
		var n, differ int
		if err := conn.QueryRow(ctx, fmt.Sprintf(`SELECT (SELECT count(*) FROM was_%[1]s), (SELECT count(*) FROM
			((TABLE was_%[1]s EXCEPT SELECT %[2]s, %[3]s FROM %[1]s) UNION ALL (SELECT %[2]s, %[3]s
			FROM %[1]s EXCEPT TABLE was_%[1]s)) x)`, c.table, c.by, c.of)).Scan(&n, &differ); err != nil {
			t.Fatal(err)
		}
		if n == 0 || differ > 0 {
			t.Errorf("%s: of %d rows %d differ", c.table, n, differ)
		}
	}
}
