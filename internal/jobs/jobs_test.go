package jobs

import (
	"context"
	"testing"
	"time"
)

func TestWhatHappensByTheClockHappensUntilItIsToldToStop(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	times := 0
	ended := make(chan struct{})
	go func() {
		every(ctx, time.Millisecond, func() {
			if times++; times == 3 {
				stop()
			}
		})
		close(ended)
	}()
	select {
	case <-ended:
	case <-time.After(2 * time.Minute):
		t.Fatal("it did not stop")
	}
	if times < 3 {
		t.Errorf("it happened %d times", times)
	}
}
