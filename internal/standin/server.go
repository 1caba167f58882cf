package standin

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"sync"
	"time"

	"journeyman/core/days"
	"journeyman/internal/desk/dock"
)

// Mode is how a carrier behaves, to try what then becomes of shipments.
type Mode string

// The modes.
const (
	Well    Mode = "well"
	Slow    Mode = "slow"    // it answers, after a while
	Failing Mode = "failing" // it answers 503 and does nothing
	Twice   Mode = "twice"   // it says all news twice, and again whenever it is asked
	Late    Mode = "late"    // it takes the shipment, and answers after the client has given up
)

// Modes are all of them.
var Modes = []Mode{Well, Slow, Failing, Twice, Late}

// Server is a carrier that is reached over HTTP (see Client). Its mode can be changed while it runs: POST /mode {"mode":"slow"}.
type Server struct {
	Carrier
	Wait time.Duration // how long a slow answer takes; 3 s if 0

	mu     sync.Mutex
	mode   Mode
	booked map[string]int // how often each key was taken
	asked  int
}

// Booked says how often a shipment was asked for, and how often the carrier was asked for anything. The carrier itself books a key once.
func (s *Server) Booked(key string) (times, asked int) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.booked[key], s.asked
}

// SetMode changes how it behaves.
func (s *Server) SetMode(m Mode) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.mode = m
}

func (s *Server) now() Mode {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.asked++
	return s.mode
}

// ServeHTTP answers.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Content-Type", "application/json")
	switch r.Method + " " + r.URL.Path {
	case "GET /":
		s.mu.Lock()
		defer s.mu.Unlock()
		_ = json.NewEncoder(w).Encode(map[string]any{"mode": s.mode, "booked": len(s.booked)})
	case "POST /mode":
		var ask struct{ Mode Mode }
		if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<10)).Decode(&ask); err != nil {
			w.WriteHeader(http.StatusBadRequest)
			return
		}
		s.SetMode(ask.Mode)
	case "POST /bookings":
		s.book(w, r)
	case "POST /news":
		s.tellNews(w, r)
	default:
		w.WriteHeader(http.StatusNotFound)
	}
}

func (s *Server) book(w http.ResponseWriter, r *http.Request) {
	mode := s.now()
	if mode == Failing {
		w.WriteHeader(http.StatusServiceUnavailable)
		return
	}
	var ask bookingAsk
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<16)).Decode(&ask); err != nil || ask.Key == "" {
		w.WriteHeader(http.StatusBadRequest)
		return
	}
	if mode == Slow {
		pause(r, s.Wait)
	}
	day, err := days.Parse(ask.Day)
	if err != nil {
		w.WriteHeader(http.StatusBadRequest)
		return
	}
	b, err := s.Book(r.Context(), dock.Consignment{
		Shipment: ask.Key, Service: ask.Service, Packages: ask.Packages, WeightG: ask.WeightG, Postcode: ask.Postcode, Country: ask.Country,
		At: day.Time(),
	})
	var refused *dock.Refused
	if errors.As(err, &refused) {
		w.WriteHeader(http.StatusUnprocessableEntity)
		_ = json.NewEncoder(w).Encode(refusalAnswer{refused.Sentence})
		return
	}
	s.mu.Lock()
	if s.booked == nil {
		s.booked = map[string]int{}
	}
	s.booked[ask.Key]++
	s.mu.Unlock()
	if mode == Late {
		pause(r, time.Hour) // until the client is gone
		return
	}
	_ = json.NewEncoder(w).Encode(bookingAnswer{b.Carrier, b.Tracking, b.Expected.String()})
}

func (s *Server) tellNews(w http.ResponseWriter, r *http.Request) {
	mode := s.now()
	if mode == Failing {
		w.WriteHeader(http.StatusServiceUnavailable)
		return
	}
	var ask []parcelAsk
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, 1<<20)).Decode(&ask); err != nil {
		w.WriteHeader(http.StatusBadRequest)
		return
	}
	switch mode {
	case Slow:
		pause(r, s.Wait)
	case Late:
		pause(r, time.Hour)
		return
	case Well, Failing, Twice:
	}
	parcels := make([]dock.Parcel, len(ask))
	for i, p := range ask {
		parcels[i] = dock.Parcel(p)
	}
	news, err := s.News(r.Context(), parcels)
	if err != nil {
		http.Error(w, fmt.Sprint(err), http.StatusInternalServerError)
		return
	}
	out := []eventAnswer{}
	for _, e := range news {
		out = append(out, eventAnswer(e))
		if mode == Twice {
			out = append(out, eventAnswer(e))
		}
	}
	_ = json.NewEncoder(w).Encode(out)
}
