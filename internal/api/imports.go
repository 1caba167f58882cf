package api

import (
	"context"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/google/uuid"

	"journeyman/internal/desk"
	"journeyman/internal/exchange"
	"journeyman/internal/store"
)

// mostImport is the most that may be handed over at once: about a million order lines.
const mostImport = 160 << 20

type importIn struct {
	Key     string `header:"Idempotency-Key" required:"true" format:"uuid" doc:"Names this import; use it again to follow its progress and to apply it"`
	RawBody multipart.Form
}

func (s *Server) importRoutes(a huma.API) {
	huma.Register(a, huma.Operation{
		OperationID: "check-import", Method: http.MethodPost, Path: "/api/imports", Summary: "See row by row what CSV files would do", MaxBodyBytes: mostImport,
		BodyReadTimeout: -1,
	}, func(ctx context.Context, in *importIn) (*body[desk.ImportReport], error) {
		who, err := s.actor(ctx)
		if err != nil {
			return nil, err
		}
		key, err := uuid.Parse(in.Key)
		if err != nil {
			return nil, huma.NewError(http.StatusUnprocessableEntity, "The Idempotency-Key is not a UUID.")
		}
		files, err := filesOf(in.RawBody)
		if err != nil {
			return nil, huma.NewError(http.StatusUnprocessableEntity, err.Error())
		}
		report, err := s.Desk.CheckImport(ctx, desk.Call{Key: key.String(), Actor: who}, files)
		return bodyOf(report, s.answer(ctx, err))
	})
	post(s, a, desk.VerbImport, "apply-import", "/api/imports/apply", "Do what a checked import would do, all of it or nothing",
		func(ctx context.Context, call desk.Call, ask struct {
			Import string `json:"import" format:"uuid" doc:"Key of the checked import"`
			Anew   bool   `json:"anew,omitempty" doc:"Give back what the count breaks and allocate it anew, as the report said"`
		},
		) (desk.Outcome, error) {
			return s.Desk.ApplyImport(ctx, call, ask.Import, ask.Anew)
		})
	get(s, a, "progress", "/api/progress/{key}", "How far a long command is; all zero if it does not run", func(ctx context.Context, _ desk.Actor, in *struct {
		Key string `path:"key" format:"uuid"`
	},
	) (store.Progress, error) {
		p, _, err := s.Desk.ProgressOf(ctx, in.Key)
		return p, err
	})
}

func filesOf(form multipart.Form) ([]exchange.File, error) {
	var out []exchange.File
	for _, heads := range form.File {
		for _, h := range heads {
			f, err := h.Open()
			if err != nil {
				return nil, fmt.Errorf("%s could not be read", h.Filename)
			}
			data, err := io.ReadAll(f)
			_ = f.Close()
			if err != nil {
				return nil, fmt.Errorf("%s could not be read", h.Filename)
			}
			out = append(out, exchange.File{Name: h.Filename, Data: data})
		}
	}
	return out, nil
}
