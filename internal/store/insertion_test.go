package store

import (
	"fmt"
	"strings"
	"testing"
)

func TestWhatAllRowsHaveIsToldOnce(t *testing.T) {
	t.Parallel()
	i := newInsertion(
		"thing", column{name: "what", told: "text"}, column{name: "qty", told: "bigint"}, column{"bin", "bigint", orNone},
		column{"more", "text", "%s::jsonb"},
	)
	const few = `INSERT INTO thing (command_id, what, qty, bin, more) SELECT $1, x.what, x.qty, nullif(x.bin, 0), x.more::jsonb ` +
		`FROM unnest($2::text[], $3::bigint[], $4::bigint[], $5::text[]) AS x (what, qty, bin, more)`
	n := manyEntries
	what, qty, bin, more := make([]string, n), make([]int64, n), make([]int64, n), make([]string, n)
	for k := range n {
		what[k], qty[k], more[k] = "a", 7, "[]"
	}
	if got, args := i.of(n, 9, what, qty, bin, more); got != few || len(args) != 5 || len(args[1].([]string)) != n {
		t.Errorf("all rows are the same: %s", got)
	}
	qty[3], bin[4] = 8, 7
	const many = `INSERT INTO thing (command_id, what, qty, bin, more) SELECT $1, $2::text, x.qty, nullif(x.bin, 0), $5::text::jsonb ` +
		`FROM unnest($3::bigint[], $4::bigint[]) AS x (qty, bin)`
	if got, args := i.of(n, 9, what, qty, bin, more); got != many || fmt.Sprintf("%v %v %v", args[0], args[1], args[4]) != "9 a []" {
		t.Errorf("two columns differ: %s, %v %v", got, args[1], args[4])
	}
	if got, args := i.of(n-1, 9, what, qty, bin, more); got != few || len(args) != 5 {
		t.Errorf("few rows: %s", got)
	}
	if got, args := i.of(n, 9, what, qty, make([]int64, n), more); args[3] != int64(0) || !strings.Contains(got, "nullif($4::bigint, 0)") {
		t.Errorf("no bin is told as %v: %s", args[3], got)
	}
}
