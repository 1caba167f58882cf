package query_test

import (
	"context"
	"testing"

	"journeyman/internal/query"
)

// The list finds quotes by the same states as the core gives them.
func TestQuotesAreListedByTheirState(t *testing.T) {
	t.Parallel()
	o, ctx := stockedOffice(t), context.Background()
	for _, day := range []int{0, 60} {
		o.At = o.At.AddDate(0, 0, day)
		all, err := o.Query.Quotes(ctx, query.Ask{})
		if err != nil {
			t.Fatal(err)
		}
		want := map[string]int{}
		for _, q := range all.Quotes {
			want[q.State]++
		}
		if len(want) < 3 {
			t.Fatalf("in %d days there are quotes %v", day, want)
		}
		total := 0
		for _, state := range []string{"open", "to approve", "expired", "accepted", "withdrawn"} {
			page, err := o.Query.Quotes(ctx, query.InState(state))
			if err != nil || len(page.Quotes) != want[state] {
				t.Errorf("%s in %d days: %d are found of %d, %v", state, day, len(page.Quotes), want[state], err)
			}
			for _, q := range page.Quotes {
				if q.State != state {
					t.Errorf("%s is listed among those that are %s, and is %s", q.Number, state, q.State)
				}
			}
			total += len(page.Quotes)
		}
		if total != len(all.Quotes) {
			t.Errorf("%d have a state of %d", total, len(all.Quotes))
		}
	}
}
