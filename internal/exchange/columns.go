package exchange

import (
	"errors"
	"net/mail"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"journeyman/core/days"
	"journeyman/core/journey"
	"journeyman/internal/words"
)

// ItemRow is a row of the items file. Money is in minor units, weight in grams, lengths in millimetres.
// What the file leaves out is nil or empty.
type ItemRow struct {
	SKU, Name, Unit                string `json:",omitzero"`
	Multiple, LeadDays             *int64 `json:",omitzero"`
	Buyable, Lots                  *bool  `json:",omitzero"`
	WeightG, PriceMinor, CostMinor *int64 `json:",omitzero"`
	LengthMM, WidthMM, HeightMM    *int64 `json:",omitzero"`
	Barcode                        string `json:",omitzero"`
	Currency                       string `json:",omitzero"`
}

// SubstituteRow says what may be sent in place of an item.
type SubstituteRow struct {
	SKU, Substitute, Kind string `json:",omitzero"`
}

// ZoneRow says that places lie in a zone, or how long a service takes to it, or both.
type ZoneRow struct {
	Zone, Country, Postcode, Service string `json:",omitzero"`
	Days                             *int64 `json:",omitzero"`
}

// StockRow is what lies in one bin.
type StockRow struct {
	Warehouse, WarehouseName, SKU, Bin, Zone string `json:",omitzero"`
	OnHand, Held                             int64  `json:",omitzero"`
}

// CustomerRow is a customer with one ship-to.
type CustomerRow struct {
	Customer, Name                             string `json:",omitzero"`
	Tier                                       int64  `json:",omitzero"`
	ShipRule, Warehouse, Service, Terms, Email string `json:",omitzero"`
	Discount                                   *int64 `json:",omitzero"` // basis points
	OneWarehouse                               *bool  `json:",omitzero"` // insists on being sent to from one
	ShipTo, ToName                             string `json:",omitzero"`
	Street, City, Postcode, Country            string `json:",omitzero"`
}

// InboundRow is an expected receipt.
type InboundRow struct {
	Ref, SKU, Warehouse, Due string `json:",omitzero"`
	Qty                      int64  `json:",omitzero"`
	Kind, Supplier           string `json:",omitzero"`
}

// OrderRow is an order line with its order.
type OrderRow struct {
	Order, Customer, ShipTo, Channel, CustomerRef string    `json:",omitzero"`
	Tier, Urgency                                 int64     `json:",omitzero"`
	ShipRule, Service, Terms                      string    `json:",omitzero"`
	Entered                                       time.Time `json:",omitzero"`
	Wanted, NotBefore                             string    `json:",omitzero"`
	Note, Hold, HoldNote                          string    `json:",omitzero"`
	Line                                          int64     `json:",omitzero"`
	SKU, Warehouse                                string    `json:",omitzero"`
	Qty                                           int64     `json:",omitzero"`
	ShipBy                                        string    `json:",omitzero"`
	Price, Cost                                   *int64    `json:",omitzero"`
}

// SameOrder says whether two rows say the same of their order.
func (r OrderRow) SameOrder(o OrderRow) (column string, same bool) {
	for _, c := range []struct {
		name string
		same bool
	}{
		{"customer", r.Customer == o.Customer},
		{"ship_to", r.ShipTo == o.ShipTo},
		{"channel", r.Channel == o.Channel},
		{"customer_ref", r.CustomerRef == o.CustomerRef},
		{"tier", r.Tier == o.Tier},
		{"urgency", r.Urgency == o.Urgency},
		{"ship_rule", r.ShipRule == o.ShipRule},
		{"service", r.Service == o.Service},
		{"terms", r.Terms == o.Terms},
		{"entered", r.Entered.Equal(o.Entered)},
		{"wanted", r.Wanted == o.Wanted},
		{"not_before", r.NotBefore == o.NotBefore},
		{"note", r.Note == o.Note},
		{"hold", r.Hold == o.Hold},
	} {
		if !c.same {
			return c.name, false
		}
	}
	return "", true
}

var itemColumns = []column[ItemRow]{
	{"sku", true, text(40, func(r *ItemRow) *string { return &r.SKU })},
	{"name", true, text(200, func(r *ItemRow) *string { return &r.Name })},
	{"unit", false, text(20, func(r *ItemRow) *string { return &r.Unit })},
	{"multiple", false, given(whole(1, itself), func(r *ItemRow) **int64 { return &r.Multiple })},
	{"lead_days", false, given(between(0, 3650, itself), func(r *ItemRow) **int64 { return &r.LeadDays })},
	{"buyable", false, func(r *ItemRow, s string) error {
		v, err := yesNo(s)
		r.Buyable = &v
		return err
	}},
	{"weight_kg", false, given(decimal(3, itself), func(r *ItemRow) **int64 { return &r.WeightG })},
	{"length_cm", false, given(length, func(r *ItemRow) **int64 { return &r.LengthMM })},
	{"width_cm", false, given(length, func(r *ItemRow) **int64 { return &r.WidthMM })},
	{"height_cm", false, given(length, func(r *ItemRow) **int64 { return &r.HeightMM })},
	{"barcode", false, text(60, func(r *ItemRow) *string { return &r.Barcode })},
	{"lots", false, func(r *ItemRow, s string) error {
		v, err := yesNo(s)
		r.Lots = &v
		return err
	}},
	{"price", false, given(decimal(2, itself), func(r *ItemRow) **int64 { return &r.PriceMinor })},
	{"cost", false, given(decimal(2, itself), func(r *ItemRow) **int64 { return &r.CostMinor })},
	{"currency", false, like(currency, words.Say("three capital letters, such as GBP"), func(r *ItemRow) *string { return &r.Currency })},
}

var substituteColumns = []column[SubstituteRow]{
	{"sku", true, text(40, func(r *SubstituteRow) *string { return &r.SKU })},
	{"substitute", true, text(40, func(r *SubstituteRow) *string { return &r.Substitute })},
	{"kind", false, oneOf([]string{"size", "colour", "make"}, func(r *SubstituteRow) *string { return &r.Kind })},
}

var zoneColumns = []column[ZoneRow]{
	{"zone", true, text(40, func(r *ZoneRow) *string { return &r.Zone })},
	{"country", false, like(country, words.Say("two capital letters, such as GB"), func(r *ZoneRow) *string { return &r.Country })},
	{"postcode", false, text(20, func(r *ZoneRow) *string { return &r.Postcode })},
	{"service", false, text(60, func(r *ZoneRow) *string { return &r.Service })},
	{"days", false, given(between(0, 60, itself), func(r *ZoneRow) **int64 { return &r.Days })},
}

var stockColumns = []column[StockRow]{
	{
		"warehouse", true,
		like(
			code, words.Say("a code of up to 12 capital letters, digits and hyphens, such as HL"), func(r *StockRow) *string { return &r.Warehouse },
		),
	},
	{"warehouse_name", false, text(100, func(r *StockRow) *string { return &r.WarehouseName })},
	{"sku", true, text(40, func(r *StockRow) *string { return &r.SKU })},
	{"bin", false, text(40, func(r *StockRow) *string { return &r.Bin })},
	{"zone", false, text(40, func(r *StockRow) *string { return &r.Zone })},
	{"on_hand", true, whole(0, func(r *StockRow) *int64 { return &r.OnHand })},
	{"held", false, whole(0, func(r *StockRow) *int64 { return &r.Held })},
}

var customerColumns = []column[CustomerRow]{
	{"customer", true, text(40, func(r *CustomerRow) *string { return &r.Customer })},
	{"name", true, text(200, func(r *CustomerRow) *string { return &r.Name })},
	{"tier", false, between(1, 5, func(r *CustomerRow) *int64 { return &r.Tier })},
	{"ship_rule", false, shipRule(func(r *CustomerRow) *string { return &r.ShipRule })},
	{"warehouse", false, text(12, func(r *CustomerRow) *string { return &r.Warehouse })},
	{"service", false, text(60, func(r *CustomerRow) *string { return &r.Service })},
	{"terms", false, text(60, func(r *CustomerRow) *string { return &r.Terms })},
	{"email", false, func(r *CustomerRow, s string) error {
		r.Email = s
		if len(s) > 200 {
			return expected("an e-mail address of at most 200 characters")
		}
		if _, err := mail.ParseAddress(s); err != nil {
			return expected("an e-mail address")
		}
		return nil
	}},
	{"discount", false, func(r *CustomerRow, s string) error {
		v, err := Decimal(strings.TrimSuffix(s, "%"), 2)
		r.Discount = &v
		if err != nil || v > 10_000 {
			return expected("a per cent from 0 to 100 with at most 2 digits after the point, such as 7.5")
		}
		return nil
	}},
	{"one_warehouse", false, func(r *CustomerRow, s string) error {
		v, err := yesNo(s)
		r.OneWarehouse = &v
		return err
	}},
	{"ship_to", true, text(40, func(r *CustomerRow) *string { return &r.ShipTo })},
	{"ship_to_name", false, text(200, func(r *CustomerRow) *string { return &r.ToName })},
	{"street", false, text(200, func(r *CustomerRow) *string { return &r.Street })},
	{"city", false, text(100, func(r *CustomerRow) *string { return &r.City })},
	{"postcode", false, text(20, func(r *CustomerRow) *string { return &r.Postcode })},
	{"country", false, like(country, words.Say("two capital letters, such as GB"), func(r *CustomerRow) *string { return &r.Country })},
}

var inboundColumns = []column[InboundRow]{
	{"ref", true, text(40, func(r *InboundRow) *string { return &r.Ref })},
	{"sku", true, text(40, func(r *InboundRow) *string { return &r.SKU })},
	{"warehouse", true, text(12, func(r *InboundRow) *string { return &r.Warehouse })},
	{"due", true, day(func(r *InboundRow) *string { return &r.Due })},
	{"qty", true, whole(1, func(r *InboundRow) *int64 { return &r.Qty })},
	{"kind", false, oneOf([]string{"purchase", "production", "transfer"}, func(r *InboundRow) *string { return &r.Kind })},
	{"supplier", false, text(200, func(r *InboundRow) *string { return &r.Supplier })},
}

var orderColumns = []column[OrderRow]{
	{"order", true, text(40, func(r *OrderRow) *string { return &r.Order })},
	{"customer", true, text(40, func(r *OrderRow) *string { return &r.Customer })},
	{"ship_to", false, text(40, func(r *OrderRow) *string { return &r.ShipTo })},
	{"channel", false, text(40, func(r *OrderRow) *string { return &r.Channel })},
	{"customer_ref", false, text(60, func(r *OrderRow) *string { return &r.CustomerRef })},
	{"tier", false, between(1, 5, func(r *OrderRow) *int64 { return &r.Tier })},
	{"urgency", false, between(1, 5, func(r *OrderRow) *int64 { return &r.Urgency })},
	{"ship_rule", false, shipRule(func(r *OrderRow) *string { return &r.ShipRule })},
	{"service", false, text(60, func(r *OrderRow) *string { return &r.Service })},
	{"terms", false, text(60, func(r *OrderRow) *string { return &r.Terms })},
	{"entered", false, moment(func(r *OrderRow) *time.Time { return &r.Entered })},
	{"wanted", true, day(func(r *OrderRow) *string { return &r.Wanted })},
	{"not_before", false, day(func(r *OrderRow) *string { return &r.NotBefore })},
	{"note", false, text(1000, func(r *OrderRow) *string { return &r.Note })},
	{"hold", false, oneOf([]string{"approval", "credit", "coordinator"}, func(r *OrderRow) *string { return &r.Hold })},
	{"hold_note", false, text(500, func(r *OrderRow) *string { return &r.HoldNote })},
	{"line", true, whole(1, func(r *OrderRow) *int64 { return &r.Line })},
	{"sku", true, text(40, func(r *OrderRow) *string { return &r.SKU })},
	{"warehouse", false, text(12, func(r *OrderRow) *string { return &r.Warehouse })},
	{"qty", true, whole(1, func(r *OrderRow) *int64 { return &r.Qty })},
	{"ship_by", false, day(func(r *OrderRow) *string { return &r.ShipBy })},
	{"price", false, given(decimal(2, itself), func(r *OrderRow) **int64 { return &r.Price })},
	{"cost", false, given(decimal(2, itself), func(r *OrderRow) **int64 { return &r.Cost })},
}

// The biggest number that is read: quantities far beyond any warehouse, yet safe to add up.
const most = 1_000_000_000

// expectation says what a value should be.
type expectation struct{ words.Message }

func (e expectation) Error() string { return e.String() }

func expected(pattern string, args ...any) error { return expectation{words.Say(pattern, args...)} }

// said is what was expected, of whatever error.
func said(err error) words.Message {
	var e expectation
	if errors.As(err, &e) {
		return e.Message
	}
	return words.Plain(err.Error())
}

func text[T any](longest int, at func(*T) *string) func(*T, string) error {
	return func(r *T, s string) error {
		*at(r) = s
		if utf8.RuneCountInString(s) > longest {
			return expected("at most %d characters", longest)
		}
		if strings.ContainsFunc(s, func(c rune) bool { return c < ' ' && c != '\n' && c != '\t' && c != '\r' }) {
			return expected("text without control characters")
		}
		return nil
	}
}

func whole[T any](least int64, at func(*T) *int64) func(*T, string) error {
	return func(r *T, s string) error {
		v, err := strconv.ParseInt(s, 10, 64)
		if err != nil || v < least || v > most {
			return expected("a whole number from %d to %d", least, int64(most))
		}
		*at(r) = v
		return nil
	}
}

func between[T any](least, greatest int64, at func(*T) *int64) func(*T, string) error {
	return func(r *T, s string) error {
		v, err := strconv.ParseInt(s, 10, 64)
		if err != nil || v < least || v > greatest {
			return expected("a whole number from %d to %d", least, greatest)
		}
		*at(r) = v
		return nil
	}
}

// Decimal reads a decimal number with at most `places` digits after the point as a
// whole number of its smallest unit: "4.2" with 2 places is 420.
func Decimal(s string, places int) (int64, error) {
	wrong := expected("a number such as 1234.5, not negative, with at most %d digits after the point", places)
	head, tail, _ := strings.Cut(s, ".")
	if head == "" || len(tail) > places || strings.Trim(head+tail, "0123456789") != "" || len(head) > 9 {
		return 0, wrong
	}
	v, err := strconv.ParseInt(head+tail+strings.Repeat("0", places-len(tail)), 10, 64)
	if err != nil {
		return 0, wrong
	}
	return v, nil
}

func decimal[T any](places int, at func(*T) *int64) func(*T, string) error {
	return func(r *T, s string) error {
		v, err := Decimal(s, places)
		*at(r) = v
		return err
	}
}

// length reads centimetres, up to 100 m, as millimetres.
func length(mm *int64, s string) (err error) {
	if *mm, err = Decimal(s, 1); err == nil && *mm > 100_000 {
		err = expected("at most %d cm", 10_000)
	}
	return err
}

// itself is the number that is being read, for given.
func itself(n *int64) *int64 { return n }

// given reads a number that may be left out: then it stays nil.
func given[T any](read func(*int64, string) error, at func(*T) **int64) func(*T, string) error {
	return func(r *T, s string) error {
		n := new(int64)
		*at(r) = n
		return read(n, s)
	}
}

var (
	currency = regexp.MustCompile(`^[A-Z]{3}$`)
	country  = regexp.MustCompile(`^[A-Z]{2}$`)
	code     = regexp.MustCompile(`^[A-Z0-9][A-Z0-9-]{0,11}$`)
)

func like[T any](p *regexp.Regexp, what words.Message, at func(*T) *string) func(*T, string) error {
	return func(r *T, s string) error {
		*at(r) = s
		if !p.MatchString(s) {
			return expectation{what}
		}
		return nil
	}
}

func oneOf[T any](values []string, at func(*T) *string) func(*T, string) error {
	return func(r *T, s string) error {
		s = strings.ToLower(s)
		*at(r) = s
		for _, v := range values {
			if v == s {
				return nil
			}
		}
		return expected("one of %s", strings.Join(values, ", "))
	}
}

func shipRule[T any](at func(*T) *string) func(*T, string) error {
	return oneOf([]string{string(journey.ShipAny), string(journey.ShipLines), string(journey.ShipWhole)}, at)
}

func day[T any](at func(*T) *string) func(*T, string) error {
	return func(r *T, s string) error {
		d, err := days.Parse(s)
		if err != nil || d < days.Date(1990, 1, 1) || d > days.Date(2199, 12, 31) {
			return expected("a day as YYYY-MM-DD, such as 2027-03-01")
		}
		*at(r) = d.String()
		return nil
	}
}

func moment[T any](at func(*T) *time.Time) func(*T, string) error {
	return func(r *T, s string) error {
		for _, layout := range []string{time.RFC3339, "2006-01-02T15:04", "2006-01-02 15:04", time.DateOnly} {
			if t, err := time.Parse(layout, s); err == nil {
				*at(r) = t.UTC()
				return nil
			}
		}
		return expected("a time as 2027-03-01T09:30:00Z, or a day as 2027-03-01")
	}
}

func yesNo(s string) (bool, error) {
	switch strings.ToLower(s) {
	case "yes", "true", "1":
		return true, nil
	case "no", "false", "0":
		return false, nil
	}
	return false, expected("yes or no")
}
