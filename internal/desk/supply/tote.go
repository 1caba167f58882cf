package supply

import (
	"journeyman/core/release"
	"journeyman/internal/store"
)

// Totes is into which tote the units of each order on a pick list go, by the order's number.
func Totes(rows []store.TaskView) map[string]string {
	orders := make([]string, len(rows))
	for i, t := range rows {
		orders[i] = t.OrderNumber
	}
	return release.Totes(orders)
}
