package store

import "strings"

// Lines of which units are recalled, and what of them is where.

// DueRow is a row of a pick list with units of a line that are still to be picked.
type DueRow struct {
	Task        int64
	Line        int64
	Due         int64
	List        string
	WarehouseID int64
	BinID       int64
	Picker      string // who has the list, if anybody
	Printed     bool
}

// DueOf returns the rows of pick lists on which units of the lines are still to be picked, those that nobody has yet first, of each the
// latest first.
func (r *Reader) DueOf(lines IDs) ([]DueRow, error) {
	return all[DueRow](r, `
		SELECT t.id AS task, t.line_id AS line, t.due, k.number AS list, k.warehouse_id, t.bin_id,
			coalesce(u.name, '') AS picker, EXISTS (SELECT 1 FROM paper p WHERE p.pick_list_id = k.id AND p.void_by IS NULL) AS printed
		FROM pick_task t JOIN pick_list k ON k.id = t.pick_list_id LEFT JOIN app_user u ON u.id = k.picker_id
		WHERE t.line_id = ANY(?) AND t.qty - t.picked - t.short - t.recalled > 0
		ORDER BY t.line_id, k.picker_id IS NOT NULL, t.id DESC`, lines)
}

// PickedFrom is a row of a pick list from which units of a line were picked and not taken back.
type PickedFrom struct {
	Task        int64
	Line        int64
	Left        int64
	List        string
	WarehouseID int64
}

// PickedFromOf returns the rows of pick lists from which units of the lines were picked and not taken back, the latest first: those that
// have not left are the latest.
func (r *Reader) PickedFromOf(lines IDs) ([]PickedFrom, error) {
	return all[PickedFrom](r, `
		SELECT * FROM (SELECT t.id AS task, t.line_id AS line,
				t.picked - coalesce((SELECT sum(b.qty) FROM put_back b WHERE b.task_id = t.id), 0) AS left, k.number AS list, k.warehouse_id
			FROM pick_task t JOIN pick_list k ON k.id = t.pick_list_id
			WHERE t.line_id = ANY(?) AND t.picked > 0) x
		WHERE x.left > 0 ORDER BY line, task DESC`, lines)
}

// PackedIn is so many units of a line in a package that has not left.
type PackedIn struct {
	Line        int64
	Qty         int64
	PackageID   int64
	Package     string
	ShipmentID  int64
	Shipment    string
	WarehouseID int64
	Asked       bool // the carrier is to be asked to take it
	Asking      bool // and is being asked, or has been: that cannot be stopped any more
}

// PackedInOf returns the packages in which units of the lines lie and which have not left, those about which no carrier is asked first.
func (r *Reader) PackedInOf(lines IDs) ([]PackedIn, error) {
	return all[PackedIn](r, `
		SELECT c.line_id AS line, c.qty, p.id AS package_id, p.number AS package, s.id AS shipment_id, s.number AS shipment, s.warehouse_id,
			s.asked_at IS NOT NULL AS asked, s.asking_at IS NOT NULL AS asking
		FROM package_line c JOIN package p ON p.id = c.package_id JOIN shipment s ON s.id = p.shipment_id
		WHERE c.line_id = ANY(?) AND c.qty > 0 AND s.dispatched_at IS NULL
		ORDER BY c.line_id, s.asking_at IS NOT NULL, s.asked_at IS NOT NULL, p.id DESC`, lines)
}

// LineAtRow is where units of a line stand.
type LineAtRow struct {
	Line        int64
	WarehouseID int64
	Warehouse   string
	Allocated   int64
	Picked      int64
}

// PlacesOf returns where units of the lines stand, by line.
func (r *Reader) PlacesOf(lines IDs) ([]LineAtRow, error) {
	return all[LineAtRow](r, `
		SELECT a.line_id AS line, a.warehouse_id, w.code AS warehouse, a.allocated, a.picked
		FROM line_at a JOIN warehouse w ON w.id = a.warehouse_id
		WHERE a.line_id = ANY(?) AND a.allocated + a.released + a.picked + a.packed > 0 ORDER BY a.line_id, a.warehouse_id`, lines)
}

// HoldListsOf holds the pick lists still to which rows belong, so that none of them is printed meanwhile. Call it after lines are locked
// and before shipments are.
func (t *Tx) HoldListsOf(tasks IDs) error {
	_, err := all[struct{ ID int64 }](&t.Reader, `SELECT id FROM pick_list WHERE id IN (SELECT pick_list_id FROM pick_task WHERE id = ANY(?))
		ORDER BY id FOR NO KEY UPDATE`, tasks)
	return err
}

// PutBack is units that were taken back and are to be put into a bin again.
type PutBack struct {
	ID          int64
	LineID      int64
	ItemID      int64
	WarehouseID int64
	BinID       int64  // where they lie until then
	TaskID      *int64 // the row of a pick list from which they had been picked
	PackageID   *int64 // out of which they were taken
	Ends        string // the station at which they ended
	Qty         int64
	Done        int64
	LotID       *int64 // of which lot they are, if they were taken back for that
	AskedBy     int64
	DoneBy      *int64
}

// TableName is the table of PutBack.
func (PutBack) TableName() string { return "put_back" }

// PutBackPlace returns the place of a warehouse where units wait to be put back, made if there is none: a bin named PUT-BACK.
func (t *Tx) PutBackPlace(warehouse int64) (id int64, code string, err error) {
	row, found, err := one[struct {
		ID   int64
		Code string
	}](&t.Reader, `SELECT id, code FROM bin WHERE warehouse_id = ? AND put_back`, warehouse)
	if err != nil || found {
		return row.ID, row.Code, err
	}
	row, _, err = one[struct {
		ID   int64
		Code string
	}](&t.Reader, `INSERT INTO bin (warehouse_id, code, put_back) VALUES (?, ?, true)
		ON CONFLICT (warehouse_id, code) DO UPDATE SET put_back = true RETURNING id, code`, warehouse, putBackCode)
	return row.ID, row.Code, err
}

// PutBackPlaces returns the places where units wait to be put back, by warehouse and code.
func (r *Reader) PutBackPlaces() (map[[2]string]bool, error) {
	rows, err := all[struct{ Warehouse, Code string }](
		r, `SELECT w.code AS warehouse, b.code FROM bin b JOIN warehouse w ON w.id = b.warehouse_id WHERE b.put_back`,
	)
	out := make(map[[2]string]bool, len(rows))
	for _, x := range rows {
		out[[2]string{x.Warehouse, x.Code}] = true
	}
	return out, err
}

// IsPutBackPlace says whether units wait to be put back in the bin of that code, or will, once there are some.
func (r *Reader) IsPutBackPlace(warehouse int64, code string) (bool, error) {
	if IsPutBackName(code) {
		return true, nil
	}
	_, is, err := one[struct{ ID int64 }](r, `SELECT id FROM bin WHERE warehouse_id = ? AND code = ? AND put_back`, warehouse, code)
	return is, err
}

// putBackCode is what the place is called where units wait to be put back.
const putBackCode = "PUT-BACK"

// IsPutBackName says whether no other bin may be called so.
func IsPutBackName(code string) bool { return strings.EqualFold(strings.TrimSpace(code), putBackCode) }

// LinesToPutBack says of which of the lines units that stayed allocated are still to be put back.
func (r *Reader) LinesToPutBack(lines IDs) (map[int64]bool, error) {
	ids, err := all[int64](r, `SELECT DISTINCT line_id FROM put_back WHERE line_id = ANY(?) AND done < qty AND ends = 'allocated'`, lines)
	out := make(map[int64]bool, len(ids))
	for _, id := range ids {
		out[id] = true
	}
	return out, err
}

// PutBackRow is units that are to be put back, with what they are and where from.
type PutBackRow struct {
	PutBack
	SKU       string `gorm:"column:sku"`
	ItemName  string
	Unit      string
	Barcode   string
	Lots      bool // it is noted of which lot its units are
	Warehouse string
	Place     string // where they lie until then
	Bin       string // where they should go: the bin from which they were picked, or the one that holds most of the item
	Zone      string
	Order     string
	LineNo    int
	Customer  string
	List      string // on which they were, if that is known
	Package   string // out of which they were taken
	Lot       string // of which they are, if they were taken back for that
	At        string
	Who       string
	Reason    string
}

const putBackRow = `
	SELECT b.*, i.sku, i.name AS item_name, i.unit, i.barcode, i.lots, w.code AS warehouse, p.code AS place, coalesce(g.code, '') AS bin,
		coalesce(g.zone, '') AS zone, o.number AS "order", l.line_no, c.name AS customer, coalesce(k.number, '') AS list,
		coalesce(x.number, '') AS package, coalesce(v.code, '') AS lot, to_char(m.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') AS at, u.name AS who, m.reason
	FROM put_back b JOIN item i ON i.id = b.item_id JOIN warehouse w ON w.id = b.warehouse_id JOIN bin p ON p.id = b.bin_id
		JOIN order_line l ON l.id = b.line_id JOIN sales_order o ON o.id = l.order_id JOIN customer c ON c.id = o.customer_id
		JOIN command m ON m.id = b.asked_by JOIN app_user u ON u.id = m.actor_id
		LEFT JOIN pick_task t ON t.id = b.task_id LEFT JOIN pick_list k ON k.id = t.pick_list_id LEFT JOIN package x ON x.id = b.package_id
		LEFT JOIN lot v ON v.id = b.lot_id
		LEFT JOIN LATERAL (SELECT q.code, q.zone FROM bin q LEFT JOIN bin_stock s ON s.bin_id = q.id AND s.item_id = b.item_id
				AND s.warehouse_id = b.warehouse_id
			WHERE q.warehouse_id = b.warehouse_id AND q.code <> '' AND NOT q.put_back AND (q.id = t.bin_id OR s.item_id IS NOT NULL)
			ORDER BY (q.id = t.bin_id) DESC NULLS LAST, s.qty DESC NULLS LAST, q.code LIMIT 1) g ON true`

// PutBacksWaiting returns units that are to be put back, those that were taken back first first.
func (r *Reader) PutBacksWaiting(most int) ([]PutBackRow, error) {
	return all[PutBackRow](r, putBackRow+` WHERE b.done < b.qty ORDER BY b.id LIMIT ?`, most)
}

// PutBacksOfPackages returns the units that were recalled out of the packages of the shipments and are still to be put back: they may lie
// in them as yet.
func (r *Reader) PutBacksOfPackages(shipments IDs) ([]PutBackRow, error) {
	return all[PutBackRow](r, putBackRow+` WHERE b.done < b.qty AND x.shipment_id = ANY(?) ORDER BY b.id`, shipments)
}

// PutBacksOfPaper returns the units that were picked by a list, or lay in a package, were recalled, and are still to be put back.
func (r *Reader) PutBacksOfPaper(list, pack string) ([]PutBackRow, error) {
	return all[PutBackRow](
		r, putBackRow+` WHERE b.done < b.qty AND (k.number = NULLIF(?, '') OR x.number = NULLIF(?, '')) ORDER BY b.id`, list, pack,
	)
}

// OrdersOnList returns the numbers of the orders on a pick list.
func (r *Reader) OrdersOnList(number string) ([]string, error) {
	return all[string](r, `SELECT DISTINCT o.number FROM pick_list k JOIN pick_task t ON t.pick_list_id = k.id
		JOIN order_line l ON l.id = t.line_id JOIN sales_order o ON o.id = l.order_id WHERE k.number = ? ORDER BY 1`, number)
}

// PutBackByID returns units that are, or were, to be put back.
func (r *Reader) PutBackByID(id int64) (PutBackRow, bool, error) {
	return one[PutBackRow](r, putBackRow+` WHERE b.id = ?`, id)
}

// MarkPutAway notes that so many units lie in a bin again. Call it after the line is locked.
func (t *Tx) MarkPutAway(id, units, command int64) error {
	_, err := t.exec(`UPDATE put_back SET done = done + $2, done_by = CASE WHEN done + $2 = qty THEN $3::bigint END WHERE id = $1`,
		id, units, command)
	return err
}

// BinByCode returns a bin of a warehouse from which can be picked; capitals do not count.
func (r *Reader) BinByCode(warehouse int64, code string) (id int64, found bool, err error) {
	row, found, err := one[struct{ ID int64 }](
		r, `SELECT id FROM bin WHERE warehouse_id = ? AND lower(code) = lower(?) AND code <> '' AND NOT put_back LIMIT 1`, warehouse, code,
	)
	return row.ID, found, err
}

// Lighten takes the weight of what was taken out, in grams by package, off packages that are not empty.
func (t *Tx) Lighten(grams map[int64]int64) error {
	packs, off := make([]int64, 0, len(grams)), make([]int64, 0, len(grams))
	for pack, g := range grams {
		packs, off = append(packs, pack), append(off, g)
	}
	if len(packs) == 0 {
		return nil
	}
	_, err := t.exec(`UPDATE package p SET weight_g = p.weight_g - x.off FROM unnest($1::bigint[], $2::bigint[]) x (pack, off)
		WHERE p.id = x.pack AND p.weight_g > x.off`, packs, off)
	return err
}
