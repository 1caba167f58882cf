package query

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"journeyman/core/days"
	"journeyman/internal/desk/command"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

// Ask is which rows of a list are wanted, as a page asks for them.
type Ask struct {
	Query string            // words, each of which must be found
	Only  []string          // conditions, each a column, how it is compared, and a value: “channel=web”, “value>=1000”
	Scope map[string]string // conditions of the list's own
	Sort  string            // a column; empty for the list's own order
	Down  bool
	After string   // where the page before it ended; empty for the first
	UpTo  string   // where the page ended when it was asked for before; empty for as many rows as a page has
	Exact bool     // count all, however many there are
	Sums  []string // columns that are added up
	Who   command.Actor
}

// Next is where a page of a list ends.
type Next struct {
	Next string `json:"next,omitempty" doc:"After which the next page begins; absent on the last page"`
}

const (
	// PageSize is how many rows a page of a list has.
	PageSize = 100
	// mostOfPage is how many rows a page may have that is asked for again and has grown.
	mostOfPage = 500
	// mostWords is how many words are looked for at once.
	mostWords = 12
	// mostGroups is how many groups are listed at once.
	mostGroups = 300
)

// ListNamed returns the list of that name.
func ListNamed(name string) (*store.List, error) {
	i := slices.IndexFunc(store.Lists, func(l *store.List) bool { return l.Name == name })
	if i < 0 {
		return nil, command.NotFound("There is no list %s.", name)
	}
	return store.Lists[i], nil
}

// read understands what is asked of a list.
func (d *Desk) read(r *store.Reader, l *store.List, ask Ask) (store.ListAsk, error) {
	out := store.ListAsk{
		Words: strings.Fields(ask.Query), Scope: ask.Scope, Today: d.Today().String(), Sort: ask.Sort, Down: ask.Down, Exact: ask.Exact,
		Limit: cmp.Or(l.Page, PageSize), Sums: ask.Sums,
	}
	slices.Sort(out.Words)
	if out.Words = slices.Compact(out.Words); len(out.Words) > mostWords {
		return out, command.Invalid("Look for at most %d words at once.", mostWords)
	}
	columns := seen(l, ask.Who)
	if ask.Sort != "" && !slices.ContainsFunc(columns, named(ask.Sort)) {
		return out, command.Invalid("The list has no column “%s” to sort by.", ask.Sort)
	}
	for _, name := range ask.Sums {
		if i := slices.IndexFunc(columns, named(name)); i < 0 || columns[i].Sum == "" {
			return out, command.Invalid("The list has no column “%s” that is added up.", name)
		}
	}
	for _, text := range ask.Only {
		f, err := readFilter(columns, text, d.Today())
		if err != nil {
			return out, err
		}
		// One of several values is meant if a column is asked to be each of them.
		at := slices.IndexFunc(out.Only, func(o store.Filter) bool { return o.Column == f.Column && o.Op == f.Op && f.Op == "=" })
		if at >= 0 {
			out.Only[at].Values = append(out.Only[at].Values, f.Values...)
		} else {
			out.Only = append(out.Only, f)
		}
	}
	if l == store.Release {
		until, err := d.supply.DueUntil(r, ask.Scope["until"], ask.Scope["warehouse"])
		if err != nil {
			return out, err
		}
		out.Scope = maps.Clone(ask.Scope)
		if out.Scope == nil {
			out.Scope = map[string]string{}
		}
		out.Scope["until"] = until.String()
	}
	var err error
	if ask.After != "" {
		if out.After, err = store.ReadMark(ask.After); err != nil {
			return out, noMark
		}
	}
	if ask.UpTo != "" {
		out.Limit = mostOfPage
		if out.UpTo, err = store.ReadMark(ask.UpTo); err != nil {
			return out, noMark
		}
	}
	return out, nil
}

var noMark = command.Invalid("The place in the list is not one that was handed out: begin with its first page.")

// readFilter reads a condition: a column, how it is compared, and a value.
func readFilter(columns []store.Column, text string, today days.Day) (store.Filter, error) {
	at := strings.IndexAny(text, "=~<>!")
	if at < 0 {
		return store.Filter{}, command.Invalid(
			"“%s” is not a condition: give a column, one of %s, and a value.", text, strings.Join(store.FilterOps, " "),
		)
	}
	rest := text[at:]
	op := ""
	for _, o := range store.FilterOps {
		if strings.HasPrefix(rest, o) && len(o) > len(op) {
			op = o
		}
	}
	f := store.Filter{Column: text[:at], Op: op}
	i := slices.IndexFunc(columns, named(f.Column))
	if i < 0 || op == "" {
		return f, command.Invalid("The list cannot be filtered by “%s”: it has no such column, or not that comparison.", text)
	}
	c := columns[i]
	value := rest[len(op):]
	if op == "~" {
		f.Values = []string{value}
		return f, nil
	}
	if value == "" && c.Kind == store.Day && (op == "=" || op == "!=") {
		f.Values = []string{store.Never}
		return f, nil
	}
	if c.Kind == store.Day || c.Kind == store.Moment {
		value = fromToday(value, today)
	}
	stored, err := storedValue(c.Kind, value)
	if err != nil {
		return f, command.Invalid("%s: “%s” is not %s.", c.Title, value, sortsOfValue[c.Kind])
	}
	if c.Kind == store.Moment && op == "<=" {
		stored += " 23:59:59.999999" // to the end of the day
	}
	f.Values = []string{stored}
	return f, nil
}

// mostFromToday is how many days from today a day can be said to be.
const mostFromToday = 3660

// fromToday is the date of a day that is said by how far it is from today: “today”, “today+3”, “today-7”. Other texts stay as they
// are.
func fromToday(value string, today days.Day) string {
	rest, is := strings.CutPrefix(value, "today")
	if !is {
		return value
	}
	n := 0
	if rest != "" {
		var err error
		if n, err = strconv.Atoi(rest); err != nil || rest[0] != '+' && rest[0] != '-' || n < -mostFromToday || n > mostFromToday {
			return value
		}
	}
	return (today + days.Day(n)).String()
}

// storedValue is a value as the database keeps it: amounts in minor units, shares of one instead of per cent.
func storedValue(kind store.Kind, value string) (string, error) {
	places := map[store.Kind]int{store.Number: 0, store.Money: 2, store.Share: 2, store.Weight: 3}
	switch kind {
	case store.Number, store.Money, store.Share, store.Weight:
		digits, minus := strings.CutPrefix(value, "-")
		n, err := exchange.Decimal(digits, places[kind])
		if minus {
			n = -n
		}
		if kind == store.Share {
			return fmt.Sprintf("%de-4", n), err
		}
		return strconv.FormatInt(n, 10), err
	case store.Day, store.Moment:
		_, err := days.Parse(value)
		return value, err
	}
	return value, nil
}

var sortsOfValue = map[store.Kind]string{
	store.Number: "a whole number", store.Money: "an amount", store.Share: "a number of per cent",
	store.Weight: "a number of kilograms",
	store.Day:    "a date: use YYYY-MM-DD, or today+3", store.Moment: "a date: use YYYY-MM-DD, or today-7",
}

// keys returns the keys of a page of a list and where it ends.
func (d *Desk) keys(r *store.Reader, l *store.List, ask Ask) (store.IDs, Next, error) {
	q, err := d.read(r, l, ask)
	if err != nil {
		return nil, Next{}, err
	}
	ids, next, err := r.Keys(l, q)
	if errors.Is(err, store.ErrMark) {
		return nil, Next{}, noMark
	}
	out := Next{}
	if next != nil {
		out.Next = next.String()
	} else if ask.UpTo != "" {
		out.Next = ask.UpTo
	}
	return ids, out, err
}

// pageOf returns the rows of a page of a list, which are read by their keys, and where it ends.
func pageOf[T any](d *Desk, r *store.Reader, l *store.List, ask Ask, read func(store.IDs) ([]T, error)) ([]T, Next, error) {
	ids, next, err := d.keys(r, l, ask)
	if err != nil {
		return nil, Next{}, err
	}
	rows, err := read(ids)
	return rows, next, err
}

// ListSum is how many rows of a list were found, and what they come to.
type ListSum struct {
	Rows int64            `json:"rows"`
	More bool             `json:"more" doc:"There are more than rows: ask for exact to have them counted, and added up"`
	Sums map[string]int64 `json:"sums" doc:"By column; amounts are of those in the firm's currency, in minor units"`
}

// Sum says how many rows of a list were asked for, and what they come to.
func (d *Desk) Sum(ctx context.Context, list string, ask Ask) (ListSum, error) {
	l, err := ListNamed(list)
	if err != nil {
		return ListSum{}, err
	}
	q, err := d.read(d.Store.Read(ctx), l, ask)
	if err != nil {
		return ListSum{}, err
	}
	sum, err := d.Store.Read(ctx).Sum(l, q)
	return ListSum{sum.N, sum.More, sum.Sums}, err
}

// ListKeys are rows of a list as they are chosen.
type ListKeys struct {
	Keys []string         `json:"keys" doc:"Numbers of orders, keys of lines"`
	Seen []int64          `json:"seen" doc:"The versions of the rows"`
	More bool             `json:"more" doc:"There are more than a command takes"`
	Sums map[string]int64 `json:"sums" doc:"What the rows come to, by column"`
}

// mostChosen is how many orders or lines a command takes.
const mostChosen = 5000

// Keys returns all rows of a list that were asked for, in its order, as a command takes them.
func (d *Desk) Keys(ctx context.Context, list string, ask Ask) (ListKeys, error) {
	l, err := ListNamed(list)
	if err != nil {
		return ListKeys{}, err
	}
	if !l.Chosen() {
		return ListKeys{}, command.Invalid("Rows of this list are not chosen.")
	}
	q, err := d.read(d.Store.Read(ctx), l, ask)
	if err != nil {
		return ListKeys{}, err
	}
	out := ListKeys{}
	rows, sums, more, err := d.Store.Choose(ctx, l, q, mostChosen)
	out.Keys, out.Seen, out.Sums, out.More = make([]string, len(rows)), make([]int64, len(rows)), sums, more
	for i, r := range rows {
		out.Keys[i], out.Seen[i] = r.Name, r.Version
	}
	return out, err
}

// ListGroup is rows of a list that are alike in something.
type ListGroup struct {
	Value string           `json:"value" doc:"As a condition takes it; empty for no day"`
	Name  string           `json:"name,omitempty" doc:"Of the customer, item or warehouse whose code the value is"`
	Rows  int64            `json:"rows"`
	Sums  map[string]int64 `json:"sums" doc:"By column; amounts are of those in the firm's currency, in minor units"`
}

// ListGroups is a list in groups.
type ListGroups struct {
	Groups []ListGroup `json:"groups"`
	Total  int64       `json:"total" doc:"How many groups there are"`
}

// Groups returns the rows of a list that were asked for in groups by a column.
func (d *Desk) Groups(ctx context.Context, list, by string, ask Ask) (ListGroups, error) {
	out := ListGroups{Groups: []ListGroup{}}
	l, err := ListNamed(list)
	if err != nil {
		return out, err
	}
	if c, known := l.Column(by); !known || !c.Group || c.Costs {
		return out, command.Invalid("The list is not grouped by “%s”.", by)
	}
	q, err := d.read(d.Store.Read(ctx), l, ask)
	if err != nil {
		return out, err
	}
	groups, total, err := d.Store.Read(ctx).GroupOf(l, q, by, mostGroups)
	for _, g := range groups {
		if g.Value == store.Never {
			g.Value = ""
		}
		out.Groups = append(out.Groups, ListGroup{g.Value, g.Name, g.N, g.Sums})
	}
	out.Total = total
	return out, err
}

// ListColumn is a column of a list.
type ListColumn struct {
	Name   string `json:"name"`
	Title  string `json:"title"`
	Kind   string `json:"kind" enum:"text,number,money,share,date,moment,weight"`
	Groups bool   `json:"groups" doc:"The list can be grouped by it"`
	Sums   bool   `json:"sums" doc:"It is added up"`
}

// Columns are the columns of a list that somebody of that role may see.
func (d *Desk) Columns(list string, who command.Actor) ([]ListColumn, error) {
	l, err := ListNamed(list)
	if err != nil {
		return nil, err
	}
	out := []ListColumn{}
	for _, c := range seen(l, who) {
		out = append(out, ListColumn{c.Name, c.Title, string(c.Kind), c.Group, c.Sum != ""})
	}
	return out, nil
}

func named(name string) func(store.Column) bool {
	return func(c store.Column) bool { return c.Name == name }
}

// seen are the columns of a list that somebody may see: no costs or margins on the floor.
func seen(l *store.List, who command.Actor) []store.Column {
	return slices.DeleteFunc(slices.Clone(l.Columns), func(c store.Column) bool {
		return c.Costs && who.Role == command.Floor || c.Parts != nil || c.Title == ""
	})
}

// Table is all rows of a list that were asked for with the values of columns, as they are taken along in a file; all columns if none is
// named. A column that names records has their code and their name.
func (d *Desk) Table(ctx context.Context, list string, names []string, ask Ask) (exchange.Table, error) {
	l, err := ListNamed(list)
	if err != nil {
		return exchange.Table{}, err
	}
	q, err := d.read(d.Store.Read(ctx), l, ask)
	if err != nil {
		return exchange.Table{}, err
	}
	var columns []store.Column
	known := seen(l, ask.Who)
	for _, name := range names {
		i := slices.IndexFunc(known, named(name))
		if i < 0 {
			return exchange.Table{}, command.Invalid("The list has no column “%s”.", name)
		}
		columns = append(columns, known[i])
	}
	if len(names) == 0 {
		columns = known
	}
	out := exchange.Table{Name: list, Rows: func(yield func([]any, error) bool) {
		stopped := errors.New("stopped")
		err := d.Store.Each(ctx, l, q, columns, func(values []string) error {
			row := make([]any, len(values))
			for i, v := range values {
				if row[i], err = cell(columns[i].Kind, v); err != nil {
					return err
				}
			}
			if !yield(row, nil) {
				return stopped
			}
			return nil
		})
		if err != nil && !errors.Is(err, stopped) {
			yield(nil, err)
		}
	}}
	for _, c := range columns {
		out.Head = append(out.Head, c.Title)
	}
	return out, nil
}

// cell is a value of the database as a table takes it.
func cell(kind store.Kind, v string) (any, error) {
	if v == "" && kind != store.Text {
		return nil, nil
	}
	switch kind {
	case store.Number:
		return strconv.ParseInt(v, 10, 64)
	case store.Money:
		n, err := strconv.ParseInt(v, 10, 64)
		return exchange.Decimal64{Units: n, Places: 2}, err
	case store.Weight:
		n, err := strconv.ParseInt(v, 10, 64)
		return exchange.Decimal64{Units: n, Places: 3}, err
	case store.Share:
		f, err := strconv.ParseFloat(v, 64)
		return exchange.Decimal64{Units: int64(math.Round(f * 10_000)), Places: 4}, err
	case store.Day:
		return time.Parse(time.DateOnly, v)
	}
	return v, nil
}
