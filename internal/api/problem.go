package api

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5/middleware"

	"journeyman/internal/desk"
)

// problem writes an RFC 9457 problem detail.
func problem(w http.ResponseWriter, code int, sentence string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(code)
	_ = json.NewEncoder(w).Encode(huma.ErrorModel{Status: code, Title: http.StatusText(code), Detail: sentence})
}

var kindCode = map[desk.Kind]int{
	desk.KindInvalid: http.StatusUnprocessableEntity, desk.KindForbidden: http.StatusForbidden,
	desk.KindNotFound: http.StatusNotFound, desk.KindConflict: http.StatusConflict,
}

// answer turns an error of the desk into a problem detail. What is not a refusal is
// our fault: it is logged, and the person gets a number to tell.
func (s *Server) answer(ctx context.Context, err error) error {
	if err == nil {
		return nil
	}
	var r *desk.Refusal
	if errors.As(err, &r) {
		return huma.NewError(kindCode[r.Kind], r.Sentence)
	}
	if errors.Is(err, context.Canceled) {
		return huma.NewError(499, "The request was cut off; nothing was changed.")
	}
	id := middleware.GetReqID(ctx)
	s.Log.ErrorContext(ctx, "request failed", "id", id, "error", err)
	return huma.NewError(http.StatusInternalServerError, "Something went wrong on our side; nothing was changed. Try again, and if it stays so tell your administrator the number "+id+".")
}
