package plan

import (
	"testing"

	"journeyman/core/journey"
)

func TestTake(t *testing.T) {
	cases := []struct{ open, free, multiple, want journey.Qty }{
		{85, 65, 10, 60},  // CORE's worked book: S3/1 takes 60 of the 65 at HL
		{25, 30, 10, 25},  // and 25 from DQ: all that is left need not be a pack
		{85, 100, 10, 85}, // all of it
		{7, 5, 1, 5},
		{7, 5, 0, 5},
		{7, 5, 6, 0}, // no whole pack fits
		{0, 5, 1, 0},
		{7, 0, 1, 0},
		{7, -2, 1, 0},
	}
	for _, c := range cases {
		if got := Take(c.open, c.free, c.multiple); got != c.want {
			t.Errorf("open %d, free %d, packs of %d: took %d, want %d", c.open, c.free, c.multiple, got, c.want)
		}
	}
}
