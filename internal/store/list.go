package store

import (
	"context"
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
)

// Kind is what the values of a column of a list are.
type Kind string

// The kinds of columns.
const (
	Text   Kind = "text"
	Number Kind = "number" // a whole number
	Money  Kind = "money"  // in minor units of the currency
	Share  Kind = "share"  // a part of one
	Day    Kind = "date"
	Moment Kind = "moment"
	Weight Kind = "weight" // in grams; people give kilograms
)

// sqlTypes are the types with which values of a kind come back from a page's mark.
var sqlTypes = map[Kind]string{
	Text: "text", Number: "bigint", Money: "bigint", Share: "numeric", Day: "date", Moment: "timestamptz",
	Weight: "bigint",
}

// Column is a column of a list as the database knows it: lists are sorted, filtered and grouped by it.
type Column struct {
	Name  string
	Title string // empty if only the list itself is sorted by it
	Kind  Kind
	By    string   // its value: an expression that is never null
	Names *naming  // of what By is the name, if it is a record of its own, with Key
	Key   string   // the record's key
	Group bool     // rows that have the same make a group worth looking at
	Sum   string   // the number that is added up for a group and for all, if its sum means something
	Costs bool     // a cost or margin, which is not for the floor
	Sort  string   // the number by which rows are sorted, if it grows as By does and an index has it
	Then  []part   // what rows that have the same are sorted by, before what differs between all
	Parts []string // if set: conditions that split the list; its value is the place of the one that holds, which an index cannot find
}

// part is an expression by which rows are sorted, with its kind.
type part struct {
	by   string
	kind Kind
}

// naming says where records that a column names stand, and under which code people know them.
type naming struct {
	table, code, name string
	of                string // the condition of a row that its records are among those of a query, if not that its key is
}

var (
	customersNamed  = &naming{table: "customer", code: "code", name: "name"}
	itemsNamed      = &naming{table: "item", code: "sku", name: "name"}
	warehousesNamed = &naming{table: "warehouse", code: "code", name: "name"}
)

// List is a list of rows that can be sorted, filtered and grouped by its columns.
type List struct {
	Name    string
	Columns []Column
	First   string              // the column by which it is sorted unless another is asked for
	Down    bool                // the greatest first, then
	FirstIn map[string]SortedBy // the same where its scope "state" is one of these
	Page    int                 // how many rows a page has, if not as many as usual
	tie     part                // what differs between all rows
	key     string              // the key of a row: a bigint
	name    string              // what a command calls a row, and the row's version; empty if rows are not chosen
	version string
	chosen  []Filter // which of them can be chosen, if not all
	// counts is the alias of a table by whose columns rows are not found through an index that also sorts them. Few may be found by them: all
	// are read at once, not one after the other in the order of an index.
	counts string
	// begin is what the list reads, and the conditions of what was looked for.
	begin func(r *Reader, ask ListAsk, every bool) (*rows, error)
}

// SortedBy is a column by which a list is sorted, and in which direction.
type SortedBy struct {
	Column string
	Down   bool
}

// Column returns the column of that name.
func (l *List) Column(name string) (Column, bool) {
	i := slices.IndexFunc(l.Columns, func(c Column) bool { return c.Name == name })
	if i < 0 {
		return Column{}, false
	}
	return l.Columns[i], true
}

// Filter lets through rows by a column. Values are as the database reads them: days as YYYY-MM-DD, money in minor units.
type Filter struct {
	Column string
	Op     string // one of FilterOps
	Values []string
}

// FilterOps are how a column is compared: it is one of the values, none of them, has the value as a part, is at least or at most the value.
var FilterOps = []string{"=", "!=", "~", ">=", "<="}

// Mark is a place in a list: a row's values in what the list is sorted by.
type Mark []string

// String writes the mark so that it can be handed out and back.
func (m Mark) String() string {
	data, err := json.Marshal([]string(m))
	if err != nil {
		panic(err) // texts
	}
	return base64.RawURLEncoding.EncodeToString(data)
}

// ReadMark reads a mark that String has written.
func ReadMark(s string) (m Mark, err error) {
	data, err := base64.RawURLEncoding.DecodeString(s)
	if err == nil {
		err = json.Unmarshal(data, &m)
	}
	return m, err
}

// ListAsk is which rows of a list are wanted, and in which order.
type ListAsk struct {
	Words []string // each must be found
	Only  []Filter
	Scope map[string]string // conditions of the list's own, by name
	Today string
	Sort  string // a column; empty for the list's own order
	Down  bool
	After Mark // the place before the first row
	UpTo  Mark // the place of the last one
	Limit int
	Exact bool     // count all that are found, however many there are
	Sums  []string // columns that are added up
}

// rows are the rows of a list that were asked for, as the database is asked for them.
type rows struct {
	list  *List
	ask   ListAsk
	conds []string
	args  map[string]any
	from  func(shows string) string // the tables that are read, of which only those that are shown or chosen by
}

// of is FROM and WHERE of a query that shows expressions.
func (p *rows) of(shows string) string {
	where := strings.Join(p.conds, " AND ")
	return p.from(shows+" "+where) + " WHERE " + where
}

// uses says whether an expression reads from the table of an alias.
func uses(shows, alias string) bool {
	for at := 0; ; {
		i := strings.Index(shows[at:], alias+".")
		if i < 0 {
			return false
		}
		at += i
		if at == 0 || !isNamePart(shows[at-1]) {
			return true
		}
		at += len(alias)
	}
}

func isNamePart(c byte) bool {
	return c == '_' || c == '.' || c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
}

// begin starts a query of the list with its filters. If every is set, all rows that are found are read, not just some.
func (r *Reader) beginList(l *List, ask ListAsk, every bool) (*rows, error) {
	every = every || slices.ContainsFunc(ask.Only, func(f Filter) bool {
		c, known := l.Column(f.Column)
		return known && l.counts != "" && uses(c.By, l.counts)
	})
	p, err := l.begin(r, ask, every)
	if err != nil {
		return nil, err
	}
	p.list, p.ask = l, ask
	for i, f := range ask.Only {
		c, known := l.Column(f.Column)
		if !known {
			return nil, fmt.Errorf("store: the list %s has no column %q", l.Name, f.Column)
		}
		p.conds = append(p.conds, p.filter(c, f, fmt.Sprintf("f%d", i)))
	}
	if len(p.conds) == 0 {
		p.conds = []string{"true"}
	}
	return p, nil
}

// filter is the condition of a filter; its values are arguments of that name.
func (p *rows) filter(c Column, f Filter, name string) string {
	p.args[name] = Texts(f.Values)
	one := ""
	if len(f.Values) > 0 {
		one = f.Values[0]
	}
	sort := sqlTypes[c.Kind]
	switch f.Op {
	case "~":
		p.args[name] = "%" + likeEscape(one) + "%"
		if c.Names != nil {
			return c.among("lower(" + c.Names.code + " || ' ' || " + c.Names.name + ") LIKE lower(@" + name + ")")
		}
		return fmt.Sprintf("lower((%s)::text) LIKE lower(@%s)", c.By, name)
	case ">=", "<=":
		p.args[name] = one
		return fmt.Sprintf("%s %s CAST(@%s AS %s)", c.By, f.Op, name, sort)
	}
	not := ""
	if f.Op == "!=" {
		not = "NOT "
	}
	if c.Names != nil {
		is := c.among(c.Names.code + " = ANY(@" + name + ")")
		if slices.Contains(f.Values, "") {
			is = "(" + is + " OR " + c.Key + " IS NULL)"
		}
		if not != "" {
			return "NOT coalesce(" + is + ", false)"
		}
		return is
	}
	return fmt.Sprintf("%s%s = ANY(CAST(@%s AS %s[]))", not, c.By, name, sort)
}

// among is the condition that the record which a column names is among those of which that is true.
func (c Column) among(is string) string {
	query := "SELECT id FROM " + c.Names.table + " WHERE " + is
	if c.Names.of != "" {
		return strings.ReplaceAll(c.Names.of, "@those", query)
	}
	return c.Key + " IN (" + query + ")"
}

// sorted is the column by which the rows come, and in which direction.
func (p *rows) sorted() (c Column, down bool) {
	c, known := p.list.Column(p.ask.Sort)
	if known {
		return c, p.ask.Down
	}
	own, other := p.list.FirstIn[p.ask.Scope["state"]]
	if !other {
		own = SortedBy{p.list.First, p.list.Down}
	}
	c, _ = p.list.Column(own.Column)
	return c, own.Down != p.ask.Down
}

// order is what the rows are sorted by; of a list in parts, within each of them.
func (p *rows) order(by Column) []part {
	var out []part
	switch {
	case by.Sort != "":
		out = append(out, part{by.Sort, Number})
	case by.Parts == nil:
		out = append(out, part{by.By, by.Kind})
	}
	out = append(out, by.Then...)
	if out != nil && out[len(out)-1].by == p.list.tie.by {
		return out
	}
	return append(out, p.list.tie)
}

// beyond are the conditions that a row lies beyond a place, or before it and at it.
func (p *rows) beyond(order []part, down bool, place []string, name string, before bool) []string {
	var exprs, values []string
	for i, o := range order {
		k := fmt.Sprintf("%s%d", name, i)
		p.args[k] = place[i]
		exprs, values = append(exprs, o.by), append(values, fmt.Sprintf("CAST(@%s AS %s)", k, sqlTypes[o.kind]))
	}
	op := ">"
	if down != before {
		op = "<"
	}
	whole := fmt.Sprintf("(%s) %s (%s)", strings.Join(exprs, ", "), op, strings.Join(values, ", "))
	if before {
		whole = strings.Replace(whole, ") "+op+" (", ") "+op+"= (", 1)
	}
	if len(order) == 1 {
		return []string{whole}
	}
	// The first says nothing new, but an index on the column can follow it.
	return []string{fmt.Sprintf("%s %s= %s", exprs[0], op, values[0]), whole}
}

// ErrMark says that a place is not one of the list as it is sorted.
var ErrMark = errors.New("store: the place is not one of this list")

// Keys returns the keys of so many rows of the list in its order, and the place of the last if there are more.
func (r *Reader) Keys(l *List, ask ListAsk) (ids IDs, next Mark, err error) {
	p, err := r.beginList(l, ask, false)
	if err != nil {
		return nil, nil, err
	}
	by, down := p.sorted()
	if by.Parts == nil {
		ids, last, more, err := p.page(r, by, down, ask.After, ask.UpTo, ask.Limit)
		if !more {
			last = nil
		}
		return ids, last, err
	}
	// A list in parts comes part by part.
	partOf := func(m Mark, none int) (int, Mark, error) {
		switch {
		case m == nil:
			return none, nil, nil
		case len(m) == 0:
			return 0, nil, ErrMark
		}
		i, err := strconv.Atoi(m[0])
		if err != nil || i < 0 || i >= len(by.Parts) {
			return 0, nil, ErrMark
		}
		return i, m[1:], nil
	}
	first, last, step := 0, len(by.Parts)-1, 1
	if down {
		first, last, step = last, first, -1
	}
	from, after, err := partOf(ask.After, first)
	if err != nil {
		return nil, nil, err
	}
	to, upTo, err := partOf(ask.UpTo, last)
	if err != nil {
		return nil, nil, err
	}
	conds := p.conds
	for i := from; (to-i)*step >= 0; i += step {
		p.conds = append(slices.Clone(conds), by.Parts[i])
		var until Mark
		if i == to {
			until = upTo
		}
		some, last, more, err := p.page(r, by, down, after, until, ask.Limit-len(ids))
		if err != nil {
			return nil, nil, err
		}
		if after, ids = nil, append(ids, some...); len(some) > 0 {
			next = append(Mark{strconv.Itoa(i)}, last...)
		}
		if more {
			return ids, next, nil
		}
	}
	return ids, nil, nil
}

// page returns the keys of so many of the rows between two places, the place of the last, and whether there are more.
func (p *rows) page(r *Reader, by Column, down bool, after, upTo Mark, limit int) (ids IDs, last Mark, more bool, err error) {
	order, conds := p.order(by), p.conds
	for i, m := range []Mark{after, upTo} {
		if m == nil {
			continue
		}
		if len(m) != len(order) {
			return nil, nil, false, ErrMark
		}
		p.conds = append(slices.Clone(p.conds), p.beyond(order, down, m, [2]string{"after", "upto"}[i], i == 1)...)
	}
	dir := ""
	if down {
		dir = " DESC"
	}
	var shown, sort, texts, again []string
	for i, o := range order {
		name := fmt.Sprintf("o%d", i)
		shown, sort = append(shown, o.by+" AS "+name), append(sort, o.by+dir)
		texts, again = append(texts, "s."+name+"::text"), append(again, "s."+name+dir)
	}
	shows := strings.Join(shown, ", ")
	found, err := all[struct {
		ID    int64
		Place string
	}](r, fmt.Sprintf(`SELECT s.id, json_build_array(%s)::text AS place
		FROM (SELECT %s AS id, %s FROM %s ORDER BY %s LIMIT %d) s ORDER BY %s`, strings.Join(texts, ", "), p.list.key, shows,
		p.of(p.list.key+" "+shows), strings.Join(sort, ", "), limit+1, strings.Join(again, ", ")), p.args)
	p.conds = conds
	if fault := (*pgconn.PgError)(nil); errors.As(err, &fault) && strings.HasPrefix(fault.Code, "22") && (after != nil || upTo != nil) {
		return nil, nil, false, ErrMark // a value of another kind: class 22, data exception
	}
	if err != nil {
		return nil, nil, false, err
	}
	if more = len(found) > limit; more {
		found = found[:limit]
	}
	if n := len(found); n > 0 {
		err = json.Unmarshal([]byte(found[n-1].Place), &last)
	}
	ids = make(IDs, len(found))
	for i, x := range found {
		ids[i] = x.ID
	}
	return ids, last, more, err
}

// ListSum is how many rows were found, and what they come to by column. If there are more than are counted, More says so and nothing is
// added up.
type ListSum struct {
	N    int64
	More bool
	Sums map[string]int64
}

// counted is the key under which a sum of rows says how many there are.
const counted = "rows"

// sums are aggregates of what those columns of the list add up to, in one JSON object, over rows that show what is returned.
func (l *List) sums(names []string) (shows, object string) {
	var show, of []string
	for i, c := range l.Columns {
		if c.Sum != "" && slices.Contains(names, c.Name) {
			show = append(show, fmt.Sprintf("%s AS s%d", c.Sum, i))
			of = append(of, fmt.Sprintf("'%s', shown(sum(s%d))", c.Name, i))
		}
	}
	of = append(of, "'"+counted+"', count(*)")
	return strings.Join(append(show, "true AS there"), ", "), "json_build_object(" + strings.Join(of, ", ") + ")::text"
}

// Sum says what the rows that were asked for come to. Where words are looked for, those that have them are found once: if they are few
// enough to be counted, what follows is asked of them.
func (r *Reader) Sum(l *List, ask ListAsk) (ListSum, error) {
	p, err := r.beginList(l, ask, ask.Exact)
	if err != nil {
		return ListSum{}, err
	}
	most := ""
	if !ask.Exact {
		most = fmt.Sprintf(" LIMIT %d", MostCounted+1)
	}
	more := ListSum{N: MostCounted, More: true, Sums: map[string]int64{}}
	if len(ask.Words) > 0 && !ask.Exact {
		found, err := all[struct{ ID int64 }](r, "SELECT "+l.key+" AS id FROM "+p.of(l.key)+most, p.args)
		if err != nil {
			return ListSum{}, err
		}
		if len(found) > MostCounted {
			return more, nil
		}
		p.conds, p.args["found"] = []string{l.key + " = ANY(@found)"}, idsOf(found)
	}
	shows, object := l.sums(ask.Sums)
	row, _, err := one[struct{ Sums string }](
		r, fmt.Sprintf("SELECT %s AS sums FROM (SELECT %s FROM %s%s) f", object, shows, p.of(shows), most), p.args,
	)
	if err != nil {
		return ListSum{}, err
	}
	n, sums, err := readSums(row.Sums)
	if err == nil && !ask.Exact && n > MostCounted {
		return more, nil
	}
	return ListSum{N: n, Sums: sums}, err
}

func readSums(object string) (n int64, sums map[string]int64, err error) {
	err = json.Unmarshal([]byte(object), &sums)
	n = sums[counted]
	delete(sums, counted)
	return n, sums, err
}

// ListGroup is rows that are alike in something, with what they come to.
type ListGroup struct {
	Value string // as a filter takes it
	Name  string // of the record, where Value is its code
	N     int64
	Sums  map[string]int64
}

// GroupOf adds up the rows that were asked for by a column: so many groups, and how many there are. Days and numbers come in their own
// order, others with the most rows first; or all by a sum.
func (r *Reader) GroupOf(l *List, ask ListAsk, by string, limit int) (groups []ListGroup, total int64, err error) {
	c, known := l.Column(by)
	if !known || !c.Group {
		return nil, 0, fmt.Errorf("store: the list %s is not grouped by %q", l.Name, by)
	}
	p, err := r.beginList(l, ask, true)
	if err != nil {
		return nil, 0, err
	}
	value := c.By
	if c.Names != nil {
		value = c.Key
	}
	order := "grouped.value"
	if c.Kind == Text {
		order = "grouped.n DESC, grouped.value"
	}
	if s, known := l.Column(ask.Sort); known && slices.Contains(ask.Sums, s.Name) {
		order = fmt.Sprintf("(grouped.sums::json ->> '%s')::bigint DESC, grouped.value", s.Name)
	}
	shows, object := l.sums(ask.Sums)
	found, err := all[struct {
		Value, Sums string
		N, Groups   int64
	}](r, fmt.Sprintf(`
		WITH grouped AS MATERIALIZED (
			SELECT f.value, count(*) AS n, %s AS sums FROM (SELECT %s AS value, %s FROM %s) f GROUP BY f.value)
		SELECT grouped.value::text AS value, grouped.n, grouped.sums, (SELECT count(*) FROM grouped) AS groups
		FROM grouped ORDER BY %s LIMIT %d`, object, value, shows, p.of(value+" "+shows), order, limit), p.args)
	if err != nil {
		return nil, 0, err
	}
	for _, x := range found {
		g := ListGroup{Value: x.Value, N: x.N}
		if _, g.Sums, err = readSums(x.Sums); err != nil {
			return nil, 0, err
		}
		groups, total = append(groups, g), x.Groups
	}
	if c.Names != nil {
		err = r.nameGroups(groups, c.Names)
	}
	return groups, total, err
}

// nameGroups puts codes and names in place of keys.
func (r *Reader) nameGroups(groups []ListGroup, n *naming) error {
	var keys Texts
	for _, g := range groups {
		if g.Value != "" {
			keys = append(keys, g.Value)
		}
	}
	found, err := all[struct{ ID, Code, Name string }](
		r, fmt.Sprintf(`SELECT id::text AS id, %s AS code, %s AS name FROM %s WHERE id = ANY(CAST(? AS bigint[]))`, n.code, n.name, n.table),
		keys,
	)
	at := map[string]int{}
	for i, x := range found {
		at[x.ID] = i
	}
	for i := range groups {
		if k, known := at[groups[i].Value]; known {
			groups[i].Value, groups[i].Name = found[k].Code, found[k].Name
		}
	}
	return err
}

// Chosen says whether rows of the list can be chosen for a command.
func (l *List) Chosen() bool { return l.name != "" }

// ChosenRow is a row as a command takes it.
type ChosenRow struct {
	ID      int64
	Name    string
	Version int64
}

// Choose returns the rows that were asked for, at most so many, in the list's order, whether there are more, and what they come to; all of
// one picture of the database.
func (s *Store) Choose(
	ctx context.Context, l *List, ask ListAsk, most int,
) (rows []ChosenRow, sums map[string]int64, more bool, err error) {
	err = s.g.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		r := &Reader{g}
		ask.Limit, ask.Only = most, slices.Concat(ask.Only, l.chosen)
		ids, next, err := r.Keys(l, ask)
		if err != nil {
			return err
		}
		more = next != nil
		p, err := l.begin(r, ListAsk{Today: ask.Today, Scope: ask.Scope}, false)
		if err != nil {
			return err
		}
		p.conds, p.args["ids"] = []string{l.key + " = ANY(@ids)"}, ids
		of := l.key + " " + l.name + " " + l.version
		rows, err = all[ChosenRow](
			r, fmt.Sprintf("SELECT %s AS id, %s AS name, %s AS version FROM %s", l.key, l.name, l.version, p.of(of)), p.args,
		)
		if err != nil {
			return err
		}
		rows = inKeyOrder(ids, rows, func(c ChosenRow) int64 { return c.ID })
		shows, object := l.sums(ask.Sums)
		row, _, err := one[struct{ Sums string }](
			r, fmt.Sprintf("SELECT %s AS sums FROM (SELECT %s FROM %s) f", object, shows, p.of(shows)), p.args,
		)
		if err == nil {
			_, sums, err = readSums(row.Sums)
		}
		return err
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	return rows, sums, more, err
}

// Each calls step with the values of columns for every row that was asked for, in the list's order, as texts; all of one picture of the
// database. Days that are none are empty.
func (s *Store) Each(ctx context.Context, l *List, ask ListAsk, columns []Column, step func(values []string) error) error {
	return s.g.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		r := &Reader{g}
		ask.Limit = 2000
		for {
			ids, next, err := r.Keys(l, ask)
			if err != nil {
				return err
			}
			if err := r.values(l, ask, ids, columns, step); err != nil || next == nil {
				return err
			}
			ask.After = next
		}
	}, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
}

// values calls step with the values of columns for the rows of those keys, in their order.
func (r *Reader) values(l *List, ask ListAsk, ids IDs, columns []Column, step func([]string) error) error {
	p, err := l.begin(r, ListAsk{Today: ask.Today, Scope: ask.Scope}, false)
	if err != nil {
		return err
	}
	shown := make([]string, len(columns))
	for i, c := range columns {
		shown[i] = "(" + c.By + ")::text"
	}
	p.conds, p.args["ids"] = []string{l.key + " = ANY(@ids)"}, ids
	shows := strings.Join(shown, ", ")
	found, err := all[struct {
		ID     int64
		Values string
	}](r, fmt.Sprintf("SELECT %s AS id, json_build_array(%s)::text AS values FROM %s", l.key, shows, p.of(l.key+" "+shows)), p.args)
	if err != nil {
		return err
	}
	at := make(map[int64]string, len(found))
	for _, x := range found {
		at[x.ID] = x.Values
	}
	for _, id := range ids {
		row, there := at[id]
		if !there {
			continue
		}
		var values []string
		if err := json.Unmarshal([]byte(row), &values); err != nil {
			return err
		}
		for i, v := range values {
			if v == Never && (columns[i].Kind == Day || columns[i].Kind == Moment) {
				values[i] = ""
			}
		}
		if err := step(values); err != nil {
			return err
		}
	}
	return nil
}
