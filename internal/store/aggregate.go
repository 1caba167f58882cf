package store

import (
	"database/sql/driver"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5/pgtype"
	"gorm.io/gorm"
)

// What belongs together is read and written together, through these and their relations. Counts are written by the database alone.

// Date is a day as the database keeps it: YYYY-MM-DD, or empty for none.
type Date string

// Scan reads a day of the database.
func (d *Date) Scan(value any) error {
	switch x := value.(type) {
	case nil:
		*d = ""
	case time.Time:
		*d = Date(x.Format(time.DateOnly))
	case string:
		*d = Date(x)
	default:
		return fmt.Errorf("store: %T is not a day", value)
	}
	return nil
}

// Value writes a day for the database.
func (d Date) Value() (driver.Value, error) {
	if d == "" {
		return nil, nil
	}
	return string(d), nil
}

// Words is a column that holds a list of texts.
type Words []string

var pgTypes = pgtype.NewMap()

// Scan reads the list.
func (w *Words) Scan(value any) error { return pgTypes.SQLScanner((*[]string)(w)).Scan(value) }

// Value writes the list.
func (w Words) Value() (driver.Value, error) {
	text, err := pgTypes.Encode(pgtype.TextArrayOID, pgtype.TextFormatCode, []string(w), nil)
	return string(text), err
}

// Customer is who buys, with the addresses that are not of one order only.
type Customer struct {
	ID           int64
	Code         string
	Name         string
	Tier         int64
	ShipRule     string
	WarehouseID  *int64
	Warehouse    *Warehouse
	Service      string
	Terms        string
	Email        string
	DiscountBP   int64 `gorm:"column:discount_bp"` // basis points
	OneWarehouse bool
	ShipTos      []ShipTo
}

// Home is the code of the customer's own warehouse, or empty.
func (c Customer) Home() string {
	if c.Warehouse == nil {
		return ""
	}
	return c.Warehouse.Code
}

// ShipTo is an address of a customer.
type ShipTo struct {
	ID         int64
	CustomerID int64
	Code       string
	Name       string
	Street     string
	City       string
	Postcode   string
	Country    string
	Once       bool // it was typed for one order, or quote, only
}

// Order is an order with its lines and the address that it goes to.
type Order struct {
	ID          int64
	Number      string
	CustomerID  int64
	ShipToID    int64
	ShipTo      *ShipTo
	Channel     string
	CustomerRef string
	Tier        int
	Urgency     int
	ShipRule    string
	Service     string
	Terms       string
	EnteredAt   time.Time
	Wanted      Date
	NotBefore   Date // on which it may leave first; empty for any
	Currency    string
	Note        string
	QuoteID     *int64
	Lines       []OrderLine
}

// TableName is not "order", which PostgreSQL keeps for itself.
func (Order) TableName() string { return "sales_order" }

// OrderLine is a line of an order; its units are entered by the journal.
type OrderLine struct {
	ID          int64
	OrderID     int64
	LineNo      int
	ItemID      int64
	WarehouseID int64
	ShipBy      Date
	PriceMinor  int64
	ListMinor   int64
	DiscountBP  int `gorm:"column:discount_bp"`
	CostMinor   int64
}

// Quote is a quote with its lines.
type Quote struct {
	ID          int64
	Number      string
	CustomerID  int64
	ShipToID    int64
	WarehouseID int64
	Channel     string
	CustomerRef string
	Urgency     int
	ShipRule    string
	Service     string
	Terms       string
	Wanted      Date
	Expires     Date
	Currency    string
	Note        string
	MadeBy      int64
	ApprovedBy  *int64
	WithdrawnBy *int64
	Version     int64 `gorm:"default:1"`
	Lines       []QuoteLine
}

// QuoteLine is a line of a quote.
type QuoteLine struct {
	ID          int64
	QuoteID     int64
	LineNo      int
	ItemID      int64
	WarehouseID int64
	Qty         int64
	Accepted    int64
	PriceMinor  int64
	ListMinor   int64
	DiscountBP  int `gorm:"column:discount_bp"`
	CostMinor   int64
	How         string
	Told        Date // the day on which all of it would be there, as the customer was told
}

// Policy is by which rules a whole book is served.
type Policy struct {
	ID         int64
	Name       string
	Keys       Words `gorm:"type:text[]"`
	Sharing    string
	Goal       string
	WindowDays *int
	Protect    bool
	ShipRules  string
	Elsewhere  bool
	Reserves   string // JSON
	IsDefault  bool
	Version    int64 `gorm:"default:1"`
}

// Setting is what is remembered under a key.
type Setting struct {
	Key   string `gorm:"primaryKey"`
	Value string
}

// first reads the first record of a query into out, if there is one.
func first[T any](q *gorm.DB) (out T, found bool, err error) {
	err = q.First(&out).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return out, false, nil
	}
	return out, err == nil, err
}

// find reads the records of a query.
func find[T any](q *gorm.DB) ([]T, error) {
	out := []T{}
	err := q.Find(&out).Error
	return out, err
}
