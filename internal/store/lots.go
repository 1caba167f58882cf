package store

import (
	"time"

	"journeyman/core/journey"
	"journeyman/core/lots"
)

// LotPlace is where units of an item lie: in a bin, picked of a line in a warehouse, or in a package. The zero value is outside the house.
type LotPlace struct {
	Item, Warehouse, Bin, Line, Package int64
}

// LotEntry notes by how much there is more or less of a lot in a place. Zero keys are absent.
type LotEntry struct {
	LotPlace
	Lot     int64
	Inbound int64 // of what arrived
	Change  int64
	Aside   int64 // of those in the bin, by how many more are set aside because the lot must not be sent
}

// intoLots appends entries.
var intoLots = newInsertion("lot_entry",
	column{name: "lot_id", told: "bigint"},
	column{name: "item_id", told: "bigint"},
	column{name: "warehouse_id", told: "bigint"},
	column{"bin_id", "bigint", orNone},
	column{"line_id", "bigint", orNone},
	column{"package_id", "bigint", orNone},
	column{"inbound_id", "bigint", orNone},
	column{name: "change", told: "bigint"},
	column{name: "aside", told: "bigint"},
)

// NoteLots notes of which lots units are; it is written when the transaction is committed, after its moves.
func (t *Tx) NoteLots(entries []LotEntry) { t.lots = append(t.lots, entries...) }

// writeLots is the statement that appends entries, and what it is told.
func writeLots(command int64, entries []LotEntry) (string, []any) {
	lists := [9][]int64{}
	for _, e := range entries {
		for i, v := range [9]int64{e.Lot, e.Item, e.Warehouse, e.Bin, e.Line, e.Package, e.Inbound, e.Change, e.Aside} {
			lists[i] = append(lists[i], v)
		}
	}
	told := make([]any, len(lists))
	for i := range lists {
		told[i] = lists[i]
	}
	return intoLots.of(len(entries), command, told...)
}

// Lot is a lot of an item, with the recall that stands on it, if one does.
type Lot struct {
	ID       int64
	ItemID   int64
	Code     string
	NotedBy  int64
	RecallID *int64     `gorm:"->"`
	Who      string     `gorm:"->"`
	At       *time.Time `gorm:"->"`
	Reason   string     `gorm:"->"`
}

// TableName is the table of Lot.
func (Lot) TableName() string { return "lot" }

const lotRow = `SELECT t.id, t.item_id, t.code, t.noted_by, r.id AS recall_id, coalesce(u.name, '') AS who, m.at,
		coalesce(m.reason, '') AS reason
	FROM lot t LEFT JOIN lot_recall r ON r.lot_id = t.id AND r.lifted_by IS NULL LEFT JOIN command m ON m.id = r.asked_by
		LEFT JOIN app_user u ON u.id = m.actor_id`

// Lots returns the lots of those keys.
func (r *Reader) Lots(ids IDs) ([]Lot, error) {
	return all[Lot](r, lotRow+` WHERE t.id = ANY(?)`, ids)
}

// LotByCode returns a lot of an item; capitals do not count.
func (r *Reader) LotByCode(item int64, code string) (Lot, bool, error) {
	return one[Lot](r, lotRow+` WHERE t.item_id = ? AND t.code = upper(btrim(?))`, item, code)
}

// EnsureLots returns the lots of an item that have those codes, in capitals; those that are new are made.
func (t *Tx) EnsureLots(item int64, codes Texts, command int64) ([]Lot, error) {
	if _, err := t.exec(`INSERT INTO lot (item_id, code, noted_by) SELECT $1, x, $3 FROM unnest($2::text[]) x
		ON CONFLICT (item_id, code) DO NOTHING`, item, []string(codes), command); err != nil {
		return nil, err
	}
	return all[Lot](&t.Reader, lotRow+` WHERE t.item_id = ? AND t.code = ANY(?)`, item, codes)
}

// LotItem is an item of which lots are noted.
type LotItem struct {
	ID   int64
	SKU  string `gorm:"column:sku"`
	Lots bool   // they have to be; else some were noted before
}

// LotItems returns those of the items of which lots are noted.
func (r *Reader) LotItems(items IDs) ([]LotItem, error) {
	return all[LotItem](r, `SELECT id, sku, lots FROM item i WHERE id = ANY(?)
		AND (lots OR EXISTS (SELECT 1 FROM lot_count c WHERE c.item_id = i.id AND c.qty > 0))`, items)
}

// LotHolding is what a place holds, and what people call it.
type LotHolding struct {
	LotPlace
	lots.Holding
	Name  string
	Aside map[int64]journey.Qty // of each lot in a bin how many are set aside because it must not be sent
}

// lotPlaces is which places there are, with what they hold and are called: p, of the keys of items, warehouses, bins, lines and packages.
const lotPlaces = `
	SELECT p.n, p.item, p.warehouse, p.bin, p.line, p.package, CASE
			WHEN p.bin <> 0 THEN coalesce((SELECT s.qty FROM bin_stock s
				WHERE s.item_id = p.item AND s.warehouse_id = p.warehouse AND s.bin_id = p.bin), 0)
			WHEN p.package <> 0 THEN coalesce((SELECT y.qty FROM package_line y WHERE y.package_id = p.package AND y.line_id = p.line), 0)
				+ coalesce((SELECT sum(b.qty - b.done) FROM put_back b WHERE b.package_id = p.package AND b.line_id = p.line AND b.done < b.qty), 0)
			ELSE coalesce((SELECT a.picked FROM line_at a WHERE a.line_id = p.line AND a.warehouse_id = p.warehouse), 0)
				+ coalesce((SELECT sum(b.qty - b.done) FROM put_back b WHERE b.line_id = p.line AND b.warehouse_id = p.warehouse
					AND b.package_id IS NULL AND b.done < b.qty), 0)
		END AS units, CASE
			WHEN p.bin <> 0 THEN (SELECT b.code FROM bin b WHERE b.id = p.bin)
			WHEN p.package <> 0 THEN (SELECT k.number FROM package k WHERE k.id = p.package)
			ELSE (SELECT o.number FROM order_line l JOIN sales_order o ON o.id = l.order_id WHERE l.id = p.line)
		END AS name
	FROM unnest(CAST(? AS bigint[]), CAST(? AS bigint[]), CAST(? AS bigint[]), CAST(? AS bigint[]), CAST(? AS bigint[]))
		WITH ORDINALITY p (item, warehouse, bin, line, package, n)`

// LotHoldings returns what the places hold, in their order. Call it after Lock.
func (r *Reader) LotHoldings(places []LotPlace) ([]LotHolding, error) {
	var items, houses, bins, lines, packs IDs
	for _, p := range places {
		items, houses, bins = append(items, p.Item), append(houses, p.Warehouse), append(bins, p.Bin)
		lines, packs = append(lines, p.Line), append(packs, p.Package)
	}
	rows, err := all[struct {
		N, Item, Warehouse, Bin, Line, Package, Units int64
		Name                                          string
		Lot, Qty, Aside                               int64
	}](r, `SELECT x.*, coalesce(c.lot_id, 0) AS lot, coalesce(c.qty, 0) AS qty, coalesce(c.aside, 0) AS aside
		FROM (`+lotPlaces+`) x LEFT JOIN LATERAL (
			SELECT lot_id, qty, aside FROM lot_count WHERE x.bin <> 0 AND bin_id = x.bin AND item_id = x.item AND qty > 0
			UNION ALL SELECT lot_id, qty, aside FROM lot_count WHERE x.package <> 0 AND package_id = x.package AND line_id = x.line AND qty > 0
			UNION ALL SELECT lot_id, qty, aside FROM lot_count WHERE x.bin = 0 AND x.package = 0 AND line_id = x.line
				AND warehouse_id = x.warehouse AND package_id IS NULL AND qty > 0) c ON true
		ORDER BY x.n, c.lot_id`, items, houses, bins, lines, packs)
	out := make([]LotHolding, len(places))
	for _, x := range rows {
		h := &out[x.N-1]
		h.LotPlace = LotPlace{x.Item, x.Warehouse, x.Bin, x.Line, x.Package}
		h.Units, h.Name = journey.Qty(x.Units), x.Name
		if h.Aside == nil {
			h.Aside = map[int64]journey.Qty{}
		}
		if x.Lot != 0 {
			h.Parts = append(h.Parts, lots.Part{Lot: x.Lot, Qty: journey.Qty(x.Qty)})
			h.Aside[x.Lot] = journey.Qty(x.Aside)
		}
	}
	return out, err
}

// LotAt is so many units of a lot in a place.
type LotAt struct {
	LotPlace
	Qty   int64
	Aside int64
	Gone  bool // it lies in a package that has left
}

// LotPlaces returns where units of a lot are, or went.
func (r *Reader) LotPlaces(lot int64) ([]LotAt, error) {
	return all[LotAt](r, `SELECT c.item_id AS item, c.warehouse_id AS warehouse, coalesce(c.bin_id, 0) AS bin, coalesce(c.line_id, 0) AS line,
			coalesce(c.package_id, 0) AS package, c.qty, c.aside, s.dispatched_at IS NOT NULL AS gone
		FROM lot_count c LEFT JOIN package k ON k.id = c.package_id LEFT JOIN shipment s ON s.id = k.shipment_id
		WHERE c.lot_id = ? AND c.qty > 0 ORDER BY c.id`, lot)
}

// RecallLot notes that a lot must not be sent.
func (t *Tx) RecallLot(lot, command int64) error {
	_, err := t.exec(`INSERT INTO lot_recall (lot_id, asked_by) VALUES ($1, $2)`, lot, command)
	return err
}

// LiftLot notes that a lot may be sent again.
func (t *Tx) LiftLot(recall, command int64) error {
	_, err := t.exec(`UPDATE lot_recall SET lifted_by = $2 WHERE id = $1 AND lifted_by IS NULL`, recall, command)
	return err
}

// LotIn is so many units of a lot that lie in a place, as people name it.
type LotIn struct {
	Place int64 // the bin, or the line
	Lot   string
	Qty   int64
	Stop  bool // it must not be sent
}

// LotsInBins returns of which lots units of an item lie in the bins, the lot that was noted first first.
func (r *Reader) LotsInBins(items, bins IDs) (map[[2]int64][]LotIn, error) {
	rows, err := all[struct {
		ItemID int64
		LotIn
	}](r, `SELECT c.item_id, c.bin_id AS place, t.code AS lot, c.qty, EXISTS (SELECT 1 FROM lot_recall r WHERE r.lot_id = t.id
			AND r.lifted_by IS NULL) AS stop
		FROM lot_count c JOIN lot t ON t.id = c.lot_id WHERE c.item_id = ANY(?) AND c.bin_id = ANY(?) AND c.qty > 0
		ORDER BY c.lot_id`, items, bins)
	out := map[[2]int64][]LotIn{}
	for _, x := range rows {
		k := [2]int64{x.ItemID, x.Place}
		out[k] = append(out[k], x.LotIn)
	}
	return out, err
}

// LotsPicked returns of which lots units of the lines are that were picked and lie in no package, by line and warehouse.
func (r *Reader) LotsPicked(lines IDs) (map[[2]int64][]LotIn, error) {
	rows, err := all[struct {
		WarehouseID int64
		LotIn
	}](r, `SELECT c.warehouse_id, c.line_id AS place, t.code AS lot, c.qty, EXISTS (SELECT 1 FROM lot_recall r WHERE r.lot_id = t.id
			AND r.lifted_by IS NULL) AS stop
		FROM lot_count c JOIN lot t ON t.id = c.lot_id
		WHERE c.line_id = ANY(?) AND c.package_id IS NULL AND c.qty > 0 ORDER BY c.lot_id`, lines)
	out := map[[2]int64][]LotIn{}
	for _, x := range rows {
		k := [2]int64{x.Place, x.WarehouseID}
		out[k] = append(out[k], x.LotIn)
	}
	return out, err
}

// LotToPutBack returns how many units of a lot were taken back because of it and are still to be put back, by line and package.
func (r *Reader) LotToPutBack(lot int64) (map[[2]int64]int64, error) {
	rows, err := all[struct{ Line, Package, Qty int64 }](r, `SELECT line_id AS line, coalesce(package_id, 0) AS package, sum(qty - done) AS qty
		FROM put_back WHERE lot_id = ? AND done < qty GROUP BY 1, 2`, lot)
	out := map[[2]int64]int64{}
	for _, x := range rows {
		out[[2]int64{x.Line, x.Package}] = x.Qty
	}
	return out, err
}

// LinesDueFrom returns the lines of which units of an item are still to be picked from the bins.
func (r *Reader) LinesDueFrom(item int64, bins IDs) (IDs, error) {
	if len(bins) == 0 {
		return nil, nil
	}
	return all[int64](r, `SELECT DISTINCT t.line_id FROM pick_task t JOIN order_line l ON l.id = t.line_id
		WHERE t.bin_id = ANY(?) AND l.item_id = ? AND t.qty - t.picked - t.short - t.recalled > 0 ORDER BY 1`, bins, item)
}

// CellsOfItem returns the stock rows of an item.
func (r *Reader) CellsOfItem(item int64) ([]LockedCell, error) {
	return all[LockedCell](r, `SELECT c.item_id, c.warehouse_id, w.code AS warehouse, c.on_hand, c.held, c.allocated, c.released,
			c.picked, c.packed FROM stock_cell c JOIN warehouse w ON w.id = c.warehouse_id WHERE c.item_id = ? ORDER BY w.code`, item)
}

// StoppedLots returns the lots that must not be sent and lie in packages of the shipments.
func (r *Reader) StoppedLots(shipments IDs) ([]LotIn, error) {
	return all[LotIn](r, `SELECT k.shipment_id AS place, t.code AS lot, c.qty, true AS stop
		FROM lot_count c JOIN package k ON k.id = c.package_id JOIN lot t ON t.id = c.lot_id JOIN lot_recall x ON x.lot_id = t.id AND x.lifted_by IS NULL
		WHERE k.shipment_id = ANY(?) AND c.qty > 0 ORDER BY k.shipment_id, t.id`, shipments)
}
