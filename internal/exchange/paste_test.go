package exchange

import (
	"slices"
	"strings"
	"testing"
)

func TestWhatIsPastedBecomesLines(t *testing.T) {
	for _, c := range []struct {
		name, text string
		want       []PastedLine
	}{
		{"from a spreadsheet", "GL-2040-1\t12\nCB-110\t40\n", []PastedLine{{"GL-2040-1", 12}, {"CB-110", 40}}},
		{
			"with names between", "GL-2040-1\tCeladon glaze, 1 L\t12\t14.20\r\nCB-110\tStoneware clay\t40\t9.80\r\n",
			[]PastedLine{{"GL-2040-1", 12}, {"CB-110", 40}},
		},
		{
			"with a header", "Quantity\tDescription\tSKU\n12\tCeladon, 1 L\tGL-2040-1\n\n40\tClay\tCB-110\n",
			[]PastedLine{{"GL-2040-1", 12}, {"CB-110", 40}},
		},
		{"semicolons", "sku;qty\nGL-2040-1;12\n", []PastedLine{{"GL-2040-1", 12}}},
		{"commas", "GL-2040-1, 12\n", []PastedLine{{"GL-2040-1", 12}}},
		{
			"from a message", "12 x GL-2040-1\n40× CB-110\nTL-014 3\n5 KF-330",
			[]PastedLine{{"GL-2040-1", 12}, {"CB-110", 40}, {"TL-014", 3}, {"KF-330", 5}},
		},
		{
			"numbers as people write them", "A\t1,200\nB\t3.00\nC\t1 000\nD\t2.5\n",
			[]PastedLine{{"A", 1200}, {"B", 3}, {"C", 1000}, {"D", 0}},
		},
		{"items that are numbers", "4711\t12\n4712 3\n", []PastedLine{{"4711", 12}, {"4712", 3}}},
		{"no quantity", "GL-2040-1\nCB-110\tsome\n", []PastedLine{{"GL-2040-1", 0}, {"CB-110", 0}}},
		{"quoted", "\"GL-2040-1\"\t\"12\"", []PastedLine{{"GL-2040-1", 12}}},
		{"a row that is too short", "sku\tqty\nGL-2040-1\n", []PastedLine{{"GL-2040-1", 0}}},
		{
			"less than nothing, and more than there can be", "sku\tqty\nA\t-1\nB\t99999999999\nC\t0\n",
			[]PastedLine{{"A", 0}, {"B", 0}, {"C", 0}},
		},
		{"nothing", " \n\t\n", nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, err := ReadPaste(c.text)
			if err != nil || !slices.Equal(got, c.want) {
				t.Errorf("%v (%v), want %v", got, err, c.want)
			}
		})
	}
	if _, err := ReadPaste(strings.Repeat("A\t1\n", MostPasted+1)); err == nil {
		t.Error("too many rows were read")
	}
}

func FuzzReadPaste(f *testing.F) {
	f.Add("sku;qty\nGL-2040-1;12\n40 x CB-110")
	f.Fuzz(func(t *testing.T, text string) {
		lines, err := ReadPaste(text)
		if err == nil && len(lines) > MostPasted {
			t.Fatalf("%d lines", len(lines))
		}
		for _, l := range lines {
			if l.Qty < 0 || l.Qty > most {
				t.Fatalf("%+v", l)
			}
		}
	})
}
