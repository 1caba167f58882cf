package shipping

import (
	"testing"

	"journeyman/core/days"
)

func network(t *testing.T) *Network {
	t.Helper()
	cal, err := days.NewCalendar(days.Weekdays, nil)
	if err != nil {
		t.Fatal(err)
	}
	return NewNetwork(
		[]Service{{"pallet", "Pallet", 3}, {"parcel", "Parcel", 2}, {"courier", "Courier", 1}},
		[]ZoneRule{{"GB", "IV", "highlands"}, {"GB", "IV5 1", "islands"}, {"GB", "", "mainland"}, {"IE", "", "abroad"}},
		[]Transit{{"parcel", "islands", 5}, {"Parcel", "highlands", 3}, {"courier", "islands", 4}}, cal,
	)
}

func TestTheLongestPrefixSaysTheZone(t *testing.T) {
	t.Parallel()
	n := network(t)
	for address, want := range map[[2]string]string{
		{"GB", "iv51 9xx"}: "islands", {"GB", "IV30 1AA"}: "highlands", {"GB", "LS1"}: "mainland", {"GB", ""}: "mainland",
		{"IE", "D02"}: "abroad", {"FR", "75001"}: "",
	} {
		if got := n.Zone(address[0], address[1]); got != want {
			t.Errorf("%v lies in %q, want %q", address, got, want)
		}
	}
}

func TestTheQuickestServiceComesFirst(t *testing.T) {
	t.Parallel()
	n := network(t)
	for address, want := range map[[2]string][]Service{
		{"GB", "LS1"}:  {{"courier", "Courier", 1}, {"parcel", "Parcel", 2}, {"pallet", "Pallet", 3}},
		{"GB", "IV30"}: {{"courier", "Courier", 1}, {"pallet", "Pallet", 3}, {"parcel", "Parcel", 3}},
		{"GB", "IV51"}: {{"pallet", "Pallet", 3}, {"courier", "Courier", 4}, {"parcel", "Parcel", 5}},
	} {
		for i, got := range n.To(address[0], address[1]) {
			if got != want[i] {
				t.Errorf("%v: %v comes %d., want %v", address, got, i+1, want[i])
			}
		}
	}
	if s, ok := n.Takes("PARCEL", "GB", "IV30 1AA"); !ok || s.Transit != 3 {
		t.Errorf("%v %v", s, ok)
	}
	if _, ok := n.Takes("balloon", "GB", "LS1"); ok {
		t.Error("there is no balloon")
	}
	if n.services[0].Code != "pallet" || n.services[1].TransitDays != 2 {
		t.Error("asking has changed the network")
	}
}
