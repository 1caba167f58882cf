package outlook

import (
	"cmp"

	"journeyman/core/days"
)

// Trouble is what is wrong with an item at a warehouse.
type Trouble struct {
	Over    days.Day // from when on more is promised than there will be; Never if it never is
	Short   int64    // units that are wanted and not free
	Overdue int64    // units that should have come
}

// Any says whether anything is wrong.
func (t Trouble) Any() bool { return t.Over != Never || t.Short > 0 || t.Overdue > 0 }

// Compare is negative if t has to be looked at before u: what is promised and cannot be kept, the sooner the first; then what is short;
// then what is overdue, the more the first.
func (t Trouble) Compare(u Trouble) int {
	return cmp.Or(cmp.Compare(t.Over, u.Over), cmp.Compare(u.Short, t.Short), cmp.Compare(u.Overdue, t.Overdue))
}
