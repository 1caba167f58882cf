package sales

import (
	"context"
	"strings"

	"journeyman/internal/desk/command"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

// Pasted is a row of pasted text as a line of a draft.
type Pasted struct {
	SKU  string `json:"sku" doc:"The item's number, or what the row says if it is not known"`
	Qty  int64  `json:"qty"`
	Name string `json:"name,omitempty" doc:"The item's name, if it is known"`
}

// Paste reads rows of text as lines. An item may be named by its number or by words that only
// one item has in its number or name.
func (d *Desk) Paste(ctx context.Context, text string) ([]Pasted, error) {
	rows, err := exchange.ReadPaste(text)
	if err != nil {
		return nil, command.Invalid("%s.", err)
	}
	r := d.Store.Read(ctx)
	names := make(store.Texts, len(rows))
	for i, x := range rows {
		names[i] = x.Item
	}
	items, err := r.ItemsBySKU(names)
	if err != nil {
		return nil, err
	}
	known := map[string]string{}
	for _, it := range items {
		known[it.SKU] = it.Name
	}
	out := make([]Pasted, len(rows))
	for i, x := range rows {
		out[i] = Pasted{SKU: x.Item, Qty: x.Qty, Name: known[x.Item]}
		if out[i].Name != "" || x.Item == "" {
			continue
		}
		found, err := r.FindItems(strings.Fields(x.Item), "", 2)
		if err != nil {
			return nil, err
		}
		if len(found) == 1 || len(found) > 1 && strings.EqualFold(found[0].SKU, x.Item) {
			out[i].SKU, out[i].Name = found[0].SKU, found[0].Name
		}
	}
	return out, nil
}
