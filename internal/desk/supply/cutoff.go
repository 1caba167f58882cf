package supply

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"journeyman/internal/store"
)

// CarrierTimes are when carriers come, by service.
type CarrierTimes map[string]int

// CutOffs returns when carriers come.
func CutOffs(r *store.Reader) (CarrierTimes, error) {
	services, err := r.Services()
	out := CarrierTimes{}
	for _, s := range services {
		out[strings.ToLower(s.Code)] = s.CutOff
	}
	return out, err
}

// At is when the carrier of a service comes to a warehouse, in minutes after midnight there; 0 if nobody has said.
func (c CarrierTimes) At(h store.Warehouse, service string) int {
	return cmp.Or(c[strings.ToLower(service)], h.CutOff)
}

// MinutesOf is the time of day in minutes after midnight.
func MinutesOf(t time.Time) int { return t.Hour()*60 + t.Minute() }

// TimeOfDay is so many minutes after midnight, as 16:00; nothing if there are none.
func TimeOfDay(minutes int) string {
	if minutes == 0 {
		return ""
	}
	return fmt.Sprintf("%02d:%02d", minutes/60, minutes%60)
}
