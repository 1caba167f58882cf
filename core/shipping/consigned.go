package shipping

// Consigned is what has to be alike of all that goes in one shipment. Units may share one if customer, address, service, terms and
// warehouse are equal. Common practice, no source.
type Consigned struct {
	Customer  string
	ShipTo    int64  // which of the customer's addresses
	Address   string // as it is read
	Service   string
	Terms     string
	Warehouse string
}

// Property is what two can differ in.
type Property string

// The properties, in the order in which they are compared.
const (
	Alike       Property = ""
	ByCustomer  Property = "customer"
	ByAddress   Property = "address"
	ByService   Property = "service"
	ByTerms     Property = "terms"
	ByWarehouse Property = "warehouse"
)

// Differ returns the first property in which two differ, or Alike, and what it is of each.
func Differ(a, b Consigned) (by Property, ofA, ofB string) {
	for _, p := range []struct {
		by       Property
		ofA, ofB string
		same     bool
	}{
		{ByCustomer, a.Customer, b.Customer, a.Customer == b.Customer},
		{ByAddress, a.Address, b.Address, a.ShipTo == b.ShipTo},
		{ByService, a.Service, b.Service, a.Service == b.Service},
		{ByTerms, a.Terms, b.Terms, a.Terms == b.Terms},
		{ByWarehouse, a.Warehouse, b.Warehouse, a.Warehouse == b.Warehouse},
	} {
		if !p.same {
			return p.by, p.ofA, p.ofB
		}
	}
	return Alike, "", ""
}
