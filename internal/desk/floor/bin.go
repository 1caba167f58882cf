package floor

import (
	"context"
	"regexp"
	"strings"

	"journeyman/core/release"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
	"journeyman/internal/words"
)

// BinAsk says in which bin of a warehouse an item lies of which that was not known.
type BinAsk struct {
	SKU       string `json:"sku" minLength:"1" maxLength:"60"`
	Warehouse string `json:"warehouse" minLength:"1" maxLength:"12"`
	Bin       string `json:"bin" minLength:"1" maxLength:"20"`
	Zone      string `json:"zone,omitempty" maxLength:"20" doc:"If the bin is new; what stands before its first hyphen if absent"`
}

var binCode = regexp.MustCompile(`^[A-Z0-9][A-Z0-9.-]{0,19}$`)

// SetBin puts what lies in no bin of an item in a warehouse into one; from then on it is the item's. What pickers are on the way to fetch
// stays where their lists say.
//
// It locks the stock of the item. It refuses codes that are none, and items of which nothing lies in no bin.
func (d *Desk) SetBin(ctx context.Context, call command.Call, ask BinAsk) (command.Outcome, error) {
	return d.Run(ctx, call, command.VerbSetBin, ask, func(w *command.UnitOfWork) error {
		code := strings.ToUpper(strings.TrimSpace(ask.Bin))
		if !binCode.MatchString(code) {
			return command.Invalid("“%s” is not the code of a bin: type capital letters, digits and hyphens, such as C-14-2.", ask.Bin)
		}
		items, err := w.Tx.ItemsBySKU([]string{ask.SKU})
		if err != nil {
			return err
		}
		if len(items) == 0 {
			return command.NotFound("There is no item %s.", ask.SKU)
		}
		item := items[0]
		house, err := w.WarehouseID(ask.Warehouse)
		if err != nil {
			return err
		}
		if err := w.Lock(nil, item.ID); err != nil {
			return err
		}
		rooms, err := w.Tx.BinsOf(store.IDs{item.ID})
		if err != nil {
			return err
		}
		for _, r := range rooms {
			room := binOf(r).Room()
			if r.WarehouseID != house || r.Bin != "" || room <= 0 {
				continue
			}
			zone := strings.ToUpper(strings.TrimSpace(ask.Zone))
			if zone == "" {
				zone = release.ZoneOf(code)
			}
			bin, err := binNamed(w, house, code, zone)
			if err != nil {
				return err
			}
			if err := moveBin(w, item.ID, house, r.BinID, bin, room); err != nil {
				return err
			}
			w.SKUs[item.SKU] = true
			w.AddDocument("item", item.SKU)
			w.Say("%s lies in bin %s at %s: %s.", item.SKU, code, ask.Warehouse, words.Count(int64(room), "unit"))
			return nil
		}
		return command.Conflict("Nothing of %s lies in no bin at %s. Somebody may have set its bin just now.", item.SKU, ask.Warehouse)
	})
}

// binNamed is the bin of that code, made if it is new. It refuses the place where recalled units wait to be put back.
func binNamed(w *command.UnitOfWork, house int64, code, zone string) (int64, error) {
	waits, err := w.Tx.IsPutBackPlace(house, code)
	if err != nil {
		return 0, err
	}
	if waits {
		return 0, command.Invalid("%s is where recalled units wait to be put back. Choose another bin.", code)
	}
	return w.Tx.EnsureBin(house, code, zone)
}
