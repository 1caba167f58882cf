// Package jobs does what happens by the clock, on whichever server of a database is first.
package jobs

import (
	"context"
	"log/slog"
	"time"

	"journeyman/internal/rooms"
	"journeyman/internal/store"
)

// newsEvery is how often the carrier is asked for news.
const newsEvery = 5 * time.Second

// CarrierNews asks the carrier for news until ctx ends. Several servers may do it at
// once: a delivery is recorded once, however many of them hear of it.
func CarrierNews(ctx context.Context, d *rooms.Rooms, log *slog.Logger) {
	every(ctx, newsEvery, func() {
		who, err := d.Admin.CarrierActor(ctx)
		if err == nil {
			_, err = d.Dock.CarrierNews(ctx, who)
		}
		if err != nil && ctx.Err() == nil {
			log.Error("carrier news", "error", err)
		}
	})
}

// Sweep deletes sessions that have ended, until ctx ends.
func Sweep(ctx context.Context, s *store.Store, log *slog.Logger) {
	every(ctx, 10*time.Minute, func() {
		if err := s.Sweep(ctx); err != nil && ctx.Err() == nil {
			log.Warn("ended sessions could not be deleted", "error", err)
		}
	})
}

func every(ctx context.Context, d time.Duration, do func()) {
	tick := time.NewTicker(d)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			do()
		}
	}
}
