package store

import "fmt"

// Numbered is a kind of document that gets its numbers from here.
type Numbered struct {
	Kind     string // as pages name it
	Prefix   string // unless another was set
	sequence string
	table    string
}

// The kinds of documents that get their numbers from here.
var (
	NumberedOrders    = Numbered{"order", "SO-", "order_number", "sales_order"}
	NumberedQuotes    = Numbered{"quote", "Q-", "quote_number", "quote"}
	NumberedBuys      = Numbered{"request to buy", "BR-", "buy_request_number", "buy_request"}
	NumberedPickLists = Numbered{"pick list", "PL-", "pick_list_number", "pick_list"}
	NumberedShipments = Numbered{"shipment", "SH-", "shipment_number", "shipment"}
	NumberedPackages  = Numbered{"package", "PK-", "package_number", "package"}
	AllNumbered       = []Numbered{
		NumberedOrders, NumberedQuotes, NumberedBuys, NumberedPickLists, NumberedShipments, NumberedPackages,
	}
)

func (n Numbered) setting() string { return "prefix " + n.Kind }

// PrefixOf is what the numbers of a kind of document begin with.
func (r *Reader) PrefixOf(n Numbered) (string, error) {
	set, err := r.Setting(n.setting())
	if set == "" {
		set = n.Prefix
	}
	return set, err
}

// SetPrefix sets what numbers of a kind of document begin with from now on.
func (t *Tx) SetPrefix(n Numbered, prefix string) error { return t.Remember(n.setting(), prefix) }

// NextNumber draws the next number of a kind of document that none has: PL-2001.
func (t *Tx) NextNumber(n Numbered) (string, error) {
	numbers, err := t.NextNumbers(n, 1)
	if err != nil {
		return "", err
	}
	return numbers[0], nil
}

// NextNumbers draws so many numbers of a kind of document that none has, in their order.
func (t *Tx) NextNumbers(n Numbered, count int) ([]string, error) {
	var out []string
	for len(out) < count {
		rows, err := all[struct{ Number string }](&t.Reader, fmt.Sprintf(`SELECT x.number FROM (
			SELECT n, coalesce((SELECT value FROM setting WHERE key = @key), @usual) || nextval('%s') AS number
			FROM generate_series(1, @count) n OFFSET 0) x
			WHERE NOT EXISTS (SELECT FROM %s t WHERE t.number = x.number) ORDER BY x.n`, n.sequence, n.table),
			map[string]any{"key": n.setting(), "usual": n.Prefix, "count": count - len(out)})
		if err != nil {
			return nil, err
		}
		for _, x := range rows {
			out = append(out, x.Number)
		}
	}
	return out, nil
}
