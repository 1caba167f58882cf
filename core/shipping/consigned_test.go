package shipping_test

import (
	"testing"

	"journeyman/core/shipping"
)

func TestWhatDiffersKeepsUnitsOutOfAShipment(t *testing.T) {
	t.Parallel()
	a := shipping.Consigned{"ALD", 1, "Stores, Aldersyke", "parcel", "included", "HL"}
	for want, b := range map[shipping.Property]shipping.Consigned{
		shipping.Alike:       a,
		shipping.ByCustomer:  {"SPC", 1, "Stores, Aldersyke", "parcel", "included", "HL"},
		shipping.ByAddress:   {"ALD", 2, "Stores, Aldersyke", "pallet", "included", "HL"}, // reads the same, is another one
		shipping.ByService:   {"ALD", 1, "Stores, Aldersyke", "pallet", "flat", "HL"},
		shipping.ByTerms:     {"ALD", 1, "Stores, Aldersyke", "parcel", "flat", "DQ"},
		shipping.ByWarehouse: {"ALD", 1, "Stores, Aldersyke", "parcel", "included", "DQ"},
	} {
		if got, _, _ := shipping.Differ(a, b); got != want {
			t.Errorf("%+v: %q, want %q", b, got, want)
		}
	}
}
