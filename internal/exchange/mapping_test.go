package exchange

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"
)

func TestDaysAreReadAsTheFileWritesThem(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		texts []string
		order DayOrder
		sure  bool
		any   bool
	}{
		{nil, YearFirst, true, false},
		{[]string{"2027-03-01", "x", "2027-03-01T09:30"}, YearFirst, true, false},
		{[]string{"03/04/2027", "13/04/2027"}, DayFirst, true, true},
		{[]string{"03/04/2027", "04/13/2027"}, MonthFirst, true, true},
		{[]string{"03/04/2027", "04/03/27"}, DayFirst, false, true},
		{[]string{"13/04/2027", "04/13/2027"}, DayFirst, false, true},
		{[]string{"3.4.2027"}, DayFirst, true, true},
		{[]string{"3 Apr 2027"}, YearFirst, true, false},
	} {
		order, sure, any := recogniseDays(x.texts)
		if order != x.order || sure != x.sure || any != x.any {
			t.Errorf("%q: %s %v %v", x.texts, order, sure, any)
		}
	}
	for _, x := range []struct{ text, order, want string }{
		{"1/12/2027", "dmy", "2027-12-01"},
		{"1/12/2027", "mdy", "2027-01-12"},
		{"1/12/2027", "ymd", ""},
		{"1.12.27", "mdy", "2027-12-01"},
		{"1-12-2027", "dmy", "2027-12-01"},
		{"1 Dec 2027", "ymd", "2027-12-01"},
		{"1-Sept-27", "ymd", "2027-09-01"},
		{"1/12/2027 14:30", "dmy", "2027-12-01 14:30"},
		{"2027-12-01", "dmy", "2027-12-01"},
		{"30/2/2027", "dmy", ""},
		{"12/13/2027", "dmy", ""},
		{"0/1/2027", "dmy", ""},
		{"1 Dez 2027", "dmy", ""},
		{"tomorrow", "dmy", ""},
	} {
		if got, ok := plainDay(x.text, DayOrder(x.order)); got != x.want || ok != (x.want != "") {
			t.Errorf("%q as %s: %q %v, want %q", x.text, x.order, got, ok, x.want)
		}
	}
	for text, want := range map[string]string{"46387": "2026-12-31", "46387.5": "2026-12-31 12:00", "7": "", "x": ""} {
		if got, ok := daySerial(text); got != want || ok != (want != "") {
			t.Errorf("%s: %q %v", text, got, ok)
		}
	}
}

func TestNumbersAreReadAsTheFileWritesThem(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		text string
		want DecimalMark
	}{
		{"1,234.50", Point},
		{"1.234,50", Comma},
		{"12,5", Comma},
		{"12.5", Point},
		{"1,234,567", Point},
		{"1.234.567", Comma},
		{"1,234", ""},
		{"1.234", ""},
		{"0,125", Comma},
		{"1 234,5", Comma},
		{"1234", ""},
		{"£1.20", ""},
	} {
		got, any := recogniseDecimal([]string{x.text})
		if got != x.want || any != (x.want != "") {
			t.Errorf("%q: %q", x.text, got)
		}
	}
	for _, x := range []struct {
		text    string
		decimal DecimalMark
		want    string
	}{
		{"1,234.50", Point, "1234.50"},
		{"1.234,50", Comma, "1234.50"},
		{"1 234,50", Comma, "1234.50"},
		{"1'234.50", Point, "1234.50"},
		{"12,50", Point, "12,50"}, // no thousands: it is refused, not read as 1,250
		{"1,23,456", Point, "1,23,456"},
		{"1.2.3", Point, "1.2.3"},
		{"1,234", Comma, "1.234"},
		{"1234", Comma, "1234"},
		{"-1,234", Point, "-1234"},
		{"£5", Point, "£5"},
	} {
		if got := plainNumber(x.text, x.decimal); got != x.want {
			t.Errorf("%q by %s: %q, want %q", x.text, x.decimal, got, x.want)
		}
	}
	for text, want := range map[string]string{
		"12.100000000000001": "12.1", "0.30000000000000004": "0.3", "1E3": "1000", "4.006381333931E+12": "4006381333931", "42": "42",
		"000000000001": "1", "x1234567890123": "x1234567890123",
	} {
		if got := plainFloat(text); got != want {
			t.Errorf("%s: %s", text, got)
		}
	}
}

const foreign = "Order No;Pos;Account;Item Code;Description;Ordered Qty;Requested Date;Unit Price\n" +
	"A-1;1;C1;GL-1;Glaze;1.200;13.12.2027;1.234,50\nA-1;2;C1;GL-2;Glaze;3;3.4.2027;2,00\n"

func TestAFileUnderOtherNamesIsAskedAboutOnce(t *testing.T) {
	t.Parallel()
	b := readAs(Reading{Ask: true}, File{Name: "f.csv", Data: []byte(foreign)})
	if b.Faulty != 0 || len(b.Shapes) != 1 || !b.Asks() || len(b.rows) != 0 {
		t.Fatalf("%+v", b.Found)
	}
	s := b.Shapes[0]
	if s.Asks != "columns" || s.Kept || s.Mapping.Kind != Orders || s.Mapping.Days != DayFirst || s.Mapping.Decimal != Comma {
		t.Fatalf("%+v", s)
	}
	want := []string{"order", "line", "customer", "sku", "", "qty", "wanted", "price"}
	for i, h := range s.Header {
		if got := s.Mapping.as(plainName(h)); got != want[i] {
			t.Errorf("%s is proposed as %q, want %q", h, got, want[i])
		}
	}
	if !slices.Equal(s.Samples[5], []string{"1.200", "3"}) {
		t.Errorf("samples %q", s.Samples[5])
	}
	if err := s.Mapping.Check(); err != nil {
		t.Error(err)
	}
	// As it was proposed, the next file of that shape is read, whatever the order and capitals of its columns.
	kept := map[string]Mapping{ShapeOf(s.Header): s.Mapping}
	how := Reading{Ask: true, Kept: func(shape string) (Mapping, bool) { m, known := kept[shape]; return m, known }}
	b = readAs(how, File{Name: "g.csv", Data: []byte(foreign)})
	if b.Faulty != 0 || b.Asks() || len(b.rows[Orders]) != 2 || !b.Shapes[0].Kept {
		t.Fatalf("%+v", b.Found)
	}
	if r := b.rows[Orders][0].V.(OrderRow); r.Qty != 1200 || r.Wanted != "2027-12-13" || *r.Price != 123450 || r.SKU != "GL-1" {
		t.Errorf("%+v", r)
	}
	turned := "unit price;ORDER NO;pos;account;item code;description;ordered qty;requested date\n1,00;A-2;1;C1;GL-1;x;5;1.12.2027\n"
	if b = readAs(how, File{Name: "h.csv", Data: []byte(turned)}); b.Faulty != 0 || len(b.rows[Orders]) != 1 {
		t.Errorf("%+v", b.Found)
	}
	// Without asking it is a fault, as it was.
	if b = readAs(Reading{}, File{Name: "f.csv", Data: []byte(foreign)}); b.Faulty != 1 || b.Asks() {
		t.Errorf("%+v", b.Found)
	}
}

func TestDaysThatMayBeginWithEitherAreAsked(t *testing.T) {
	t.Parallel()
	text := "ref,sku,warehouse,due,qty\nP1,A,HL,03/04/2027,5\n"
	b := readAs(Reading{Ask: true}, File{Name: "f.csv", Data: []byte(text)})
	if len(b.Shapes) != 1 || b.Shapes[0].Asks != "days" || b.Faulty != 0 {
		t.Fatalf("%+v", b.Found)
	}
	m := b.Shapes[0].Mapping
	m.Days = MonthFirst
	how := Reading{Kept: func(string) (Mapping, bool) { return m, true }}
	if b = readAs(how, File{Name: "f.csv", Data: []byte(text)}); b.Faulty != 0 || b.rows[Inbound][0].V.(InboundRow).Due != "2027-03-04" {
		t.Errorf("%+v", b.Found)
	}
	b = readAs(Reading{}, File{Name: "f.csv", Data: []byte(text)})
	if b.Faulty != 1 || b.Faults[0].Column != "due" || b.Faults[0].Mend.IsZero() {
		t.Errorf("not asked: %+v", b.Faults)
	}
}

func TestWhatIsAlwaysTheSameNeedsNoColumn(t *testing.T) {
	t.Parallel()
	m := Mapping{
		Kind: Stock, Columns: []ColumnUse{{"Article", "sku"}, {"Pieces", "on_hand"}, {"Colour", ""}},
		Always: []FixedValue{{"warehouse", "HL"}}, Formats: Formats{YearFirst, Point},
	}
	how := Reading{Kept: func(string) (Mapping, bool) { return m, true }}
	b := readAs(how, File{Name: "f.csv", Data: []byte("Article,Colour,Pieces\nGL-1,red,\"1,200\"\n")})
	if b.Faulty != 0 || len(b.Houses) != 1 {
		t.Fatalf("%+v", b.Found)
	}
	if r := b.rows[Stock][0].V.(StockRow); r.Warehouse != "HL" || r.OnHand != 1200 || r.SKU != "GL-1" {
		t.Errorf("%+v", r)
	}
	for _, x := range []struct {
		change func(*Mapping)
		want   string
	}{
		{func(m *Mapping) { m.Always = nil }, "needs a column that is warehouse"},
		{func(m *Mapping) { m.Kind = "notes" }, "no kind of file"},
		{func(m *Mapping) { m.Columns = append(m.Columns, ColumnUse{"Colour 2", "colour"}) }, "no column colour"},
		{func(m *Mapping) { m.Columns = append(m.Columns, ColumnUse{"Other", "sku"}) }, "sku is named twice"},
	} {
		wrong := m
		wrong.Columns, wrong.Always = slices.Clone(m.Columns), slices.Clone(m.Always)
		x.change(&wrong)
		if err := wrong.Check(); err == nil || !strings.Contains(err.Error(), x.want) {
			t.Errorf("%v, want %q", err, x.want)
		}
	}
}

func workbook(t *testing.T, fill func(*excelize.File)) File {
	t.Helper()
	f := excelize.NewFile()
	fill(f)
	var out bytes.Buffer
	if err := f.Write(&out); err != nil {
		t.Fatal(err)
	}
	return File{Name: "book.xlsx", Text: &out}
}

func setRows(t *testing.T, f *excelize.File, sheet string, rows ...[]any) {
	t.Helper()
	for i, r := range rows {
		if err := f.SetSheetRow(sheet, fmt.Sprintf("A%d", i+1), &r); err != nil {
			t.Fatal(err)
		}
	}
}

func TestAWorkbookIsReadSheetBySheet(t *testing.T) {
	t.Parallel()
	b := readAs(Reading{Ask: true}, workbook(t, func(f *excelize.File) {
		_ = f.SetSheetName("Sheet1", "Articles")
		setRows(t, f, "Articles", []any{"sku", "name", "price", "weight_kg", nil}, []any{"00012", "Glaze", 12.1, 0.1 + 0.2}, nil,
			[]any{"GL-2", "Other", 1234.5, nil, " "})
		for _, s := range []string{"Expected", "Empty", "Secret"} {
			if _, err := f.NewSheet(s); err != nil {
				t.Fatal(err)
			}
		}
		setRows(t, f, "Expected", []any{"ref", "sku", "warehouse", "due", "qty"},
			[]any{"P1", "00012", "HL", time.Date(2027, 3, 4, 0, 0, 0, 0, time.UTC), 5}, []any{"P2", "00012", "HL", "5 Mar 2027", 6})
		setRows(t, f, "Secret", []any{"nothing", "to", "see"})
		_ = f.SetSheetVisible("Secret", false)
	}))
	if b.Faulty != 0 || b.Asks() || len(b.rows[Items]) != 2 || len(b.rows[Inbound]) != 2 {
		t.Fatalf("%+v", b.Found)
	}
	it := b.item(0)
	if it.SKU != "00012" || *it.PriceMinor != 1210 || *it.WeightG != 300 || b.rows[Items][1].N != 4 ||
		b.Names[Items] != "book.xlsx · Articles" {
		t.Errorf("%+v %+v", it, b.Names)
	}
	for i, want := range []string{"2027-03-04", "2027-03-05"} {
		if r := b.rows[Inbound][i].V.(InboundRow); r.Due != want {
			t.Errorf("due %s, want %s", r.Due, want)
		}
	}
}

func TestAWorkbookThatIsNoneIsAFault(t *testing.T) {
	t.Parallel()
	for name, data := range map[string]string{"cut off": "PK\x03\x04 and no more", "no workbook": "PK\x03\x04" + strings.Repeat("x", 5000)} {
		b := readFiles(File{Name: "f.xlsx", Data: []byte(data)})
		if b.Faulty != 1 || !strings.Contains(b.Faults[0].Expected.String(), "workbook") {
			t.Errorf("%s: %+v", name, b.Found)
		}
	}
	// One that says it would unpack to more than may be read is not unpacked; one that says less is.
	for size, want := range map[uint64]int{mostUnzipped: 1, 10: 0} {
		whole := workbook(t, func(f *excelize.File) { setRows(t, f, "Sheet1", []any{"sku", "name"}, []any{"A", "B"}) })
		text, err := io.ReadAll(whole.Text)
		if err != nil {
			t.Fatal(err)
		}
		in, err := zip.NewReader(bytes.NewReader(text), int64(len(text)))
		if err != nil {
			t.Fatal(err)
		}
		var out bytes.Buffer
		w := zip.NewWriter(&out)
		for _, e := range in.File {
			if err := w.Copy(e); err != nil {
				t.Fatal(err)
			}
		}
		raw, err := w.CreateRaw(&zip.FileHeader{
			Name: "xl/media/picture.bin", Method: zip.Store, CompressedSize64: 10, UncompressedSize64: size,
		})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := raw.Write(make([]byte, 10)); err != nil {
			t.Fatal(err)
		}
		if err := w.Close(); err != nil {
			t.Fatal(err)
		}
		b := readFiles(File{Name: "f.xlsx", Data: out.Bytes()})
		if size != 10 && (b.Faulty != want || len(b.rows) != 0) || size == 10 && len(b.rows[Items])+b.Faulty != 1 {
			t.Errorf("of %d bytes: %+v", size, b.Found)
		}
	}
	b := readFiles(workbook(t, func(*excelize.File) {}))
	if b.Faulty != 1 || b.Faults[0].Expected.String() != "a sheet with a first row that names the columns" {
		t.Errorf("an empty workbook: %+v", b.Faults)
	}
}

// However a number is written, it is read as what it is or refused: what is read is written with the same digits.
func FuzzPlainNumber(f *testing.F) {
	f.Add("1.234,50", true)
	f.Add("1,234.5", false)
	f.Fuzz(func(t *testing.T, text string, comma bool) {
		decimal := Point
		if comma {
			decimal = Comma
		}
		got := plainNumber(text, decimal)
		keep := func(s string) string {
			return strings.Map(func(r rune) rune {
				if r >= '0' && r <= '9' {
					return r
				}
				return -1
			}, s)
		}
		if keep(got) != keep(text) {
			t.Errorf("%q became %q", text, got)
		}
	})
}
