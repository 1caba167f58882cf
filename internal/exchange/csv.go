// Package exchange reads and writes open formats. This half reads the files of
// docs/import.md, CSV and XLSX: it knows their columns and says exactly what is wrong with
// a row; whether a row fits what is in the database is decided at the desk.
package exchange

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"iter"
	"maps"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"journeyman/internal/words"
)

// File is a file, CSV or XLSX, as it is handed over.
type File struct {
	Name string
	Data []byte
	Text io.Reader // in place of Data: it is read once
}

func (f File) open() io.Reader {
	if f.Text != nil {
		return f.Text
	}
	return bytes.NewReader(f.Data)
}

// Kind is what a file holds.
type Kind string

// The kinds of files, in the order in which they are applied.
const (
	Items       Kind = "items"
	Substitutes Kind = "substitutes"
	Zones       Kind = "zones"
	Stock       Kind = "stock"
	Customers   Kind = "customers"
	Inbound     Kind = "inbound"
	Orders      Kind = "orders"
	LeftOut     Kind = "left out" // a file or sheet that is not read
)

// Fault is what is wrong with a file, and where: the same in however many rows.
type Fault struct {
	File     string        `json:"file"`
	Row      int           `json:"row" doc:"Line in the file, the header being 1; 0 if the whole file is meant; of several rows the first"`
	Column   string        `json:"column"`
	Got      string        `json:"got" doc:"In that row"`
	Expected words.Message `json:"expected"`
	Mend     words.Message `json:"mend,omitzero" doc:"What would mend it, if more can be said than what was expected"`
	Times    int           `json:"times" doc:"In how many rows it is so"`
	Rows     []int         `json:"rows" doc:"The first of them"`
}

// Error is the fault in a sentence.
func (f Fault) Error() string {
	where := f.File
	if f.Row > 0 {
		where += fmt.Sprintf(", row %d", f.Row)
	}
	if f.Column != "" {
		where += ", column " + f.Column
	}
	said := fmt.Sprintf("%s: expected %s", where, f.Expected)
	if f.Got != "" {
		said = fmt.Sprintf("%s: %q, expected %s", where, f.Got, f.Expected)
	}
	if f.Times > 1 {
		said += fmt.Sprintf(" (so in %d rows)", f.Times)
	}
	return said
}

// alike names what is wrong without the row and without the numbers in it: faults that are alike are gathered.
func (f Fault) alike() string {
	return f.File + "\x00" + f.Column + "\x00" + digits.ReplaceAllString(f.Expected.String(), "#")
}

var digits = regexp.MustCompile(`\d+`)

// Row is a row of a file with its line number.
type Row[T any] struct {
	N int
	V T
}

// Staged is a row as it was read. Rows that have to do with each other have the same A, and sort by B and N.
type Staged struct {
	Kind Kind
	N    int
	A, B string
	V    any // an ItemRow, a StockRow …, by the kind
}

// Found is what is known of the files of an import besides their rows.
type Found struct {
	Names  map[Kind]string // the file in which each kind was found
	Rows   map[Kind]int
	Houses []House // that a stock file names, in its order; a few more than there may be
	Sum    []byte  // SHA-256 of all that was read
	Shapes []Shape // of the files
	Faults []Fault
	Faulty int   // faults in all; Faults lists the first MostFaults that are not alike
	Err    error // why reading had to be given up, if it is not the files' fault

	alike map[string]int // where in Faults each stands
}

// Asks says whether something has to be said before a file can be read.
func (b *Found) Asks() bool {
	return slices.ContainsFunc(b.Shapes, func(s Shape) bool { return s.Asks != "" })
}

// Clone returns a copy to which faults can be added without changing b.
func (b *Found) Clone() Found {
	c := *b
	c.Faults, c.alike = slices.Clone(b.Faults), maps.Clone(b.alike)
	for i := range c.Faults {
		c.Faults[i].Rows = slices.Clone(c.Faults[i].Rows)
	}
	return c
}

// House is a warehouse as a stock file names it.
type House struct{ Code, Name string }

// mostNamed is how many warehouses of a file are listed.
const mostNamed = 500

func (b *Found) house(r StockRow) {
	if r.Warehouse != "" && len(b.Houses) < mostNamed &&
		!slices.ContainsFunc(b.Houses, func(h House) bool { return h.Code == r.Warehouse }) {
		b.Houses = append(b.Houses, House{r.Warehouse, r.WarehouseName})
	}
}

// What is read of a file at most. Beyond it a file is refused, before it takes memory.
const (
	MostFaults  = 200     // faults, of those that are alike one, that are listed
	mostListed  = 5       // rows of a fault that are listed
	mostColumns = 200     // of a file
	mostRecord  = 1 << 18 // bytes of a row, and of the header
)

// Fault adds a fault. Those that are alike are gathered into one.
func (b *Found) Fault(f Fault) {
	b.Faulty++
	key := f.alike()
	if i, known := b.alike[key]; known {
		known := &b.Faults[i]
		if known.Times++; len(known.Rows) < mostListed {
			known.Rows = append(known.Rows, f.Row)
		}
		return
	}
	if len(b.Faults) == MostFaults {
		return
	}
	if len(f.Got) > 200 {
		f.Got = strings.ToValidUTF8(f.Got[:200], "") + "…"
	}
	f.Times, f.Rows = 1, []int{}
	if f.Row > 0 {
		f.Rows = append(f.Rows, f.Row)
	}
	if b.alike == nil {
		b.alike = map[string]int{}
	}
	b.alike[key] = len(b.Faults)
	b.Faults = append(b.Faults, f)
}

// All is the number of rows in all files.
func (b *Found) All() (n int) {
	for _, rows := range b.Rows {
		n += rows
	}
	return n
}

// Reading says how files are read.
type Reading struct {
	// Kept returns how files of a shape (ShapeOf) are read, if that was said; nil if it never was.
	Kept func(shape string) (Mapping, bool)
	// Ask: what cannot be known of a file is asked (Shape.Asks), and the file left out; else it is a fault.
	Ask bool
}

// Scan reads files one after another and hands over their rows one by one: it keeps none of them. Which file is which is told by its
// columns, not its name. Faults of form are in what was Found once the last row was handed over. step is called now and then with
// the number of bytes read.
func Scan(files iter.Seq[File], reading Reading, step func(done int)) (*Found, iter.Seq[Staged]) {
	b := &Found{Names: map[Kind]string{}, Rows: map[Kind]int{}}
	return b, func(yield func(Staged) bool) {
		sum := sha256.New()
		done, going := 0, true
		for f := range files {
			fmt.Fprintf(sum, "%q", f.Name)
			counted := &counting{r: io.TeeReader(f.open(), sum), step: step, done: done}
			going = b.scan(f.Name, counted, reading, yield)
			if done = counted.done; !going || b.Err != nil {
				break
			}
		}
		b.Sum = sum.Sum(nil)
		step(done)
	}
}

// counting counts what is read, and reads no more of a row than it may have.
type counting struct {
	r    io.Reader
	step func(int)
	done int
	left int // of the row
	err  error
}

var errLongRow = errors.New("the row is too long")

func (c *counting) Read(p []byte) (int, error) {
	if c.left <= 0 {
		c.err = errLongRow
		return 0, c.err
	}
	n, err := c.r.Read(p)
	if c.done/(1<<20) != (c.done+n)/(1<<20) {
		c.step(c.done + n)
	}
	c.done += n
	c.left -= n
	if err != nil {
		c.err = err
	}
	return n, err
}

// row allows as many bytes again as a row may have.
func (c *counting) row() { c.left = mostRecord }

// scan reads a file and says whether whoever takes the rows wants more.
func (b *Found) scan(name string, from *counting, reading Reading, yield func(Staged) bool) bool {
	from.row()
	in := bufio.NewReaderSize(from, 4096)
	if magic, _ := in.Peek(4); bytes.Equal(magic, []byte("PK\x03\x04")) {
		return b.scanWorkbook(name, in, from, reading, yield)
	}
	if bom, _ := in.Peek(3); bytes.Equal(bom, []byte("\xef\xbb\xbf")) {
		_, _ = in.Discard(3)
	}
	first, _ := in.Peek(4096)
	first, _, _ = bytes.Cut(first, []byte("\n"))
	r := csv.NewReader(in)
	r.FieldsPerRecord = -1
	r.ReuseRecord = true
	for _, sep := range ";\t|" {
		if bytes.Count(first, []byte(string(sep))) > bytes.Count(first, []byte(string(r.Comma))) {
			r.Comma = sep
		}
	}
	s := &sheet{b: b, name: name, source: &csvSource{b: b, name: name, r: r, from: from}, yield: yield}
	s.usual = Formats{YearFirst, Point}
	if r.Comma == ';' {
		s.usual.Decimal = Comma
	}
	return s.scan(reading)
}

// scan reads the records of a file or sheet and says whether whoever takes the rows wants more.
func (s *sheet) scan(reading Reading) bool {
	b := s.b
	before := b.Faulty
	header, ok := s.next()
	if !ok {
		if b.Faulty == before && b.Err == nil {
			b.Fault(Fault{File: s.name, Expected: words.Say("a first row with the names of the columns")})
		}
		return true
	}
	if len(header) > mostColumns {
		b.Fault(Fault{
			File: s.name, Row: s.line, Got: fmt.Sprintf("%d columns", len(header)), Expected: words.Say("at most %d", mostColumns),
		})
		return true
	}
	shape := Shape{File: s.name}
	seen := map[string]bool{}
	for _, h := range header {
		shape.Header = append(shape.Header, strings.Clone(strings.TrimSpace(h)))
		h = plainName(h)
		if h != "" && seen[h] {
			b.Fault(Fault{File: s.name, Row: s.line, Column: h, Expected: words.Say("each column once")})
			return true
		}
		seen[h] = true
		s.names = append(s.names, h)
	}
	s.width = len(s.names)
	s.readAhead(aheadRows)
	shape.Samples = s.samples()
	err := s.choose(&shape, reading)
	if err == nil && shape.Asks == "" && shape.Mapping.Kind != LeftOut {
		if other, twice := b.Names[shape.Mapping.Kind]; twice {
			err = &Fault{Expected: words.Say("one file of %s; %s is one already", shape.Mapping.Kind, other)}
		}
	}
	if err != nil {
		err.File = s.name
		b.Fault(*err)
		return true
	}
	if shape.Mapping.Columns == nil {
		shape.Mapping.Columns = []ColumnUse{}
	}
	if shape.Mapping.Always == nil {
		shape.Mapping.Always = []FixedValue{}
	}
	b.Shapes = append(b.Shapes, shape)
	if shape.Asks != "" || shape.Mapping.Kind == LeftOut {
		return true
	}
	s.formats, s.kind = shape.Mapping.Formats, shape.Mapping.Kind
	for i, n := range s.names {
		s.names[i] = shape.Mapping.as(n)
	}
	for _, f := range shape.Mapping.Always {
		s.names, s.always = append(s.names, f.Column), append(s.always, f.Value)
	}
	b.Names[s.kind] = s.name
	switch s.kind {
	case Items:
		return readRows(s, itemColumns, func(r *ItemRow) (string, string) { return r.SKU, "" })
	case Substitutes:
		return readRows(s, substituteColumns, func(r *SubstituteRow) (string, string) { return r.SKU, r.Substitute })
	case Zones:
		return readRows(s, zoneColumns, func(r *ZoneRow) (string, string) { return r.Zone, "" })
	case Stock:
		return readRows(s, stockColumns, func(r *StockRow) (string, string) {
			b.house(*r)
			return r.SKU, r.Warehouse + "\x1f" + r.Bin
		})
	case Customers:
		return readRows(s, customerColumns, func(r *CustomerRow) (string, string) { return r.Customer, "" })
	case Inbound:
		return readRows(s, inboundColumns, func(r *InboundRow) (string, string) { return r.SKU, r.Ref + "\x1f" + r.Warehouse })
	case Orders, LeftOut:
	}
	return readRows(s, orderColumns, func(r *OrderRow) (string, string) { return r.Order, "" })
}

// choose finds out how the file is read: as was said of files of this shape, or as its columns say; what cannot be known is asked, or a
// fault.
func (s *sheet) choose(shape *Shape, reading Reading) *Fault {
	if reading.Kept != nil {
		if m, kept := reading.Kept(ShapeOf(s.names)); kept && m.Check() == nil {
			shape.Mapping, shape.Kept = m, true
			return nil
		}
	}
	kind, wrong := kindOf(s.names)
	if wrong == nil {
		wrong = fits(kind, s.names)
	}
	if wrong != nil && reading.Ask {
		shape.Asks, shape.Mapping = "columns", propose(s.names)
		formats, sure := s.recognise(shape.Mapping.as)
		if shape.Mapping.Formats = formats; !sure {
			shape.Mapping.Days = DayFirst
		}
		return nil
	}
	if wrong != nil {
		wrong.Row = s.line
		return wrong
	}
	shape.Mapping.Kind = kind
	for _, n := range s.names {
		shape.Mapping.Columns = append(shape.Mapping.Columns, ColumnUse{n, n})
	}
	formats, sure := s.recognise(func(name string) string { return name })
	shape.Mapping.Formats = formats
	switch {
	case sure:
	case reading.Ask:
		shape.Asks = "days"
	default:
		shape.Mapping.Days = YearFirst // so that each of them is a fault
	}
	return nil
}

// recognise says how days and numbers are written in what was read ahead, where a column is what as says; sure is false if days may begin
// with the day or with the month.
func (s *sheet) recognise(as func(name string) string) (f Formats, sure bool) {
	f, sure = s.usual, true
	var written []string
	for i, n := range s.names {
		column := as(n)
		if slices.Contains(dayColumns, column) {
			written = append(written, s.column(i)...)
			continue
		}
		if slices.Contains(numberColumns, column) {
			if d, any := recogniseDecimal(s.column(i)); any {
				f.Decimal = d
			}
		}
	}
	if order, certain, any := recogniseDays(written); any {
		f.Days, sure = order, certain
	}
	return f, sure
}

func kindOf(names []string) (Kind, *Fault) {
	has := func(cols ...string) bool {
		for _, c := range cols {
			if !slices.Contains(names, c) {
				return false
			}
		}
		return true
	}
	switch {
	case has("order", "line"):
		return Orders, nil
	case has("ref", "due"):
		return Inbound, nil
	case has("substitute"):
		return Substitutes, nil
	case has("zone", "days"):
		return Zones, nil
	case has("on_hand"):
		return Stock, nil
	case has("customer", "ship_to"):
		return Customers, nil
	case has("sku", "name"):
		return Items, nil
	}
	return "", &Fault{Expected: words.Say("the columns of one of the seven files: items (sku, name), substitutes (sku, substitute), " +
		"zones (zone, days), stock (warehouse, sku, on_hand), " +
		"customers (customer, name, ship_to), inbound (ref, sku, warehouse, due, qty), orders (order, line, customer, sku, qty, wanted)")}
}

// fits says why a file with those columns is none of the kind.
func fits(k Kind, names []string) *Fault {
	columns := columnsOf(k)
	known := make([]string, len(columns))
	for i, c := range columns {
		known[i] = c.Name
	}
	for _, n := range names {
		if n != "" && !slices.Contains(known, n) {
			return &Fault{Column: n, Expected: words.Say("one of the columns %s", strings.Join(known, ", "))}
		}
	}
	for _, c := range columns {
		if c.Required && !slices.Contains(names, c.Name) {
			return &Fault{Column: c.Name, Expected: words.Say("a column of this name")}
		}
	}
	return nil
}

// column is one column of a file and what its text becomes.
type column[T any] struct {
	name     string
	required bool
	set      func(*T, string) error // the error says what was expected
}

// source hands over the records of a file, each with its line. ok is false at the end, and where it cannot be read any further.
type source interface {
	record() (rec []string, line int, ok bool)
	// typed says whether numbers and days are kept as such, and not as somebody wrote them.
	typed() bool
}

// sheet is a file, or a sheet of one, being read.
type sheet struct {
	b       *Found
	name    string
	kind    Kind
	source  source
	usual   Formats // where nothing shows another
	formats Formats
	line    int // of the record that was read last
	ahead   []readAhead
	ended   bool     // the source has no more
	width   int      // how many columns the file has
	names   []string // what they are, and after them what is always the same
	always  []string
	yield   func(Staged) bool
}

type readAhead struct {
	rec  []string
	line int
}

// How much is read ahead to find out how days and numbers are written.
const (
	aheadRows  = 300
	aheadBytes = 1 << 20
)

func (s *sheet) next() (rec []string, ok bool) {
	if len(s.ahead) > 0 {
		rec, s.line = s.ahead[0].rec, s.ahead[0].line
		s.ahead = s.ahead[1:]
		return rec, true
	}
	rec, line, ok := s.record()
	if ok {
		s.line = line
	}
	return rec, ok
}

// record reads from the source until it has no more.
func (s *sheet) record() (rec []string, line int, ok bool) {
	if s.ended {
		return nil, 0, false
	}
	rec, line, ok = s.source.record()
	s.ended = !ok
	return rec, line, ok
}

// readAhead reads until so many records are ahead, or there are no more.
func (s *sheet) readAhead(most int) {
	size := 0
	for len(s.ahead) < most && size < aheadBytes {
		rec, line, ok := s.record()
		if !ok {
			break
		}
		kept := make([]string, len(rec))
		for i, text := range rec {
			kept[i] = strings.Clone(text)
			size += len(text) + 16
		}
		s.ahead = append(s.ahead, readAhead{kept, line})
	}
}

// column is what stands in a column of what was read ahead.
func (s *sheet) column(i int) (out []string) {
	for _, a := range s.ahead {
		if i < len(a.rec) {
			if text := strings.TrimSpace(a.rec[i]); text != "" {
				out = append(out, text)
			}
		}
	}
	return out
}

// samples are three different texts of each column.
func (s *sheet) samples() [][]string {
	out := make([][]string, s.width)
	for i := range out {
		out[i] = []string{}
		for _, text := range s.column(i) {
			if len(out[i]) < 3 && !slices.Contains(out[i], text) {
				if len(text) > 60 {
					text = strings.ToValidUTF8(text[:60], "") + "…"
				}
				out[i] = append(out[i], text)
			}
		}
	}
	return out
}

// csvSource reads a CSV file.
type csvSource struct {
	b    *Found
	name string
	r    *csv.Reader
	from *counting
	line int
}

func (*csvSource) typed() bool { return false }

func (s *csvSource) record() (rec []string, line int, ok bool) {
	s.from.row()
	rec, err := s.r.Read()
	fault := func(row int, pattern string, args ...any) {
		s.b.Fault(Fault{File: s.name, Row: row, Expected: words.Say(pattern, args...)})
	}
	var wrong *csv.ParseError
	switch {
	case errors.Is(s.from.err, errLongRow):
		fault(s.line+1, "rows of at most %d kB, with quotes that are closed", mostRecord>>10)
	case s.from.err != nil && !errors.Is(s.from.err, io.EOF):
		s.b.Err = s.from.err
	case errors.Is(err, io.EOF):
	case errors.As(err, &wrong):
		fault(wrong.StartLine, "quotes that are closed, and doubled inside a quoted field")
	case err != nil:
		s.b.Err = err
	default:
		s.line, _ = s.r.FieldPos(0)
		if slices.ContainsFunc(rec, func(text string) bool { return !utf8.ValidString(text) }) {
			fault(s.line, "text in UTF-8: save the file as “CSV UTF-8”")
			return nil, 0, false
		}
		return rec, s.line, true
	}
	return nil, 0, false
}

// readRows hands over the rows of a file with what they are about and which part of it, and says whether more are wanted.
func readRows[T any](s *sheet, columns []column[T], named func(*T) (a, b string)) bool {
	at := make([]*column[T], len(s.names))
	for i, n := range s.names {
		if k := slices.IndexFunc(columns, func(c column[T]) bool { return c.name == n }); k >= 0 {
			at[i] = &columns[k]
		}
	}
	whole := make([]string, 0, len(s.names))
	for {
		rec, ok := s.next()
		if !ok {
			return true
		}
		if blank(rec) {
			continue
		}
		if len(rec) != s.width {
			s.b.Fault(Fault{
				File: s.name, Row: s.line, Got: fmt.Sprintf("%d fields", len(rec)),
				Expected: words.Say("%d, as in the header", s.width),
			})
			continue
		}
		whole = append(append(whole[:0], rec...), s.always...)
		var v T
		for i, text := range whole {
			c := at[i]
			if c == nil {
				continue
			}
			text = strings.Clone(strings.TrimSpace(text))
			if text == "" {
				if c.required {
					s.b.Fault(Fault{File: s.name, Row: s.line, Column: c.name, Expected: words.Say("a value; it may not be empty")})
				}
				continue
			}
			read, mend := s.plain(c.name, text)
			if err := c.set(&v, read); err != nil {
				s.b.Fault(Fault{File: s.name, Row: s.line, Column: c.name, Got: text, Expected: said(err), Mend: mend})
			}
		}
		s.b.Rows[s.kind]++
		a, b := named(&v)
		if a = plain(a); a == "" {
			continue // what it is about is a fault already
		}
		if !s.yield(Staged{s.kind, s.line, a, plain(b), v}) {
			return false
		}
	}
}

// plain writes a day or a number as columns read them, by the formats of the file; and says what would mend it if it is none.
func (s *sheet) plain(column, text string) (read string, mend words.Message) {
	if slices.Contains(dayColumns, column) {
		if s.source.typed() {
			if day, ok := daySerial(text); ok {
				return day, mend
			}
		}
		if day, ok := plainDay(text, s.formats.Days); ok {
			return day, mend
		}
		return text, words.Say("If all days in the file are written like this, change how it is read.")
	}
	if !slices.Contains(numberColumns, column) {
		if s.source.typed() && exponent.MatchString(text) {
			text = plainFloat(text) // the number of an article that was kept as a number
		}
		return text, mend
	}
	if s.source.typed() {
		text = plainFloat(text)
	}
	if text = plainNumber(text, s.formats.Decimal); strings.ContainsAny(text, ".,") {
		mend = words.Say("If the point or the comma means something else in this file, change how it is read.")
	}
	return text, mend
}

// plain is a name without what no name has, and the database does not take; a row with such a name is a fault already.
func plain(s string) string { return strings.ReplaceAll(s, "\x00", "") }

func blank(rec []string) bool {
	for _, f := range rec {
		if strings.TrimSpace(f) != "" {
			return false
		}
	}
	return true
}
