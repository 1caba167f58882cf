package api

import (
	"context"
	"encoding/json"
	"log/slog"
	"net/http"
	"sync"
	"time"

	"journeyman/internal/desk"
	"journeyman/internal/store"
)

// Live carries what was changed from any server on the database to every browser:
// commits are announced through the database, and heard there by each server.
type Live struct {
	store *store.Store
	log   *slog.Logger
	told  chan desk.Change

	mu       sync.Mutex
	watchers map[chan []byte]struct{}
}

// NewLive returns a Live; Run does its work.
func NewLive(s *store.Store, log *slog.Logger) *Live {
	return &Live{store: s, log: log, told: make(chan desk.Change, 1024), watchers: map[chan []byte]struct{}{}}
}

// Tell announces a change. It never waits: what does not fit is announced as "look at everything".
func (l *Live) Tell(c desk.Change) {
	select {
	case l.told <- c:
	default:
	}
}

// gather is how long changes are gathered into one announcement: shorter than a
// person notices, long enough that a thousand commands are not a thousand notices.
const gather = 25 * time.Millisecond

// Run announces and hears until ctx ends.
func (l *Live) Run(ctx context.Context) {
	go l.store.Listen(ctx, func(p string) { l.send([]byte(p)) }, func(err error) {
		if err != nil {
			l.log.Warn("live updates: connection lost, trying again", "error", err)
		}
		l.send([]byte(`[{"all":true}]`))
	})
	for {
		var batch []desk.Change
		select {
		case <-ctx.Done():
			return
		case c := <-l.told:
			batch = append(batch, c)
		}
		timer := time.After(gather)
	more:
		for {
			select {
			case c := <-l.told:
				batch = append(batch, c)
			case <-timer:
				break more
			}
		}
		text, err := json.Marshal(batch)
		if err != nil || len(text) > 7900 {
			text = []byte(`[{"all":true}]`)
		}
		if err := l.store.Announce(ctx, string(text)); err != nil && ctx.Err() == nil {
			l.log.Warn("a change could not be announced", "error", err)
		}
	}
}

// Flush announces what was told and not announced yet, for a program that is about to end.
func (l *Live) Flush(ctx context.Context) {
	for {
		select {
		case c := <-l.told:
			text, err := json.Marshal([]desk.Change{c})
			if err != nil || len(text) > 7900 {
				text = []byte(`[{"all":true}]`)
			}
			if err := l.store.Announce(ctx, string(text)); err != nil {
				return
			}
		default:
			return
		}
	}
}

// End closes every stream, so that a server can stop.
func (l *Live) End() {
	l.mu.Lock()
	defer l.mu.Unlock()
	for w := range l.watchers {
		close(w)
	}
	clear(l.watchers)
}

func (l *Live) send(p []byte) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for w := range l.watchers {
		select {
		case w <- p:
		default: // too slow: drop the watcher, its browser connects again and reloads
			close(w)
			delete(l.watchers, w)
		}
	}
}

func (l *Live) watch() (<-chan []byte, func()) {
	w := make(chan []byte, 64)
	l.mu.Lock()
	l.watchers[w] = struct{}{}
	l.mu.Unlock()
	return w, func() {
		l.mu.Lock()
		defer l.mu.Unlock()
		if _, there := l.watchers[w]; there {
			close(w)
			delete(l.watchers, w)
		}
	}
}

// live is the stream of changes, as server-sent events (HTML Living Standard, section 9.2).
func (s *Server) live(w http.ResponseWriter, r *http.Request) {
	if _, err := s.actor(r.Context()); err != nil {
		problem(w, http.StatusUnauthorized, "You are not signed in.")
		return
	}
	rc := http.NewResponseController(w)
	_ = rc.SetWriteDeadline(time.Time{})
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	changes, leave := s.Live.watch()
	defer leave()
	s.metrics.watchers.Inc()
	defer s.metrics.watchers.Dec()
	if _, err := w.Write([]byte("retry: 1500\n\n")); err != nil || rc.Flush() != nil {
		return
	}
	beat := time.NewTicker(20 * time.Second)
	defer beat.Stop()
	for {
		var text []byte
		select {
		case <-r.Context().Done():
			return
		case <-beat.C:
			text = []byte(": still here\n\n")
		case p, ok := <-changes:
			if !ok {
				return
			}
			text = append(append([]byte("data: "), p...), '\n', '\n')
		}
		if _, err := w.Write(text); err != nil || rc.Flush() != nil {
			return
		}
	}
}
