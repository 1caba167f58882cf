package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
)

// The records of an import are written as sets: one statement for ten thousand
// rows, handed over as JSON.

// LockImports lets one import run at a time, until the transaction ends.
func (t *Tx) LockImports() error {
	_, err := t.exec(`SELECT pg_advisory_xact_lock(7201004)`)
	return err
}

// ImportShape returns how files of the shape are read, as JSON, if that was said.
func (r *Reader) ImportShape(shape string) (mapping string, found bool, err error) {
	row, found, err := one[struct{ Mapping string }](r, `SELECT mapping::text AS mapping FROM import_shape WHERE shape = ?`, shape)
	return row.Mapping, found, err
}

// KeepImportShape keeps how files of the shape are read, in place of what was said before.
func (t *Tx) KeepImportShape(shape, mapping string, person int64) error {
	_, err := t.exec(`INSERT INTO import_shape (shape, mapping, said_by) VALUES ($1, $2::jsonb, $3)
		ON CONFLICT (shape) DO UPDATE SET mapping = excluded.mapping, said_by = excluded.said_by`, shape, mapping, person)
	return err
}

// ItemsBySKU returns the items of those numbers.
func (r *Reader) ItemsBySKU(skus Texts) ([]Item, error) {
	return all[Item](r, `SELECT * FROM item WHERE sku = ANY(?)`, skus)
}

// ItemsByBarcode returns the numbers of the items that have those bar codes, which are given in small letters, by bar code.
func (r *Reader) ItemsByBarcode(codes Texts) (map[string]string, error) {
	rows, err := all[struct {
		Code string
		SKU  string `gorm:"column:sku"`
	}](r, `SELECT lower(barcode) AS code, sku FROM item WHERE barcode <> '' AND lower(barcode) = ANY(?)`, codes)
	out := map[string]string{}
	for _, x := range rows {
		out[x.Code] = x.SKU
	}
	return out, err
}

// CustomerRecord is a customer as it is kept.
type CustomerRecord struct {
	ID        int64  `json:"-"`
	Code      string `json:"code"`
	Name      string `json:"name"`
	Tier      int64  `json:"tier"`
	ShipRule  string `json:"ship_rule"`
	Warehouse string `json:"warehouse"`
	Service   string `json:"service"`
	Terms     string `json:"terms"`
	Email     string `json:"email"`
	Discount  int64  `json:"discount" gorm:"column:discount_bp"` // basis points

	OneWarehouse bool `json:"one_warehouse"`
}

// CustomersByCode returns the customers of those codes.
func (r *Reader) CustomersByCode(codes Texts) ([]CustomerRecord, error) {
	return all[CustomerRecord](r, `SELECT c.id, c.code, c.name, c.tier, c.ship_rule, coalesce(w.code, '') AS warehouse, c.service,
		c.terms, c.email, c.discount_bp, c.one_warehouse
		FROM customer c LEFT JOIN warehouse w ON w.id = c.warehouse_id WHERE c.code = ANY(?)`, codes)
}

// ShipToRecord is an address of a customer.
type ShipToRecord struct {
	ID       int64  `json:"-"`
	Customer string `json:"customer"`
	Code     string `json:"code"`
	Name     string `json:"name"`
	Street   string `json:"street"`
	City     string `json:"city"`
	Postcode string `json:"postcode"`
	Country  string `json:"country"`
}

// ShipTosOf returns the addresses of the customers, the first one first.
func (r *Reader) ShipTosOf(customers Texts) ([]ShipToRecord, error) {
	return all[ShipToRecord](r, `SELECT s.id, c.code AS customer, s.code, s.name, s.street, s.city, s.postcode, s.country
		FROM ship_to s JOIN customer c ON c.id = s.customer_id WHERE c.code = ANY(?) AND NOT s.once ORDER BY s.id`, customers)
}

// InboundRecord is an expected receipt by names.
type InboundRecord struct {
	Ref       string `json:"ref"`
	SKU       string `json:"sku" gorm:"column:sku"`
	Warehouse string `json:"warehouse"`
	Due       string `json:"due"`
	Qty       int64  `json:"qty"`
	Kind      string `json:"kind"`
	Supplier  string `json:"supplier"`
	Received  int64  `json:"-"`
	ID        int64  `json:"id" gorm:"column:id"` // of one that is here
	Was       string `json:"was" gorm:"-"`        // the day on which that was due, if it is another now
}

// InboundByRef returns the expected receipts of those references.
func (r *Reader) InboundByRef(refs Texts) ([]InboundRecord, error) {
	return all[InboundRecord](r, `SELECT n.id, n.ref, i.sku, w.code AS warehouse, n.due::text AS due, n.qty, n.kind, n.supplier, n.received
		FROM inbound n JOIN item i ON i.id = n.item_id JOIN warehouse w ON w.id = n.warehouse_id WHERE n.ref = ANY(?)`, refs)
}

// OrderRecord is an order by names.
type OrderRecord struct {
	Number      string    `json:"number"`
	Customer    string    `json:"customer"`
	ShipTo      string    `json:"ship_to"`
	Channel     string    `json:"channel"`
	CustomerRef string    `json:"customer_ref"`
	Tier        int64     `json:"tier"`
	Urgency     int64     `json:"urgency"`
	ShipRule    string    `json:"ship_rule"`
	Service     string    `json:"service"`
	Terms       string    `json:"terms"`
	Entered     time.Time `json:"entered"`
	Wanted      string    `json:"wanted"`
	NotBefore   string    `json:"not_before"`
	Currency    string    `json:"currency"`
	Note        string    `json:"note"`
	Hold        string    `json:"hold" gorm:"-"`
	HoldNote    string    `json:"hold_note" gorm:"-"`
}

// LineRecord is an order line by names.
type LineRecord struct {
	Number     string `json:"number"`
	Line       int64  `json:"line"`
	SKU        string `json:"sku" gorm:"column:sku"`
	Warehouse  string `json:"warehouse"`
	Qty        int64  `json:"qty"`
	ShipBy     string `json:"ship_by"`
	PriceMinor int64  `json:"price_minor"`
	ListMinor  int64  `json:"list_minor"`
	DiscountBP int64  `json:"discount" gorm:"column:discount_bp"`
	CostMinor  int64  `json:"cost_minor"`
}

// OrderRecords returns the orders of those numbers that exist.
func (r *Reader) OrderRecords(numbers Texts) ([]OrderRecord, error) {
	return all[OrderRecord](r, `SELECT o.number, c.code AS customer, s.code AS ship_to, o.channel, o.customer_ref, o.tier, o.urgency,
		o.ship_rule,
			o.service, o.terms, o.entered_at AS entered, o.wanted::text AS wanted,
			coalesce(o.not_before::text, '') AS not_before, o.currency, o.note
		FROM sales_order o JOIN customer c ON c.id = o.customer_id JOIN ship_to s ON s.id = o.ship_to_id WHERE o.number = ANY(?)`, numbers)
}

// LineRecords returns the lines of the orders of those numbers.
func (r *Reader) LineRecords(numbers Texts) ([]LineRecord, error) {
	return all[LineRecord](r, `SELECT o.number, l.line_no AS line, i.sku, w.code AS warehouse, n.ordered AS qty, l.ship_by::text AS ship_by,
			l.price_minor, l.list_minor, l.discount_bp, l.cost_minor
		FROM sales_order o JOIN order_line l ON l.order_id = o.id JOIN line_count n ON n.line_id = l.id
			JOIN item i ON i.id = l.item_id JOIN warehouse w ON w.id = l.warehouse_id WHERE o.number = ANY(?)`, numbers)
}

// BinRecord is what lies in a bin, by names.
type BinRecord struct {
	Warehouse string
	SKU       string `gorm:"column:sku"`
	Bin       string
	Qty       int64
	Held      int64
	Due       int64
	Aside     int64 // of those held, units of lots that must not be sent
}

// BinRecords returns the bins of the items of those numbers.
func (r *Reader) BinRecords(skus Texts) ([]BinRecord, error) {
	return all[BinRecord](r, `
		SELECT w.code AS warehouse, i.sku, b.code AS bin, s.qty, s.held,
			coalesce((SELECT sum(t.due) FROM pick_task t JOIN order_line l ON l.id = t.line_id
				WHERE t.bin_id = s.bin_id AND l.item_id = s.item_id AND t.qty - t.picked - t.short - t.recalled > 0), 0) AS due,
			coalesce((SELECT sum(c.aside) FROM lot_count c WHERE c.bin_id = s.bin_id AND c.item_id = s.item_id), 0) AS aside
		FROM bin_stock s JOIN item i ON i.id = s.item_id JOIN warehouse w ON w.id = s.warehouse_id JOIN bin b ON b.id = s.bin_id
		WHERE i.sku = ANY(?)`, skus)
}

// PreferSets tells the database, until the transaction ends, that it is handed
// thousands of rows at once: whole tables are joined by hashing, not row by row,
// although their statistics still say that they are small.
func (t *Tx) PreferSets() error {
	_, err := t.exec(`SELECT set_config('enable_nestloop', 'off', true), set_config('work_mem', '128MB', true)`)
	return err
}

// chunk is how many rows go to the database in one statement.
const chunk = 10_000

// inChunks hands the rows over as JSON, some thousands at a time.
func inChunks[T any](t *Tx, rows []T, query string, step func(int), args ...any) error {
	for len(rows) > 0 {
		n := min(chunk, len(rows))
		text, err := json.Marshal(rows[:n])
		if err != nil {
			return err
		}
		if _, err := t.exec(query, append([]any{string(text)}, args...)...); err != nil {
			return err
		}
		rows = rows[n:]
		step(n)
	}
	return nil
}

// PutWarehouses adds warehouses by code.
func (t *Tx) PutWarehouses(ws []Warehouse) error {
	for i := range ws {
		if err := t.Create(&ws[i]); err != nil {
			return err
		}
	}
	return nil
}

// PutItems adds items and brings those that exist up to date.
func (t *Tx) PutItems(items []ItemRecord, step func(int)) error {
	return inChunks(t, items, `
		INSERT INTO item (sku, name, unit, multiple, lead_days, buyable, weight_g, length_mm, width_mm, height_mm, barcode, lots, price_minor,
			cost_minor, currency)
		SELECT sku, name, unit, multiple, lead_days, buyable, weight_g, length_mm, width_mm, height_mm, barcode, lots, price_minor, cost_minor,
			currency
		FROM json_to_recordset($1::json) AS x (sku text, name text, unit text, multiple bigint, lead_days integer, buyable boolean,
			weight_g bigint, length_mm integer, width_mm integer, height_mm integer, barcode text, lots boolean, price_minor bigint,
			cost_minor bigint, currency text)
		ON CONFLICT (sku) DO UPDATE SET name = excluded.name, unit = excluded.unit, multiple = excluded.multiple,
		lead_days = excluded.lead_days,
			buyable = excluded.buyable, weight_g = excluded.weight_g, length_mm = excluded.length_mm, width_mm = excluded.width_mm,
			height_mm = excluded.height_mm, barcode = excluded.barcode, lots = excluded.lots,
			price_minor = excluded.price_minor, cost_minor = excluded.cost_minor,
			currency = excluded.currency`, step)
}

// ItemRecord is an item without its key.
type ItemRecord struct {
	SKU        string `json:"sku"`
	Name       string `json:"name"`
	Unit       string `json:"unit"`
	Multiple   int64  `json:"multiple"`
	LeadDays   int64  `json:"lead_days"`
	Buyable    bool   `json:"buyable"`
	WeightG    int64  `json:"weight_g"`
	LengthMM   int64  `json:"length_mm"`
	WidthMM    int64  `json:"width_mm"`
	HeightMM   int64  `json:"height_mm"`
	Barcode    string `json:"barcode"`
	Lots       bool   `json:"lots"`
	PriceMinor int64  `json:"price_minor"`
	CostMinor  int64  `json:"cost_minor"`
	Currency   string `json:"currency"`
}

// SubstituteRecord says what may be sent in place of an item, by names.
type SubstituteRecord struct {
	SKU        string `json:"sku" gorm:"column:sku"`
	Substitute string `json:"substitute"`
	Kind       string `json:"kind"`
}

// SubstitutesOf returns what may be sent in place of the items of those numbers.
func (r *Reader) SubstitutesOf(skus Texts) ([]SubstituteRecord, error) {
	return all[SubstituteRecord](r, `SELECT i.sku, o.sku AS substitute, s.kind FROM substitute s JOIN item i ON i.id = s.item_id
		JOIN item o ON o.id = s.other_id
		WHERE i.sku = ANY(?) ORDER BY i.sku, o.sku`, skus)
}

// PutSubstitutes adds substitutes and brings those that exist up to date.
func (t *Tx) PutSubstitutes(ss []SubstituteRecord, step func(int)) error {
	return inChunks(t, ss, `
		INSERT INTO substitute (item_id, other_id, kind)
		SELECT i.id, o.id, x.kind FROM json_to_recordset($1::json) AS x (sku text, substitute text, kind text)
			JOIN item i ON i.sku = x.sku JOIN item o ON o.sku = x.substitute
		ON CONFLICT (item_id, other_id) DO UPDATE SET kind = excluded.kind`, step)
}

// PutCustomers adds customers and brings those that exist up to date.
func (t *Tx) PutCustomers(cs []CustomerRecord, step func(int)) error {
	return inChunks(t, cs, `
		INSERT INTO customer (code, name, tier, ship_rule, warehouse_id, service, terms, email, discount_bp, one_warehouse)
		SELECT x.code, x.name, x.tier, x.ship_rule, w.id, x.service, x.terms, x.email, x.discount, x.one_warehouse
		FROM json_to_recordset($1::json) AS x (code text, name text, tier integer, ship_rule text, warehouse text, service text,
			terms text, email text, discount integer, one_warehouse boolean)
			LEFT JOIN warehouse w ON w.code = x.warehouse
		ON CONFLICT (code) DO UPDATE SET name = excluded.name, tier = excluded.tier, ship_rule = excluded.ship_rule,
			warehouse_id = excluded.warehouse_id, service = excluded.service, terms = excluded.terms, email = excluded.email,
			discount_bp = excluded.discount_bp, one_warehouse = excluded.one_warehouse`, step)
}

// PutShipTos adds addresses and brings those that exist up to date.
func (t *Tx) PutShipTos(as []ShipToRecord, step func(int)) error {
	return inChunks(t, as, `
		INSERT INTO ship_to (customer_id, code, name, street, city, postcode, country)
		SELECT c.id, x.code, x.name, x.street, x.city, x.postcode, x.country
		FROM json_array_elements($1::json) WITH ORDINALITY AS e (v, n)
			CROSS JOIN LATERAL json_to_record(e.v) AS x (customer text, code text, name text, street text, city text, postcode text,
			country text)
			JOIN customer c ON c.code = x.customer
		ORDER BY e.n -- a customer's first address is its default
		ON CONFLICT (customer_id, code) DO UPDATE SET name = excluded.name, street = excluded.street, city = excluded.city,
			postcode = excluded.postcode, country = excluded.country`, step)
}

// PutInbound adds expected receipts and brings those that exist up to date.
func (t *Tx) PutInbound(ins []InboundRecord, step func(int)) error {
	return inChunks(t, ins, `
		INSERT INTO inbound (ref, item_id, warehouse_id, kind, supplier, due, qty)
		SELECT x.ref, i.id, w.id, x.kind, x.supplier, x.due, x.qty
		FROM json_to_recordset($1::json) AS x (ref text, sku text, warehouse text, kind text, supplier text, due date, qty bigint)
			JOIN item i ON i.sku = x.sku JOIN warehouse w ON w.code = x.warehouse
		ON CONFLICT (ref, item_id, warehouse_id) DO UPDATE SET kind = excluded.kind, supplier = excluded.supplier, due = excluded.due,
		qty = excluded.qty`, step)
}

// NoteDues notes, for the command, of which receipts the day was changed.
func (t *Tx) NoteDues(ins []InboundRecord, command int64) error {
	return inChunks(t, ins, `
		INSERT INTO due_change (command_id, inbound_id, was, now)
		SELECT $2, x.id, d.was, x.due FROM json_to_recordset($1::json) AS x (id bigint, was text, due date) CROSS
			JOIN LATERAL (SELECT nullif(x.was, '')::date AS was) d
		WHERE d.was IS NOT NULL`, func(int) {}, command)
}

// PutOrders adds new orders.
func (t *Tx) PutOrders(os []OrderRecord, step func(int)) error {
	return inChunks(t, os, `
		INSERT INTO sales_order (number, customer_id, ship_to_id, channel, customer_ref, tier, urgency, ship_rule, service, terms,
			entered_at, wanted, not_before, currency, note)
		SELECT x.number, c.id, s.id, x.channel, x.customer_ref, x.tier, x.urgency, x.ship_rule, x.service, x.terms, x.entered, x.wanted,
			nullif(x.not_before, '')::date, x.currency, x.note
		FROM json_to_recordset($1::json) AS x (number text, customer text, ship_to text, channel text, customer_ref text, tier integer,
				urgency integer, ship_rule text, service text, terms text, entered timestamptz, wanted date, not_before text, currency text,
				note text)
			JOIN customer c ON c.code = x.customer JOIN ship_to s ON s.customer_id = c.id AND s.code = x.ship_to`, step)
}

// PutHolds places the holds that came with new orders.
func (t *Tx) PutHolds(os []OrderRecord, command int64) error {
	return inChunks(t, os, `
		INSERT INTO hold (order_id, kind, note, placed_by)
		SELECT o.id, x.hold, x.hold_note, $2 FROM json_to_recordset($1::json) AS x (number text, hold text, hold_note text)
			JOIN sales_order o ON o.number = x.number WHERE x.hold <> ''`, func(int) {}, command)
}

// EstimateOrders makes the database's estimates of orders and lines again, so that what is planned next knows how many there are.
func (t *Tx) EstimateOrders() error {
	_, err := t.exec(`SELECT estimate_orders()`)
	return err
}

// PutLines adds new lines and enters their units into the journal.
func (t *Tx) PutLines(ls []LineRecord, command int64, step func(int)) error {
	return inChunks(t, ls, `
		WITH x AS MATERIALIZED (
			SELECT * FROM json_to_recordset($1::json) AS x (number text, line integer, sku text, warehouse text, qty bigint, ship_by date,
				price_minor bigint, list_minor bigint, discount integer, cost_minor bigint)
		), made AS (
			INSERT INTO order_line (order_id, line_no, item_id, warehouse_id, ship_by, price_minor, list_minor, discount_bp, cost_minor)
			SELECT o.id, x.line, i.id, w.id, x.ship_by, x.price_minor, x.list_minor, x.discount, x.cost_minor
			FROM x JOIN sales_order o ON o.number = x.number JOIN item i ON i.sku = x.sku JOIN warehouse w ON w.code = x.warehouse
			ORDER BY o.id, x.line
			RETURNING id, order_id, line_no, item_id
		)
		INSERT INTO journal (command_id, kind, from_station, to_station, qty, item_id, line_id, order_id)
		SELECT $2, 'enter', 'outside', 'open', x.qty, m.item_id, m.id, m.order_id
		FROM made m JOIN sales_order o ON o.id = m.order_id JOIN x ON x.number = o.number AND x.line = m.line_no`, step, command)
}

// BinSet asks for a bin to be there.
type BinSet struct {
	Warehouse string `json:"warehouse"`
	Code      string `json:"code"`
	Zone      string `json:"zone"`
}

// PutBins adds bins that are new and sets the zone of those for which one is given.
func (t *Tx) PutBins(bs []BinSet) error {
	return inChunks(t, bs, `
		INSERT INTO bin (warehouse_id, code, zone)
		SELECT DISTINCT ON (w.id, x.code) w.id, x.code, x.zone FROM json_to_recordset($1::json) AS x (warehouse text, code text, zone text)
			JOIN warehouse w ON w.code = x.warehouse
		ON CONFLICT (warehouse_id, code) DO UPDATE SET zone = excluded.zone
		WHERE excluded.zone <> '' AND bin.zone <> excluded.zone`, func(int) {})
}

// BinKeys returns the keys of those bins that there are, by warehouse and code.
func (r *Reader) BinKeys(bins []BinSet) (map[[2]string]int64, error) {
	houses, codes := make(Texts, len(bins)), make(Texts, len(bins))
	for i, b := range bins {
		houses[i], codes[i] = b.Warehouse, b.Code
	}
	rows, err := all[struct {
		ID              int64
		Warehouse, Code string
	}](r, `SELECT b.id, w.code AS warehouse, b.code FROM (SELECT DISTINCT * FROM unnest(?::text[], ?::text[]) AS x (warehouse, code)) x
		JOIN warehouse w ON w.code = x.warehouse JOIN bin b ON b.warehouse_id = w.id AND b.code = x.code`, houses, codes)
	out := make(map[[2]string]int64, len(rows))
	for _, x := range rows {
		out[[2]string{x.Warehouse, x.Code}] = x.ID
	}
	return out, err
}

// ImportRun is an import that was looked at and may be applied. Its rows are kept beside it.
type ImportRun struct {
	Key     string
	UserID  int64
	At      time.Time
	Report  string
	Applied *int64
}

// BeginImport takes the key of an import, before its rows are kept.
func (s *Store) BeginImport(ctx context.Context, run ImportRun) error {
	return s.InTx(ctx, func(t *Tx) error { return t.Create(&run) })
}

// ForgetImport gives up an import. Its rows are swept away.
func (s *Store) ForgetImport(ctx context.Context, key string) error {
	_, err := s.aside.Exec(ctx, `DELETE FROM import_run WHERE key = $1 AND applied IS NULL`, key)
	return err
}

// ReportImport keeps what applying an import would do.
func (t *Tx) ReportImport(key, report string) error {
	_, err := t.exec(`UPDATE import_run SET report = $2::text::jsonb WHERE key = $1::uuid`, key, report)
	return err
}

// ImportByKey returns the import of that key.
func (r *Reader) ImportByKey(key string) (ImportRun, bool, error) {
	return one[ImportRun](r, `SELECT * FROM import_run WHERE key = ?`, key)
}

// StagedRow is a row of an import: its kind, what it is about and which part of it, its line in the file, and what it says.
type StagedRow struct {
	Kind, A, B string
	N          int
	V          string
}

// StageRows keeps the rows of an import, however many. Rows that could not all be kept are swept away.
func (s *Store) StageRows(ctx context.Context, key string, next func() (StagedRow, bool)) error {
	id, err := uuid.Parse(key)
	if err != nil {
		return err
	}
	conn, err := s.commands.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	return pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, strings.Join(longWork, "; "), pgx.QueryExecModeSimpleProtocol); err != nil {
			return err
		}
		_, err := tx.CopyFrom(ctx, pgx.Identifier{"import_row"}, []string{"import", "kind", "a", "b", "n", "v"},
			pgx.CopyFromFunc(func() ([]any, error) {
				r, more := next()
				if !more {
					return nil, nil
				}
				return []any{id, r.Kind, r.A, r.B, int32(r.N), r.V}, nil
			}))
		return err
	})
}

// stagedAtOnce is how many rows of an import are read at once.
const stagedAtOnce = 5000

// Staged hands over the rows of a kind, some thousands at a time, by what they are about.
func (t *Tx) Staged(key, kind string, each func([]StagedRow) error) error {
	if _, err := t.exec(`DECLARE staged NO SCROLL CURSOR FOR SELECT a, b, n, v FROM import_row WHERE import = $1::uuid
		AND kind = $2 ORDER BY a, b, n`, key, kind); err != nil {
		return err
	}
	for {
		rows, err := all[StagedRow](&t.Reader, fmt.Sprintf(`FETCH %d FROM staged`, stagedAtOnce))
		if err != nil {
			return err
		}
		if len(rows) == 0 {
			_, err := t.exec(`CLOSE staged`)
			return err
		}
		if err := each(rows); err != nil {
			return err
		}
	}
}

// StagedNamed returns the rows of items or of customers that are about something, in the order of the file. The kind stands in
// the query itself, or the index for these two could not be used.
func (r *Reader) StagedNamed(key, kind string, about Texts) ([]StagedRow, error) {
	query, known := map[string]string{
		"items":     `SELECT a, b, n, v FROM import_row WHERE import = ?::uuid AND kind = 'items' AND a = ANY(?) ORDER BY a, n`,
		"customers": `SELECT a, b, n, v FROM import_row WHERE import = ?::uuid AND kind = 'customers' AND a = ANY(?) ORDER BY a, n`,
	}[kind]
	if !known {
		return nil, fmt.Errorf("rows of %s are not found by what they are about", kind)
	}
	return all[StagedRow](r, query, key, about)
}

// StagedItems returns the keys of the items of which an import counts the stock, or expects receipts.
func (r *Reader) StagedItems(key string) (IDs, error) {
	rows, err := all[struct{ ID int64 }](r, `SELECT id FROM item WHERE sku IN (SELECT a FROM import_row WHERE import = ?::uuid
		AND kind IN ('stock', 'inbound')) ORDER BY id`, key)
	ids := make(IDs, len(rows))
	for i, x := range rows {
		ids[i] = x.ID
	}
	return ids, err
}

// MarkImported notes that the command applied the import.
func (t *Tx) MarkImported(key string, command int64) error {
	_, err := t.exec(`UPDATE import_run SET applied = $2 WHERE key = $1::uuid`, key, command)
	return err
}

// FreeRecord is the free stock of an item in a warehouse, and what is spoken for in its bins.
type FreeRecord struct {
	SKU       string `gorm:"column:sku"`
	Warehouse string
	Free      int64
	Allocated int64
	Spoken    int64 // allocated and released
}

// FreeOf returns the free stock of the items of those numbers.
func (r *Reader) FreeOf(skus Texts) ([]FreeRecord, error) {
	return all[FreeRecord](r, `SELECT i.sku, w.code AS warehouse, c.free, c.allocated, c.allocated + c.released AS spoken
		FROM stock_cell c JOIN item i ON i.id = c.item_id JOIN warehouse w ON w.id = c.warehouse_id WHERE i.sku = ANY(?)
			ORDER BY i.sku, w.code`, skus)
}

// PromisedLine is a line with promises, and its item.
type PromisedLine struct{ LineID, ItemID int64 }

// PromisedOnArrivals returns the items of which an import expects receipts, and the lines with promises on them, with all
// promised lines of those that go only whole.
func (r *Reader) PromisedOnArrivals(key string) (items IDs, lines []PromisedLine, err error) {
	rows, err := all[struct{ ID int64 }](r, `SELECT id FROM item WHERE sku IN (SELECT a FROM import_row WHERE import = ?::uuid
		AND kind = 'inbound') ORDER BY id`, key)
	for _, x := range rows {
		items = append(items, x.ID)
	}
	if err != nil || len(items) == 0 {
		return items, nil, err
	}
	lines, err = all[PromisedLine](r, `SELECT DISTINCT line_id, item_id FROM promise WHERE item_id = ANY(@items) UNION
		SELECT DISTINCT p.line_id, p.item_id FROM promise p JOIN sales_order o ON o.id = p.order_id
		WHERE o.ship_rule = 'whole' AND p.order_id IN (SELECT order_id FROM promise WHERE item_id = ANY(@items))`, map[string]any{"items": items})
	return items, lines, err
}
