package outlook

import (
	"slices"

	"journeyman/core/days"
)

// Row is one day of the picture of an outlook.
type Row struct {
	Day         days.Day
	Receipts    int64 // that count on this day
	Commitments int64 // for this day; on the first row those of past days, too
	Cumulative  int64 // C: what is left on this day after all promises; negative where too much is promised
	ATP         int64 // or Unlimited
	Discrete    int64 // the increase of ATP since the row before; Unlimited where the limit ends
}

// Picture returns a row for today and for each day on which something happens, in
// order of days. Receipts and commitments may come in any order and may share days; a
// commitment of a past day counts today. It agrees with the Outlook of the same events
// on every day.
func Picture(today, lead days.Day, free int64, receipts, commitments []Event) []Row {
	at := map[days.Day]*Row{today: {Day: today}}
	row := func(d days.Day) *Row {
		d = max(d, today)
		if at[d] == nil {
			at[d] = &Row{Day: d}
		}
		return at[d]
	}
	for _, e := range receipts {
		row(e.Day).Receipts += e.Qty
	}
	for _, e := range commitments {
		row(e.Day).Commitments += e.Qty
	}
	rows := make([]Row, 0, len(at))
	for _, r := range at {
		rows = append(rows, *r)
	}
	slices.SortFunc(rows, func(a, b Row) int { return int(a.Day) - int(b.Day) })
	c := free
	for i := range rows {
		c += rows[i].Receipts - rows[i].Commitments
		rows[i].Cumulative = c
	}
	least := Unlimited
	for i := len(rows) - 1; i >= 0; i-- {
		if rows[i].Day >= lead {
			rows[i].ATP = Unlimited
			continue
		}
		least = min(least, rows[i].Cumulative)
		rows[i].ATP = max(0, least)
	}
	before := int64(0)
	for i := range rows {
		switch {
		case rows[i].ATP != Unlimited:
			rows[i].Discrete = rows[i].ATP - before
		case before != Unlimited:
			rows[i].Discrete = Unlimited
		}
		before = rows[i].ATP
	}
	return rows
}
