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
	for {
		row, _, err := one[struct {
			Number string
			Taken  bool
		}](&t.Reader, fmt.Sprintf(`SELECT number, EXISTS (SELECT FROM %s t WHERE t.number = x.number) AS taken FROM (
			SELECT coalesce((SELECT value FROM setting WHERE key = @key), @usual) || nextval('%s') AS number) x`, n.table, n.sequence),
			map[string]any{"key": n.setting(), "usual": n.Prefix})
		if err != nil || !row.Taken {
			return row.Number, err
		}
	}
}
