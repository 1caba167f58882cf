package exchange

import (
	"bytes"
	"errors"
	"io"
	"runtime"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"journeyman/internal/words"
)

// batch is what was read, with the rows.
type batch struct {
	*Found
	rows map[Kind][]Staged
}

func read(files ...string) batch {
	var fs []File
	for i, text := range files {
		fs = append(fs, File{Name: string(rune('a'+i)) + ".csv", Data: []byte(text)})
	}
	return readFiles(fs...)
}

func readFiles(files ...File) batch {
	return readAs(Reading{}, files...)
}

func readAs(how Reading, files ...File) batch {
	found, rows := Scan(slices.Values(files), how, func(int) {})
	b := batch{found, map[Kind][]Staged{}}
	for r := range rows {
		b.rows[r.Kind] = append(b.rows[r.Kind], r)
	}
	return b
}

func (b batch) item(n int) ItemRow { return b.rows[Items][n].V.(ItemRow) }

func TestAFileIsKnownByItsColumns(t *testing.T) {
	b := read("SKU, Name ,price\nA,\"One, with a comma\",4.2\n\n", "warehouse;sku;on_hand\nHL;A;3\n",
		"customer,name,ship_to\nC,Cust,MAIN\n",
		"ref,sku,warehouse,due,qty\nP1,A,HL,2027-03-01,5\n", "order,customer,wanted,line,sku,qty\nS1,C,2027-03-01,1,A,2\n")
	if b.Faulty != 0 {
		t.Fatal(b.Faults)
	}
	for _, k := range []Kind{Items, Stock, Customers, Inbound, Orders} {
		if len(b.rows[k]) != 1 || b.Rows[k] != 1 {
			t.Fatalf("%s: %+v", k, b)
		}
	}
	if it := b.rows[Items][0]; b.All() != 5 || it.N != 2 || it.A != "A" || b.item(0).Name != "One, with a comma" ||
		*b.item(0).PriceMinor != 420 {
		t.Errorf("%+v", it)
	}
}

func TestDecimal(t *testing.T) {
	for text, want := range map[string]int64{"0": 0, "4": 400, "4.2": 420, "4.20": 420, "1234.5": 123450, "0.07": 7} {
		if got, err := Decimal(text, 2); err != nil || got != want {
			t.Errorf("%s: %d %v", text, got, err)
		}
	}
	for _, text := range []string{"", ".", ".5", "-1", "1.234", "1,5", "1e3", "£4", "9999999999", "4.2.0"} {
		if got, err := Decimal(text, 2); err == nil {
			t.Errorf("%q was read as %d", text, got)
		}
	}
}

func TestADecimalCommaIsReadWhereFieldsAreParted(t *testing.T) {
	if b := read("sku;name;price\nA;B;4,20\n"); b.Faulty != 0 || *b.item(0).PriceMinor != 420 {
		t.Errorf("%+v", b)
	}
	if b := read("sku,name,price\nA,B,\"4,20\"\n"); b.Faulty != 0 || *b.item(0).PriceMinor != 420 {
		t.Errorf("%+v", b)
	}
	if b := read("sku,name,price\nA,B,4.20\nC,D,\"4,20\"\n"); b.Faulty != 1 || b.Faults[0].Row != 3 || b.Faults[0].Mend.String() == "" {
		t.Errorf("a comma and a point before the fraction in one file: %+v", b.Faults)
	}
}

func TestManyFaultsAreCountedAndSomeListed(t *testing.T) {
	b := read("sku,name,price\n" + strings.Repeat("A,B,x\n", 1700))
	if b.Faulty != 1700 || len(b.Faults) != 1 || b.Faults[0].Times != 1700 || !slices.Equal(b.Faults[0].Rows, []int{2, 3, 4, 5, 6}) {
		t.Errorf("%d faults, %+v", b.Faulty, b.Faults)
	}
	if got := b.Faults[0].Error(); !strings.HasPrefix(got, `a.csv, row 2, column price: "x", expected a number`) ||
		!strings.HasSuffix(got, "(so in 1700 rows)") {
		t.Error(got)
	}
	var many Found
	for i := range 300 {
		many.Fault(Fault{File: "a.csv", Row: i, Column: strings.Repeat("c", i), Expected: words.Say("the same as in row %d", i)})
	}
	if many.Faulty != 300 || len(many.Faults) != MostFaults {
		t.Errorf("%d faults, %d listed", many.Faulty, len(many.Faults))
	}
	// What is added to a copy does not come back.
	copied := many.Clone()
	copied.Fault(Fault{File: "a.csv", Row: 999, Expected: words.Say("the same as in row %d", 7)})
	if many.Faults[0].Times != 1 || copied.Faults[0].Times != 2 {
		t.Errorf("%+v, %+v", many.Faults[0], copied.Faults[0])
	}
}

// What would take memory without end is refused before it does.
func TestWhatIsTooLargeIsRefusedAtOnce(t *testing.T) {
	endless := func(text string) io.Reader { // and never ends
		return io.MultiReader(strings.NewReader(text), zeros{})
	}
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	for name, c := range map[string]struct {
		file File
		want string
	}{
		"an open quote":           {File{Name: "f.csv", Data: []byte("sku,name\n\"A")}, "quotes that are closed"},
		"an open quote, for ever": {File{Name: "f.csv", Text: endless("sku,name\n\"A")}, "rows of at most 256 kB"},
		"one long line":           {File{Name: "f.csv", Text: endless("sku,name\nA,")}, "rows of at most 256 kB"},
		"a long header":           {File{Name: "f.csv", Text: endless("sku,name")}, "rows of at most 256 kB"},
		"many columns":            {File{Name: "f.csv", Data: []byte("sku,name" + strings.Repeat(",x", 80_000) + "\n")}, "at most 200"},
		"not UTF-8":               {File{Name: "f.csv", Data: []byte("sku,name\nA,\xff\n")}, "UTF-8"},
	} {
		b := readFiles(c.file)
		if b.Faulty != 1 || !strings.Contains(b.Faults[0].Expected.String(), c.want) {
			t.Errorf("%s: %+v", name, b.Faults)
		}
	}
	runtime.ReadMemStats(&after)
	if took := after.TotalAlloc - before.TotalAlloc; took > 64<<20 {
		t.Errorf("it took %d MB", took>>20)
	}
	gone := errors.New("the connection is gone")
	if b := readFiles(File{Name: "f.csv", Text: io.MultiReader(strings.NewReader("sku,name\nA,B\n"),
		broken{gone})}); !errors.Is(b.Err, gone) || b.Faulty != 0 {
		t.Errorf("a reader that breaks: %v, %+v", b.Err, b.Faults)
	}
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { return copy(p, bytes.Repeat([]byte("0"), len(p))), nil }

type broken struct{ err error }

func (b broken) Read([]byte) (int, error) { return 0, b.err }

func FuzzRead(f *testing.F) {
	f.Add("sku,name\nA,B\n")
	f.Add("order;line;customer;sku;qty;wanted\nS;1;C;A;2;2027-03-01\n")
	f.Add("\xef\xbb\xbfwarehouse,sku,on_hand\r\nHL,\"A\"\"\",3\r\n")
	f.Fuzz(func(t *testing.T, text string) {
		b := readFiles(File{Name: "f.csv", Data: []byte(text)})
		if b.All() == 0 && b.Faulty == 0 && len(b.Names) == 0 {
			t.Error("neither read nor refused")
		}
		for _, x := range b.Faults {
			if !utf8.ValidString(x.Error()) || x.Expected.IsZero() {
				t.Errorf("%+v", x)
			}
		}
		for _, x := range b.rows[Orders] {
			if r := x.V.(OrderRow); r.Qty < 0 || r.Line < 0 || x.A == "" {
				t.Errorf("%+v", x)
			}
		}
	})
}
