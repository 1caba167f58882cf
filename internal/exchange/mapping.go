package exchange

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
)

// Mapping says how a file that has other columns is read.
type Mapping struct {
	Kind    Kind         `json:"kind" enum:"items,substitutes,zones,stock,customers,inbound,orders,left out"`
	Columns []ColumnUse  `json:"columns" maxItems:"200" doc:"What each column of the file is; those that are not named are ignored"`
	Always  []FixedValue `json:"always" maxItems:"40" doc:"Values that every row has, of columns that the file has not"`
	Formats
}

// ColumnUse says what a column of a file is.
type ColumnUse struct {
	Column string `json:"column" maxLength:"200" doc:"Its name in the file"`
	As     string `json:"as" maxLength:"40" doc:"The column that it is; ignored if empty"`
}

// FixedValue is a value that every row of a file has.
type FixedValue struct {
	Column string `json:"column" maxLength:"40"`
	Value  string `json:"value" maxLength:"200"`
}

// Shape is a file as it is: its columns, some of what stands in them, and how it is or could be read.
type Shape struct {
	File    string     `json:"file"`
	Header  []string   `json:"header"`
	Samples [][]string `json:"samples" doc:"Of each column some of what stands in it"`
	Mapping Mapping    `json:"mapping" doc:"How it was read; or a proposal, if something is asked"`
	Asks    string     `json:"asks,omitempty" enum:"columns,days" doc:"What has to be said first: what its columns are, or how days begin"`
	Kept    bool       `json:"kept" doc:"It was said before how files of this shape are read"`
}

// ShapeOf names the shape of a file: the names of its columns, in whatever order and however they are capitalised.
func ShapeOf(header []string) string {
	names := make([]string, len(header))
	for i, h := range header {
		names[i] = plainName(h)
	}
	slices.Sort(names)
	sum := sha256.Sum256([]byte(strings.Join(names, "\x00")))
	return hex.EncodeToString(sum[:])
}

func plainName(h string) string { return strings.Clone(strings.ToLower(strings.TrimSpace(h))) }

// ColumnHelp is a column that files may have.
type ColumnHelp struct {
	Name     string `json:"name"`
	Required bool   `json:"required"`
}

// KindHelp is a kind of file with its columns.
type KindHelp struct {
	Kind    Kind         `json:"kind"`
	Columns []ColumnHelp `json:"columns"`
}

func helpOf[T any](k Kind, cs []column[T]) KindHelp {
	out := KindHelp{Kind: k}
	for _, c := range cs {
		out.Columns = append(out.Columns, ColumnHelp{c.name, c.required})
	}
	return out
}

// Help lists what files may be read, with their columns.
var Help = []KindHelp{
	helpOf(Items, itemColumns), helpOf(Substitutes, substituteColumns), helpOf(Zones, zoneColumns), helpOf(Stock, stockColumns),
	helpOf(Customers, customerColumns), helpOf(Inbound, inboundColumns), helpOf(Orders, orderColumns),
}

func columnsOf(k Kind) []ColumnHelp {
	for _, h := range Help {
		if h.Kind == k {
			return h.Columns
		}
	}
	return nil
}

// Check says in words why a file cannot be read so: a column is no column of the kind or named twice, or one that is needed is missing.
func (m Mapping) Check() error {
	if m.Kind == LeftOut {
		return nil
	}
	columns := columnsOf(m.Kind)
	if columns == nil {
		return fmt.Errorf("%q is no kind of file", m.Kind)
	}
	known := func(name string) bool {
		return slices.ContainsFunc(columns, func(c ColumnHelp) bool { return c.Name == name })
	}
	used := map[string]bool{}
	use := func(name string) error {
		if !known(name) {
			return fmt.Errorf("a file of %s has no column %s", m.Kind, name)
		}
		if used[name] {
			return fmt.Errorf("%s is named twice", name)
		}
		used[name] = true
		return nil
	}
	for _, c := range m.Columns {
		if c.As == "" {
			continue
		}
		if err := use(c.As); err != nil {
			return err
		}
	}
	for _, f := range m.Always {
		if err := use(f.Column); err != nil {
			return err
		}
	}
	for _, c := range columns {
		if c.Required && !used[c.Name] {
			return fmt.Errorf("a file of %s needs a column that is %s, or a value for all its rows", m.Kind, c.Name)
		}
	}
	return nil
}

// as returns what a column of a file is, or empty if it is ignored.
func (m Mapping) as(name string) string {
	for _, c := range m.Columns {
		if plainName(c.Column) == name {
			return c.As
		}
	}
	return ""
}

// otherNames are what columns are often called. Common practice, no source.
var otherNames = map[string][]string{
	"sku": {
		"item", "item no", "item number", "item code", "article", "article no", "article number", "product", "product code", "part",
		"part number", "part no", "code", "material",
	},
	"name":       {"description", "item name", "product name", "item description", "customer name", "title", "company"},
	"unit":       {"uom", "unit of measure", "units"},
	"multiple":   {"pack", "pack size", "case size", "lot size", "order multiple"},
	"lead_days":  {"lead time", "lead time days", "leadtime"},
	"weight_kg":  {"weight", "kg", "unit weight", "net weight", "gross weight"},
	"length_cm":  {"length", "depth", "depth cm"},
	"width_cm":   {"width"},
	"height_cm":  {"height"},
	"barcode":    {"gtin", "ean", "upc", "bar code", "gtin-13", "ean code"},
	"lots":       {"by lot", "lot tracked", "lot controlled", "batch tracked", "batches"},
	"price":      {"unit price", "sales price", "list price", "net price"},
	"cost":       {"unit cost", "cost price", "purchase price"},
	"currency":   {"curr", "currency code"},
	"substitute": {"alternative", "replacement"},
	"warehouse":  {"warehouse code", "location", "site", "store", "depot", "from warehouse"},
	"bin":        {"bin code", "shelf", "bin location", "storage bin"},
	"on_hand":    {"stock", "quantity on hand", "qty on hand", "on hand qty", "onhand", "in stock", "inventory"},
	"held":       {"blocked", "quarantine", "on hold"},
	"customer": {
		"customer no", "customer number", "customer code", "customer id", "account", "account no", "account number", "client", "sold to",
	},
	"ship_to":      {"ship to code", "ship-to", "ship to", "delivery address code", "address code"},
	"ship_to_name": {"ship to name", "delivery name", "consignee"},
	"street":       {"address", "address 1", "address line 1", "street address"},
	"city":         {"town"},
	"postcode":     {"post code", "zip", "zip code", "postal code"},
	"country":      {"country code"},
	"email":        {"e-mail", "mail", "email address"},
	"ref":          {"reference", "po", "po number", "po no", "purchase order", "receipt", "document"},
	"due":          {"due date", "eta", "expected", "expected date", "arrival", "arrival date", "delivery date"},
	"qty":          {"quantity", "ordered", "order qty", "ordered qty", "ordered quantity", "units", "pieces", "pcs"},
	"supplier":     {"vendor", "supplier name"},
	"order":        {"order no", "order number", "order id", "sales order", "so", "so number", "document no"},
	"line":         {"line no", "line number", "pos", "position", "item line"},
	"wanted": {
		"requested", "requested date", "required", "required date", "requested by", "wanted date", "delivery date", "due date", "need by",
	},
	"ship_by":      {"ship date", "ship by date", "planned ship date", "dispatch date"},
	"entered":      {"order date", "entered at", "date", "created"},
	"customer_ref": {"customer ref", "customer reference", "customer po", "your reference", "customer order no", "customer's order number"},
	"service":      {"carrier service", "shipping method", "ship via"},
	"channel":      {"sales channel", "source"},
	"note":         {"notes", "comment", "comments", "remark", "remarks"},
	"terms":        {"shipping terms", "freight terms"},
	"discount":     {"discount %", "discount pct", "rebate"},
	"tier":         {"priority", "class", "rank"},
}

func spelled(s string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool {
		return !(r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r > 127)
	}), " ")
}

func means(column, header string) bool {
	h := spelled(header)
	return h == spelled(column) || slices.ContainsFunc(otherNames[column], func(n string) bool { return spelled(n) == h })
}

// propose guesses how a file with such columns could be read: as the kind of which it has most of the columns that are needed, then most of
// all.
func propose(header []string) Mapping {
	best, bestNeeded, bestAll := Mapping{Kind: Orders}, -1.0, -1
	for _, k := range Help {
		m := Mapping{Kind: k.Kind}
		taken := map[string]bool{}
		// A column that bears the very name is it, before others that might be.
		for _, exact := range []bool{true, false} {
			for _, h := range header {
				if m.as(h) != "" {
					continue
				}
				i := slices.IndexFunc(k.Columns, func(c ColumnHelp) bool {
					return !taken[c.Name] && (exact && spelled(c.Name) == spelled(h) || !exact && means(c.Name, h))
				})
				if i >= 0 {
					taken[k.Columns[i].Name] = true
					m.Columns = append(m.Columns, ColumnUse{h, k.Columns[i].Name})
				}
			}
		}
		needed, has := 0, 0
		for _, c := range k.Columns {
			if c.Required {
				if needed++; taken[c.Name] {
					has++
				}
			}
		}
		share := float64(has) / float64(needed)
		if share > bestNeeded || share == bestNeeded && len(m.Columns) > bestAll {
			best, bestNeeded, bestAll = m, share, len(m.Columns)
		}
	}
	slices.SortStableFunc(best.Columns, func(x, y ColumnUse) int { return slices.Index(header, x.Column) - slices.Index(header, y.Column) })
	for _, h := range header {
		if best.as(h) == "" && h != "" {
			best.Columns = append(best.Columns, ColumnUse{Column: h})
		}
	}
	return best
}
