package exchange

import (
	"bytes"
	"errors"
	"iter"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"
)

func rowsOf(rows ...[]any) iter.Seq2[[]any, error] {
	return func(yield func([]any, error) bool) {
		for _, r := range rows {
			if !yield(r, nil) {
				return
			}
		}
	}
}

func sampleTable() Table {
	return Table{
		"orders",
		[]string{"Order", "Units", "Value", "Margin", "Requested"},
		rowsOf(
			[]any{"SO-1", int64(1250), Decimal64{1234567, 2}, Decimal64{3050, 4}, time.Date(2026, 12, 1, 0, 0, 0, 0, time.UTC)},
			[]any{"=1+1", int64(0), Decimal64{-5, 2}, Decimal64{0, 4}, nil},
		),
	}
}

func TestATableIsWrittenAsCSV(t *testing.T) {
	t.Parallel()
	var b bytes.Buffer
	if err := sampleTable().WriteCSV(&b); err != nil {
		t.Fatal(err)
	}
	want := "Order,Units,Value,Margin,Requested\nSO-1,1250,12345.67,0.3050,2026-12-01\n'=1+1,0,-0.05,0.0000,\n"
	if b.String() != want {
		t.Errorf("%q, want %q", b.String(), want)
	}
}

// The workbook is read back by its cells' types: numbers that add up, days that sort, texts that are not worked out.
func TestATableIsWrittenAsAWorkbook(t *testing.T) {
	t.Parallel()
	var b bytes.Buffer
	if err := sampleTable().WriteXLSX(&b); err != nil {
		t.Fatal(err)
	}
	f, err := excelize.OpenReader(&b)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = f.Close() }()
	rows, err := f.GetRows("orders")
	if err != nil || len(rows) != 3 {
		t.Fatal(rows, err)
	}
	if got := strings.Join(rows[1], "|"); got != "SO-1|1250|12,345.67|30.5%|2026-12-01" {
		t.Errorf("%s", got)
	}
	if formula, err := f.GetCellFormula("orders", "A3"); err != nil || formula != "" {
		t.Errorf("a text is worked out: %q %v", formula, err)
	}
	if kind, err := f.GetCellType("orders", "C2"); err != nil || kind != excelize.CellTypeUnset && kind != excelize.CellTypeNumber {
		t.Errorf("the value is no number: %v %v", kind, err)
	}
}

func TestAFaultInTheRowsEndsATable(t *testing.T) {
	t.Parallel()
	broken := Table{"x", []string{"A"}, func(yield func([]any, error) bool) { yield(nil, errors.New("gone")) }}
	if err := broken.WriteCSV(&bytes.Buffer{}); err == nil {
		t.Error("the fault is not told")
	}
	if err := broken.WriteXLSX(&bytes.Buffer{}); err == nil {
		t.Error("the fault is not told")
	}
}
