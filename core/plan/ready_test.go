package plan

import (
	"testing"

	"journeyman/core/journey"
)

func TestReadyShare(t *testing.T) {
	type W = Want[string]
	free := map[string]journey.Qty{"glaze": 10, "clay": 4}
	cases := []struct {
		why         string
		wants       []W
		ready, open int
	}{
		{"nothing open", nil, 0, 0},
		{"a finished line does not count", []W{{"glaze", 0, false}}, 0, 0},
		{"all there", []W{{"glaze", 10, false}, {"clay", 4, false}}, 2, 2},
		{"one short", []W{{"glaze", 10, false}, {"clay", 5, false}}, 1, 2},
		{"two lines of one item compete", []W{{"glaze", 6, false}, {"glaze", 6, false}}, 1, 2},
		{"a smaller one may still fit", []W{{"glaze", 6, false}, {"glaze", 6, false}, {"glaze", 4, false}}, 2, 3},
		{"what a line holds is enough", []W{{"kiln", 0, true}, {"kiln", 1, false}}, 1, 2},
	}
	for _, c := range cases {
		if ready, open := ReadyShare(c.wants, free); ready != c.ready || open != c.open {
			t.Errorf("%s: %d/%d, want %d/%d", c.why, ready, open, c.ready, c.open)
		}
	}
}
