package release

import "testing"

func TestWhatThereIsForWhatALineLacks(t *testing.T) {
	for _, c := range []struct {
		lack Lack
		want Supply
	}{
		{Lack{}, Covered},
		{Lack{Free: 5, Coming: 5}, Covered},
		{Lack{Others: 2}, Wanted},
		{Lack{Open: 8, Free: 8, Others: 3}, AllFree},
		{Lack{Open: 8, Free: 3, Coming: 9, Others: 3}, SomeFree},
		{Lack{Open: 8, Coming: 1, Others: 3}, Arriving},
		{Lack{Open: 8, Others: 3}, Contested},
		{Lack{Open: 8}, Nowhere},
	} {
		if got := c.lack.Supply(); got != c.want {
			t.Errorf("%+v: %q, want %q", c.lack, got, c.want)
		}
	}
}
