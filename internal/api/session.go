package api

import (
	"context"
	"errors"
	"net"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/httprate"

	"journeyman/internal/desk"
)

const sessionUser = "user"

// signInLimit slows down whoever guesses passwords: twenty tries a minute from one address.
// Behind a proxy that is the proxy's address, so that all its clients share the limit.
var signInLimit = httprate.LimitBy(20, time.Minute, func(r *http.Request) (string, error) {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	return httprate.CanonicalizeIP(host), err
}, httprate.WithLimitHandler(func(w http.ResponseWriter, _ *http.Request) {
	problem(w, http.StatusTooManyRequests, "Too many tries to sign in. Wait a minute, then try again.")
}))

// Me is the person who is signed in.
type Me struct {
	In   bool     `json:"signed_in"`
	Name string   `json:"name"`
	Role string   `json:"role"`
	May  []string `json:"may" doc:"Verbs this person may use"`
	Demo bool     `json:"demo"`
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

// openRoutes are those where passwords could be guessed.
func (s *Server) openRoutes(a huma.API) {
	huma.Register(a, huma.Operation{OperationID: "sign-in", Method: http.MethodPost, Path: "/api/sign-in", Summary: "Sign in"},
		func(ctx context.Context, in *body[struct {
			Login    string `json:"login" maxLength:"60"`
			Password string `json:"password" maxLength:"200"`
		}],
		) (*body[Me], error) {
			who, err := s.Desk.SignIn(ctx, in.Body.Login, in.Body.Password)
			if err != nil {
				return nil, s.answer(ctx, err)
			}
			return bodyOf(s.begin(ctx, who))
		})
}

// demoRoutes sign in as one of the demo's people, without a password.
func (s *Server) demoRoutes(a huma.API) {
	huma.Register(a, huma.Operation{OperationID: "demo-sign-in", Method: http.MethodPost, Path: "/api/demo/sign-in", Summary: "Sign in as one of the demo's people"},
		func(ctx context.Context, in *body[struct {
			Login string `json:"login" maxLength:"60"`
		}],
		) (*body[Me], error) {
			if !s.Demo {
				return nil, huma.NewError(http.StatusNotFound, "This is not the demo: sign in with a password.")
			}
			for _, p := range demoPeople {
				if p.Login == in.Body.Login {
					who, found, err := s.Desk.PersonByLogin(ctx, p.Login)
					if err != nil {
						return nil, s.answer(ctx, err)
					}
					if found {
						return bodyOf(s.begin(ctx, who))
					}
				}
			}
			return nil, huma.NewError(http.StatusNotFound, "The demo has nobody of that name.")
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

func (s *Server) begin(ctx context.Context, who desk.Actor) (Me, error) {
	if err := s.sessions.RenewToken(ctx); err != nil {
		return Me{}, s.answer(ctx, err)
	}
	s.sessions.Put(ctx, sessionUser, who.ID)
	return s.me(who), nil
}

func (s *Server) me(who desk.Actor) Me {
	return Me{true, who.Name, string(who.Role), who.Role.Verbs(), s.Demo}
}

const notSignedIn = "You are not signed in, or your session has ended. Sign in."

// actor is the person who is signed in, or a 401.
func (s *Server) actor(ctx context.Context) (desk.Actor, error) {
	id := s.sessions.GetInt64(ctx, sessionUser)
	if id == 0 {
		return desk.Actor{}, huma.NewError(http.StatusUnauthorized, notSignedIn)
	}
	who, found, err := s.Desk.Person(ctx, id)
	if err != nil {
		return who, s.answer(ctx, err)
	}
	if !found {
		return who, huma.NewError(http.StatusUnauthorized, "Your sign-in was taken away. Ask a manager.")
	}
	return who, nil
}

func (s *Server) sessionRoutes(a huma.API) {
	huma.Register(a, huma.Operation{OperationID: "me", Method: http.MethodGet, Path: "/api/me", Summary: "Who is signed in, if anybody is"},
		func(ctx context.Context, _ *struct{}) (*body[Me], error) {
			who, err := s.actor(ctx)
			var no huma.StatusError
			if errors.As(err, &no) && no.GetStatus() == http.StatusUnauthorized {
				return bodyOf(Me{May: []string{}, Demo: s.Demo}, nil)
			}
			return bodyOf(s.me(who), err)
		})
	huma.Register(a, huma.Operation{OperationID: "sign-out", Method: http.MethodPost, Path: "/api/sign-out", Summary: "Sign out"},
		func(ctx context.Context, _ *struct{}) (*struct{}, error) {
			return nil, s.answer(ctx, s.sessions.Destroy(ctx))
		})
	huma.Register(a, huma.Operation{OperationID: "demo-people", Method: http.MethodGet, Path: "/api/demo/people", Summary: "Who the demo offers to be; empty if this is no demo"},
		func(context.Context, *struct{}) (*body[[]DemoPerson], error) {
			if !s.Demo {
				return bodyOf([]DemoPerson{}, nil)
			}
			return bodyOf(demoPeople, nil)
		})
}
