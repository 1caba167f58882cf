package query_test

import (
	"context"
	"testing"

	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
)

// However many are under way, those that should have arrived first are listed, and all are counted.
func TestShipmentsUnderWayAreListedUpToABound(t *testing.T) {
	t.Parallel()
	o := desktest.New(t)
	ctx := context.Background()
	desktest.Done(t)(o.Allocation.Allocate(ctx, o.By(o.Ana), command.Selection{Orders: []command.OrderSeen{{Number: "SO-1002"}}}))
	o.Send("SO-1002", "HL")
	before, err := o.Query.Shipments(ctx)
	if err != nil || before.Total != int64(len(before.UnderWay)) || before.Total == 0 {
		t.Fatalf("%d are listed of %d under way, %v", len(before.UnderWay), before.Total, err)
	}
	// A hundred and more like it, each with its package, expected later than it.
	o.Owner(`WITH made AS (INSERT INTO shipment (number, customer_id, ship_to_id, warehouse_id, packed_by, dispatched_by, dispatched_at,
			carrier, tracking, expected)
		SELECT 'MANY-' || n, customer_id, ship_to_id, warehouse_id, packed_by, dispatched_by, dispatched_at, carrier, tracking || n,
			expected + 1 FROM (SELECT * FROM shipment WHERE dispatched_at IS NOT NULL LIMIT 1) s, generate_series(1, 130) n RETURNING id),
		packed AS (INSERT INTO package (shipment_id, number, kind, weight_g) SELECT id, 'MANY-' || id, 'carton', 5 FROM made RETURNING id)
		INSERT INTO package_line (package_id, line_id, qty) SELECT p.id, (SELECT min(line_id) FROM package_line), 1 FROM packed p`)
	page, err := o.Query.Shipments(ctx)
	if err != nil || len(page.UnderWay) != 100 || page.Total != before.Total+130 {
		t.Fatalf("%d are listed of %d under way, %v", len(page.UnderWay), page.Total, err)
	}
	if page.UnderWay[0].Number != before.UnderWay[0].Number {
		t.Errorf("%s is listed first, %s is expected before it", page.UnderWay[0].Number, before.UnderWay[0].Number)
	}
}
