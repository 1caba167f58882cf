package store

import (
	"time"

	"journeyman/core/journey"
)

// The tables, as GORM sees them. Counts are written by the database alone.

// Warehouse is a house with bins, and when it works.
type Warehouse struct {
	ID           int64
	Code         string
	Name         string
	Timezone     string // empty for the firm's
	Workdays     int    `gorm:"default:62"` // a bit for each day of the week, Sunday the lowest
	CutOff       int    // minutes after midnight; 0 for none
	HandlingDays int

	AisleCM  int `gorm:"column:aisle_cm;default:300"`  // from aisle to aisle
	PlaceCM  int `gorm:"column:place_cm;default:120"`  // from place to place in an aisle
	WalkMMin int `gorm:"column:walk_m_min;default:60"` // metres walked in a minute
	RowS     int `gorm:"column:row_s;default:15"`      // seconds for a row of a pick list
	UnitMS   int `gorm:"column:unit_ms;default:2000"`  // milliseconds for a unit
	PalletKG int `gorm:"column:pallet_kg;default:800"` // what a pallet carries
	PalletL  int `gorm:"column:pallet_l;default:1400"` // and what stands on it, in litres
}

// Item is what is sold. Money is in minor units, weight in grams.
type Item struct {
	ID         int64
	SKU        string `gorm:"column:sku"`
	Name       string
	Unit       string
	Multiple   int64
	LeadDays   int
	Buyable    bool
	Barcode    string // what a scanner reads besides the number
	Lots       bool   // it is noted of which lot its units are
	WeightG    int64
	LengthMM   int `gorm:"column:length_mm"` // of one unit; 0 if nobody has said
	WidthMM    int `gorm:"column:width_mm"`
	HeightMM   int `gorm:"column:height_mm"`
	PriceMinor int64
	CostMinor  int64
	Currency   string
}

// User is somebody who signs in.
type User struct {
	ID           int64
	Login        string
	Name         string
	Role         string
	PasswordHash string
	Active       bool
}

// TableName is not "user", which PostgreSQL keeps for itself.
func (User) TableName() string { return "app_user" }

// Command is one thing somebody did.
type Command struct {
	ID      int64
	Key     string
	Verb    string
	ActorID int64
	At      time.Time
	Reason  string
	Asked   []byte
	Undoes  *int64
	Outcome string
}

// Hold keeps an order from being released.
type Hold struct {
	ID             int64
	OrderID        int64
	Kind           string
	Note           string
	PlacedBy       int64
	LiftedBy       *int64
	CustomerHoldID *int64 // the hold on its customer with which it came
	Rank           string `gorm:"->"` // who may lift it goes by this kind: its own, or that of the hold on its customer
}

// PickList is a document for the floor: how far one walks for it in walking order and order by order, and how long it should take.
type PickList struct {
	ID            int64
	Number        string
	WarehouseID   int64
	CommandID     int64
	Zone          string // if it was split by zone
	WalkCM        int64  `gorm:"column:walk_cm"`
	WalkByOrderCM int64  `gorm:"column:walk_by_order_cm"`
	WorkS         int64  `gorm:"column:work_s"`
	PickerID      *int64 // who picks it
	TakenAt       *time.Time
}

// CountTask is a bin that is to be counted, because less was found in it than it should hold.
type CountTask struct {
	ID          int64
	ItemID      int64
	WarehouseID int64
	BinID       int64
	AskedBy     int64
	Why         string
	DoneBy      *int64
	Expected    *int64 // what it should have held when it was counted
	Counted     *int64
}

// PickTask is a row of a pick list: so many units of a line from one bin.
type PickTask struct {
	ID         int64
	PickListID int64
	Seq        int
	LineID     int64
	BinID      int64
	Qty        int64
	Picked     int64 `gorm:"->"`
	Short      int64 `gorm:"->"`
	Recalled   int64 `gorm:"->"`
	Due        int64 `gorm:"->"`
}

// Shipment is what leaves together for one address.
type Shipment struct {
	ID           int64
	Number       string
	CustomerID   int64
	ShipToID     int64
	ShipTo       *ShipTo
	WarehouseID  int64
	Service      string
	Terms        string
	Carrier      string
	Tracking     string
	PackedBy     int64
	AskedBy      *int64 // the dispatch that waits for the carrier's answer
	AskedAt      *time.Time
	AskingAt     *time.Time // since when the carrier is being asked: it cannot be stopped any more
	AskedTimes   int        // in vain
	AskedNote    string     // what went wrong last
	Refused      string     // why the carrier did not take it
	RefusedAt    *time.Time
	DispatchedBy *int64
	DispatchedAt *time.Time
	Expected     *time.Time
	DeliveredBy  *int64
	DeliveredAt  *time.Time
	Version      int64 `gorm:"default:1"`
	Packages     []Package
}

// ShipmentEvent is what the carrier says of a shipment under way.
type ShipmentEvent struct {
	ID         int64
	CommandID  int64
	ShipmentID int64
	At         time.Time
	Kind       string
	Note       string
}

// Package is a carton or pallet of a shipment. Weight in grams.
type Package struct {
	ID         int64
	ShipmentID int64
	Number     string
	Kind       string
	MadeOf     string // the name of the kind of carton or pallet, if one was said
	WeightG    int64
}

// StationCounts are units per station, as the count tables hold them.
type StationCounts struct {
	Ordered   int64 `json:"ordered"`
	Open      int64 `json:"open"`
	Allocated int64 `json:"allocated"`
	Released  int64 `json:"released"`
	Picked    int64 `json:"picked"`
	Packed    int64 `json:"packed"`
	Shipped   int64 `json:"shipped"`
	Delivered int64 `json:"delivered"`
	Dropped   int64 `json:"dropped"`
	Promised  int64 `json:"promised" doc:"Of the open units, those that have a promise"`
}

// Line is the counts as the core reads them.
func (c StationCounts) Line() journey.Line {
	return journey.Line{Ordered: journey.Qty(c.Ordered), At: journey.Counts{
		journey.Open: journey.Qty(c.Open), journey.Allocated: journey.Qty(c.Allocated), journey.Released: journey.Qty(c.Released),
		journey.Picked: journey.Qty(c.Picked), journey.Packed: journey.Qty(c.Packed), journey.Shipped: journey.Qty(c.Shipped),
		journey.Delivered: journey.Qty(c.Delivered), journey.Dropped: journey.Qty(c.Dropped),
	}}
}

// HouseCounts are the units that stand in one warehouse.
type HouseCounts struct {
	Allocated, Released, Picked, Packed int64
}

// Counts is the same as the core reads it.
func (h HouseCounts) Counts() journey.Counts {
	return journey.Counts{
		journey.Allocated: journey.Qty(h.Allocated), journey.Released: journey.Qty(h.Released),
		journey.Picked: journey.Qty(h.Picked), journey.Packed: journey.Qty(h.Packed),
	}
}
