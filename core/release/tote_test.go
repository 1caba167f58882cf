package release

import (
	"fmt"
	"testing"
)

func TestEachOrderHasATote(t *testing.T) {
	got := Totes([]string{"SO-9", "SO-2", "SO-9", "SO-5", "SO-2"})
	if len(got) != 3 || got["SO-9"] != "A" || got["SO-2"] != "B" || got["SO-5"] != "C" {
		t.Errorf("%v", got)
	}
	var many []string
	for i := range 800 {
		many = append(many, fmt.Sprint(i))
	}
	got = Totes(many)
	for order, want := range map[string]string{"25": "Z", "26": "AA", "27": "AB", "51": "AZ", "52": "BA", "701": "ZZ", "702": "AAA"} {
		if got[order] != want {
			t.Errorf("order %s: tote %s, want %s", order, got[order], want)
		}
	}
	seen := map[string]bool{}
	for _, tote := range got {
		seen[tote] = true
	}
	if len(seen) != 800 || len(Totes(nil)) != 0 {
		t.Errorf("%d totes", len(seen))
	}
}
