package beside

import (
	"fmt"
	"runtime"
	"slices"
	"testing"
)

func TestFewRowsGetNoHelp(t *testing.T) {
	if n := Hands(few); n != 1 {
		t.Errorf("%d hands for %d rows", n, few)
	}
	if n := Hands(few + 1); n != runtime.GOMAXPROCS(0) {
		t.Errorf("%d hands for many rows, %d processors", n, runtime.GOMAXPROCS(0))
	}
}

func TestPartsAreAllRowsOnce(t *testing.T) {
	for _, n := range []int{0, 1, 2, 3, 7, 1000} {
		for parts := 1; parts < 6; parts++ {
			seen := make([]int, n) // each row is in one part alone, so nobody waits for another
			begins := make([]int, parts)
			Split(n, parts, func(part, first, after int) {
				begins[part] = first
				for i := first; i < after; i++ {
					seen[i]++
				}
			})
			if slices.ContainsFunc(seen, func(k int) bool { return k != 1 }) || !slices.IsSorted(begins) {
				t.Errorf("%d rows in %d parts: %v, which begin at %v", n, parts, seen, begins)
			}
		}
	}
}

func TestWhatIsMadeAheadIsUsedInOrder(t *testing.T) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(4))
	for _, rows := range []int{0, 1, few, few + 1, 20 * few} {
		each := Ahead(rows, 64, func(room []int, handOn func([]int) []int) {
			n := 0
			for i := range rows {
				if n == len(room) {
					room, n = handOn(room), 0
				}
				room[n] = i
				n++
			}
			handOn(room[:n])
		})
		next := 0
		each(func(made []int) {
			for _, x := range made {
				if x != next {
					t.Fatalf("%d rows: %d came when %d was next", rows, x, next)
				}
				next++
			}
		})
		if next != rows {
			t.Errorf("%d rows: %d were used", rows, next)
		}
	}
}

func TestAFaultComesToWhoWaits(t *testing.T) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(4))
	caught := func(do func()) (fault any) {
		defer func() { fault = recover() }()
		do()
		return nil
	}
	for part := range 3 {
		if got := caught(func() { Split(3, 3, func(p, _, _ int) { _ = []int{1, 1, 1}[p+2-part] }) }); part < 2 && got == nil {
			t.Errorf("part %d went wrong, and nobody heard of it", part)
		}
	}
	for _, rows := range []int{1, few + 1} {
		got := caught(func() {
			Ahead(rows, 1, func(room []int, handOn func([]int) []int) {
				room[handOn(room)[0]+1] = 1
			})(func([]int) {})
		})
		if got == nil {
			t.Errorf("%d rows: what was made ahead went wrong, and nobody heard of it", rows)
		}
	}
}

func ExampleSplit() {
	sums := make([]int, 3)
	Split(9, 3, func(part, first, after int) {
		for i := first; i < after; i++ {
			sums[part] += i
		}
	})
	fmt.Println(sums)
	// Output: [3 12 21]
}
