package store

import (
	"time"

	"gorm.io/gorm"
)

// PrintRun is what is printed together, as one document.
type PrintRun struct {
	ID        int64
	CommandID int64
	PDF       []byte `gorm:"column:pdf"`
	Pages     int
	PrintedAt *time.Time // when the printer had taken it
	Tried     int        // in vain
	Trouble   string     // what went wrong last
}

// Kinds of paper.
const (
	PickListPaper    = "pick list"
	PackingListPaper = "packing list"
	LabelPaper       = "label"
)

// Why a paper is void.
const (
	PrintedAgain  = "printed again"
	Recalled      = "recalled"
	Unpacked      = "unpacked"
	SentOtherwise = "sent otherwise"
)

// Paper is a sheet that goes with goods, with a code on it. It is of a pick list, or of what goes to an order from a warehouse.
type Paper struct {
	ID          int64
	PrintRunID  int64
	Place       int // in the document
	Kind        string
	Code        string
	Revision    int
	PickListID  *int64
	OrderID     *int64
	PackageID   *int64
	WarehouseID int64
	VoidBy      *int64
	VoidWhy     string
}

// PaperRow is a paper with what it is of, who had it printed, and who made it void.
type PaperRow struct {
	Paper
	List       string // of a pick list
	Package    string // of a label
	Shipment   string
	Order      string // of a packing list
	Warehouse  string
	At         time.Time // when it was asked for
	Who        string
	PrintedAt  *time.Time
	Tried      int
	Trouble    string
	Pages      int // of its document
	HasPDF     bool
	VoidAt     *time.Time
	VoidWho    string
	VoidReason string // why it was recalled
	Standing   string // the code of the paper that stands in place of this one, if there is one
}

const paperRow = `
	SELECT p.*, coalesce(k.number, '') AS list, coalesce(o.number, '') AS "order", w.code AS warehouse, c.at, u.name AS who,
		r.printed_at, r.tried, r.trouble, r.pages, r.pdf IS NOT NULL AS has_pdf, v.at AS void_at, coalesce(x.name, '') AS void_who,
		coalesce(v.reason, '') AS void_reason,
		coalesce((SELECT q.code FROM paper q WHERE q.void_by IS NULL AND q.pick_list_id = p.pick_list_id),
			(SELECT q.code FROM paper q WHERE q.void_by IS NULL AND q.order_id = p.order_id AND q.warehouse_id = p.warehouse_id),
			(SELECT q.code FROM paper q WHERE q.void_by IS NULL AND q.package_id = p.package_id), '') AS standing,
		coalesce(g.number, '') AS package, coalesce(z.number, '') AS shipment
	FROM paper p JOIN print_run r ON r.id = p.print_run_id JOIN command c ON c.id = r.command_id JOIN app_user u ON u.id = c.actor_id
		JOIN warehouse w ON w.id = p.warehouse_id LEFT JOIN pick_list k ON k.id = p.pick_list_id
		LEFT JOIN sales_order o ON o.id = p.order_id LEFT JOIN command v ON v.id = p.void_by LEFT JOIN app_user x ON x.id = v.actor_id
		LEFT JOIN package g ON g.id = p.package_id LEFT JOIN shipment z ON z.id = g.shipment_id`

// PaperByCode returns the paper on which that code stands; capitals do not count.
func (r *Reader) PaperByCode(code string) (PaperRow, bool, error) {
	return one[PaperRow](r, paperRow+` WHERE lower(p.code) = lower(?)`, code)
}

// PapersOfList returns what was printed of a pick list, the latest first.
func (r *Reader) PapersOfList(list int64) ([]PaperRow, error) {
	return all[PaperRow](r, paperRow+` WHERE p.pick_list_id = ? ORDER BY p.revision DESC`, list)
}

// PapersByKey returns the papers of those keys, in their order.
func (r *Reader) PapersByKey(keys IDs) ([]PaperRow, error) {
	rows, err := all[PaperRow](r, paperRow+` WHERE p.id = ANY(?)`, keys)
	return inKeyOrder(keys, rows, func(p PaperRow) int64 { return p.ID }), err
}

// PapersOfRun returns the papers of a document, in their order.
func (r *Reader) PapersOfRun(run int64) ([]PaperRow, error) {
	return all[PaperRow](r, paperRow+` WHERE p.print_run_id = ? ORDER BY p.place`, run)
}

// PrintRunByID returns a document.
func (r *Reader) PrintRunByID(id int64) (PrintRun, bool, error) {
	return first[PrintRun](r.g.Where("id = ?", id))
}

// PrintRunsWaiting returns the documents that the printer has not taken, without what stands in them.
func (r *Reader) PrintRunsWaiting() ([]PrintRun, error) {
	return find[PrintRun](r.g.Omit("pdf").Where("printed_at IS NULL").Order("id"))
}

// PickListRef is a pick list by its number.
type PickListRef struct {
	ID          int64
	Number      string
	WarehouseID int64
}

// LockPickLists holds pick lists still for what is printed of them. Call it after lines are locked and before orders are.
func (t *Tx) LockPickLists(numbers Texts) ([]PickListRef, error) {
	return all[PickListRef](
		&t.Reader, `SELECT id, number, warehouse_id FROM pick_list WHERE number = ANY(?) ORDER BY id FOR NO KEY UPDATE`, numbers,
	)
}

// LockOrdersOfLists holds the orders on pick lists still, of which something is neither gone nor recalled, and returns them.
func (t *Tx) LockOrdersOfLists(lists IDs) ([]OrderAt, error) {
	err := t.lockOrders(`SELECT l.order_id FROM pick_task k JOIN order_line l ON l.id = k.line_id WHERE k.pick_list_id = ANY(?)`, lists)
	if err != nil {
		return nil, err
	}
	return all[OrderAt](&t.Reader, `SELECT DISTINCT l.order_id, o.number, k.warehouse_id
		FROM pick_list k JOIN pick_task y ON y.pick_list_id = k.id JOIN order_line l ON l.id = y.line_id JOIN sales_order o ON o.id = l.order_id
			JOIN line_at a ON a.line_id = l.id AND a.warehouse_id = k.warehouse_id AND a.released + a.picked + a.packed > 0
		WHERE k.id = ANY(?) ORDER BY l.order_id, k.warehouse_id`, lists)
}

// LockOrders holds orders still. Call it last.
func (t *Tx) LockOrders(orders IDs) error { return t.lockOrders(`SELECT unnest(?::bigint[])`, orders) }

func (t *Tx) lockOrders(which string, of IDs) error {
	_, err := all[struct{ ID int64 }](
		&t.Reader, `SELECT id FROM sales_order WHERE id IN (`+which+`) ORDER BY id FOR NO KEY UPDATE`, of,
	)
	return err
}

// OrderAt is an order in a warehouse.
type OrderAt struct {
	OrderID     int64
	Number      string
	WarehouseID int64
}

// Revisions is how often each of the pick lists was printed, and each of the orders in a warehouse.
func (r *Reader) Revisions(lists, orders IDs) (ofList map[int64]int, ofOrder map[int64]int, err error) {
	rows, err := all[struct {
		PickListID, OrderID int64
		N                   int
	}](r, `SELECT coalesce(pick_list_id, 0) AS pick_list_id, coalesce(order_id, 0) AS order_id, max(revision) AS n FROM paper
		WHERE pick_list_id = ANY(?) OR order_id = ANY(?) GROUP BY pick_list_id, order_id`, lists, orders)
	ofList, ofOrder = map[int64]int{}, map[int64]int{}
	for _, x := range rows {
		if x.OrderID != 0 {
			ofOrder[x.OrderID] = x.N
		} else {
			ofList[x.PickListID] = x.N
		}
	}
	return ofList, ofOrder, err
}

// VoidPapers makes the papers of pick lists, and of orders in warehouses, void.
func (t *Tx) VoidPapers(lists IDs, orders []OrderAt, command int64, why string) error {
	of, at := make(IDs, len(orders)), make(IDs, len(orders))
	for i, o := range orders {
		of[i], at[i] = o.OrderID, o.WarehouseID
	}
	_, err := t.exec(`UPDATE paper SET void_by = $1, void_why = $2 WHERE void_by IS NULL AND (pick_list_id = ANY($3)
		OR (order_id, warehouse_id) IN (SELECT * FROM unnest($4::bigint[], $5::bigint[])))`,
		command, why, []int64(lists), []int64(of), []int64(at))
	return err
}

// VoidRecalled makes the papers of pick lists void from whose rows units are recalled, and those of their orders. It holds the pick lists
// still, so that none of them is printed meanwhile with what is recalled.
func (t *Tx) VoidRecalled(tasks IDs, command int64) error {
	if err := t.HoldListsOf(tasks); err != nil {
		return err
	}
	_, err := t.exec(`UPDATE paper SET void_by = $1, void_why = $2 WHERE void_by IS NULL AND (
		pick_list_id IN (SELECT pick_list_id FROM pick_task WHERE id = ANY($3))
		OR (order_id, warehouse_id) IN (SELECT l.order_id, k.warehouse_id FROM pick_task y JOIN pick_list k ON k.id = y.pick_list_id
			JOIN order_line l ON l.id = y.line_id WHERE y.id = ANY($3)))`,
		command, Recalled, []int64(tasks))
	return err
}

// KeepPDF keeps a document as it was drawn, unless one was kept before, and returns the one that is kept.
func (t *Tx) KeepPDF(run int64, pdf []byte, pages int) (PrintRun, error) {
	err := t.g.Model(&PrintRun{ID: run}).Where("pdf IS NULL").Updates(map[string]any{"pdf": pdf, "pages": pages}).Error
	if err != nil {
		return PrintRun{}, err
	}
	kept, _, err := t.PrintRunByID(run)
	return kept, err
}

// MarkPrinted notes that the printer has taken a document.
func (t *Tx) MarkPrinted(run int64, at time.Time) error {
	return t.g.Model(&PrintRun{ID: run}).Updates(map[string]any{"printed_at": at, "trouble": ""}).Error
}

// NotePrintTrouble notes why a document could not be printed.
func (t *Tx) NotePrintTrouble(run int64, note string) error {
	return t.g.Model(&PrintRun{ID: run}).Where("printed_at IS NULL").Updates(map[string]any{
		"tried": gorm.Expr("tried + 1"), "trouble": note,
	}).Error
}

// PackingListRow is a line of an order as its packing list at a warehouse says it.
type PackingListRow struct {
	OrderID     int64
	WarehouseID int64
	LineNo      int
	SKU         string `gorm:"column:sku"`
	ItemName    string
	Unit        string
	Ordered     int64
	Here        int64 // released, picked or packed in that warehouse
	Sent        int64
}

// PackingListRows returns the lines of orders as packing lists say them.
func (r *Reader) PackingListRows(orders IDs) ([]PackingListRow, error) {
	return all[PackingListRow](r, `
		SELECT l.order_id, w.id AS warehouse_id, l.line_no, i.sku, i.name AS item_name, i.unit, n.ordered - n.dropped AS ordered,
			coalesce(a.released + a.picked + a.packed, 0) AS here, n.shipped + n.delivered AS sent
		FROM order_line l JOIN line_count n ON n.line_id = l.id JOIN item i ON i.id = l.item_id CROSS JOIN warehouse w
			LEFT JOIN line_at a ON a.line_id = l.id AND a.warehouse_id = w.id
		WHERE l.order_id = ANY(?) ORDER BY l.order_id, w.id, l.line_no`, orders)
}

// PackingListHead is an order as the head of its packing list says it.
type PackingListHead struct {
	OrderID                                                   int64
	Number, CustomerRef, Customer, Service                    string
	ShipToName, Street, City, Postcode, Country, Note, Wanted string
}

// PackingListHeads returns the heads of orders.
func (r *Reader) PackingListHeads(orders IDs) ([]PackingListHead, error) {
	return all[PackingListHead](r, `
		SELECT o.id AS order_id, o.number, o.customer_ref, c.name AS customer, o.service, t.name AS ship_to_name, t.street, t.city, t.postcode,
			t.country, o.note, o.wanted::text AS wanted
		FROM sales_order o JOIN customer c ON c.id = o.customer_id JOIN ship_to t ON t.id = o.ship_to_id WHERE o.id = ANY(?)`, orders)
}
