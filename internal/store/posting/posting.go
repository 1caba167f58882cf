// Package posting makes the part of the database that carries the journal to the counts out of core/journey's table of moves: the table
// move_rule, the texts by which many entries are added up, and the trigger that does it. A migration replaces all of it whole; `go
// generate` writes that migration, and the linters check that it is fresh.
package posting

import (
	"fmt"
	"slices"
	"strings"

	"journeyman/core/journey"
)

//go:generate go run ./generate

// File is the newest migration that replaces the posting function. Once it has gone out, a change of the table of moves gets a new one.
const File = "00019_posting.sql"

// A column of a count, and by how much a unit of a move changes it.
type column struct {
	name string
	by   func(journey.Rule) int
}

// station is the change of a station's count.
func station(s journey.Station) column {
	return column{s.String(), func(r journey.Rule) int { return bit(r.To == s) - bit(r.From == s) }}
}

func bit(is bool) int {
	if is {
		return 1
	}
	return 0
}

// The columns of the counts, in their order.
var (
	inHouse = []column{station(journey.Allocated), station(journey.Released), station(journey.Picked), station(journey.Packed)}
	ofLine  = slices.Concat([]column{
		{"ordered", func(r journey.Rule) int {
			if r.From == r.To {
				return 0
			}
			return bit(r.From == journey.Outside) - bit(r.To == journey.Outside)
		}},
		station(journey.Open),
	}, inHouse, []column{station(journey.Shipped), station(journey.Delivered), station(journey.Dropped)})
	ofCell = slices.Concat([]column{
		{"on_hand", func(r journey.Rule) int { return r.OnHand }},
		{"held", func(r journey.Rule) int { return r.Held }},
	}, inHouse, []column{{"binned", func(r journey.Rule) int { return r.Binned() }}})
)

// change is a column that moves touch, as it is added up over entries f, with their rules r.
type change struct{ name, sum string }

// touched are the columns that one rule touches.
func touched(columns []column, r journey.Rule) (out []change) {
	for _, c := range columns {
		switch by := c.by(r); by {
		case 0:
		case 1:
			out = append(out, change{c.name, "units(f.qty)"})
		case -1:
			out = append(out, change{c.name, "-units(f.qty)"})
		default:
			panic(fmt.Sprintf("posting: a unit of %s changes %s by %d", r.Kind, c.name, by))
		}
	}
	return out
}

// any are all columns, for moves of several rules.
func anyOf(columns []column) (out []change) {
	for _, c := range columns {
		out = append(out, change{c.name, "units(f.qty * r." + c.name + ")"})
	}
	return out
}

// The forms in which changes stand in a statement, each with a comma before it.
func names(cs []change) string { return list(cs, func(c change) string { return c.name }) }

func sums(cs []change) string {
	return list(cs, func(c change) string { return c.sum + " AS " + c.name })
}

func sets(cs []change) string {
	return list(cs, func(c change) string { return fmt.Sprintf("%[1]s = c.%[1]s + coalesce(d.%[1]s, 0)", c.name) })
}

func list(cs []change, form func(change) string) string {
	var b strings.Builder
	for _, c := range cs {
		b.WriteString(", " + form(c))
	}
	return b.String()
}

func quote(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }

// Migration is the whole migration.
func Migration() string {
	return strings.NewReplacer(
		"{{rules}}", rules(),
		"{{texts}}", texts(),
		"{{few}}", indent(few(), 4),
	).Replace(migration)
}

// rules are the rows of move_rule.
func rules() string {
	var rows []string
	for _, r := range journey.Rules {
		rows = append(rows, fmt.Sprintf("    (%s, %s, %s, %s, %d, %d, %d, %v)", quote(string(r.Kind)), quote(
			r.From.String(),
		), quote(r.To.String()),
			quote(string(r.Cause)), r.OnHand, r.Held, r.Binned(), r.InHouse))
	}
	return strings.Join(rows, ",\n")
}

// texts are the rows of posting_text: of one rule what it touches, with nothing to look up; and of several, all columns.
func texts() string {
	row := func(key string, from string, indoors string, of func([]column) []change) string {
		cell, line, place := of(ofCell), of(ofLine), of(inHouse)
		return fmt.Sprintf("    (%s, %s, %s,\n        %s, %s,\n        %s, %s,\n        %s, %s, %s)", key, quote(from), quote(indoors),
			quote(sets(cell)), quote(sums(cell)), quote(sets(line)), quote(sums(line)), quote(
				names(place),
			), quote(sets(place)), quote(sums(place)))
	}
	rows := []string{row("'', '', '', ''", "fresh f JOIN move_rule r USING (kind, from_station, to_station, cause)", "r.in_house", anyOf)}
	for _, r := range journey.Rules {
		key := strings.Join([]string{quote(string(r.Kind)), quote(r.From.String()), quote(r.To.String()), quote(string(r.Cause))}, ", ")
		rows = append(rows, row(key, "fresh f", fmt.Sprint(r.InHouse), func(cs []column) []change { return touched(cs, r) }))
	}
	return strings.Join(rows, ",\n")
}

// few is the part of the function that counts a few entries one by one.
func few() string {
	times := func(cs []column) string {
		return list(changesOf(cs), func(c change) string { return fmt.Sprintf("j.qty * r.%[1]s AS %[1]s", c.name) })
	}
	plus := func(cs []column, alias string) string {
		return strings.TrimPrefix(
			list(changesOf(cs), func(c change) string { return fmt.Sprintf("%[1]s = %[2]s.%[1]s + f.%[1]s", c.name, alias) }), ", ",
		)
	}
	var stock []column // of a cell, beside the stations, which a line has as well
	for _, c := range ofCell {
		if !slices.ContainsFunc(ofLine, func(l column) bool { return l.name == c.name }) {
			stock = append(stock, c)
		}
	}
	return strings.NewReplacer(
		"{{changes}}", strings.TrimPrefix(times(slices.Concat(stock, ofLine)), ", "),
		"{{cell}}", plus(ofCell, "c"), "{{line}}", plus(ofLine, "c"), "{{place}}", plus(inHouse, "c"),
		"{{place names}}", strings.TrimPrefix(names(changesOf(inHouse)), ", "),
		"{{place values}}", strings.TrimPrefix(list(changesOf(inHouse), func(c change) string { return "f." + c.name }), ", "),
	).Replace(fewEntries)
}

func changesOf(cs []column) (out []change) {
	for _, c := range cs {
		out = append(out, change{name: c.name})
	}
	return out
}

func indent(s string, by int) string {
	pad := strings.Repeat(" ", by)
	lines := strings.Split(strings.TrimSpace(s), "\n")
	for i, l := range lines {
		if l != "" && i > 0 {
			lines[i] = pad + l
		}
	}
	return strings.Join(lines, "\n")
}
