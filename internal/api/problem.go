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
)

// problem writes an RFC 9457 problem detail.
func problem(w http.ResponseWriter, code int, sentence string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(code)
	_ = json.NewEncoder(w).Encode(huma.ErrorModel{Status: code, Title: http.StatusText(code), Detail: sentence})
}

// refuse writes an error that is a problem detail.
func refuse(w http.ResponseWriter, err error) {
	var e *huma.ErrorModel
	if !errors.As(err, &e) {
		problem(w, http.StatusInternalServerError, "Something went wrong on our side. Try again.")
		return
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
			s.Log.WarnContext(ctx, "refused", "login", v.actor.Login, "address", v.address, "sentence", r.Sentence)
		}
		if r.Kind == command.KindUnknown {
			return &huma.ErrorModel{
				Type: outcomeUnknown, Status: kindCode[r.Kind], Title: http.StatusText(kindCode[r.Kind]), Detail: r.Sentence,
			}
		}
		return huma.NewError(kindCode[r.Kind], r.Sentence)
	}
	if errors.Is(err, context.Canceled) {
		return huma.NewError(499, "The request was cut off before it was answered.")
	}
	if postgres.Unavailable(err) || postgres.TookTooLong(err) {
		s.Log.ErrorContext(ctx, "the database does not answer in time", "id", middleware.GetReqID(ctx), "error", err)
		return huma.NewError(http.StatusServiceUnavailable, "The database does not answer in time. Try again in a moment.")
	}
	id := middleware.GetReqID(ctx)
	s.Log.ErrorContext(ctx, "request failed", "id", id, "error", err)
	return huma.NewError(
		http.StatusInternalServerError,
		"Something went wrong on our side; nothing was changed. Try again, and if it stays so tell your administrator the number "+id+".",
	)
}
