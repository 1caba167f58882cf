package lots

import (
	"errors"
	"math/rand/v2"
	"slices"
	"testing"

	"journeyman/core/journey"
)

func TestWhichLotsUnitsAre(t *testing.T) {
	two := Holding{Units: 10, Parts: []Part{{1, 6}, {2, 4}}}
	for name, x := range map[string]struct {
		h    Holding
		q    journey.Qty
		want []Part
		err  error
	}{
		"all of it":              {two, 10, []Part{{1, 6}, {2, 4}}, nil},
		"of two":                 {two, 4, nil, ErrWhich},
		"of one":                 {Holding{Units: 6, Parts: []Part{{1, 6}}}, 4, []Part{{1, 4}}, nil},
		"of one and unknown":     {Holding{Units: 7, Parts: []Part{{1, 6}}}, 4, nil, ErrWhich},
		"all of one and unknown": {Holding{Units: 7, Parts: []Part{{1, 6}}}, 7, []Part{{1, 6}}, nil},
		"of none":                {Holding{Units: 7}, 4, nil, nil},
	} {
		got, err := x.h.Certain(x.q)
		if !slices.Equal(got, x.want) || !errors.Is(err, x.err) {
			t.Errorf("%s: %v, %v; want %v, %v", name, got, err, x.want, x.err)
		}
	}
}

// What may be said of units is found out by dealing every unit out: each lot that was noted has so many, and those of no noted lot may be
// of any.
func TestWhatIsSaidIsCheckedAsIfUnitsWereDealtOut(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 28))
	right, wrong := 0, 0
	for range 20_000 {
		h := Holding{}
		for lot := range int64(3) {
			if n := journey.Qty(r.IntN(4)); n > 0 {
				h.Parts = append(h.Parts, Part{lot, n})
				h.Units += n
			}
		}
		h.Units += journey.Qty(r.IntN(3))
		var said []Part
		for lot := range int64(4) { // the last was never noted
			if n := journey.Qty(r.IntN(3)); n > 0 {
				said = append(said, Part{lot, n})
			}
		}
		q := journey.Qty(r.IntN(8))
		if q > h.Units {
			continue
		}
		dealt := canBe(h, said, q)
		if err := h.Check(said, q); (err == nil) != dealt {
			t.Fatalf("%v, %d of it said to be %v: %v; dealt out: %v", h, q, said, err, dealt)
		}
		if !dealt {
			wrong++
			continue
		}
		right++
		from, to := Holding{h.Units, slices.Clone(h.Parts)}, Holding{}
		noted := from.Take(said, q)
		to.Put(said, q)
		if from.Unnoted() < 0 || to.Unnoted() < 0 || from.Units+to.Units != h.Units {
			t.Fatalf("%v, %d taken as %v: left %v, there %v", h, q, said, from, to)
		}
		for _, p := range noted {
			if p.Qty < 1 || from.Of(p.Lot)+p.Qty != h.Of(p.Lot) {
				t.Fatalf("%v, %d taken as %v: %v came off, %v is left", h, q, said, noted, from)
			}
		}
	}
	if right < 1000 || wrong < 1000 {
		t.Errorf("%d were right and %d wrong: too few of one to say anything", right, wrong)
	}
}

// canBe deals q of the units out one by one, and says whether they can come to what was said. Each unit is of its lot, or of any if none is
// noted; what is not said is of no noted lot.
func canBe(h Holding, said []Part, q journey.Qty) bool {
	if Sum(said) > q {
		return false
	}
	units := []int64{}
	for _, p := range h.Parts {
		for range p.Qty {
			units = append(units, p.Lot)
		}
	}
	unknown := h.Units - journey.Qty(len(units))
	for _, p := range said {
		for range p.Qty {
			if i := slices.Index(units, p.Lot); i >= 0 {
				units = slices.Delete(units, i, i+1)
			} else if unknown--; unknown < 0 {
				return false
			}
		}
	}
	return unknown >= q-Sum(said)
}

func TestWhatIsLostIsFirstOfNoNotedLot(t *testing.T) {
	h := Holding{Units: 10, Parts: []Part{{5, 3}, {7, 4}}}
	for q, want := range map[journey.Qty][]Part{1: nil, 3: nil, 4: {{5, 1}}, 8: {{5, 3}, {7, 2}}, 10: {{5, 3}, {7, 4}}} {
		if got := h.First(q); !slices.Equal(got, want) {
			t.Errorf("%d lost: %v, want %v", q, got, want)
		}
	}
}

// Every rule of the journey either carries goods, as far as the counts of the bins and of what is picked and packed say, or is here as one
// that leaves them where they are.
func TestEveryMoveThatCarriesGoodsIsFollowed(t *testing.T) {
	followed := map[journey.Kind]string{
		journey.PutBack: "goods lie where they are until they are put away", journey.BinOut: "carried by whoever makes it",
		journey.BinIn: "carried by whoever makes it",
	}
	for _, r := range journey.Rules {
		from, to := Goes(journey.Move{Kind: r.Kind, From: r.From, To: r.To, Cause: r.Cause, Qty: 1})
		hands := r.Binned() != 0 || (r.From == journey.Picked || r.To == journey.Picked)
		if carries := from != to; carries != hands && followed[r.Kind] == "" {
			t.Errorf("%s from %s to %s %s: followed %v, while it carries goods: %v", r.Kind, r.From, r.To, r.Cause, carries, hands)
		}
		if from == Bin && r.Binned() != -1 || to == Bin && r.Binned() != 1 {
			t.Errorf("%s %s goes from %v to %v, and changes what lies in bins by %d", r.Kind, r.Cause, from, to, r.Binned())
		}
	}
}
