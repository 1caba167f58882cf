package store

import (
	"fmt"
	"testing"
)

func TestWhatAllRowsHaveIsToldOnce(t *testing.T) {
	t.Parallel()
	i := newInsertion("thing", column{"what", "text"}, column{"qty", "bigint"}, column{"bin", "bigint"}, column{"more", "jsonb"})
	const few = `INSERT INTO thing (command_id, what, qty, bin, more) SELECT $1, x.what::text, x.qty::bigint, x.bin::bigint, x.more::jsonb ` +
		`FROM unnest($2::text[], $3::bigint[], $4::bigint[], $5::text[]) AS x (what, qty, bin, more)`
	n := manyEntries
	what, qty, bin, more := make([]string, n), make([]int64, n), make([]*int64, n), make([]string, n)
	for k := range n {
		what[k], qty[k], more[k] = "a", 7, "[]"
	}
	if got, args := i.of(n, 9, what, qty, bin, more); got != few || len(args) != 5 || len(args[1].([]string)) != n {
		t.Errorf("all rows are the same: %s", got)
	}
	qty[3], bin[4] = 8, &qty[0]
	const many = `INSERT INTO thing (command_id, what, qty, bin, more) SELECT $1, $2::text::text, x.qty::bigint, x.bin::bigint, $5::text::jsonb ` +
		`FROM unnest($3::bigint[], $4::bigint[]) AS x (qty, bin)`
	if got, args := i.of(n, 9, what, qty, bin, more); got != many || fmt.Sprintf("%v %v %v", args[0], args[1], args[4]) != "9 a []" {
		t.Errorf("two columns differ: %s, %v %v", got, args[1], args[4])
	}
	if got, args := i.of(n-1, 9, what, qty, bin, more); got != few || len(args) != 5 {
		t.Errorf("few rows: %s", got)
	}
	// All in no bin is not the same as all in the bin of key 0; a bin here and there is a list.
	if _, args := i.of(n, 9, what, qty, make([]*int64, n), more); args[3] != nil {
		t.Errorf("no bin is told as %v", args[3])
	}
}
