package exchange

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
)

// PastedLine is a row that was pasted from a spreadsheet or a message: what names the item,
// and how many.
type PastedLine struct {
	Item string
	Qty  int64 // 0 if the row says none
}

// MostPasted is how many rows are read at once.
const MostPasted = 500

// ReadPaste reads rows of text as lines of an order. Fields are parted by tabs, semicolons,
// bars or commas, or else by spaces. A row with only words in it, before any with a number, may
// name the columns: sku, item, number or code; qty, quantity, number of units or pieces.
// Without it the first field is the item and the first whole number after it the quantity;
// "12 x GL-2040-1" is understood, too. Rows without anything in them are passed over.
func ReadPaste(text string) ([]PastedLine, error) {
	var out []PastedLine
	itemAt, qtyAt := -1, -1
	for row := range strings.Lines(text) {
		fields := splitPaste(strings.TrimSpace(row))
		if len(fields) == 0 {
			continue
		}
		if len(out) == 0 && itemAt < 0 {
			if i, q, ok := pasteHeader(fields); ok {
				itemAt, qtyAt = i, q
				continue
			}
		}
		if len(out) == MostPasted {
			return nil, fmt.Errorf("more than %d rows: paste them in parts, or import them as a file", MostPasted)
		}
		out = append(out, pasted(fields, itemAt, qtyAt))
	}
	return out, nil
}

func splitPaste(row string) []string {
	if row == "" {
		return nil
	}
	by := func(c rune) bool { return unicode.IsSpace(c) }
	for _, sep := range []rune{'\t', ';', '|', ','} {
		if strings.ContainsRune(row, sep) {
			by = func(c rune) bool { return c == sep }
			break
		}
	}
	var out []string
	for f := range strings.FieldsFuncSeq(row, by) {
		if f = strings.Trim(strings.TrimSpace(f), `"'`); f != "" {
			out = append(out, f)
		}
	}
	return out
}

var (
	itemWords = []string{"sku", "item", "article", "code", "number", "product"}
	qtyWords  = []string{"qty", "quantity", "units", "pieces", "pcs", "amount"}
)

func pasteHeader(fields []string) (item, qty int, ok bool) {
	item, qty = -1, -1
	for i, f := range fields {
		f = strings.ToLower(f)
		for _, w := range itemWords {
			if item < 0 && strings.HasPrefix(f, w) {
				item = i
			}
		}
		for _, w := range qtyWords {
			if qty < 0 && strings.HasPrefix(f, w) {
				qty = i
			}
		}
		if strings.ContainsAny(f, "0123456789") {
			return -1, -1, false
		}
	}
	return item, qty, item >= 0 && qty >= 0
}

func pasted(fields []string, itemAt, qtyAt int) PastedLine {
	if itemAt >= 0 {
		var l PastedLine
		if itemAt < len(fields) {
			l.Item = fields[itemAt]
		}
		if qtyAt < len(fields) {
			l.Qty, _ = pastedQty(fields[qtyAt])
		}
		return l
	}
	// "12 x GL-2040-1" and "12 GL-2040-1": the quantity first.
	if q, ok := pastedQty(fields[0]); ok && len(fields) > 1 {
		rest := fields[1:]
		if len(rest) > 1 && (strings.EqualFold(rest[0], "x") || rest[0] == "×") {
			rest = rest[1:]
		}
		if _, number := pastedQty(rest[0]); !number { // of two numbers the first is the item
			return PastedLine{Item: rest[0], Qty: q}
		}
	}
	l := PastedLine{Item: fields[0]}
	for _, f := range fields[1:] {
		if q, ok := pastedQty(f); ok {
			l.Qty = q
			break
		}
	}
	return l
}

// pastedQty reads a whole number, more than nothing, as people write it: 12, 1,200 and 1 200 of a spreadsheet, 12x, 12.00.
func pastedQty(s string) (int64, bool) {
	s = strings.TrimSuffix(strings.TrimSuffix(strings.ToLower(s), "x"), "×")
	s = strings.NewReplacer(",", "", " ", "", "\u00a0", "", "'", "").Replace(s)
	if head, tail, found := strings.Cut(s, "."); found {
		if strings.Trim(tail, "0") != "" {
			return 0, false
		}
		s = head
	}
	n, err := strconv.ParseInt(s, 10, 64)
	if err != nil || n <= 0 || n > most {
		return 0, false
	}
	return n, true
}
