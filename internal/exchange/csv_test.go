package exchange

import (
	"strings"
	"testing"
	"unicode/utf8"
)

func read(files ...string) *Batch {
	var fs []File
	for i, text := range files {
		fs = append(fs, File{Name: string(rune('a'+i)) + ".csv", Data: []byte(text)})
	}
	return Read(fs, func(int) {})
}

func TestAFileIsKnownByItsColumns(t *testing.T) {
	b := read("SKU, Name ,price\nA,\"One, with a comma\",4.2\n\n", "warehouse;sku;on_hand\nHL;A;3\n", "customer,name,ship_to\nC,Cust,MAIN\n",
		"ref,sku,warehouse,due,qty\nP1,A,HL,2027-03-01,5\n", "order,customer,wanted,line,sku,qty\nS1,C,2027-03-01,1,A,2\n")
	if b.Faulty != 0 {
		t.Fatal(b.Faults)
	}
	if len(b.Items) != 1 || len(b.Stock) != 1 || len(b.Customers) != 1 || len(b.Inbound) != 1 || len(b.Orders) != 1 || b.Rows() != 5 {
		t.Fatalf("%+v", b)
	}
	if it := b.Items[0]; it.N != 2 || it.V.Name != "One, with a comma" || *it.V.PriceMinor != 420 {
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
	if b := read("sku;name;price\nA;B;4,20\n"); b.Faulty != 0 || *b.Items[0].V.PriceMinor != 420 {
		t.Errorf("%+v", b)
	}
	if b := read("sku,name,price\nA,B,\"4,20\"\n"); b.Faulty != 1 {
		t.Error("a comma was read as a point in a file parted by commas")
	}
}

func TestManyFaultsAreCountedAndSomeListed(t *testing.T) {
	b := read("sku,name,price\n" + strings.Repeat("A,B,x\n", 700))
	if b.Faulty != 700 || len(b.Faults) != MostFaults {
		t.Errorf("%d faults, %d listed", b.Faulty, len(b.Faults))
	}
	if got := b.Faults[0].Error(); !strings.HasPrefix(got, `a.csv, row 2, column price: "x", expected a number`) {
		t.Error(got)
	}
}

func FuzzRead(f *testing.F) {
	f.Add("sku,name\nA,B\n")
	f.Add("order;line;customer;sku;qty;wanted\nS;1;C;A;2;2027-03-01\n")
	f.Add("\xef\xbb\xbfwarehouse,sku,on_hand\r\nHL,\"A\"\"\",3\r\n")
	f.Fuzz(func(t *testing.T, text string) {
		b := Read([]File{{Name: "f.csv", Data: []byte(text)}}, func(int) {})
		if b.Rows() == 0 && b.Faulty == 0 && len(b.Names) == 0 {
			t.Error("neither read nor refused")
		}
		for _, x := range b.Faults {
			if !utf8.ValidString(x.Error()) || x.Expected == "" {
				t.Errorf("%+v", x)
			}
		}
		for _, r := range b.Orders {
			if r.V.Qty < 0 || r.V.Line < 0 {
				t.Errorf("%+v", r)
			}
		}
	})
}
