package api

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// Live carries what was changed from any server on the database to every browser:
// commits are announced through the database, and heard there by each server.
type Live struct {
	store  *store.Store
	log    *slog.Logger
	told   chan command.Change
	missed atomic.Bool // a change did not fit into told

	mu       sync.Mutex
	watchers map[*watcher]struct{}
}

// watcher is a browser that watches, in a session.
type watcher struct {
	session, user int64
	changes       chan []byte
}

// NewLive returns a Live; Run does its work.
func NewLive(s *store.Store, log *slog.Logger) *Live {
	return &Live{store: s, log: log, told: make(chan command.Change, 1024), watchers: map[*watcher]struct{}{}}
}

// Tell announces a change. It never waits: if there is no room for it, "look at everything" is announced with what is next. The streams of
// sessions that end, end on this server at once.
func (l *Live) Tell(c command.Change) {
	if e := (ending{c.EndSession, c.EndUser, c.But}); e != (ending{}) {
		l.endStreams(e)
	}
	select {
	case l.told <- c:
	default:
		l.missed.Store(true)
	}
}

// ending is whose streams end: of a session, or of a person but for one session.
type ending struct{ Session, User, But int64 }

// endsWith is how an announcement begins that is for the servers.
const endsWith = "end "

// gather is how long changes are gathered into one announcement: shorter than a
// person notices, long enough that a thousand commands are not a thousand notices.
const gather = 25 * time.Millisecond

// everything is the announcement of more than can be listed.
const everything = `[{"all":true}]`

// Run announces and hears until ctx ends.
func (l *Live) Run(ctx context.Context) {
	go l.store.Listen(ctx, l.hear, func(err error) {
		if err != nil {
			l.log.Warn("live updates: connection lost, trying again", "error", err)
		}
		l.send([]byte(everything))
	})
	for {
		var batch []command.Change
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
		if l.missed.Swap(false) {
			batch = append(batch, command.Change{All: true})
		}
		for _, text := range announcements(batch) {
			if err := l.store.Announce(ctx, text); err != nil && ctx.Err() == nil {
				l.log.Warn("a change could not be announced", "error", err)
			}
		}
	}
}

// announcements are the texts in which changes are announced: whose streams end first, and then what browsers look at again.
func announcements(batch []command.Change) (texts []string) {
	var changes []command.Change
	for _, c := range batch {
		if e := (ending{c.EndSession, c.EndUser, c.But}); e != (ending{}) {
			text, _ := json.Marshal(e) // three numbers
			texts = append(texts, endsWith+string(text))
			if c.Command == 0 && !c.All {
				continue
			}
		}
		changes = append(changes, c)
	}
	if len(changes) == 0 {
		return texts
	}
	text, err := json.Marshal(changes)
	if err != nil || len(text) > 7900 { // an announcement has at most 8,000 bytes
		return append(texts, everything)
	}
	return append(texts, string(text))
}

func (l *Live) hear(payload string) {
	text, ends := strings.CutPrefix(payload, endsWith)
	if !ends {
		l.send([]byte(payload))
		return
	}
	var e ending
	if err := json.Unmarshal([]byte(text), &e); err == nil {
		l.endStreams(e)
	}
}

// Flush announces what was told and not announced yet, for a program that is about to end.
func (l *Live) Flush(ctx context.Context) {
	for {
		select {
		case c := <-l.told:
			for _, text := range announcements([]command.Change{c}) {
				if err := l.store.Announce(ctx, text); err != nil {
					return
				}
			}
		default:
			return
		}
	}
}

// End closes every stream, so that a server can stop.
func (l *Live) End() { l.drop(func(*watcher) bool { return true }) }

func (l *Live) endStreams(e ending) {
	l.drop(func(w *watcher) bool {
		return w.session == e.Session || e.User != 0 && w.user == e.User && w.session != e.But
	})
}

// drop closes the streams of the watchers that are meant.
func (l *Live) drop(meant func(*watcher) bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for w := range l.watchers {
		if meant(w) {
			close(w.changes)
			delete(l.watchers, w)
		}
	}
}

func (l *Live) send(p []byte) {
	l.drop(func(w *watcher) bool {
		select {
		case w.changes <- p:
			return false
		default: // too slow: its browser connects again and reloads
			return true
		}
	})
}

// mostStreams is how many pages of one person may watch at once.
const mostStreams = 24

func (l *Live) watch(session, user int64) (w *watcher, leave func(), err error) {
	w = &watcher{session, user, make(chan []byte, 64)}
	l.mu.Lock()
	defer l.mu.Unlock()
	n := 0
	for x := range l.watchers {
		if x.user == user {
			n++
		}
	}
	if n >= mostStreams {
		return nil, nil, fmt.Errorf("you have %d pages open that watch for changes: close some of them, then load this one again", n)
	}
	l.watchers[w] = struct{}{}
	return w, func() { l.drop(func(x *watcher) bool { return x == w }) }, nil
}

const (
	beatEvery   = 15 * time.Second // a stream says that it is there, and looks whether its session is
	writeWithin = 10 * time.Second // whoever does not read for so long is let go
)

// live is the stream of changes, as server-sent events (HTML Living Standard, section 9.2). It ends with its session.
func (s *Server) live(w http.ResponseWriter, r *http.Request) {
	v := visitorOf(r.Context())
	if v.actor.ID == 0 {
		problem(w, http.StatusUnauthorized, notSignedIn)
		return
	}
	watching, leave, err := s.Live.watch(v.session.ID, v.actor.ID)
	if err != nil {
		problem(w, http.StatusTooManyRequests, "%s.", err)
		return
	}
	defer leave()
	rc := http.NewResponseController(w)
	_ = rc.SetReadDeadline(time.Time{}) // nothing is read: else the connection would be taken for dead
	write := func(text []byte) bool {
		_ = rc.SetWriteDeadline(time.Now().Add(writeWithin))
		_, err := w.Write(text)
		return err == nil && rc.Flush() == nil
	}
	w.Header().Set("Content-Type", "text/event-stream")
	s.metrics.watchers.Inc()
	defer s.metrics.watchers.Dec()
	if !write([]byte("retry: 1500\n\n")) {
		return
	}
	beat := time.NewTicker(beatEvery)
	defer beat.Stop()
	for {
		var text []byte
		select {
		case <-r.Context().Done():
			return
		case <-beat.C: // which a browser hears, and misses if the connection is dead
			ctx, cancel := context.WithTimeout(r.Context(), lookWithin)
			lives, err := s.Desk.Store.SessionLives(ctx, v.session.ID)
			cancel()
			if err == nil && !lives {
				return
			}
			text = []byte("event: beat\ndata: \n\n")
		case p, ok := <-watching.changes:
			if !ok {
				return
			}
			text = append(append([]byte("data: "), p...), '\n', '\n')
		}
		if !write(text) {
			return
		}
	}
}
