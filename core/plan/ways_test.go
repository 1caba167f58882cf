package plan

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"

	"journeyman/core/days"
	"journeyman/core/outlook"
)

func source(today, lead days.Day, free int64, receipts ...outlook.Event) Source {
	var cal days.Calendar
	return Source{Outlook: outlook.New(&cal, today, lead, free, receipts), Calendar: cal}
}

func saidOfWays(ways []Way) (said []string) {
	for _, w := range ways {
		parts := string(w.Kind)
		for _, p := range w.Parts {
			parts += fmt.Sprintf(" %d@%d:%d", p.Source, p.Day, p.Qty)
		}
		if w.Short > 0 {
			parts += fmt.Sprintf(" short %d", w.Short)
		}
		said = append(said, parts)
	}
	return said
}

func TestWaysToPromise(t *testing.T) {
	t.Parallel()
	const never = outlook.Never
	for name, c := range map[string]struct {
		q    Question
		want []string
	}{
		"all of it is there": {
			Question{Qty: 10, Multiple: 1, From: 100, Sources: []Source{source(90, never, 12)}}, []string{"by 0@100:10"},
		},
		"the rest comes later, or all together then": {
			Question{Qty: 10, Multiple: 1, From: 100, Sources: []Source{source(90, never, 4, outlook.Event{Day: 105, Qty: 9})}},
			[]string{"by 0@100:4 0@105:6", "whole 0@105:10"},
		},
		"nothing in time": {
			Question{Qty: 10, Multiple: 1, From: 100, Sources: []Source{source(90, never, 0, outlook.Event{Day: 105, Qty: 10})}},
			[]string{"by 0@105:10"},
		},
		"another warehouse helps": {
			Question{Qty: 10, Multiple: 1, From: 100, Sources: []Source{source(90, never, 4), source(90, never, 6)}},
			[]string{"by 0@100:4 short 6", "houses 0@100:4 1@100:6"},
		},
		"in whole packs, unless it is all": {
			Question{Qty: 10, Multiple: 6, From: 100, Sources: []Source{source(90, never, 8, outlook.Event{Day: 105, Qty: 2})}},
			[]string{"by 0@100:6 0@105:4", "whole 0@105:10"},
		},
		"bought from the lead day on": {
			Question{Qty: 10, Multiple: 1, From: 100, Sources: []Source{source(90, 120, 1)}},
			[]string{"by 0@100:1 0@120:9", "whole 0@120:10"},
		},
		"more than there will ever be": {
			Question{Qty: 10, Multiple: 1, From: 100, Sources: []Source{source(90, never, 3, outlook.Event{Day: 105, Qty: 2})}},
			[]string{"by 0@100:3 0@105:2 short 5"},
		},
	} {
		if got := saidOfWays(c.q.Ways()); !slices.Equal(got, c.want) {
			t.Errorf("%s: %q, want %q", name, got, c.want)
		}
	}
}

// Whatever is offered can be had, in whole packs but for the last part, and asking changes nothing.
func TestWhatIsOfferedCanBePromised(t *testing.T) {
	t.Parallel()
	kinds := map[WayKind]int{}
	for seed := range uint64(3000) {
		r := rand.New(rand.NewPCG(seed, 41))
		made := func() []Source {
			r := rand.New(rand.NewPCG(seed, 43))
			var out []Source
			for range 1 + r.IntN(3) {
				lead := outlook.Never
				if r.IntN(3) == 0 {
					lead = days.Day(100 + r.IntN(30))
				}
				var receipts []outlook.Event
				for range r.IntN(3) {
					receipts = append(receipts, outlook.Event{Day: days.Day(91 + r.IntN(20)), Qty: int64(r.IntN(12))})
				}
				out = append(out, source(90, lead, int64(r.IntN(15)), receipts...))
			}
			return out
		}
		q := Question{Qty: int64(1 + r.IntN(30)), Multiple: int64(1 + r.IntN(4)), From: days.Day(90 + r.IntN(15)), Sources: made()}
		ways := q.Ways()
		for i, s := range made() {
			if !reflect.DeepEqual(q.Sources[i].Outlook, s.Outlook) {
				t.Fatalf("seed %d: asking has changed source %d", seed, i)
			}
		}
		for _, w := range ways {
			kinds[w.Kind]++
			sources, units := made(), w.Short
			for k, p := range w.Parts {
				o := sources[p.Source].Outlook
				if o.ATP(p.Day) < p.Qty {
					t.Fatalf("seed %d: %s offers %d for %d, and %d can be had", seed, w.Kind, p.Qty, p.Day, o.ATP(p.Day))
				}
				if p.Qty%q.Multiple != 0 && (k < len(w.Parts)-1 || w.Short > 0) {
					t.Fatalf("seed %d: %s offers %d, which is no whole pack of %d", seed, w.Kind, p.Qty, q.Multiple)
				}
				o.Take(p.Day, p.Qty)
				units += p.Qty
			}
			if units != q.Qty {
				t.Fatalf("seed %d: %s offers %d of %d", seed, w.Kind, units, q.Qty)
			}
		}
	}
	for _, k := range []WayKind{ByThen, AtOnce, Helped} {
		if kinds[k] < 100 {
			t.Errorf("%s was offered only %d times", k, kinds[k])
		}
	}
}

func TestWhenTheWaysArrive(t *testing.T) {
	t.Parallel()
	cal, err := days.NewCalendar(days.Weekdays, nil)
	if err != nil {
		t.Fatal(err)
	}
	friday := days.Date(2027, 3, 5)
	w := Way{Parts: []WayPart{{0, friday - 1, 4}, {0, friday, 6}}}
	a := w.Arrives(days.Service{Transit: 1, Calendar: cal}, friday)
	if a.InTime != 4 || a.Late != 6 || a.LateDays != 1 || a.Days[0] != friday || a.Days[1] != friday+3 {
		t.Errorf("%+v", a)
	}
}
