package api

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5/middleware"

	"journeyman/internal/desk/command"
	"journeyman/internal/store/postgres"
	"journeyman/internal/words"
)

// Problem is an RFC 9457 problem detail. Of what is ours to say it holds the message besides the English sentence.
type Problem struct {
	huma.ErrorModel
	Said words.Message `json:"said,omitzero" doc:"The detail as code and what stands in it"`
}

func init() {
	plain := huma.NewError
	huma.NewError = func(status int, sentence string, errs ...error) huma.StatusError {
		e := &Problem{}
		if m, ok := plain(status, sentence, errs...).(*huma.ErrorModel); ok {
			e.ErrorModel = *m
		}
		return e
	}
}

// tell is a problem that is ours to say.
func tell(status int, pattern string, args ...any) *Problem {
	return telling(status, words.Say(pattern, args...))
}

func telling(status int, said words.Message) *Problem {
	return &Problem{huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: said.String()}, said}
}

// problem writes a problem detail.
func problem(w http.ResponseWriter, status int, pattern string, args ...any) {
	refuse(w, tell(status, pattern, args...))
}

// refuse writes an error that is a problem detail.
func refuse(w http.ResponseWriter, err error) {
	var e *Problem
	if !errors.As(err, &e) {
		e = tell(http.StatusInternalServerError, "Something went wrong on our side. Try again.")
	}
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(e.Status)
	_ = json.NewEncoder(w).Encode(e)
}

var kindCode = map[command.Kind]int{
	command.KindInvalid: http.StatusUnprocessableEntity, command.KindForbidden: http.StatusForbidden,
	command.KindNotFound: http.StatusNotFound, command.KindConflict: http.StatusConflict, command.KindTooMany: http.StatusTooManyRequests,
	command.KindUnknown: http.StatusServiceUnavailable, command.KindUnavailable: http.StatusServiceUnavailable,
}

// outcomeUnknown is the type of a problem after which it is not known whether the command was done. Sent again with its key it is
// done once at most, and the answer is what became of it.
const outcomeUnknown = "urn:journeyman:outcome-unknown"

// answer turns an error of the desk into a problem detail. What is not a refusal is
// our fault: it is logged, and the person gets a number to tell.
func (s *Server) answer(ctx context.Context, err error) error {
	if err == nil {
		return nil
	}
	var r *command.Refusal
	if errors.As(err, &r) {
		if r.Kind == command.KindForbidden {
			v := visitorOf(ctx)
			s.Log.WarnContext(ctx, "refused", "login", v.actor.Login, "address", v.address, "sentence", r.Message.String())
		}
		e := telling(kindCode[r.Kind], r.Message)
		if r.Kind == command.KindUnknown {
			e.Type = outcomeUnknown
		}
		return e
	}
	if errors.Is(err, context.Canceled) {
		return tell(499, "The request was cut off before it was answered.")
	}
	if postgres.Unavailable(err) || postgres.TookTooLong(err) {
		s.Log.ErrorContext(ctx, "the database does not answer in time", "id", middleware.GetReqID(ctx), "error", err)
		return tell(http.StatusServiceUnavailable, "The database does not answer in time. Try again in a moment.")
	}
	id := middleware.GetReqID(ctx)
	s.Log.ErrorContext(ctx, "request failed", "id", id, "error", err)
	return tell(
		http.StatusInternalServerError,
		"Something went wrong on our side; nothing was changed. Try again, and if it stays so tell your administrator the number %s.", id,
	)
}
