package rooms_test

import (
	"context"
	"fmt"
	"testing"

	"journeyman/internal/desk/desktest"
)

func TestTheAuditNamesEachDifference(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	// Somebody with the owner's rights tampers with counts behind the journal's back.
	o.Owner(`UPDATE line_count SET open = open - 3, allocated = allocated + 3 WHERE line_id = ` + fmt.Sprint(o.Line("SO-1001", 1).ID))
	o.Owner(`UPDATE stock_cell SET on_hand = on_hand + 1, binned = binned + 1
		WHERE (item_id, warehouse_id) = (SELECT i.id, w.id FROM item i, warehouse w WHERE i.sku = 'GL-2040-1' AND w.code = 'HL')`)
	diff, _, err := o.Store.Audit(context.Background())
	if err != nil {
		t.Fatal(err)
	}
	want := map[string]bool{
		"SO-1001 line 1, open": true, "SO-1001 line 1, allocated": true,
		"GL-2040-1 at HL, on hand": true, "GL-2040-1 at HL, free": true, "GL-2040-1 at HL, in bins": true,
	}
	for _, d := range diff {
		if !want[d.What] {
			t.Errorf("not expected: %s", d)
		}
		delete(want, d.What)
	}
	if len(want) > 0 {
		t.Errorf("not named: %v", want)
	}
}
