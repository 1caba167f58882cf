package store

import (
	"fmt"
	"slices"
	"strings"
)

// insertion inserts rows of a command by one statement, which is told column by column.
type insertion struct {
	table   string
	columns []column
	few     string // the statement for few rows
}

// column is told as one type, and written as what that becomes; without a form it is written as it is told.
type column struct{ name, told, form string }

// A key that is 0 is none.
const orNone = "nullif(%s, 0)"

// manyEntries are so many that the database counts them as a set, and together with the promises of their command; there a
// set is from 41 on.
const manyEntries = 2000

func newInsertion(table string, columns ...column) insertion {
	i := insertion{table: table, columns: columns}
	i.few = i.statement(make([]bool, len(columns)))
	return i
}

// of is the statement for so many rows, and what it is told: of each column a list. For few rows it is always the same
// statement, which is planned once. Of many rows, a column in which all have the same is told once: taking lists
// apart is a good part of the work.
func (i insertion) of(rows int, command int64, lists ...any) (string, []any) {
	told := append([]any{command}, lists...)
	if rows < manyEntries {
		return i.few, told
	}
	args := slices.Clone(told)
	alike := make([]bool, len(lists))
	for k, list := range lists {
		switch list := list.(type) {
		case []string:
			args[k+1], alike[k] = onlyOne(list, list)
		case []int64:
			args[k+1], alike[k] = onlyOne(list, list)
		}
	}
	if !slices.Contains(alike, false) { // how many there are is told by a list
		return i.few, told
	}
	return i.statement(alike), args
}

// onlyOne is the one value that all in the list have, or else what is told instead.
func onlyOne[T comparable](list []T, instead any) (any, bool) {
	for _, x := range list {
		if x != list[0] {
			return instead, false
		}
	}
	return list[0], true
}

func (i insertion) statement(alike []bool) string {
	names, told := []string{"command_id"}, []string{"$1"}
	var lists, listed []string
	for k, c := range i.columns {
		names = append(names, c.name)
		from := "x." + c.name
		if alike[k] {
			from = fmt.Sprintf("$%d::%s", k+2, c.told)
		} else {
			lists, listed = append(lists, fmt.Sprintf("$%d::%s[]", k+2, c.told)), append(listed, c.name)
		}
		if c.form != "" {
			from = fmt.Sprintf(c.form, from)
		}
		told = append(told, from)
	}
	return fmt.Sprintf(
		`INSERT INTO %s (%s) SELECT %s FROM unnest(%s) AS x (%s)`, i.table, strings.Join(names, ", "), strings.Join(told, ", "),
		strings.Join(lists, ", "), strings.Join(listed, ", "),
	)
}
