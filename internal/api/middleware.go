package api

import (
	"log/slog"
	"net/http"
	"runtime/debug"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
)

// metrics are what is counted for whoever watches the server.
type metrics struct {
	registry *prometheus.Registry
	requests *prometheus.HistogramVec
	commands *prometheus.CounterVec
	watchers prometheus.Gauge
}

func newMetrics() *metrics {
	m := &metrics{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "journeyman_http_seconds", Help: "Time to answer a request.",
			Buckets: []float64{.005, .01, .025, .05, .1, .25, .5, 1, 5, 30},
		}, []string{"method", "route", "code"}),
		commands: prometheus.NewCounterVec(prometheus.CounterOpts{
			Name: "journeyman_commands_total", Help: "Commands by verb and what became of them.",
		}, []string{"verb", "outcome"}),
		watchers: prometheus.NewGauge(prometheus.GaugeOpts{Name: "journeyman_live_watchers", Help: "Browsers that watch for changes."}),
	}
	m.registry.MustRegister(m.requests, m.commands, m.watchers, collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return m
}

// methodLabel is the method of a request, if it is one that there is: each label is kept for good, and anybody may invent one.
func methodLabel(method string) string {
	switch method {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete, http.MethodOptions:
		return method
	}
	return "other"
}

// logged writes one line a request and measures it.
func (s *Server) logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		start := time.Now()
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		w.Header().Set("X-Request-Id", middleware.GetReqID(r.Context()))
		next.ServeHTTP(ww, r)
		code := ww.Status()
		if code == 0 {
			code = http.StatusOK
		}
		route := chi.RouteContext(r.Context()).RoutePattern()
		took := time.Since(start)
		if route != "/api/live" {
			s.metrics.requests.WithLabelValues(methodLabel(r.Method), route, http.StatusText(code)).Observe(took.Seconds())
		}
		level := slog.LevelDebug
		if r.Method != http.MethodGet || code >= 400 {
			level = slog.LevelInfo
		}
		if code >= 500 {
			level = slog.LevelError
		}
		s.Log.Log(r.Context(), level, "request", "id", middleware.GetReqID(r.Context()), "method", methodLabel(r.Method),
			"path", plainHeader(r.URL.Path, 300),
			"code", code, "ms", float64(took.Microseconds())/1000)
	})
}

// recovered turns a panic into an answer and a line in the log.
func (s *Server) recovered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if p := recover(); p != nil {
				if p == http.ErrAbortHandler {
					panic(p)
				}
				s.Log.ErrorContext(r.Context(), "panic", "id", middleware.GetReqID(r.Context()), "what", p, "stack", string(debug.Stack()))
				problem(
					w, http.StatusInternalServerError,
					"Something went wrong on our side. Look whether it was done before you repeat it, and tell your administrator "+
						"the number %s.", middleware.GetReqID(r.Context()),
				)
			}
		}()
		next.ServeHTTP(w, r)
	})
}
