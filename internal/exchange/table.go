package exchange

import (
	"encoding/csv"
	"fmt"
	"io"
	"iter"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"
)

// Table is rows of values that are written as a file: texts, whole numbers (int64), amounts and shares (Decimal64) and days (time.Time).
// A nil is an empty cell.
type Table struct {
	Name string
	Head []string
	Rows iter.Seq2[[]any, error]
}

// Decimal64 is a decimal number: units of 10 to the power of minus places.
type Decimal64 struct {
	Units  int64
	Places int
}

func (d Decimal64) String() string {
	if d.Places == 0 {
		return fmt.Sprint(d.Units)
	}
	sign, n := "", d.Units
	if n < 0 {
		sign, n = "-", -n
	}
	digits := fmt.Sprintf("%0*d", d.Places+1, n)
	return sign + digits[:len(digits)-d.Places] + "." + digits[len(digits)-d.Places:]
}

// PlainCell is a text as a cell of a table that people open in a spreadsheet: one that a spreadsheet would work out is made a text by an
// apostrophe before it.
func PlainCell(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return "'" + text
	}
	return text
}

// WriteCSV writes the table as CSV (RFC 4180) in UTF-8: days as YYYY-MM-DD, amounts with a point.
func (t Table) WriteCSV(to io.Writer) error {
	w := csv.NewWriter(to)
	if err := w.Write(t.Head); err != nil {
		return err
	}
	for row, err := range t.Rows {
		if err != nil {
			return err
		}
		cells := make([]string, len(row))
		for i, v := range row {
			switch v := v.(type) {
			case nil:
			case string:
				cells[i] = PlainCell(v)
			case time.Time:
				cells[i] = v.Format(time.DateOnly)
			default:
				cells[i] = fmt.Sprint(v)
			}
		}
		if err := w.Write(cells); err != nil {
			return err
		}
	}
	w.Flush()
	return w.Error()
}

// WriteXLSX writes the table as a workbook (Office Open XML, ECMA-376): days and numbers as such, the head fixed and with filters.
func (t Table) WriteXLSX(to io.Writer) (err error) {
	f := excelize.NewFile()
	defer func() { _ = f.Close() }()
	if err := f.SetSheetName("Sheet1", t.Name); err != nil {
		return err
	}
	styles := map[string]int{}
	for name, format := range map[string]string{"day": "yyyy-mm-dd", "amount": "#,##0.00", "share": "0.0%"} {
		if styles[name], err = f.NewStyle(&excelize.Style{CustomNumFmt: &format}); err != nil {
			return err
		}
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	w, err := f.NewStreamWriter(t.Name)
	if err != nil {
		return err
	}
	if err := w.SetColWidth(1, max(1, len(t.Head)), 16); err != nil {
		return err
	}
	if err := w.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	head := make([]any, len(t.Head))
	for i, h := range t.Head {
		head[i] = excelize.Cell{StyleID: bold, Value: h}
	}
	if err := w.SetRow("A1", head); err != nil {
		return err
	}
	n := 1
	for row, err := range t.Rows {
		if err != nil {
			return err
		}
		if n++; n > excelize.TotalRows {
			return fmt.Errorf("a sheet has at most %d rows: take fewer, or CSV", excelize.TotalRows)
		}
		cells := make([]any, len(row))
		for i, v := range row {
			cells[i] = v
			switch v := v.(type) {
			case Decimal64:
				style := styles["amount"]
				if v.Places > 2 {
					style = styles["share"]
				}
				cells[i] = excelize.Cell{StyleID: style, Value: v.float()}
			case time.Time:
				cells[i] = excelize.Cell{StyleID: styles["day"], Value: v}
			}
		}
		at, err := excelize.CoordinatesToCellName(1, n)
		if err != nil {
			return err
		}
		if err := w.SetRow(at, cells); err != nil {
			return err
		}
	}
	if err := w.Flush(); err != nil {
		return err
	}
	return f.Write(to)
}

// float is the number as a workbook keeps numbers.
func (d Decimal64) float() float64 {
	n := float64(d.Units)
	for range d.Places {
		n /= 10
	}
	return n
}
