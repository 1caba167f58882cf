package api

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/httprate"

	"journeyman/internal/desk/admin"
	"journeyman/internal/desk/command"
	"journeyman/internal/store"
)

// visitor is whoever sends a request: from where, and as whom if they are signed in.
type visitor struct {
	actor   command.Actor // the zero actor if nobody is signed in
	session store.Session
	address string
	agent   string
}

type visitorKey struct{}

func visitorOf(ctx context.Context) *visitor {
	if v, ok := ctx.Value(visitorKey{}).(*visitor); ok {
		return v
	}
	return &visitor{}
}

// lookWithin is how long it may take to find out who asks: whoever asks a database that does not answer is told so then.
const lookWithin = 4 * time.Second

// seenEvery is how often it is noted at most that somebody is there.
const seenEvery = time.Minute

// recognized finds out who sends the request. It writes nothing but, once a minute, that they were seen; a session that has
// ended meanwhile stays ended.
func (s *Server) recognized(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		v := &visitor{address: s.addressOf(r), agent: plainHeader(r.UserAgent(), 200)}
		if c, err := r.Cookie(s.cookieName()); err == nil && len(c.Value) < 100 {
			ctx, cancel := context.WithTimeout(r.Context(), lookWithin)
			x, found, err := s.Desk.Store.SessionByToken(ctx, hashOfToken(c.Value))
			cancel()
			if err != nil {
				if r.Context().Err() != nil { // nobody waits for the answer
					w.WriteHeader(499)
					return
				}
				s.Log.ErrorContext(r.Context(), "session", "error", err)
				problem(w, http.StatusServiceUnavailable, "The database does not answer. Try again in a moment.")
				return
			}
			if found {
				v.session = x
				v.actor = command.Actor{
					ID: x.User.ID, Name: x.User.Name, Role: command.Role(x.User.Role), Login: x.User.Login, Session: x.ID,
				}
				// Pages that look again by themselves say so: that is not somebody who is there.
				if time.Since(x.Seen) > seenEvery && r.Header.Get("Journeyman-Idle") == "" {
					if err := s.Desk.Store.SeeSession(r.Context(), x.ID); err != nil {
						s.Log.WarnContext(r.Context(), "session", "error", err)
					}
				}
			}
		}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), visitorKey{}, v)))
	})
}

// cookieName has the prefix with which browsers take it over TLS only, for this host alone (RFC 6265bis, section 4.1.3.2). Without
// TLS, on loopback, there can be none.
func (s *Server) cookieName() string {
	if s.Secure {
		return "__Host-journeyman"
	}
	return "journeyman"
}

func hashOfToken(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

func (s *Server) cookie(token string, age time.Duration) http.Cookie {
	return http.Cookie{
		Name: s.cookieName(), Value: token, Path: "/", MaxAge: int(age.Seconds()), Secure: s.Secure, HttpOnly: true,
		SameSite: http.SameSiteLaxMode,
	}
}

// signInLimit slows down whoever guesses passwords: twenty tries a minute from one address.
func (s *Server) signInLimit() func(http.Handler) http.Handler {
	return httprate.LimitBy(20, time.Minute, func(r *http.Request) (string, error) { return httprate.CanonicalizeIP(s.addressOf(r)), nil },
		httprate.WithLimitHandler(func(w http.ResponseWriter, _ *http.Request) {
			problem(w, http.StatusTooManyRequests, "Too many tries to sign in. Wait a minute, then try again.")
		}))
}

// Me is the person who is signed in.
type Me struct {
	In   bool     `json:"signed_in"`
	Name string   `json:"name"`
	Role string   `json:"role"`
	May  []string `json:"may" doc:"Verbs this person may use"`
	Demo bool     `json:"demo"`
	Zone string   `json:"zone,omitempty" doc:"Time zone in which the firm's times are written, by its IANA name"`
	Sums string   `json:"sums,omitempty" doc:"Currency of sums, the firm's"`
}

// DemoPerson is somebody the demo offers to be.
type DemoPerson struct {
	Login string `json:"login"`
	Name  string `json:"name"`
	Role  string `json:"role"`
	Does  string `json:"does"`
}

type body[T any] struct{ Body T }

func bodyOf[T any](v T, err error) (*body[T], error) {
	if err != nil {
		return nil, err
	}
	return &body[T]{v}, nil
}

// signedInOut answers a sign-in, with the cookie.
type signedInOut struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      Me
}

// openRoutes are those where passwords could be guessed.
func (s *Server) openRoutes(a huma.API) {
	huma.Register(a, huma.Operation{
		OperationID: "sign-in", Method: http.MethodPost, Path: "/api/sign-in", Summary: "Sign in",
		MaxBodyBytes: 4 << 10,
	},
		func(ctx context.Context, in *body[struct {
			Login    string `json:"login" maxLength:"60"`
			Password string `json:"password" maxLength:"600"`
		}],
		) (*signedInOut, error) {
			who, err := s.Desk.Admin.SignIn(ctx, in.Body.Login, in.Body.Password, visitorOf(ctx).address)
			if err != nil {
				return nil, s.answer(ctx, err)
			}
			return s.begin(ctx, who)
		})
}

// demoRoutes sign in as one of the demo's people, without a password.
func (s *Server) demoRoutes(a huma.API) {
	huma.Register(a, huma.Operation{
		OperationID: "demo-sign-in", Method: http.MethodPost, Path: "/api/demo/sign-in",
		Summary: "Sign in as one of the demo's people", MaxBodyBytes: 4 << 10,
	},
		func(ctx context.Context, in *body[struct {
			Login string `json:"login" maxLength:"60"`
		}],
		) (*signedInOut, error) {
			if !s.Demo {
				return nil, tell(http.StatusNotFound, "This is not the demo: sign in with a password.")
			}
			for _, p := range demoPeople {
				if p.Login == in.Body.Login {
					who, found, err := s.Desk.Admin.PersonByLogin(ctx, p.Login)
					if err != nil {
						return nil, s.answer(ctx, err)
					}
					if found {
						return s.begin(ctx, who)
					}
				}
			}
			return nil, tell(http.StatusNotFound, "The demo has nobody of that name.")
		})
}

// demoPeople are the roles the demo offers.
var demoPeople = []DemoPerson{
	{"ana", "Ana Ruiz", "coordinator", "decides who gets which stock, and owns every open line until it is delivered"},
	{"tom", "Tom Sedge", "sales", "looks orders up, holds them, and drops what a customer no longer wants"},
	{"flo", "Flo Marsh", "floor", "picks, packs, hands over to carriers and takes deliveries in"},
	{"max", "Max Orme", "manager", "does everything, and lifts credit holds"},
}

// DemoPeople are the people of the demo, for whoever fills its database.
func DemoPeople() []DemoPerson { return demoPeople }

// begin signs somebody in: always in a new session, and the one in which they asked ends.
func (s *Server) begin(ctx context.Context, who command.Actor) (*signedInOut, error) {
	v := visitorOf(ctx)
	if v.session.ID != 0 {
		if err := s.end(ctx, v.session.ID); err != nil {
			return nil, s.answer(ctx, err)
		}
	}
	raw := make([]byte, 32)
	if _, err := rand.Read(raw); err != nil {
		return nil, s.answer(ctx, err)
	}
	token := base64.RawURLEncoding.EncodeToString(raw)
	if _, err := s.Desk.Store.BeginSession(ctx, hashOfToken(token), who.ID, v.address, v.agent); err != nil {
		return nil, s.answer(ctx, err)
	}
	return &signedInOut{s.cookie(token, store.SessionLifetime), s.me(who)}, nil
}

// end ends a session and the streams in it, on every server.
func (s *Server) end(ctx context.Context, session int64) error {
	if err := s.Desk.Store.EndSession(ctx, session); err != nil {
		return err
	}
	s.Live.Tell(command.Change{EndSession: session})
	return nil
}

func (s *Server) me(who command.Actor) Me {
	return Me{true, who.Name, string(who.Role), who.Role.Verbs(), s.Demo, s.Desk.Query.Zone.String(), store.FirmCurrency}
}

const notSignedIn = "You are not signed in, or your session has ended. Sign in."

// actor is the person who is signed in, or a 401.
func (s *Server) actor(ctx context.Context) (command.Actor, error) {
	who := visitorOf(ctx).actor
	if who.ID == 0 {
		return who, tell(http.StatusUnauthorized, notSignedIn)
	}
	return who, nil
}

func (s *Server) sessionRoutes(a huma.API) {
	huma.Register(a, huma.Operation{OperationID: "me", Method: http.MethodGet, Path: "/api/me", Summary: "Who is signed in, if anybody is"},
		func(ctx context.Context, _ *struct{}) (*body[Me], error) {
			if who := visitorOf(ctx).actor; who.ID != 0 {
				return bodyOf(s.me(who), nil)
			}
			return bodyOf(Me{May: []string{}, Demo: s.Demo}, nil)
		})
	huma.Register(a, huma.Operation{
		OperationID: "sign-out", Method: http.MethodPost, Path: "/api/sign-out",
		Summary: "Sign out", MaxBodyBytes: 4 << 10,
	},
		func(ctx context.Context, _ *struct{}) (*struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
		}, error,
		) {
			if v := visitorOf(ctx); v.session.ID != 0 {
				if err := s.end(ctx, v.session.ID); err != nil {
					return nil, s.answer(ctx, err)
				}
				s.Log.InfoContext(ctx, "signed out", "login", v.actor.Login, "address", v.address)
			}
			return &struct {
				SetCookie http.Cookie `header:"Set-Cookie"`
			}{s.cookie("", -time.Second)}, nil
		})
	huma.Register(a, huma.Operation{
		OperationID: "demo-people", Method: http.MethodGet, Path: "/api/demo/people",
		Summary: "Who the demo offers to be; empty if this is no demo",
	},
		func(context.Context, *struct{}) (*body[[]DemoPerson], error) {
			if !s.Demo {
				return bodyOf([]DemoPerson{}, nil)
			}
			return bodyOf(demoPeople, nil)
		})
	get(s, a, "people", "/api/people", "Who may sign in and where they are; for others than managers oneself",
		func(c context.Context, who command.Actor, _ *struct{}) ([]admin.PersonView, error) {
			return s.Desk.Admin.People(c, who)
		})
	post(s, a, command.VerbPeople, "add-person", "/api/add-person", "Add somebody who may sign in", s.Desk.Admin.AddPerson)
	post(s, a, command.VerbPeople, "set-person", "/api/set-person",
		"Change a person's name or role, or whether they may sign in", s.Desk.Admin.SetPerson)
	post(s, a, command.VerbPassword, "set-password", "/api/set-password",
		"Change one's own password, or set that of somebody who has lost theirs", s.Desk.Admin.SetPassword)
	post(s, a, command.VerbPassword, "end-session", "/api/end-session", "Sign oneself, or for a manager anybody, out somewhere",
		s.Desk.Admin.EndSession)
}
