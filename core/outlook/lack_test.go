package outlook

import (
	"fmt"
	"testing"

	"journeyman/core/days"
)

func TestWhatLacksIsBoughtInWholePacks(t *testing.T) {
	t.Parallel()
	day := days.Date(2027, 3, 1)
	wants := []Event{{day + 4, 8}, {day + 1, 5}, {day + 2, 0}, {day + 3, 6}} // 19, the day after tomorrow nothing
	for _, c := range []struct {
		there, asked, pack int64
		want               string
	}{
		{19, 0, 8, "0 - false"},
		{18, 0, 8, "8 2027-03-05 true"}, // one is lacking, on the last day
		{11, 0, 8, "8 2027-03-05 true"},
		{10, 0, 8, "16 2027-03-04 true"}, // nine
		{10, 0, 0, "9 2027-03-04 true"},
		{5, 0, 8, "16 2027-03-04 true"}, // what is wanted for nothing lacks nothing
		{0, 0, 8, "24 2027-03-02 true"},
		{0, 19, 8, "0 2027-03-02 true"}, // asked for already, and not there yet
		{0, 20, 8, "0 2027-03-02 true"},
		{0, 18, 8, "8 2027-03-02 true"},
		{-3, 0, 1, "22 2027-03-02 true"}, // more was promised than there was
	} {
		buy, first, ok := Lack(c.there, c.asked, wants, c.pack)
		at := "-"
		if ok {
			at = first.String()
		}
		if got := fmt.Sprintf("%d %s %v", buy, at, ok); got != c.want {
			t.Errorf("%d there, %d asked, packs of %d: %s, want %s", c.there, c.asked, c.pack, got, c.want)
		}
	}
	if wants[0].Qty != 8 {
		t.Error("the list of the caller was changed")
	}
	if buy, _, ok := Lack(0, 0, nil, 1); buy != 0 || ok {
		t.Error("nobody wants anything, and something lacks")
	}
}
