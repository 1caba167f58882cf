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

type column struct{ name, holds string }

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
		case []*int64:
			if args[k+1], alike[k] = onlyOne(valsOf(list), list); alike[k] && list[0] == nil {
				args[k+1] = nil
			}
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

func valsOf(list []*int64) []int64 {
	out := make([]int64, len(list))
	for i, p := range list {
		out[i] = val(p)
	}
	return out
}

func (i insertion) statement(alike []bool) string {
	names, told := []string{"command_id"}, []string{"$1"}
	var lists, listed []string
	for k, c := range i.columns {
		names = append(names, c.name)
		as := c.holds
		if as == "jsonb" {
			as = "text" // the form in which it is told
		}
		if alike[k] {
			told = append(told, fmt.Sprintf("$%d::%s::%s", k+2, as, c.holds))
			continue
		}
		told = append(told, fmt.Sprintf("x.%s::%s", c.name, c.holds))
		lists, listed = append(lists, fmt.Sprintf("$%d::%s[]", k+2, as)), append(listed, c.name)
	}
	return fmt.Sprintf(`INSERT INTO %s (%s) SELECT %s FROM unnest(%s) AS x (%s)`, i.table, strings.Join(names, ", "), strings.Join(told, ", "), strings.Join(lists, ", "), strings.Join(listed, ", "))
}
