package plan

import (
	"bytes"
	"math/rand/v2"
	"runtime"
	"slices"
	"testing"

	"journeyman/core/policy"
)

// A book of some ten thousand lines is served with the help of other processors: the plan is the same, to the byte, with one and
// with four. The race detector looks whether these change what another one reads.
func TestAPlanDoesNotDependOnHowManyProcessorsThereAre(t *testing.T) {
	seeds := uint64(8)
	if testing.Short() {
		seeds = 2
	}
	broken, shared := 0, 0
	for seed := range seeds {
		r := rand.New(rand.NewPCG(seed, 71))
		b, _ := bookOf(r, 3000, 300, 3000)
		if len(b.Lines) <= 4096 {
			t.Fatalf("%d lines are not many", len(b.Lines))
		}
		keys := slices.Clone(policy.Keys)
		r.Shuffle(len(keys), func(i, j int) { keys[i], keys[j] = keys[j], keys[i] })
		keys = keys[:1+r.IntN(2)]
		allocate := AllocateOptions{
			Keys: keys, Share: []Sharing{InTurn, Fair, Equal}[seed%3], Unprotected: r.IntN(2) == 0, Window: []int{NoWindow, 5}[r.IntN(2)],
			Reserves: Reserves(b, []Part{{Percent: 20, Tier: 1}}),
		}
		promise := PromiseOptions{Keys: keys, Keep: r.IntN(2) == 0}
		with := func(processors int) []byte {
			defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(processors))
			var out bytes.Buffer
			p := Promise(b, promise)
			must(p.Write(&out, b))
			a := Allocate(b, allocate)
			must(a.Write(&out, b, nil))
			broken += len(a.Broken)
			if allocate.Share != InTurn {
				shared++
			}
			return out.Bytes()
		}
		alone := with(1)
		for range 3 {
			if !bytes.Equal(alone, with(4)) {
				t.Fatalf("seed %d, by %v, %s: with four processors the plan is another one", seed, keys, allocate.Share)
			}
		}
	}
	if broken == 0 || shared == 0 {
		t.Errorf("%d promises broken, %d runs shared: the test shows little", broken, shared)
	}
}
