package supply_test

import (
	"context"
	"testing"
	"time"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/desk/desktest"
)

// At 22:30 of a Monday in London it is still 17:30 in New York, and Tuesday 07:30 in Tokyo.
func TestAWarehouseHasItsOwnClock(t *testing.T) {
	t.Parallel()
	o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
	o.At = time.Date(2027, 3, 1, 22, 30, 0, 0, time.UTC)
	for _, c := range []struct{ zone, ready string }{
		{"", "2027-03-02"}, {"America/New_York", "2027-03-01"}, {"Asia/Tokyo", "2027-03-02"}, {"Pacific/Kiritimati", "2027-03-02"},
	} {
		ok(o.Admin.SetHouse(
			ctx, o.By(o.Max), admin.HouseAsk{Warehouse: "HL", Workdays: []int{1, 2, 3, 4, 5}, CutOff: "18:00", Timezone: c.zone},
		))
		v, err := o.Admin.Settings(ctx)
		if err != nil {
			t.Fatal(err)
		}
		for _, h := range v.Houses {
			if h.Code == "HL" && (h.Ready != c.ready || h.Timezone != c.zone) {
				t.Errorf("in %q what is ordered now leaves %s, want %s", c.zone, h.Ready, c.ready)
			}
		}
	}
	for _, zone := range []string{"London", "Local", "../etc/passwd"} {
		_, err := o.Admin.SetHouse(ctx, o.By(o.Max), admin.HouseAsk{Warehouse: "HL", Workdays: []int{1}, Timezone: zone})
		desktest.Refused(t, err, command.KindInvalid, "There is no time zone")
	}
}

// What leaves at 00:30 of 2 June in London leaves on 1 June by UTC.
func TestInTimeIsByTheDaysOfTheWarehouse(t *testing.T) {
	t.Parallel()
	for shipBy, inTime := range map[string]int64{"2027-06-01": 0, "2027-06-02": 1} {
		o, ctx, ok := desktest.New(t), context.Background(), desktest.Done(t)
		o.At = time.Date(2027, 6, 1, 23, 30, 0, 0, time.UTC)
		o.Load(
			"customers.csv",
			"customer,name,tier,email,ship_to,street,city,postcode,country\nKLN,Kiln Row Studio,5,,MAIN,1 Row,Saltby,SB1 1AA,GB\n",
		)
		o.Load("orders.csv", "order,customer,wanted,ship_by,line,sku,warehouse,qty\nSO-8100,KLN,"+shipBy+","+shipBy+",1,GL-2040-1,HL,1\n")
		all := command.Selection{Orders: []command.OrderSeen{{Number: "SO-8100"}}}
		ok(o.Allocation.Allocate(ctx, o.By(o.Ana), all))
		o.Finish("SO-8100", "HL")
		s, err := o.Promising.Standing(ctx, "KLN")
		if err != nil || s.Sent != 1 || s.InTime != inTime {
			t.Errorf("to be sent by %s: %d of %d in time, want %d (%v)", shipBy, s.InTime, s.Sent, inTime, err)
		}
	}
}
