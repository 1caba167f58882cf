// Package api is the doors of the house: routes, sign-in, the live stream and the
// static files. It holds no rules: it reads a request, asks the desk, and writes
// the answer.
package api

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"net/netip"
	"reflect"
	"regexp"
	"time"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"journeyman/internal/rooms"
	"journeyman/internal/words"
)

// Options of a server.
type Options struct {
	Desk   *rooms.Rooms
	Live   *Live
	Log    *slog.Logger
	Demo   bool // offers each role as one click
	Secure bool // it is reached over TLS: the cookie is sent no other way, and browsers are told so

	Hosts   []string       // the names by which it is reached, without ports; any if there are none
	Proxies []netip.Prefix // that are believed about whom they pass on
}

// Server answers requests.
type Server struct {
	Options
	metrics *metrics
	uploads chan struct{} // one for each import that is read
}

// New returns a server.
func New(o Options) *Server {
	if o.Log == nil {
		o.Log = slog.Default()
	}
	return &Server{Options: o, metrics: newMetrics(), uploads: make(chan struct{}, mostUploads)}
}

// Handler returns everything the server answers to people.
func (s *Server) Handler() http.Handler {
	r := chi.NewRouter()
	r.Use(requestID, s.logged, s.recovered, s.secureHeaders, inTime, s.known, readable)
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { plainText(w, http.StatusOK, "ok") })
	r.Get("/readyz", s.ready)
	r.Group(func(r chi.Router) {
		r.Use(http.NewCrossOriginProtection().Handler, s.recognized, middleware.Compress(5, "application/json", "application/problem+json"))
		r.Get("/api/live", s.live)
		r.Post("/api/imports", s.upload)
		r.With(s.signInLimit()).Group(func(r chi.Router) {
			a := humaOn(r)
			s.openRoutes(a)
			bound(a.OpenAPI())
		})
		a := humaOn(r)
		s.routes(a)
		bound(a.OpenAPI())
		r.Get("/api/openapi.json", func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "application/vnd.oai.openapi+json")
			_, _ = w.Write(OpenAPI())
		})
		r.HandleFunc("/api/*", func(w http.ResponseWriter, r *http.Request) {
			problem(w, http.StatusNotFound, "There is nothing at %s.", r.URL.Path)
		})
	})
	r.Handle("/*", static())
	r.MethodNotAllowed(func(w http.ResponseWriter, r *http.Request) {
		problem(w, http.StatusMethodNotAllowed, "That method is not answered here.")
	})
	return r
}

// Metrics returns what is answered to whoever watches the server (Prometheus): on an address of its own, without signing in.
func (s *Server) Metrics() http.Handler {
	r := chi.NewRouter()
	r.Handle("/metrics", promhttp.HandlerFor(s.metrics.registry, promhttp.HandlerOpts{}))
	return r
}

// OpenAPI is the description of the API, from which the browser's client is made.
func OpenAPI() []byte {
	s := &Server{Options: Options{Desk: rooms.Open(nil, rooms.Options{})}} // nothing is asked of it
	r := chi.NewRouter()
	a := humaOn(r)
	s.openRoutes(a)
	s.routes(a)
	bound(a.OpenAPI())
	b, err := a.OpenAPI().MarshalJSON()
	if err != nil {
		panic(err) // the description is made of constants
	}
	return b
}

func init() {
	huma.DefaultArrayNullable = false // lists in answers are never null
	make := huma.NewErrorWithContext
	huma.NewErrorWithContext = func(ctx huma.Context, status int, sentence string, errs ...error) huma.StatusError {
		if sentence == "cannot read request body" { // what was sent is broken, not the server
			return tell(http.StatusBadRequest, "The request broke off, or is not as it should be. Send it again.")
		}
		for _, err := range errs {
			var d *huma.ErrorDetail
			if errors.As(err, &d) && (d.Message == errNotUTF8.Error() || d.Message == errNUL.Error()) {
				return tell(http.StatusUnprocessableEntity, "The request cannot be read: %s.", d.Message)
			}
		}
		return make(ctx, status, sentence, errs...)
	}
}

var (
	errNotUTF8 = errors.New("it is not text in UTF-8")
	errNUL     = errors.New("it holds the character NUL, which is none")
)

func humaOn(r chi.Router) huma.API {
	cfg := huma.DefaultConfig("Journeyman", "1")
	cfg.OpenAPIPath, cfg.DocsPath, cfg.SchemasPath = "", "", ""
	cfg.CreateHooks = nil
	cfg.Formats = map[string]huma.Format{"application/json": text, "json": text}
	cfg.Components.Schemas.RegisterTypeAlias(reflect.TypeFor[words.Message](), reflect.TypeFor[words.Said]())
	return humachi.New(r, cfg)
}

// text is JSON that is text: what is not UTF-8, and characters that are none, are refused for all that is sent.
var text = huma.Format{
	Marshal: huma.DefaultJSONFormat.Marshal,
	Unmarshal: func(data []byte, v any) error {
		if !utf8.Valid(data) {
			return errNotUTF8
		}
		if escapedNUL.Match(data) {
			return errNUL
		}
		return huma.DefaultJSONFormat.Unmarshal(data, v)
	},
}

// escapedNUL is a NUL as JSON writes it, behind an even number of backslashes.
var escapedNUL = regexp.MustCompile(`(?:^|[^\\])(?:\\\\)*\\u0000`)

func (s *Server) ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
	defer cancel()
	if err := s.Desk.Store.Healthy(ctx); err != nil {
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
