// Package api is the doors of the house: routes, sign-in, the live stream and the
// static files. It holds no rules: it reads a request, asks the desk, and writes
// the answer.
package api

import (
	"context"
	"log/slog"
	"net/http"
	"time"

	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"journeyman/internal/desk"
)

// Options of a server.
type Options struct {
	Desk   *desk.Desk
	Live   *Live
	Log    *slog.Logger
	Demo   bool // offers each role as one click
	Secure bool // cookies only over TLS
}

// Server answers requests.
type Server struct {
	Options
	sessions *scs.SessionManager
	metrics  *metrics
}

// New returns a server.
func New(o Options) *Server {
	if o.Log == nil {
		o.Log = slog.Default()
	}
	s := &Server{Options: o, metrics: newMetrics()}
	m := scs.New()
	m.Store = pgxstore.NewWithCleanupInterval(o.Desk.Store().Pool, 0) // ended sessions are swept by a job
	m.Lifetime = 24 * time.Hour
	m.IdleTimeout = 12 * time.Hour
	m.Cookie.Name = "journeyman"
	m.Cookie.HttpOnly = true
	m.Cookie.SameSite = http.SameSiteLaxMode
	m.Cookie.Secure = o.Secure
	m.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		o.Log.ErrorContext(r.Context(), "session", "error", err)
		problem(w, http.StatusServiceUnavailable, "Your session cannot be read because the database does not answer. Try again in a moment.")
	}
	s.sessions = m
	return s
}

// Handler returns everything the server answers.
func (s *Server) Handler() http.Handler {
	r := chi.NewRouter()
	r.Use(middleware.RequestID, s.logged, s.recovered, secureHeaders)
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { plainText(w, http.StatusOK, "ok") })
	r.Get("/readyz", s.ready)
	r.Handle("/metrics", promhttp.HandlerFor(s.metrics.registry, promhttp.HandlerOpts{}))
	r.Group(func(r chi.Router) {
		r.Use(http.NewCrossOriginProtection().Handler, s.sessions.LoadAndSave)
		r.Get("/api/live", s.live)
		r.With(signInLimit).Group(func(r chi.Router) { s.openRoutes(humaOn(r)) })
		s.routes(humaOn(r))
		r.Get("/api/openapi.json", func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "application/vnd.oai.openapi+json")
			_, _ = w.Write(OpenAPI())
		})
		r.HandleFunc("/api/*", func(w http.ResponseWriter, r *http.Request) {
			problem(w, http.StatusNotFound, "There is nothing at "+r.URL.Path+".")
		})
	})
	r.Handle("/*", static())
	return r
}

// OpenAPI is the description of the API, from which the browser's client is made.
func OpenAPI() []byte {
	s := &Server{}
	r := chi.NewRouter()
	a := humaOn(r)
	s.openRoutes(a)
	s.routes(a)
	b, err := a.OpenAPI().MarshalJSON()
	if err != nil {
		panic(err) // the description is made of constants
	}
	return b
}

// Lists in answers are never null.
func init() { huma.DefaultArrayNullable = false }

func humaOn(r chi.Router) huma.API {
	cfg := huma.DefaultConfig("Journeyman", "1")
	cfg.OpenAPIPath, cfg.DocsPath, cfg.SchemasPath = "", "", ""
	cfg.CreateHooks = nil
	return humachi.New(r, cfg)
}

func (s *Server) ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
	defer cancel()
	if err := s.Desk.Store().Pool.Ping(ctx); err != nil {
		plainText(w, http.StatusServiceUnavailable, "the database does not answer")
		return
	}
	plainText(w, http.StatusOK, "ready")
}

func plainText(w http.ResponseWriter, code int, text string) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	w.WriteHeader(code)
	_, _ = w.Write([]byte(text + "\n"))
}
