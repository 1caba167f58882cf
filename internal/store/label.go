package store

// companyPrefix is the setting that holds the firm's GS1 company prefix.
const companyPrefix = "gs1_company_prefix"

// ExamplePrefix is the company prefix until a firm has set its own: GS1 keeps 952 for demonstrations (from memory).
const ExamplePrefix = "9521234"

// CompanyPrefix is the firm's GS1 company prefix.
func (r *Reader) CompanyPrefix() (string, error) {
	set, err := r.Setting(companyPrefix)
	if set == "" {
		set = ExamplePrefix
	}
	return set, err
}

// SetCompanyPrefix sets the firm's GS1 company prefix.
func (t *Tx) SetCompanyPrefix(prefix string) error { return t.Remember(companyPrefix, prefix) }

// NextSerials returns so many serial numbers for SSCCs.
func (t *Tx) NextSerials(n int) ([]int64, error) {
	return all[int64](&t.Reader, `SELECT nextval('sscc_serial') FROM generate_series(1, ?)`, n)
}

// LabelRow is a package as its label says it.
type LabelRow struct {
	PackageID   int64
	Package     string
	Kind        string
	WeightG     int64
	Place       int64 // in the shipment
	Of          int64
	Shipment    string
	WarehouseID int64
	Service     string
	ShipToName  string
	Street      string
	City        string
	Postcode    string
	Country     string
	Orders      string
	Refs        string // the customer's own order numbers
}

const labelRow = `
	SELECT x.* FROM (SELECT g.id AS package_id, g.number AS package, coalesce(nullif(g.made_of, ''), g.kind) AS kind, g.weight_g,
			s.number AS shipment, s.id AS shipment_id,
			row_number() OVER (PARTITION BY s.id ORDER BY g.id) AS place, count(*) OVER (PARTITION BY s.id) AS of, s.warehouse_id, s.service,
			t.name AS ship_to_name, t.street, t.city, t.postcode, t.country,
			(SELECT string_agg(DISTINCT o.number, ', ') FROM package_line y JOIN order_line l ON l.id = y.line_id
				JOIN sales_order o ON o.id = l.order_id WHERE y.package_id = g.id AND y.qty > 0) AS orders,
			coalesce((SELECT string_agg(DISTINCT o.customer_ref, ', ') FROM package_line y JOIN order_line l ON l.id = y.line_id
				JOIN sales_order o ON o.id = l.order_id WHERE y.package_id = g.id AND y.qty > 0 AND o.customer_ref <> ''), '') AS refs
		FROM package g JOIN shipment s ON s.id = g.shipment_id JOIN ship_to t ON t.id = s.ship_to_id
		WHERE EXISTS (SELECT 1 FROM package_line y WHERE y.package_id = g.id AND y.qty > 0)) x`

// LabelsOfShipment returns the packages of a shipment that are not empty, as their labels say them.
func (r *Reader) LabelsOfShipment(shipment int64) ([]LabelRow, error) {
	return all[LabelRow](r, labelRow+` WHERE x.shipment_id = ? ORDER BY x.place`, shipment)
}

// LabelsOfPackages returns packages as their labels say them, by key.
func (r *Reader) LabelsOfPackages(packages IDs) (map[int64]LabelRow, error) {
	rows, err := all[LabelRow](r, labelRow+` WHERE x.shipment_id IN (SELECT shipment_id FROM package WHERE id = ANY(?))`, packages)
	out := make(map[int64]LabelRow, len(rows))
	for _, x := range rows {
		out[x.PackageID] = x
	}
	return out, err
}

// VoidLabels makes the labels of packages void.
func (t *Tx) VoidLabels(packages IDs, command int64, why string) error {
	_, err := t.exec(
		`UPDATE paper SET void_by = $1, void_why = $2 WHERE void_by IS NULL AND package_id = ANY($3)`, command, why, []int64(packages),
	)
	return err
}

// LabelRevisions is how often labels of the packages were printed.
func (r *Reader) LabelRevisions(packages IDs) (map[int64]int, error) {
	rows, err := all[struct {
		PackageID int64
		N         int
	}](r, `SELECT package_id, max(revision) AS n FROM paper WHERE package_id = ANY(?) GROUP BY 1`, packages)
	out := make(map[int64]int, len(rows))
	for _, x := range rows {
		out[x.PackageID] = x.N
	}
	return out, err
}

// PackageWithoutLabel returns the number of a package of the shipment whose label is void while no other stands in its place, if there is
// one.
func (r *Reader) PackageWithoutLabel(shipment int64) (string, bool, error) {
	row, found, err := one[struct{ Number string }](r, `
		SELECT g.number FROM package g WHERE g.shipment_id = ?
			AND EXISTS (SELECT 1 FROM package_line y WHERE y.package_id = g.id AND y.qty > 0)
			AND EXISTS (SELECT 1 FROM paper p WHERE p.package_id = g.id)
			AND NOT EXISTS (SELECT 1 FROM paper p WHERE p.package_id = g.id AND p.void_by IS NULL)
		ORDER BY g.id LIMIT 1`, shipment)
	return row.Number, found, err
}

// LabelStates returns of the packages of a shipment that ever had a label the code of that which stands, or an empty text, by number.
func (r *Reader) LabelStates(shipment int64) (map[string]string, error) {
	rows, err := all[struct{ Number, Code string }](r, `
		SELECT g.number, coalesce(max(p.code) FILTER (WHERE p.void_by IS NULL), '') AS code
		FROM package g JOIN paper p ON p.package_id = g.id WHERE g.shipment_id = ? GROUP BY 1`, shipment)
	out := make(map[string]string, len(rows))
	for _, x := range rows {
		out[x.Number] = x.Code
	}
	return out, err
}
