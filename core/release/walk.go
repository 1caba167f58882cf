package release

import (
	"cmp"
	"slices"
	"strings"
)

// Stop is a bin to walk to. A bin's code names its aisle and, after the last
// hyphen, its place in the aisle: "C-14-2" is place 2 of aisle C-14.
type Stop struct {
	Zone, Bin string
}

// aisle and place of the bin; a code without a hyphen is an aisle of its own.
func (s Stop) aisle() (aisle, place string) {
	if i := strings.LastIndexByte(s.Bin, '-'); i >= 0 {
		return s.Bin[:i], s.Bin[i+1:]
	}
	return s.Bin, ""
}

// Walk sorts stops into walking order: zone by zone, aisle by aisle, and every
// second aisle that is visited from its far end, so that the picker never walks
// an aisle back. Stops without a bin come last. `at` gives the stop of an
// element; equal stops keep their order. Cost: that of one stable sort.
func Walk[T any](items []T, at func(T) Stop) {
	slices.SortStableFunc(items, func(a, b T) int { return compare(at(a), at(b)) })
	reversed := true // the first aisle of a zone is walked forwards
	for i := 0; i < len(items); {
		s := at(items[i])
		if s.Bin == "" {
			return
		}
		first, _ := s.aisle()
		if i == 0 || at(items[i-1]).Zone != s.Zone {
			reversed = false
		} else {
			reversed = !reversed
		}
		j := i
		for j < len(items) && at(items[j]).Zone == s.Zone {
			if a, _ := at(items[j]).aisle(); a != first || at(items[j]).Bin == "" {
				break
			}
			j++
		}
		if reversed {
			slices.SortStableFunc(items[i:j], func(a, b T) int {
				_, pa := at(a).aisle()
				_, pb := at(b).aisle()
				return natural(pb, pa)
			})
		}
		i = j
	}
}

func compare(a, b Stop) int {
	if (a.Bin == "") != (b.Bin == "") {
		if a.Bin == "" {
			return 1
		}
		return -1
	}
	aa, pa := a.aisle()
	ba, pb := b.aisle()
	return cmp.Or(natural(a.Zone, b.Zone), natural(aa, ba), natural(pa, pb))
}

// natural compares texts so that runs of digits count as numbers: A-2 < A-10.
func natural(a, b string) int {
	for a != "" && b != "" {
		na, nb := digits(a), digits(b)
		if na > 0 && nb > 0 {
			x, y := strings.TrimLeft(a[:na], "0"), strings.TrimLeft(b[:nb], "0")
			if c := cmp.Or(cmp.Compare(len(x), len(y)), strings.Compare(x, y)); c != 0 {
				return c
			}
			a, b = a[na:], b[nb:]
			continue
		}
		if a[0] != b[0] {
			return cmp.Compare(a[0], b[0])
		}
		a, b = a[1:], b[1:]
	}
	return cmp.Compare(len(a), len(b))
}

func digits(s string) int {
	n := 0
	for n < len(s) && s[n] >= '0' && s[n] <= '9' {
		n++
	}
	return n
}

// ZoneOf is the zone of a bin when nobody named one: what stands before the first hyphen.
func ZoneOf(bin string) string {
	for i := range len(bin) {
		if bin[i] == '-' {
			return bin[:i]
		}
	}
	return ""
}
